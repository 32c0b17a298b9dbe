package repair

import (
	"path"
	"strings"

	"arvel/core/audit"
	"arvel/core/distance"
	"arvel/core/phrase"
	"arvel/core/site"
)

// pages returns the names of the pages in a folder.
func (p *Planner) pages(f *site.Folder) []string {
	if known, ok := p.pagesIn.Load(f.Path); ok {
		return known.([]string)
	}
	var out []string
	for _, n := range f.Names {
		if site.KindOf(n) == site.Page {
			out = append(out, n)
		}
	}
	p.pagesIn.Store(f.Path, out)
	return out
}

// folders looks for the folder that is meant where a folder's name is off by a letter, in letter case or in
// its separators.
func (p *Planner) folders(c *audit.Case, s *suggestions, wanted string) {
	at, missing, _ := p.snapshot.FirstMissing(wanted)
	rest, deeper := strings.CutPrefix(strings.TrimPrefix(wanted, at), missingPart(at, missing))
	if !deeper || rest == "" {
		return
	}
	for _, real := range p.snapshot.FoldersIn(p.snapshot.Folders[at]).Near(missing, most*2) {
		d := distance.Distance(site.Fold(missing), site.Fold(real), 2)
		if d > 2 || d == 2 && len(missing) < 6 {
			continue
		}
		target := path.Join(at, real) + rest
		certainty := Likely
		if distance.Plain(missing) == distance.Plain(real) {
			certainty = Certain
		} else if len(p.names.byName[site.Fold(path.Base(target))]) == 1 {
			certainty = Certain
		}
		why := "the folder is " + phrase.Mono(real) + ", one letter from " + phrase.Mono(missing)
		if d != 1 {
			why = "the folder is " + phrase.Mono(real) + ", not " + phrase.Mono(missing)
		}
		s.cause = Key{folderCalled, path.Join(at, missing), path.Join(at, real)}
		p.suggest(c, s, target, certainty, sameFolder-perLetter*d, why)
		s.cause = Key{}
	}
}

func missingPart(at, missing string) string {
	if at == "" {
		return missing
	}
	return "/" + missing
}

// missingIndex offers the pages of the folder, if there are few.
func (p *Planner) missingIndex(c *audit.Case, s *suggestions) {
	p.fromOrigin(c, s)
	if !c.Target().Folder {
		dir, name := site.Cut(c.Target().Path)
		p.sameFolder(c, s, dir, name) // a page of that name, whose extension was left out
	}
	f := p.snapshot.Folders[c.Target().Path]
	if f == nil {
		return
	}
	pages := p.pages(f)
	for _, n := range pages[:min(len(pages), most)] {
		certainty, why := Possible, "it is a page of that folder"
		if len(pages) == 1 && c.Target().Folder {
			certainty, why = Likely, "it is the only page of that folder"
		}
		value := p.snapshot.Place.Rewrite(c.Value, c.Start(), path.Join(f.Path, n))
		s.add(suggestion{value: value, target: path.Join(f.Path, n), certainty: certainty, weight: somePage, why: why})
	}
}
