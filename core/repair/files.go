package repair

import (
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/distance"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

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
		weight -= toItself
	}
	i, ok := p.snapshot.Find(target)
	if !ok {
		return
	}
	if !fits(c, p.snapshot.Files[i].Kind) {
		certainty, weight = min(certainty, Possible), weight-wrongKind
	}
	value := p.write(c, target)
	if t := c.Target(); t.HasFragment && t.Fragment != "" {
		doc := p.snapshot.Files[i].Doc
		if doc != nil {
			if a, top := doc.Indicated(t.Fragment, address.UnescapeFragment); a == nil && !top {
				certainty, weight = min(certainty, Likely), weight-fragmentLost
				why += "; the id " + phrase.Mono(c.Fragment()) + " is not on it, though"
			} else {
				weight += fragmentHeld
			}
		}
	}
	s.add(suggestion{value: value, target: target, certainty: certainty, weight: weight, why: why})
}

// fits reports whether a file of kind k can be where the reference is: no page in an img, no image in a
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
		p.suggest(c, s, c.Landed().Path, Certain, sameLetters, "the folder's name differs in letter case alone")
	}
	for _, i := range all {
		certainty, name := Certain, path.Base(c.Target().Path)
		real := p.snapshot.Files[i].Path
		t := c.Target()
		other := path.Base(real) != name && p.names.exact[name] > 0
		if other || t.HasFragment && t.Fragment != "" && !p.hasFragment(real, t.Fragment) {
			// It may be another file that is meant, whose name is right to the letter.
			p.elsewhere(c, s, t.Path, name)
			for k := range s.all {
				s.all[k].certainty = min(s.all[k].certainty, Likely)
			}
			if other {
				certainty = Likely
			}
		}
		if dir, _ := site.Cut(real); p.droppedLetter(name, dir) {
			certainty = Likely
		}
		p.suggest(c, s, real, certainty, sameLetters, "the name on disk differs in letter case alone")
	}
}

// droppedLetter reports whether a name in the folder is what is written with one letter more, letter case included.
func (p *Planner) droppedLetter(name, dir string) bool {
	for _, near := range p.names.near(name) {
		for _, q := range p.names.in(dir, near) {
			if n := path.Base(q); len(n) == len(name)+1 && distance.Distance(name, n, 1) == 1 {
				return true
			}
		}
	}
	return false
}

// hasFragment reports whether a fragment lands on something on the page; on what is no page it always does.
func (p *Planner) hasFragment(target, fragment string) bool {
	i, ok := p.snapshot.Find(target)
	if !ok || p.snapshot.Files[i].Doc == nil || p.snapshot.Files[i].Kind != site.Page {
		return ok
	}
	a, top := p.snapshot.Files[i].Doc.Indicated(fragment, address.UnescapeFragment)
	return a != nil || top
}

// missingFile asks, one after another, for what a path that leads to nothing may have meant.
func (p *Planner) missingFile(c *audit.Case, s *suggestions) {
	wanted := c.Target().Path
	dir, name := site.Cut(wanted)
	p.fromOrigin(c, s)
	if p.moved(c, s, wanted) {
		return
	}
	p.sameFolder(c, s, dir, name)
	p.elsewhere(c, s, wanted, name)
	p.folders(c, s, wanted)
	p.oneLetter(c, s, dir, name)
	p.missingHash(c, s)
}

// missingHash takes what is written for an id on the page, if it is one, whose "#" was left out.
func (p *Planner) missingHash(c *audit.Case, s *suggestions) {
	if c.File.Doc == nil || strings.ContainsAny(c.Value, "/.?#") {
		return
	}
	if strings.EqualFold(c.Value, "top") && c.File.Doc.Anchor(c.Value) == nil {
		s.add(suggestion{value: "#" + c.Value, target: c.File.Path, certainty: Likely, weight: sameLanding, why: phrase.Mono("#top") + " leads to the top of the page"})
	}
	if a := c.File.Doc.Anchor(c.Value); a != nil {
		s.add(suggestion{value: "#" + address.EscapeFragment(a.Name), target: c.File.Path, certainty: Certain, weight: sameInWords, why: "the id " + phrase.Mono(a.Name) + " is on this page; the " + phrase.Mono("#") + " before it was left out"})
	}
}

// sameFolder looks in the folder that is meant for a name that differs in separators, letter case or extension.
func (p *Planner) sameFolder(c *audit.Case, s *suggestions, dir, name string) {
	found := plausible(c, p.names.byPlain[inFolder{dir, plainName(name)}])
	for _, q := range found {
		certainty := Certain
		if len(found) > 1 || p.orphanLike(name, dir, q) || !sameWords(name, path.Base(q)) {
			certainty = Likely
		}
		p.suggest(c, s, q, certainty, sameInWords-distance.Distance(name, path.Base(q), 20), phrase.Mono(path.Base(q))+" differs from it "+differs(name, path.Base(q)))
	}
	if name == "index" || p.isIndex(name) {
		if f := p.snapshot.Folders[dir]; f != nil && f.Index >= 0 {
			p.suggest(c, s, p.snapshot.Files[f.Index].Path, Likely, knownIndex, "it is the index page of that folder")
		}
	}
}

// sameWords reports whether two names are of the same words, whatever parts them.
func sameWords(a, b string) bool {
	words := func(name string) []string {
		name = strings.ToLower(strings.TrimSuffix(name, path.Ext(name)))
		return strings.Split(strings.NewReplacer("%20", "-", " ", "-", "_", "-", "+", "-").Replace(name), "-")
	}
	return slices.Equal(words(a), words(b))
}

// plausible leaves out the files that can't be meant where the reference is, if others are left: no script is linked
// to, and only a picture is shown as one.
func plausible(c *audit.Case, paths []string) []string {
	var out []string
	for _, q := range paths {
		k := site.KindOf(q)
		switch c.Ref.Role {
		case markup.RoleLink:
			if k == site.Script || k == site.Style || k == site.Other {
				continue
			}
		case markup.RoleImage:
			if k != site.Image {
				continue
			}
		}
		out = append(out, q)
	}
	if len(out) == 0 {
		return paths
	}
	if c.Ref.Role == markup.RoleLink && path.Ext(c.Target().Path) == "" {
		if pages := slices.DeleteFunc(slices.Clone(out), func(q string) bool { return site.KindOf(q) != site.Page }); len(pages) > 0 {
			return pages // an extension that is left out is that of a page
		}
	}
	return out
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
