package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"arvel/core/naming"
	"arvel/core/plan"
)

func TestWhatIsSaidOfAFileCountsBeforeItsFolder(t *testing.T) {
	f := folder{
		"index.html": "<a href=a/b/x.html>x</a><a href=a/y.html>y</a><a href=a/z.html>z</a>",
		"a/b/x.html": "<a href=../y.html>y</a>", "a/y.html": "<a href=z.html>z</a>", "a/z.html": "<a href=b/x.html>x</a>",
	}
	p := planned(f, "a", "new", "a/b", "deep/er/b", "a/y.html", "y.html")
	assert.Equal(t, folder{
		"index.html": "<a href=deep/er/b/x.html>x</a><a href=y.html>y</a><a href=new/z.html>z</a>", "deep/er/b/x.html": "<a href=../../../y.html>y</a>",
		"y.html": "<a href=new/z.html>z</a>", "new/z.html": "<a href=../deep/er/b/x.html>x</a>",
	}, f.moved(t, p))
	assert.Equal(t, []string{"a", "a/b"}, p.Set.Emptied)
	assert.Contains(t, planned(f, "a", "x", "a", "y").Clashes[0], "can't be moved to")
}

// All names that break the rules are made good in one plan, whatever else has the better names.
func TestAllNamesAreBetteredAsOnePlan(t *testing.T) {
	f := folder{
		"index.html":              `<a href="My%20Guides/Über%20uns.HTML">a</a><a href="My%20Guides/über-uns.html">b</a><img src="Bilder/1.png"><img src="Bilder/picture-1.png"><a href="2026/a.html">c</a>`,
		"My Guides/Über uns.HTML": `<a href="../index.html">home</a><a href="Old Stuff/x.html">x</a>`,
		"My Guides/über-uns.html": "", "My Guides/Old Stuff/x.html": `<a href="../../my-guides/y.html">y</a><a href="none.html">n</a>`,
		"my-guides/y.html": "", "Bilder/1.png": "", "Bilder/picture-1.png": "", "2026/a.html": "", "種.html": "",
	}
	moves := plan.BetterNames(f.snapshot())
	to := map[string]string{}
	for _, m := range moves {
		to[m.From] = m.To
	}
	assert.Equal(t, map[string]string{
		"My Guides": "my-guides-2", "My Guides/Old Stuff": "my-guides-2/old-stuff", "My Guides/Über uns.HTML": "my-guides-2/uber-uns.html",
		"My Guides/über-uns.html": "my-guides-2/uber-uns-2.html", "Bilder": "bilder", "Bilder/1.png": "bilder/picture-1-2.png",
	}, to, "a year is a good name for a folder, and of some names nothing is left")
	p := plan.Moves(f.snapshot(), moves, plan.Options{})
	after := f.moved(t, p)
	for q := range after {
		if q != "種.html" {
			assert.Empty(t, naming.FileFault(q), q)
		}
	}
	assert.Equal(t, `<a href="my-guides-2/uber-uns.html">a</a><a href="my-guides-2/uber-uns-2.html">b</a><img src="bilder/picture-1-2.png"><img src="bilder/picture-1.png"><a href="2026/a.html">c</a>`, after["index.html"])
	assert.Equal(t, `<a href="../../my-guides/y.html">y</a><a href="none.html">n</a>`, after["my-guides-2/old-stuff/x.html"])
	assert.Empty(t, plan.BetterNames(folder{"a/b.html": ""}.snapshot()))
}
