package repair_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/plan"
	"arvel/core/repair"
	"arvel/core/site"
	_ "arvel/test/seed" // rapid takes it
)

// draw draws a folder in which names recur in several folders, with links that are often off, and what was in it before.
func draw(t *rapid.T) (files, gone map[string]string) {
	files, gone = map[string]string{}, map[string]string{}
	dirs := []string{"", "a/", "b/", "a/c/", "en/", "de/", "old/"}
	names := []string{"index.html", "x.html", "y.html", "sowing.html", "Sowing.html", "p.png"}
	path := rapid.Custom(func(t *rapid.T) string {
		return rapid.SampledFrom(dirs).Draw(t, "dir") + rapid.SampledFrom(names).Draw(t, "name")
	})
	page := func(of string) string {
		var b strings.Builder
		fmt.Fprintf(&b, "<title>%s</title><h1 id=%s>x</h1>", rapid.SampledFrom([]string{"A", "B", of}).Draw(t, "title"), rapid.SampledFrom([]string{"one", "two"}).Draw(t, "id"))
		for range rapid.IntRange(0, 5).Draw(t, "links") {
			up := rapid.SampledFrom([]string{"", "../", "../../", "./"}).Draw(t, "up")
			fmt.Fprintf(&b, `<a href="%s%s%s">w</a>`, up, path.Draw(t, "to"), rapid.SampledFrom([]string{"", "#one", "#Two"}).Draw(t, "fragment"))
		}
		return b.String()
	}
	for range rapid.IntRange(3, 14).Draw(t, "files") {
		p := path.Draw(t, "path")
		files[p] = page(p)
	}
	for range rapid.IntRange(0, 6).Draw(t, "gone") {
		p := path.Draw(t, "path")
		if _, there := files[p]; !there {
			gone[p] = page(p)
			if rapid.Bool().Draw(t, "same") {
				gone[p] = files[rapid.SampledFrom(slices.Sorted(maps.Keys(files))).Draw(t, "as")]
			}
		}
	}
	return files, gone
}

// said writes out all that a planner says of a folder, and all plans that can be made on it.
func said(s *site.Snapshot, past repair.Past) string {
	var b strings.Builder
	p := repair.NewPlanner(s, past)
	for _, d := range p.Departures() {
		fmt.Fprintln(&b, d)
	}
	for _, c := range p.Causes(audit.Judge(s, rule.All, audit.Terms{})) {
		fmt.Fprintln(&b, c.Key, c.Kind, c.Message, c.Evidence, c.Broken, c.Certainty, c.Certain)
		for _, e := range c.Findings {
			fmt.Fprintln(&b, e.File, e.Finding.Rule.Name, e.Finding.Ref, e.Repairs)
		}
	}
	print := func(p *plan.Plan) {
		fmt.Fprintln(&b, p.Set.Title, p.Moves, p.Rewrites, p.Notes, p.Deleted, p.Unreferenced, p.Clashes, p.Set.Emptied)
		for _, f := range p.Set.Files {
			fmt.Fprintln(&b, f.Kind, f.Path, f.From, f.Edits)
		}
	}
	source := func(string) ([]byte, error) { return nil, assert.AnError }
	print(plan.Moves(s, []plan.Move{{From: "a", To: "new/a"}, {From: "x.html", To: "b/z.html"}, {From: "old", To: "a/old"}}, plan.Options{LeavePages: true}))
	print(plan.Retarget(s, "a/x.html", "b/x.html", nil))
	print(plan.Delete(s, []plan.Deletion{{Path: "a", Choice: plan.Leave}, {Path: "b", Choice: plan.Elsewhere, To: "x.html"}}, source, nil))
	print(plan.Follow(s, []plan.Move{{From: "old/x.html", To: "x.html"}}, p.Departures()))
	for _, m := range plan.BetterNames(s) {
		fmt.Fprintln(&b, m)
	}
	for _, o := range plan.PendingMoves(s, p.Departures()) {
		fmt.Fprintln(&b, o)
	}
	return b.String()
}

// Whatever a planner is asked, it answers the same twenty times: no answer hangs on the order of a map.
func TestEveryPlannerAlwaysSaysTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		files, gone := draw(t)
		s, past := folder(files, gone)
		first := said(s, past)
		for range 19 {
			require.Equal(t, first, said(s, past))
		}
	})
}

// Two answers that are as good are none: neither is certain.
func TestATieIsNoEvidence(t *testing.T) {
	for name, c := range map[string]struct {
		files, gone map[string]string
		link        string
	}{
		"a folder whose files went two ways, half and half": {
			map[string]string{"index.html": `<a href="old/new.html">n</a>`, "a/p1.html": "1", "a/p2.html": "2", "b/p3.html": "3", "b/p4.html": "4", "a/new.html": "n", "b/new.html": "m"},
			map[string]string{"old/p1.html": "1", "old/p2.html": "2", "old/p3.html": "3", "old/p4.html": "4"},
			"old/new.html",
		},
		"two copies of what was deleted, as good as each other": {
			map[string]string{"index.html": `<a href="old.html">o</a>`, "a/x.html": "<p>same", "b/y.html": "<p>same"},
			map[string]string{"old.html": "<p>same"},
			"old.html",
		},
	} {
		s, past := folder(c.files, c.gone)
		causes := repair.NewPlanner(s, past).Causes(audit.Judge(s, rule.All, audit.Terms{}))
		for _, cause := range causes {
			for _, e := range cause.Findings {
				if e.Finding.Ref >= 0 && s.Files[e.File].Doc.References[e.Finding.Ref].Written == c.link {
					for _, r := range e.Repairs {
						assert.Less(t, r.Certainty, repair.Certain, "%s: %s", name, r.Written)
					}
				}
			}
		}
	}
}

// Whatever letters are in names, a cause is about just them.
func TestCausesOfNamesWithAnyLetters(t *testing.T) {
	s, past := folder(map[string]string{
		"index.html":    "<a href=\"a%23b%3Ec:d.html\">1</a><a href=\"tick%60s.html\">2</a><a href='p.html#x%3Ey#z'>3</a><img src='Im%23g>es/p.png' alt=''>",
		"A#b>c:d.html":  "",
		"p.html":        "<p id='X>y#z'>",
		"im#g>es/p.png": "1",
	}, nil)
	keys := map[repair.Key]bool{}
	for _, c := range repair.NewPlanner(s, past).Causes(audit.Judge(s, rule.All, audit.Terms{})) {
		if c.Broken == 0 {
			continue
		}
		keys[c.Key] = true
		assert.Zero(t, strings.Count(c.Message, "`")%2, "what is set in backticks ends: %s", c.Message)
	}
	assert.Equal(t, map[repair.Key]bool{
		{Kind: "case", Subject: "a#b>c:d.html", Other: "A#b>c:d.html"}: true,
		{Kind: "name", Subject: "tick`s.html"}:                         true,
		{Kind: "fragment", Subject: "p.html", Other: "x>y#z"}:          true,
		{Kind: "case", Subject: "Im#g>es", Other: "im#g>es"}:           true,
	}, keys)
}
