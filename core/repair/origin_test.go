package repair_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/repair"
	"arvel/core/site"
)

// folder makes a snapshot of files, and the record of those that are gone.
func folder(files, gone map[string]string) (*site.Snapshot, repair.Past) {
	var list []site.File
	for p, src := range files {
		list = append(list, site.File{Path: p, Kind: site.KindOf(p), Size: int64(len(src)), Hash: change.HashOf([]byte(src)), Doc: doc(p, src)})
	}
	var past repair.Past
	for p, src := range gone {
		past.Gone = append(past.Gone, repair.Gone{Path: p, Size: int64(len(src)), Hash: change.HashOf([]byte(src)), Doc: doc(p, src)})
	}
	return site.Build(list, site.Options{Place: address.Place{Mount: "/"}}), past
}

// best returns the best repair of the first reference on a page of a folder, of which some files are gone.
func best(t *testing.T, files map[string]string, page string, gone map[string]string) repair.Repair {
	t.Helper()
	s, past := folder(files, gone)
	file, _ := s.Find(page)
	c := audit.NewCase(s, file, 0)
	findings, _ := rule.All.Judge(c)
	got := repair.NewPlanner(s, past).For(c, findings)
	require.NotEmpty(t, got)
	return got[0]
}

func TestAMoveIsCertainUnlessAFolderLeftOutExplainsItToo(t *testing.T) {
	const leek = "<title>Leek</title><p>Sow in March."
	for name, c := range map[string]struct {
		others    []string
		certainty repair.Certainty
	}{
		"one of its name":                      {nil, repair.Certain},
		"another one, far from there":          {[]string{"notes/2019/leek.html"}, repair.Certain},
		"another one, a folder further down":   {[]string{"guides/winter/leek.html"}, repair.Likely},
		"another one, a climb further up":      {[]string{"leek.html"}, repair.Likely},
		"another one, a folder in between":     {[]string{"old/guides/leek.html"}, repair.Likely},
		"another one, in a folder beside it":   {[]string{"news/leek.html"}, repair.Certain},
		"another one, with a letter's capital": {[]string{"guides/winter/Leek.html"}, repair.Likely},
	} {
		files := map[string]string{"guides/sowing.html": `<a href="leek.html">Leeks</a>`, "catalogue/leek.html": leek}
		for i, p := range c.others {
			files[p] = string(rune('a' + i))
		}
		got := best(t, files, "guides/sowing.html", map[string]string{"guides/leek.html": leek})
		assert.Equal(t, "../catalogue/leek.html", got.Written, name)
		assert.Equal(t, c.certainty.String(), got.Certainty.String(), name)
	}
}

func TestAPageThatPointsWrongAsAWholeWasMovedIfNoOtherFolderExplainsIt(t *testing.T) {
	page := `<a href="leek.html">Leek</a><a href="chard.html">Chard</a><a href="squash.html">Squash</a>`
	files := map[string]string{"news/autumn.html": page, "catalogue/leek.html": "1", "catalogue/chard.html": "2", "catalogue/squash.html": "3"}
	got := best(t, files, "news/autumn.html", nil)
	assert.Equal(t, "../catalogue/leek.html", got.Written)
	assert.Equal(t, repair.Certain, got.Certainty)
	// In the seed drawer two of the three are, too: the folders are parallel, so that what lands from one says little.
	files["drawer/leek.html"], files["drawer/chard.html"] = "4", "5"
	got = best(t, files, "news/autumn.html", nil)
	assert.Equal(t, "../catalogue/leek.html", got.Written)
	assert.Equal(t, repair.Possible, got.Certainty)
	// A page at the top whose leeks may just have got another name.
	delete(files, "drawer/leek.html")
	delete(files, "drawer/chard.html")
	delete(files, "news/autumn.html")
	files["autumn.html"] = page
	assert.Equal(t, repair.Certain, best(t, files, "autumn.html", nil).Certainty)
	files["our-leek.html"] = "6"
	assert.NotEqual(t, repair.Certain, best(t, files, "autumn.html", nil).Certainty)
}
