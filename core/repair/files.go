package repair

import (
	"path"
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
	p.suggestAs(c, s, target, "", certainty, weight, why)
}

// suggestAs is suggest with the value that is to be written; "" for what is usual.
func (p *Planner) suggestAs(c *audit.Case, s *suggestions, target, value string, certainty Certainty, weight int, why string) {
	if target == c.File.Path && c.Target().Path != c.File.Path && certainty < Certain {
		weight -= toItself
	}
	i, ok := p.snapshot.Find(target)
	if !ok {
		return
	}
	if !takes(c, target) {
		certainty, weight = Possible, weight-wrongKind
	}
	if p.sideBySide(p.meantPath(c), target) {
		certainty = Possible
		why += "; but both existed at the same time"
	}
	if value == "" {
		value = p.write(c, target)
	}
	if _, _, fragment := address.Split(value); len(fragment) > 1 {
		doc := p.snapshot.Files[i].Doc
		if doc != nil {
			if a, top := doc.Indicated(fragment[1:], address.UnescapeFragment); a == nil && !top {
				certainty, weight = Possible, weight-fragmentLost
				why += "; the id " + phrase.Mono(c.Fragment()) + " is not on it, though"
			} else {
				weight += fragmentHeld
			}
		}
	}
	s.add(suggestion{value: value, target: target, certainty: certainty, weight: weight, why: why})
}

// takes reports whether a file can be what the reference is to: CSS for a style sheet, a picture for an img, a page or a program
// on the server for a form; and of the kind that the name asks for.
func takes(c *audit.Case, target string) bool {
	written, kind := c.Target().Path, site.KindOf(target)
	if kind == site.Other {
		return strings.EqualFold(path.Ext(written), path.Ext(target))
	}
	switch c.Ref.Role {
	case markup.RoleStyle:
		return kind == site.Style
	case markup.RoleScript:
		return kind == site.Script
	case markup.RoleImage:
		return kind == site.Image
	case markup.RoleForm:
		return kind == site.Page
	}
	wanted := site.KindOf(written)
	return wanted == kind || wanted == site.Other && kind != site.Script && kind != site.Style
}

