package repair

import (
	"path"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/letters"
	"arvel/core/site"
)

// write returns the value that leads from the case's page to target instead.
func (p *Planner) write(c *audit.Case, target string) string {
	value := strings.ReplaceAll(c.Value, `\`, "/")
	target = p.asFolder(c, target)
	if c.Target().Own {
		return fromPage(c, target)
	}
	return p.snapshot.Place.Rewrite(strings.TrimSpace(value), path.Join(c.Start(), "x"), target)
}

// asFolder returns the folder that target is the index page of, if the reference names a folder; else target.
func (p *Planner) asFolder(c *audit.Case, target string) string {
	if dir, name := site.Cut(target); c.Target().Folder && p.isIndex(name) {
		return strings.TrimPrefix(dir+"/", "/")
	}
	return target
}

// fromPage returns the path from the case's page to target, with the query and the fragment as they are written.
func fromPage(c *audit.Case, target string) string {
	_, query, fragment := address.Split(strings.TrimSpace(c.Value))
	return address.Relative(path.Join(c.Start(), "x"), target) + query + fragment
}

// fromPage writes the path from the page in place of a leading slash or of the folder's own published address.
func (p *Planner) fromPage(c *audit.Case, s *suggestions) {
	f := c.Landed()
	if f == nil && c.Target().Kind == address.Beyond {
		part, _, _ := address.Split(strings.ReplaceAll(strings.TrimSpace(c.Value), `\`, "/"))
		t := address.Target{Path: address.Unescape(strings.Trim(path.Clean(part), "/")), Folder: strings.HasSuffix(part, "/")}
		if l := p.snapshot.Land(&t); l.Outcome == site.Lands {
			f = &p.snapshot.Files[l.File]
			c.Target().Folder = t.Folder
		}
	}
	if f == nil || c.Link.Outcome == site.OtherCase || c.Link.Outcome == site.OtherForm {
		return
	}
	s.add(suggestion{fromPage(c, p.asFolder(c, f.Path)), f.Path, Certain, 55, "a path from this page lands on the same thing, from every place"})
}

func (p *Planner) isIndex(name string) bool {
	for _, n := range p.snapshot.IndexNames {
		if n == name {
			return true
		}
	}
	return false
}

// suggest adds the repair that leads to target. What it leads to must land, with its fragment.
func (p *Planner) suggest(c *audit.Case, s *suggestions, target string, certainty Certainty, weight int, why string) {
	if target == c.File.Path && c.Target().Path != c.File.Path && certainty < Certain {
		weight -= 20 // a page seldom links to itself by name
	}
	i, ok := p.snapshot.Find(target)
	if !ok {
		return
	}
	if !fits(c, p.snapshot.Files[i].Kind) {
		certainty, weight = min(certainty, Possible), weight-50
	}
	value := p.write(c, target)
	if t := c.Target(); t.HasFragment && t.Fragment != "" {
		doc := p.snapshot.Files[i].Doc
		if doc != nil {
			if a, top := doc.Indicated(t.Fragment, address.UnescapeFragment); a == nil && !top {
				certainty, weight = min(certainty, Likely), weight-5
				why += "; the id " + audit.Mono(c.Fragment()) + " is not on it, though"
			} else {
				weight += 5
			}
		}
	}
	s.add(suggestion{value, target, certainty, weight, why})
}

// fits tells whether a file of kind k can stand where the reference stands: no page in an img, no image in a
// script.
func fits(c *audit.Case, k site.Kind) bool {
	switch wanted := site.KindOf(c.Target().Path); wanted {
	case site.Other, k:
		return true
	default:
		return false
	}
}

// otherName repairs a name that differs in letter case or Unicode form alone.
func (p *Planner) otherName(c *audit.Case, s *suggestions) {
	all := p.snapshot.Folded(c.Target().Path)
	if len(all) == 0 {
		p.suggest(c, s, c.Landed().Path, Certain, 100, "the folder's name differs in letter case alone")
	}
	for _, i := range all {
		why := "the name on disk differs in letter case alone"
		p.suggest(c, s, p.snapshot.Files[i].Path, Certain, 100, why)
	}
}

// missingFile asks, one after another, for what a path that leads to nothing may have meant.
func (p *Planner) missingFile(c *audit.Case, s *suggestions) {
	wanted := c.Target().Path
	dir, name := site.Cut(wanted)
	p.sameFolder(c, s, dir, name)
	p.elsewhere(c, s, wanted, name)
	p.folders(c, s, wanted)
	p.oneLetter(c, s, dir, name)
}

// sameFolder looks in the folder that is meant for a name that differs in separators, letter case or extension.
func (p *Planner) sameFolder(c *audit.Case, s *suggestions, dir, name string) {
	var found []string
	for _, q := range p.names.byPlain[plainName(name)] {
		if d, _ := site.Cut(q); d == dir {
			found = append(found, q)
		}
	}
	for _, q := range found {
		certainty := Certain
		if len(found) > 1 {
			certainty = Likely
		}
		p.suggest(c, s, q, certainty, 90, audit.Mono(path.Base(q))+" differs from it "+differs(name, path.Base(q)))
	}
	if name == "index" || p.isIndex(name) {
		if f := p.snapshot.Folders[dir]; f != nil && f.Index >= 0 {
			p.suggest(c, s, p.snapshot.Files[f.Index].Path, Likely, 60, "it is the index page of that folder")
		}
	}
}

// differs says in what two names with the same plain form differ.
func differs(a, b string) string {
	extA, extB := path.Ext(a), path.Ext(b)
	stemA, stemB := strings.TrimSuffix(a, extA), strings.TrimSuffix(b, extB)
	switch {
	case stemA == stemB && strings.EqualFold(extA, extB):
		return "in the letter case of its extension alone"
	case stemA == stemB && extA == "":
		return "by its extension alone, which was left out"
	case stemA == stemB:
		return "in its extension alone"
	case extA != extB:
		return "in its extension and in how its words are written"
	case strings.EqualFold(stemA, stemB):
		return "in letter case alone"
	}
	return "in what stands between its words alone"
}

// elsewhere looks for the same name in other folders: a folder left out, "../" missing or too many, or a file
// that stands elsewhere.
func (p *Planner) elsewhere(c *audit.Case, s *suggestions, wanted, name string) {
	var exact []string
	for _, q := range p.names.byName[site.Fold(name)] {
		if path.Base(q) == name && q != c.File.Path {
			exact = append(exact, q)
		}
	}
	written := c.Climbs()
	for _, q := range exact {
		certainty, weight := Likely, 40
		if len(exact) == 1 && !p.isIndex(name) {
			certainty, weight = Certain, 70
		} else if len(exact) > 8 {
			certainty = Possible
		}
		why := "it is the only " + audit.Mono(name) + " in the folder"
		if len(exact) > 1 {
			why = "a " + audit.Mono(name) + " stands there"
		}
		value := p.write(c, q)
		switch climbs := strings.Count(value, "../"); {
		case climbs == written+1 && strings.TrimLeft(value, "./") == strings.TrimLeft(c.Value, "./"):
			weight += 20
			why = "one " + audit.Mono("../") + " is missing; " + why
		case climbs == written-1 && strings.TrimLeft(value, "./") == strings.TrimLeft(c.Value, "./"):
			weight += 20
			why = "there is one " + audit.Mono("../") + " too many; " + why
		case strings.HasSuffix(q, "/"+wanted):
			weight += 15
			why = "a folder was left out; " + why
		}
		if len(exact) > 1 {
			certainty = min(certainty, Likely)
			if weight < 55 {
				certainty = Possible
			}
		}
		p.suggest(c, s, q, certainty, weight, why)
	}
}

// folders looks for the folder that is meant where a folder's name is off by a letter, in letter case or in
// its separators.
func (p *Planner) folders(c *audit.Case, s *suggestions, wanted string) {
	at, missing, names := p.snapshot.Breaks(wanted)
	rest, deeper := strings.CutPrefix(strings.TrimPrefix(wanted, at), missingPart(at, missing))
	if !deeper || rest == "" {
		return
	}
	for _, n := range names {
		real, isFolder := strings.CutSuffix(n, "/")
		if !isFolder {
			continue
		}
		d := letters.Distance(site.Fold(missing), site.Fold(real), 2)
		if d > 2 || d == 2 && len(missing) < 6 {
			continue
		}
		target := path.Join(at, real) + rest
		certainty := Likely
		if letters.Plain(missing) == letters.Plain(real) {
			certainty = Certain
		} else if len(p.names.byName[site.Fold(path.Base(target))]) == 1 {
			certainty = Certain
		}
		why := "the folder is " + audit.Mono(real) + ", one letter from " + audit.Mono(missing)
		if d != 1 {
			why = "the folder is " + audit.Mono(real) + ", not " + audit.Mono(missing)
		}
		p.suggest(c, s, target, certainty, 85-5*d, why)
	}
}

func missingPart(at, missing string) string {
	if at == "" {
		return missing
	}
	return "/" + missing
}

// oneLetter looks for names one letter away, first in the folder that is meant.
func (p *Planner) oneLetter(c *audit.Case, s *suggestions, dir, name string) {
	if len(name) < 4 {
		return
	}
	for _, near := range p.names.near(name) {
		for _, q := range p.names.byName[near] {
			d, n := site.Cut(q)
			if path.Ext(n) != path.Ext(name) && strings.TrimSuffix(n, path.Ext(n)) == strings.TrimSuffix(name, path.Ext(name)) {
				continue // another extension, not a slip
			}
			if digitsDiffer(name, n) {
				p.suggest(c, s, q, Possible, 10, audit.Mono(n)+" is one digit away")
			} else if d == dir {
				p.suggest(c, s, q, Likely, 80, audit.Mono(n)+" is one letter away")
			} else if len(p.names.byName[near]) <= 3 {
				p.suggest(c, s, q, Possible, 30, audit.Mono(q)+" is one letter away, in another folder")
			}
		}
	}
}

// digitsDiffer tells whether two names differ in their digits, which are seldom mistyped and often a series.
func digitsDiffer(a, b string) bool {
	digits := func(s string) string {
		return strings.Map(func(r rune) rune {
			if '0' <= r && r <= '9' {
				return r
			}
			return -1
		}, s)
	}
	return digits(a) != digits(b)
}

// missingIndex offers the pages of the folder, if there are few.
func (p *Planner) missingIndex(c *audit.Case, s *suggestions) {
	f := p.snapshot.Folders[c.Target().Path]
	if f == nil {
		return
	}
	var pages []string
	for _, n := range f.Names {
		if site.KindOf(n) == site.Page {
			pages = append(pages, n)
		}
	}
	for _, n := range pages[:min(len(pages), most)] {
		certainty, why := Possible, "it is a page of that folder"
		if len(pages) == 1 {
			certainty, why = Likely, "it is the only page of that folder"
		}
		value := p.snapshot.Place.Rewrite(c.Value, path.Join(c.Start(), "x"), path.Join(f.Path, n))
		s.add(suggestion{value, path.Join(f.Path, n), certainty, 10, why})
	}
}

// backslash turns them round, if that lands.
func (p *Planner) backslash(c *audit.Case, s *suggestions) {
	for _, g := range s.all {
		if !strings.Contains(g.value, `\`) {
			return // mended along with what else is wrong
		}
	}
	part, query, fragment := address.Split(c.Value)
	value := strings.ReplaceAll(part, `\`, "/") + query + fragment
	target := ""
	if f := c.Landed(); f != nil {
		target = f.Path
	}
	s.add(suggestion{value, target, Certain, 50, "it lands on the same thing, in every program"})
}

// climbsOut takes out the "../" that have nowhere to go.
func (p *Planner) climbsOut(c *audit.Case, s *suggestions) {
	f := c.Landed()
	if f == nil || c.Target().Climbed == 0 {
		return
	}
	p.suggest(c, s, f.Path, Certain, 60, "it lands on the same thing, from every place")
}
