package bench

import (
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"arvel/demo"
	"arvel/test/damage"
	"arvel/test/drive"
)

// damages is how many damages are made in each folder at least.
const damages = 1500

var slipsAt = os.Getenv("SLIPS")

func rate(f float64) float64 {
	return f
}

// BenchmarkDamage damages whole folders on purpose, as people do it, and counts what repairs give back. Aims: 80 % with certain
// repairs and none wrong, 95 % with likely ones and at most 1 % wrong.
func BenchmarkDamage(b *testing.B) {
	small := filepath.Join(b.TempDir(), "demo")
	require.NoError(b, demo.CopyTo(small))
	real := filepath.Join(drive.Root(), ".work", "real")
	for _, one := range []struct{ name, dir string }{
		{"demo", small},
		{"generated", generated(b, 1000)},
		{"boost", filepath.Join(real, "libboost1.81-doc/usr/share/doc/libboost1.81-doc/doc")},
		{"handbook", filepath.Join(real, "debian-handbook/usr/share/doc/debian-handbook/html")},
		{"imagemagick", filepath.Join(real, "imagemagick-6-doc/usr/share/doc/imagemagick-6-common/html")},
	} {
		b.Run(one.name, func(b *testing.B) {
			s := damage.Whole(snapshotOf(open(b, one.dir)))
			seed := rand.Uint64()
			r := rand.New(rand.NewPCG(seed, 0))
			b.Logf("seed %d", seed)
			all := damage.Tallies{}
			for b.Loop() {
				all = damage.Tallies{}
				for start := time.Now(); all.All().Done < damages && time.Since(start) < 2*time.Minute; {
					all.Add(damage.Round(r, s, 0.0003, 0))
				}
			}
			n := all.All()
			seen := float64(n.Seen())
			b.ReportMetric(100*float64(n.Restored)/seen, "certain-%")
			b.ReportMetric(float64(n.Wrong), "certain-wrong")
			b.ReportMetric(100*float64(n.Restored+n.LikelyRestored)/seen, "likely-%")
			b.ReportMetric(100*float64(n.LikelyWrong)/seen, "likely-wrong-%")
			b.Logf("\n%s", all)
		})
	}
}