// otherName repairs a name that differs in letter case or Unicode form alone.
func (p *Planner) otherName(c *audit.Case, s *suggestions) {
	all := p.snapshot.Folded(c.Target().Path)
	if len(all) == 0 {
		p.suggest(c, s, c.Landed().Path, Certain, sameLetters, "the folder's name differs only in letter case")
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
		p.suggest(c, s, real, certainty, sameLetters, "the name on disk differs only in letter case")
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
	wanted := p.meantPath(c)
	dir, name := site.Cut(wanted)
	p.fromOrigin(c, s)
	if p.moved(c, s, wanted) {
		return
	}
	p.writtenRaw(c, s)
	p.sameFolder(c, s, dir, name)
	p.renamedInPlace(c, s, dir, name)
	p.asFolderOrPage(c, s, wanted)
	p.elsewhere(c, s, wanted, name)
	p.folders(c, s, wanted)
	p.oneLetter(c, s, dir, name)
	p.missingHash(c, s)
	if t := c.Target(); t.HasFragment && t.Fragment != "" {
		if b := p.names.bearers()[c.Fragment()]; b.pages == 1 {
			p.onlyBearer(c, s, c.Fragment(), b.first)
		}
	}
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

// writtenRaw takes what is written for a file's name to the letter, with the signs that an address parts by or that encode: "C#.html",
// "what?.html".
func (p *Planner) writtenRaw(c *audit.Case, s *suggestions) {
	value := strings.TrimSpace(c.Value)
	if !strings.ContainsAny(value, "#?%") || address.SchemeOf(value) != "" || value[0] == '#' {
		return
	}
	tail := strings.LastIndexByte(value, '#')
	for _, end := range []int{len(value), tail} { // a fragment may follow
		if end <= 0 {
			continue
		}
		raw := strings.NewReplacer("%", "%25", "#", "%23", "?", "%3F").Replace(value[:end]) + value[end:]
		r := address.NewResolver(p.snapshot.Place)
		r.In(c.Start())
		t := r.Resolve(raw)
		if l := p.snapshot.Land(&t); t.Kind == address.Inside && l.Outcome == site.Lands && strings.ContainsAny(path.Base(t.Path), "#?%") {
			p.suggestAs(c, s, p.snapshot.Files[l.File].Path, raw, Certain, sameLetters, "the name on disk is written like this, and its characters have to be encoded in an address")
			return
		}
	}
}

// renamedInPlace looks in the folder that is meant for a page that nothing refers to and that has the link's words as its title or
// heading.
func (p *Planner) renamedInPlace(c *audit.Case, s *suggestions, dir, name string) {
	words := distance.Plain(c.Ref.Text)
	f := p.snapshot.Folders[dir]
	if f == nil || c.Ref.Role != markup.RoleLink || len(words) < shortest || site.KindOf(name) != site.Page {
		return
	}
	var found []string
	for _, o := range p.orphans(f) {
		if i, _ := p.snapshot.Find(o.path); o.path != c.File.Path && o.kind == site.Page && !series(name, path.Base(o.path)) && says(p.snapshot.Files[i].Doc, words) {
			found = append(found, o.path)
		}
	}
	if len(found) == 1 {
		p.suggest(c, s, found[0], Likely, sameTitle, "nothing links to it, and its heading is what the link says, so it may be what was "+phrase.Mono(name))
	}
}

// says reports whether a page has the words, in their plain form, as its title or as a heading at its top.
func says(doc *markup.Document, words string) bool {
	if doc == nil {
		return false
	}
	return distance.Plain(doc.Title) == words || len(doc.Headings) > 0 && distance.Plain(doc.Headings[0].Text) == words
}

// asFolderOrPage takes a page that became the index page of a folder, or the other way round: "pests.html", "pests/index.html".
func (p *Planner) asFolderOrPage(c *audit.Case, s *suggestions, wanted string) {
	stem, ext := cutExtension(wanted)
	dir, name := site.Cut(wanted)
	switch {
	case site.KindOf(wanted) == site.Page && p.isIndex(name):
		for _, end := range []string{".html", ".htm"} {
			p.suggest(c, s, dir+end, Likely, knownIndex, "there is a page with the folder’s name in its place")
		}
	case site.KindOf(wanted) == site.Page || ext == "":
		if f := p.snapshot.Folders[stem]; f != nil && f.Index >= 0 {
			p.suggest(c, s, p.snapshot.Files[f.Index].Path, Likely, knownIndex, "there is a folder of that name, with an index page")
		}
	}
}

// sameFolder looks in the folder that is meant for a name that differs in separators, letter case or extension.
func (p *Planner) sameFolder(c *audit.Case, s *suggestions, dir, name string) {
	twins := p.twins(c, dir, name)
	for _, t := range twins {
		certainty := Certain
		if len(twins) > 1 || t.like == joined || c.Target().Folder || strings.TrimSpace(c.Value) != c.Value || p.orphanLike(name, dir, t.path) {
			certainty = Likely
		}
		if t.extension == otherExtension {
			certainty = Possible
		}
		other := path.Base(t.path)
		p.suggest(c, s, t.path, certainty, sameInWords-distance.Distance(name, other, 20), phrase.Mono(other)+" differs from it "+differs(name, other))
	}
	if name == "index" || p.isIndex(name) {
		if f := p.snapshot.Folders[dir]; f != nil && f.Index >= 0 {
			p.suggest(c, s, p.snapshot.Files[f.Index].Path, Likely, knownIndex, "it is the index page of that folder")
		}
	}
}

// twin is a file whose name is another one but for separators, letter case or extension.
type twin struct {
	path      string
	like      likeness
	extension extension
}

// extension is how an extension differs from the one that is written, the least first.
type extension uint8

const (
	sameExtension  extension = iota
	sameFormat               // another spelling of it: .htm, .html
	leftOut                  // none is written
	sameFamily               // another format of the same: .png, .jpg
	otherExtension           // another thing
)

func differsBy(written, other string) extension {
	f := family(written, other)
	switch {
	case strings.EqualFold(written, other):
		return sameExtension
	case f >= 0 && f < narrow:
		return sameFormat
	case written == "":
		return leftOut
	case f >= 0:
		return sameFamily
	}
	return otherExtension
}

// twins returns the files in a folder that have the name but for separators, letter case or extension: of those that the element
// takes, the ones whose extension differs least.
func (p *Planner) twins(c *audit.Case, dir, name string) (out []twin) {
	stem, ext := cutExtension(name)
	for _, q := range p.names.byPlain[inFolder{dir, plainName(name)}] {
		other, otherExt := cutExtension(path.Base(q))
		t := twin{q, alike(stem, other), differsBy(ext, otherExt)}
		if t.like == unlike || !takes(c, q) {
			continue
		}
		if t.extension == leftOut && c.Ref.Role == markup.RoleLink && site.KindOf(q) == site.Page {
			t.extension = sameFormat // an extension that is left out is that of a page
		}
		if len(out) > 0 && t.extension != out[0].extension {
			if t.extension > out[0].extension {
				continue
			}
			out = nil
		}
		out = append(out, t)
	}
	return out
}

// cutExtension parts a name from its extension, if it has one that files commonly have.
func cutExtension(name string) (stem, ext string) {
	if ext = path.Ext(name); site.IsExtension(ext) {
		return strings.TrimSuffix(name, ext), ext
	}
	return name, ""
}

// differs says in what two names with the same plain form differ.
func differs(a, b string) string {
	extA, extB := path.Ext(a), path.Ext(b)
	stemA, stemB := strings.TrimSuffix(a, extA), strings.TrimSuffix(b, extB)
	switch {
	case stemA == stemB && strings.EqualFold(extA, extB):
		return "only in the letter case of its extension"
	case stemA == stemB && extA == "":
		return "only by its extension, which was left out"
	case stemA == stemB:
		return "only in its extension"
	case extA != extB:
		return "in its extension and in how its words are written"
	case strings.EqualFold(stemA, stemB):
		return "only in letter case"
	}
	return "only between its words"
}
