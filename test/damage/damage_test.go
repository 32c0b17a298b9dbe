package damage_test

import (
	"io/fs"
	"math/rand/v2"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/demo"
	"arvel/test/damage"
	"arvel/test/large"
	"arvel/test/seed"
)

// read makes a snapshot of a folder.
func read(t *testing.T, files fs.FS) *site.Snapshot {
	t.Helper()
	scanner := markup.NewScanner()
	var list []site.File
	require.NoError(t, fs.WalkDir(files, ".", func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		src, err := fs.ReadFile(files, p)
		f := site.File{Path: p, Kind: site.KindOf(p), Size: int64(len(src)), Hash: change.HashOf(src)}
		if site.IsRead(p) {
			f.Doc = site.Scan(scanner, p, src)
		}
		list = append(list, f)
		return err
	}))
	return site.Build(list, site.Options{Place: address.Place{Mount: "/"}})
}

// On folders that are damaged on purpose no certain repair differs from the truth.
func TestDamageIsRestored(t *testing.T) {
	r := rand.New(rand.NewPCG(seed.Of(t), 0))
	generated := t.TempDir()
	require.NoError(t, large.Write(generated, 300))
	all := damage.Tallies{}
	for name, s := range map[string]*site.Snapshot{"the demo folder": read(t, demo.Files()), "a generated folder": read(t, os.DirFS(generated))} {
		require.Greater(t, audit.Judge(s, rule.All, audit.Terms{}).Counts.Sound, 100)
		s = damage.Whole(s)
		tallies := damage.Tallies{}
		for range map[string]int{"the demo folder": 60, "a generated folder": 2}[name] {
			tallies.Add(damage.Round(r, s, 0.06, 0.06))
		}
		t.Logf("%s\n%s", name, tallies)
		all.Add(tallies)
	}
	sum := all.All()
	assert.Greater(t, sum.Seen(), 1500)
	assert.Zero(t, sum.Wrong, "no certain repair is wrong")
	assert.Less(t, float64(sum.LikelyWrong), 0.02*float64(sum.Seen()), "hardly any likely one is")
}

// The slips that people make most are repaired for certain nearly always, where the folder leaves no doubt.
func TestSlipsAreRestoredForCertain(t *testing.T) {
	r := rand.New(rand.NewPCG(seed.Of(t), 2))
	generated := t.TempDir()
	require.NoError(t, large.Write(generated, 300))
	s := damage.Whole(read(t, os.DirFS(generated)))
	tallies := damage.Tallies{}
	for range 12 {
		tallies.Add(damage.Round(r, s, 0.02, 0))
	}
	for _, kind := range []string{"letter case", "separator", "extension", "../ missing", "../ too many", "folder left out"} {
		n := tallies[kind]
		assert.GreaterOrEqual(t, float64(n.Restored), 0.93*float64(n.Seen()), "%s: %v", kind, n)
	}
}
