package repair

import (
	"fmt"
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
		m := p.evidence().folders[path.Join(at, missing)]
		switch like := alike(missing, real); {
		case like == sameWords:
			certainty = Certain
		case like == joined:
		case series(missing, real) || len([]rune(missing)) < shortest || p.names.words[site.Fold(missing)]: // a name elsewhere is no slip
			certainty = Possible
		case d == 1 && m != nil && m.became == path.Join(at, real) && m.agree == len(m.rests) && m.alone:
			certainty = Certain
		case p.evidence().asked[wanted] > few:
		case d == 1 && (len(p.names.byName[site.Fold(path.Base(target))]) == 1 || p.refersTo(c, target) > 0):
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
	p.becameFolder(c, s, wanted)
}

// becameFolder takes the folder that has what is looked for in one that is not there, under the same names.
func (p *Planner) becameFolder(c *audit.Case, s *suggestions, wanted string) {
	dir, rest := p.missingFolder(wanted)
	m := p.evidence().folders[dir]
	if m == nil || m.became == "" {
		return
	}
	certainty := Possible
	switch {
	case sameKindOfFolder(m.path, m.became):
	case m.agree*10 < len(m.rests)*nearlyAll:
	case m.alone:
		certainty = Certain
	}
	s.cause = Key{folderCalled, m.path, m.became}
	p.suggest(c, s, path.Join(m.became, rest), certainty, sameFolder, fmt.Sprintf("%d of the %d files that links look for in %s are in %s", m.agree, len(m.rests), place(m.path), place(m.became)))
	s.cause = Key{}
}

// nearlyAll is how many tenths of what is looked for in a folder that is not there another one has, if it is to be that folder.
const nearlyAll = 8

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
