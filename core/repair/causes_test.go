package repair_test

import (
	"maps"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/repair"
	"arvel/core/site"
)

const saving = "<title>Saving your own seed</title><h1 id=drying>Drying</h1><p>Dry it until it rattles, then label it."

var happened = map[string]struct {
	files, gone         map[string]string
	kind, message, says string
	findings            int
	certainty           string
}{
	"a page was moved, by the record": {
		map[string]string{"index.html": `<a href="saving.html">1</a><a href="saving.html#drying">2</a>`, "guides/saving.html": saving},
		map[string]string{"saving.html": saving},
		"file-moved", "`guides/saving.html` was moved here from `saving.html`", "2 references still lead to the old place", 2, "certain",
	},
	"a page was renamed, by the record": {
		map[string]string{"index.html": `<a href="saving.html">1</a>`, "seed-saving.html": saving},
		map[string]string{"saving.html": saving},
		"file-moved", "`seed-saving.html` was called `saving.html`", "1 reference still leads to the old place", 1, "certain",
	},
	"a page was moved, and its own references are off": {
		map[string]string{"index.html": `<a href="visit.html">1</a>`, "club/visit.html": `<title>Visit</title><a href="index.html">Home</a>`},
		map[string]string{"visit.html": `<title>Visit</title><a href="index.html">Home</a>`},
		"page-moved", "`club/visit.html` was moved here from `visit.html`", "1 reference still leads to the old place. 1 of its own links no longer works", 2, "certain",
	},
	"a page seems to have been moved": {
		map[string]string{
			"index.html": "<title>Home</title>", "visit.html": "<title>Visit</title>", "borrow.html": "<title>Borrow</title>",
			"club/events.html": `<a href="index.html">1</a><a href="visit.html">2</a><a href="borrow.html">3</a>`,
		},
		nil,
		"page-moved", "`club/events.html` seems to have been moved here from the top of the folder", "3 of its 3 broken references work", 3, "certain",
	},
	"links were copied from a page in another folder": {
		map[string]string{
			"index.html": `<a href="visit.html">1</a><a href="borrow.html">2</a><a href="news/may.html">3</a>`, "visit.html": "", "borrow.html": "",
			"news/may.html": `<h1>May</h1><a href="visit.html">1</a><a href="borrow.html">2</a><a href="news/may.html">3</a>`,
		},
		nil,
		"links-copied", "The links on `news/may.html` were copied from a page in the top of the folder", "`index.html` has the same ones", 3, "certain",
	},
	"a folder was renamed, by the record": {
		map[string]string{"index.html": `<a href="guides/a.html">1</a><a href="guides/b.html">2</a>`, "growing/a.html": saving + "a", "growing/b.html": saving + "b"},
		map[string]string{"guides/a.html": saving + "a", "guides/b.html": saving + "b"},
		"folder-renamed", "The folder `guides` is `growing` now", "2 references still lead there", 2, "certain",
	},
	"a folder's name is off by a letter": {
		map[string]string{"index.html": `<img src="image/pod.png" alt=""><img src="image/leek.png" alt="">`, "images/pod.png": "1", "images/leek.png": "2"},
		nil,
		"folder-renamed", "The folder `images` is written `image`", "There is no folder `image`", 2, "certain",
	},
	"a file was taken away": {
		map[string]string{"index.html": `<a href="files/order.pdf">1</a><a href="files/order.pdf">2</a>`, "files/other.txt": "1"},
		map[string]string{"files/order.pdf": "%PDF"},
		"file-deleted", "`files/order.pdf` was deleted", "2 references lead there", 2, "",
	},
	"one name is mistyped again and again": {
		map[string]string{"index.html": `<a href="pest.html">1</a>`, "visit.html": `<a href="pest.html">2</a>`, "pests.html": ""},
		nil,
		"name", "`pest.html` is written where `pests.html` exists", "Found on 2 pages.", 2, "likely",
	},
	"it stands in another folder": {
		map[string]string{"index.html": `<a href="squash.html">1</a>`, "catalogue/squash.html": ""},
		nil,
		"name", "`squash.html` is not in the top of the folder, but in `catalogue/`", "", 1, "certain",
	},
	"nothing comes near": {
		map[string]string{"index.html": `<a href="nothing-like-it.html">1</a>`},
		nil,
		"name", "`nothing-like-it.html` does not exist, but 1 reference leads to it", "Nothing there has a similar name.", 1, "",
	},
	"a folder has no index page": {
		map[string]string{"index.html": `<a href="news/">1</a>`, "visit.html": `<a href="news/">2</a>`, "news/2018.html": "1", "news/2017.html": "2"},
		nil,
		"name", "The folder `news/` has no index page", "an error there, or a bare list of files", 2, "possible",
	},
	"letter case": {
		map[string]string{"index.html": `<a href="Guides/a.html">1</a><a href="Guides/b.html">2</a>`, "guides/a.html": "1", "guides/b.html": "2"},
		nil,
		"name", "`Guides` is `guides` on disk", "which counts on most hosts", 2, "certain",
	},
	"a fragment": {
		map[string]string{"index.html": `<a href="guides/saving.html#Drying">1</a><a href="guides/saving.html#Drying">2</a>`, "guides/saving.html": saving},
		nil,
		"fragment", "`#Drying` is missing on `guides/saving.html`; the id is `drying`", "", 2, "certain",
	},
	"a folder is not here": {
		map[string]string{"index.html": `<a href="charts/rain.html">1</a><a href="charts/sun/may.html">2</a>`, "visit.html": `<a href="charts/rain.html">1</a>`},
		nil,
		"folder-missing", "`charts/` is not in this folder: 3 references to 2 files in it", "Found 3 times, on 2 pages.", 3, "",
	},
	"a template's value": {
		map[string]string{"index.html": `<a href="menu.html">1</a>`, "a/x.html": `<a href="menu.html">1</a>`, "b/y.html": `<a href="menu.html">1</a>`},
		nil,
		"template", "`menu.html` is written on all 3 pages, and is broken on all of them", "Found on all 3 pages.", 3, "",
	},
	"a series": {
		map[string]string{"index.html": `<a href="news/issue-1.html">1</a><a href="news/issue-2.html">2</a><a href="news/issue-3.html">3</a>`, "news/about.html": ""},
		nil,
		"series", "3 files named like `issue-1.html` are not in `news/`", "Found 3 times, on 1 page.", 3, "",
	},
	"fragments of a page's own links": {
		map[string]string{"index.html": `<a href="#leek">1</a><a href="#chard">2</a><a href="#squash">3</a>`},
		nil,
		"fragment", "`index.html` links to 3 ids of its own that do not exist", "It has no ids at all.", 3, "",
	},
	"links copied to several pages": {
		map[string]string{
			"index.html": `<a href="visit.html">1</a><a href="borrow.html">2</a><a href="old/may.html">3</a>`, "visit.html": "v", "borrow.html": "b", "old/may.html": "m",
			"news/may.html": `<h1>May</h1><a href="visit.html">1</a><a href="borrow.html">2</a><a href="old/may.html">3</a>`, "news/june.html": `<h1>June</h1><a href="visit.html">1</a><a href="borrow.html">2</a><a href="old/may.html">3</a>`,
		},
		nil,
		"links-copied", "The links on 2 pages were copied from a page in the top of the folder", "`index.html` has the same ones", 6, "certain",
	},
	"a habit": {
		map[string]string{"index.html": `<a href="www.orchard.example">1</a><a href="www.nursery.example">2</a>`},
		nil,
		"habit", "Addresses of other sites and of e-mail have no scheme", "For example: ", 2, "certain",
	},
}

