package bench

import (
	"math/rand/v2"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/repair"
	"arvel/demo"
	"arvel/test/damage"
	"arvel/test/drive"
)

// damages is how many damages are made in each folder at least.
const damages = 35_000

// classRounds is how many folders are made of each class.
const classRounds = 300

// BenchmarkCertainty makes many folders of every class of damage, repairs them from the folder alone and with its record, and
// prints what came of it by class. Aims: no certain repair is wrong, at most 1 % of the likely ones, and 5 % in any class.
func BenchmarkCertainty(b *testing.B) {
	for name, warm := range map[string]bool{"cold": false, "warm": true} {
		b.Run(name, func(b *testing.B) {
			seed := rand.Uint64()
			r := rand.New(rand.NewPCG(seed, 0))
			b.Logf("seed %d", seed)
			all := damage.Tallies{}
			for b.Loop() {
				all = damage.Tallies{}
				for i := range damage.Classes {
					c := &damage.Classes[i]
					for range classRounds {
						n, _ := c.Run(damage.NewWords(r), warm)
						all.Add(damage.Tallies{c.Name: n})
					}
				}
			}
			report(b, all)
		})
	}
}

// report reports the shares of what repairs gave back, and prints the table by kind.
func report(b *testing.B, all damage.Tallies) {
	n := all.All()
	seen := float64(n.Seen())
	b.ReportMetric(100*float64(n.Restored)/seen, "certain-%")
	b.ReportMetric(float64(n.Wrong), "certain-wrong")
	b.ReportMetric(100*float64(n.Restored+n.LikelyRestored)/seen, "likely-%")
	b.ReportMetric(100*float64(n.LikelyWrong)/seen, "likely-wrong-%")
	b.Logf("\n%s", all)
}

// BenchmarkDamage damages whole folders on purpose, as people do it, and counts what repairs give back. Aims: no certain repair is
// wrong, at most 1 % of the likely ones; of slips in letter case, separators, extension and depth 93 % are restored with certain
// repairs, of moves that the record has seen 95 %.
func BenchmarkDamage(b *testing.B) {
	small := filepath.Join(b.TempDir(), "demo")
	require.NoError(b, demo.CopyTo(small))
	for _, one := range append(realFolders(), folder{"demo", small}, folder{"generated", generated(b, 1000)}) {
		b.Run(one.name, func(b *testing.B) {
			s := damage.Whole(snapshotOf(open(b, one.dir)))
			seed := rand.Uint64()
			r := rand.New(rand.NewPCG(seed, 0))
			b.Logf("seed %d", seed)
			all := damage.Tallies{}
			for b.Loop() {
				all = damage.Tallies{}
				for start := time.Now(); all.All().Done < damages && time.Since(start) < 2*time.Minute; {
					all.Add(damage.Round(r, s, 0.03, 0.03))
				}
			}
			report(b, all)
		})
	}
}

type folder struct{ name, dir string }

// realFolders are those that "make real" unpacks.
func realFolders() []folder {
	real := filepath.Join(drive.Root(), ".work", "real")
	return []folder{
		{"boost", filepath.Join(real, "libboost1.81-doc/usr/share/doc/libboost1.81-doc/doc")},
		{"handbook", filepath.Join(real, "debian-handbook/usr/share/doc/debian-handbook/html")},
		{"imagemagick", filepath.Join(real, "imagemagick-6-doc/usr/share/doc/imagemagick-6-common/html")},
	}
}

// BenchmarkRealCauses counts the causes of real folders, and how many of them hold 95 % of the findings. Aim: twelve.
func BenchmarkRealCauses(b *testing.B) {
	for _, one := range realFolders() {
		b.Run(one.name, func(b *testing.B) {
			s := snapshotOf(open(b, one.dir))
			report := audit.Judge(s, rule.All, audit.Terms{})
			var causes []repair.Cause
			for b.Loop() {
				causes = repair.NewPlanner(s, repair.Past{}).Causes(report)
			}
			var sizes []int
			all := 0
			for i := range causes {
				sizes = append(sizes, len(causes[i].Findings))
				all += len(causes[i].Findings)
			}
			slices.Sort(sizes)
			slices.Reverse(sizes)
			held, n := 0, 0
			for n < len(sizes) && 100*held < 95*all {
				held += sizes[n]
				n++
			}
			b.ReportMetric(float64(all), "findings")
			b.ReportMetric(float64(len(causes)), "causes")
			b.ReportMetric(float64(n), "hold-95%")
		})
	}
}
