package repair_test

import (
	"fmt"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/repair"
)

// work counts the bytes that something takes in all: every comparison of names takes some, so it grows as the work does.
func work(do func()) float64 {
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	do()
	runtime.ReadMemStats(&after)
	return float64(after.TotalAlloc - before.TotalAlloc)
}

// Twice the input is at most two and a half times the work, whatever the input is.
func TestWorkGrowsAsTheFolderDoes(t *testing.T) {
	judged := func(files map[string]string) {
		s, past := folder(files, nil)
		r := audit.Judge(s, rule.All, audit.Terms{})
		causes := repair.NewPlanner(s, past).Causes(r)
		for i := range causes {
			for _, e := range causes[i].Findings {
				e.Finding.Say(audit.CaseOf(s, e.Finding, e.File))
			}
		}
	}
	for name, of := range map[string]func(n int) map[string]string{
		"a broken link on each of many pages": func(n int) map[string]string {
			files := map[string]string{}
			for i := range n {
				files[fmt.Sprintf("page%05d.html", i)] = fmt.Sprintf(`<title>%d</title><a href="pagx%05d.html">x</a>`, i, i)
			}
			return files
		},
		"wrong fragments on one page": func(n int) map[string]string {
			var b strings.Builder
			for i := range n {
				fmt.Fprintf(&b, `<h2 id="part-%d">Part %d</h2><a href="#prat-%d">p</a>`, i, i, i)
			}
			return map[string]string{"index.html": b.String()}
		},
		"many folders, each name of which is written wrong": func(n int) map[string]string {
			files := map[string]string{}
			var b strings.Builder
			for i := range n {
				files[fmt.Sprintf("folder%05d/x.html", i)] = ""
				fmt.Fprintf(&b, `<a href="foldr%05d/x.html">x</a>`, i)
			}
			files["index.html"] = b.String()
			return files
		},
		"links to a folder without an index page": func(n int) map[string]string {
			files := map[string]string{}
			var b strings.Builder
			for i := range n {
				files[fmt.Sprintf("news/%05d.html", i)] = ""
				fmt.Fprintf(&b, `<a href="news/?%d">x</a>`, i)
			}
			files["index.html"] = b.String()
			return files
		},
		"one address that repeats a name": func(n int) map[string]string {
			return map[string]string{"index.html": `<a href="` + strings.Repeat("index.html", n) + `">x</a>`, "x.html": ""}
		},
		"addresses that a parser takes apart again and again": func(n int) map[string]string {
			return map[string]string{"index.html": `<a href="//` + strings.Repeat("@", 8*n) + `">x</a><a href="http:` + strings.Repeat("x/", 8*n) + `">x</a><a href="file:///` + strings.Repeat("C:/", 8*n) + `">x</a>`}
		},
	} {
		const n = 1000
		small, large := of(n), of(2*n)
		judged(of(50)) // what is made once
		once := work(func() { judged(small) })
		twice := work(func() { judged(large) })
		t.Logf("%-55s %6.1f MB, %.2f times for twice as much", name, once/1e6, twice/once)
		assert.Less(t, twice, 2.5*once+1e5, name)
	}
}

func TestComposingAndShowingGrowAsThePageDoes(t *testing.T) {
	s, _ := folder(map[string]string{"index.html": ""}, nil)
	for name, do := range map[string]func(n int){
		"a list of contents of headings with the same words": func(n int) {
			p := compose.Open(s, "index.html", []byte("<body>"+strings.Repeat("<h2>The same</h2>\n", n)))
			edits, err := p.Contents(6, compose.ContentsList{From: 2, To: 3})
			assert.NoError(t, err)
			assert.Len(t, edits, n+1)
		},
		"edits on one line": func(n int) {
			src := []byte(strings.Repeat(`<a href="x">x</a>`, n))
			edits := make([]change.Edit, n)
			for i := range edits {
				edits[i] = change.Edit{Start: i*17 + 9, End: i*17 + 10, New: []byte("y")}
			}
			lines, err := change.LineOfEach(src, edits, 1, func(b []byte) string { return string(b) })
			assert.NoError(t, err)
			assert.Len(t, lines, n)
		},
	} {
		do(50)
		once, twice := work(func() { do(4000) }), work(func() { do(8000) })
		t.Logf("%-55s %6.1f MB, %.2f times for twice as much", name, once/1e6, twice/once)
		assert.Less(t, twice, 2.5*once, name)
	}
}