func TestWhatHappenedIsOneCause(t *testing.T) {
	for name, c := range happened {
		s, past := folder(c.files, c.gone)
		causes := repair.NewPlanner(s, past).Causes(audit.Judge(s, rule.All, audit.Terms{}))
		require.NotEmpty(t, causes, name)
		got := causes[0]
		assert.Equal(t, c.kind, got.Kind, name)
		assert.Equal(t, c.message, got.Message, name)
		assert.Contains(t, got.Evidence, c.says, name)
		assert.Len(t, got.Findings, c.findings, name)
		assert.Equal(t, c.certainty, got.Certainty, name)
		if c.certainty == "certain" {
			assert.Equal(t, len(got.Findings), got.Certain, name)
		}
	}
}

// Each finding belongs to one cause, and what is repaired is not found again.
func TestCausesShareOutAllFindingsAndTheirRepairsMendThem(t *testing.T) {
	for name, c := range happened {
		s, past := folder(c.files, c.gone)
		report := audit.Judge(s, rule.All, audit.Terms{})
		p := repair.NewPlanner(s, past)
		causes := p.Causes(report)
		shared, keys := 0, map[repair.Key]bool{}
		seen := map[[2]any]bool{}
		for _, cause := range causes {
			assert.False(t, keys[cause.Key], "%s: %s twice", name, cause.Key)
			keys[cause.Key] = true
			shared += len(cause.Findings)
			for _, e := range cause.Findings {
				at := [2]any{[2]int32{e.File, e.Finding.Ref}, [2]any{e.Finding.Rule.Name, e.Finding.Anchor}}
				assert.False(t, seen[at], "%s: a finding is in two causes", name)
				seen[at] = true
			}
		}
		found := 0
		for i := range s.Files {
			found += len(report.Findings(int32(i)))
		}
		assert.Equal(t, found, shared, name)

		picks := repair.Best(causes, repair.Possible)
		set, err := p.Set(name, picks)
		require.NoError(t, err, name)
		after := maps.Clone(c.files)
		for _, f := range set.Files {
			assert.True(t, f.Before.Is([]byte(c.files[f.Path])), name)
			src, err := change.Apply([]byte(c.files[f.Path]), f.Edits)
			require.NoError(t, err, name)
			after[f.Path] = string(src)
		}
		mended, _ := folder(after, nil)
		now := audit.Judge(mended, rule.All, audit.Terms{})
		for _, k := range picks {
			file, _ := mended.Find(s.Files[k.File].Path)
			assert.NotEqual(t, audit.Broken, now.States(file)[k.Ref], "%s: %s", name, k.Written)
		}
		assert.Equal(t, report.Counts.Broken-broken(report, s, picks), now.Counts.Broken, name)
	}
}

