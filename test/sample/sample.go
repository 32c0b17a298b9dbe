// Package sample makes the small folders that the tests of core judge.
package sample

import (
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/markup"
	"arvel/core/site"
)

// Root is a place at the top of a host that counts letter case.
var Root = address.Place{Mount: "/"}

// Folder is a snapshot of files, given as their paths and contents; those that are pages are read.
func Folder(place address.Place, files map[string]string) *site.Snapshot {
	var list []site.File
	for p, src := range files {
		f := site.File{Path: p, Kind: site.KindOf(p)}
		if f.Kind == site.Page {
			f.Doc = markup.NewScanner().Page([]byte(src))
		}
		list = append(list, f)
	}
	return site.Build(list, site.Options{Place: place})
}

// Link judges one reference, given as its tag, on guides/sowing.html of a small seed library.
func Link(place address.Place, tag string) (*audit.Case, []audit.Finding, audit.State) {
	if strings.HasPrefix(tag, "<a ") && !strings.HasSuffix(tag, "</a>") {
		tag += "words</a>"
	}
	tag = strings.Replace(tag, "<img ", `<img alt="x" `, 1)
	s := Folder(place, map[string]string{
		"index.html": "", "guides/sowing.html": "<h2 id=beans>Beans</h2>" + tag, "guides/saving.html": "<title>Saving</title>Save them.",
		"images/leek.png": "", "notes/x.html": "", "files/table.pdf": "", "files/a table.pdf": "", "files/100%.pdf": "", "C/index.html": "",
	})
	r := audit.Judge(s, rule.All, audit.Terms{})
	file, _ := s.Find("guides/sowing.html")
	return audit.NewCase(s, file, 0), r.Of(file, 0), r.States(file)[0]
}

// Rules are the names of the rules that findings are about.
func Rules(findings []audit.Finding) (names []string) {
	for _, f := range findings {
		names = append(names, f.Rule.Name)
	}
	return names
}

// Found lists the findings about the references of a page, as "rule state written".
func Found(s *site.Snapshot, r *audit.Report, page string) (out []string) {
	file, _ := s.Find(page)
	for _, f := range r.Findings(file) {
		if f.Ref >= 0 {
			out = append(out, f.Rule.Name+" "+f.State.String()+" "+s.Files[file].Doc.References[f.Ref].Written)
		}
	}
	return out
}