// broken counts the picks that are of broken references.
func broken(r *audit.Report, s *site.Snapshot, picks []repair.Pick) (n int) {
	seen := map[[2]int32]bool{}
	for _, k := range picks {
		if at := [2]int32{k.File, k.Ref}; !seen[at] && r.States(k.File)[k.Ref] == audit.Broken {
			seen[at] = true
			n++
		}
	}
	return n
}

// All causes of a kind that are as certain are one, and no merely possible repair is among what it writes.
func TestCausesOfAKindAreOne(t *testing.T) {
	s, past := folder(map[string]string{"index.html": `<a href="Visit.html">1</a><a href="Leek.html">2</a><a href="gone.html">3</a>`, "visit.html": "", "leek.html": ""}, nil)
	p := repair.NewPlanner(s, past)
	causes := p.Causes(audit.Judge(s, rule.All, audit.Terms{}))
	key := repair.KindOf(&causes[0], causes)
	all := repair.OfKind(key, causes)
	require.NotNil(t, all)
	assert.Equal(t, "All 2 certain ones: letter case", all.Message)
	assert.Len(t, all.Findings, 2)
	assert.Equal(t, repair.Certain, all.Key.Least())
	assert.Equal(t, repair.Key{}, repair.KindOf(&causes[2], causes), "there is no other like it")
	assert.Nil(t, repair.OfKind(repair.Key{Kind: "kind", Subject: "case", Other: "possible"}, causes))
}
