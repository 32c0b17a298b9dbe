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

// write returns the value that leads from the case's page to target instead.
func (p *Planner) write(c *audit.Case, target string) string {
	value := strings.ReplaceAll(c.Value, `\`, "/")
	target = p.asFolder(c, target)
	if c.Target().Own {
		return fromPage(c, target)
	}
	return p.snapshot.Place.Rewrite(strings.TrimSpace(value), c.Start(), target)
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
	return address.Relative(c.Start(), target) + query + fragment
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
	certainty := Certain
	if c.Target().Own {
		certainty = Likely // whether that is wanted is the author's to say
	}
	s.add(suggestion{value: fromPage(c, p.asFolder(c, f.Path)), target: f.Path, certainty: certainty, weight: 55, why: "a path from this page lands on the same thing, from every place"})
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
				certainty, weight = min(certainty, Likely), weight-30
				why += "; the id " + phrase.Mono(c.Fragment()) + " is not on it, though"
			} else {
				weight += 10
			}
		}
	}
	s.add(suggestion{value: value, target: target, certainty: certainty, weight: weight, why: why})
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
		certainty, name := Certain, path.Base(c.Target().Path)
		real := p.snapshot.Files[i].Path
		t := c.Target()
		other := path.Base(real) != name && p.names.exact[name] > 0
		if other || t.HasFragment && t.Fragment != "" && !p.bears(real, t.Fragment) {
			// It may be another file that is meant, whose name is right to the letter.
			p.elsewhere(c, s, t.Path, name)
			for k := range s.all {
				s.all[k].certainty = min(s.all[k].certainty, Likely)
			}
			if other {
				certainty = Likely
			}
		}
		if dir, _ := site.Cut(real); p.lostLetter(name, dir) {
			certainty = Likely
		}
		p.suggest(c, s, real, certainty, 100, "the name on disk differs in letter case alone")
	}
}

// lostLetter tells whether a name in the folder is what is written with one letter more, to the letter case.
func (p *Planner) lostLetter(name, dir string) bool {
	for _, near := range p.names.near(name) {
		for _, q := range p.names.in(dir, near) {
			if n := path.Base(q); len(n) == len(name)+1 && distance.Distance(name, n, 1) == 1 {
				return true
			}
		}
	}
	return false
}

// bears tells whether a fragment lands on something on the page; on what is no page it always does.
func (p *Planner) bears(target, fragment string) bool {
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
	p.lostHash(c, s)
}

// lostHash takes what is written for an id on the page, if it is one, whose "#" was left out.
func (p *Planner) lostHash(c *audit.Case, s *suggestions) {
	if c.File.Doc == nil || strings.ContainsAny(c.Value, "/.?#") {
		return
	}
	if strings.EqualFold(c.Value, "top") && c.File.Doc.Anchor(c.Value) == nil {
		s.add(suggestion{value: "#" + c.Value, target: c.File.Path, certainty: Likely, weight: 60, why: phrase.Mono("#top") + " leads to the top of the page"})
	}
	if a := c.File.Doc.Anchor(c.Value); a != nil {
		s.add(suggestion{value: "#" + address.EscapeFragment(a.Name), target: c.File.Path, certainty: Certain, weight: 90, why: "the id " + phrase.Mono(a.Name) + " is on this page; the " + phrase.Mono("#") + " before it was left out"})
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
		p.suggest(c, s, q, certainty, 90-distance.Distance(name, path.Base(q), 20), phrase.Mono(path.Base(q))+" differs from it "+differs(name, path.Base(q)))
	}
	if name == "index" || p.isIndex(name) {
		if f := p.snapshot.Folders[dir]; f != nil && f.Index >= 0 {
			p.suggest(c, s, p.snapshot.Files[f.Index].Path, Likely, 60, "it is the index page of that folder")
		}
	}
}

// sameWords tells whether two names are of the same words, whatever parts them.
func sameWords(a, b string) bool {
	words := func(name string) []string {
		name = strings.ToLower(strings.TrimSuffix(name, path.Ext(name)))
		return strings.Split(strings.NewReplacer("%20", "-", " ", "-", "_", "-", "+", "-").Replace(name), "-")
	}
	return slices.Equal(words(a), words(b))
}

// plausible leaves out the files that can't be meant where the reference stands, if others are left: no script is linked
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

// elsewhere looks for the same name in other folders: a folder left out, "../" missing or too many, or a file
// that stands elsewhere.
func (p *Planner) elsewhere(c *audit.Case, s *suggestions, wanted, name string) {
	var exact []string
	all := p.names.byName[site.Fold(name)]
	if len(all) > many { // only what one climb more or less leads to can be told from the others
		all = p.climbed(c)
	}
	for _, q := range all {
		if path.Base(q) == name {
			exact = append(exact, q)
		}
	}
	dir, _ := site.Cut(wanted)
	slips := 0
	ways := make([]slip, len(exact))
	for i, q := range exact {
		if ways[i] = p.slipTo(c, wanted, q); ways[i].why != "" {
			slips++
		}
	}
	for i, q := range exact {
		certainty, weight := Likely, 40
		why := "there is a file " + phrase.Mono(name)
		if p.names.exact[name] == 1 {
			why = "it is the only " + phrase.Mono(name) + " in the folder"
		}
		if ways[i].why != "" {
			weight, why = weight+ways[i].weight, ways[i].why+"; "+why
		}
		switch {
		case p.isIndex(name):
			if len(exact) > 1 && ways[i].why == "" {
				certainty = Possible
			}
		case p.names.exact[name] == 1:
			// The name alone decides, unless another name beside the place that is meant is as near.
			if !p.nearIn(name, dir) && !p.orphanLike(name, dir, q) && (ways[i].why != "" || p.snapshot.Folders[dir] == nil || p.unasked(q)) {
				certainty, weight = Certain, weight+30
			}
		case ways[i].why == "":
			certainty = Possible
		case slips == 1 && p.saysSo(c, q) && !p.nearIn(name, dir) && !p.orphanLike(name, dir, q):
			certainty, weight = Certain, weight+30
		}
		if p.names.exact[name] > 8 && certainty < Certain && slips != 1 {
			certainty = Possible
		}
		p.suggest(c, s, q, certainty, weight, why)
	}
}

// climbed returns the files that the reference leads to with one "../" more, or one less.
func (p *Planner) climbed(c *audit.Case) (out []string) {
	r := address.NewResolver(p.snapshot.Place)
	r.In(c.Start())
	less, one := strings.CutPrefix(c.Value, "../")
	for _, value := range []string{"../" + c.Value, less}[:1+boolean(one)] {
		if t := r.Resolve(value); t.Kind == address.Inside && t.Climbed == 0 {
			if l := p.snapshot.Land(&t); l.File >= 0 && l.Outcome != site.OtherCase && l.Outcome != site.OtherForm {
				out = append(out, p.snapshot.Files[l.File].Path)
			}
		}
	}
	return out
}

// slip is one slip in a path that leads to another file than the one that is meant.
type slip struct {
	why    string
	weight int
}

// slipTo tells which single slip makes the way to q what is written, if one does.
func (p *Planner) slipTo(c *audit.Case, wanted, q string) slip {
	value := p.write(c, q)
	rest := func(v string) string { return strings.TrimLeft(v, "./") }
	switch climbs, written := strings.Count(value, "../"), c.Climbs(); {
	case climbs == written+1 && rest(value) == rest(c.Value):
		return slip{"one " + phrase.Mono("../") + " is missing", 20}
	case climbs == written-1 && rest(value) == rest(c.Value):
		return slip{"there is one " + phrase.Mono("../") + " too many", 20}
	case oneFolderLess(wanted, q):
		return slip{"a folder was left out", 15}
	}
	return slip{}
}

// oneFolderLess tells whether short is path with one folder left out.
func oneFolderLess(short, path string) bool {
	a, b := strings.Split(short, "/"), strings.Split(path, "/")
	if len(a)+1 != len(b) {
		return false
	}
	i := 0
	for i < len(a) && a[i] == b[i] {
		i++
	}
	return slices.Equal(a[i:], b[i+1:])
}

// unasked tells whether no reference leads to the file, as with one that was moved away from under all of them.
func (p *Planner) unasked(q string) bool {
	i, ok := p.snapshot.Find(q)
	return ok && len(p.snapshot.From(i)) == 0
}

// orphanLike tells whether a file besides q that no reference leads to stands in the folder under a name that holds the
// one that is looked for: it may have been renamed.
func (p *Planner) orphanLike(name, dir, q string) bool {
	f := p.snapshot.Folders[dir]
	if f == nil {
		return false
	}
	stem, kind := plainName(name), site.KindOf(q)
	for _, o := range p.orphans(f) {
		if o.kind == kind && o.path != q && strings.Contains(o.plain, stem) {
			return true
		}
	}
	return false
}

// orphan is a file that no reference leads to.
type orphan struct {
	path, plain string
	kind        site.Kind
}

// orphansShown is how many files of a folder that nothing refers to are looked at: where there are more, that says nothing.
const orphansShown = 64

// orphans returns the files in a folder that no reference leads to.
func (p *Planner) orphans(f *site.Folder) []orphan {
	if known, ok := p.orphansIn.Load(f.Path); ok {
		return known.([]orphan)
	}
	var out []orphan
	for _, n := range f.Names {
		if q := path.Join(f.Path, n); len(out) < orphansShown && p.unasked(q) {
			out = append(out, orphan{q, plainName(n), site.KindOf(q)})
		}
	}
	p.orphansIn.Store(f.Path, out)
	return out
}

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

// saysSo tells whether the reference has a fragment, and that is on q and on no other page.
func (p *Planner) saysSo(c *audit.Case, q string) bool {
	t := c.Target()
	return t.HasFragment && t.Fragment != "" && p.bears(q, t.Fragment) && p.names.bearers()[c.Fragment()] == 1
}

// nearIn tells whether a name one letter away stands in the folder: then it may be the name that is off, not the folder.
func (p *Planner) nearIn(name, dir string) bool {
	if p.snapshot.Folders[dir] == nil {
		return false
	}
	for _, near := range p.names.near(name) {
		for _, q := range p.names.in(dir, near) {
			if !digitsDiffer(path.Base(q), name) {
				return true
			}
		}
	}
	return false
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
		p.suggest(c, s, target, certainty, 85-5*d, why)
		s.cause = Key{}
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
		all := p.names.byName[near]
		if len(all) > many {
			all = p.names.in(dir, near)
		}
		for _, q := range all {
			d, n := site.Cut(q)
			if path.Ext(n) != path.Ext(name) && strings.TrimSuffix(n, path.Ext(n)) == strings.TrimSuffix(name, path.Ext(name)) {
				continue // another extension, not a slip
			}
			if digitsDiffer(name, n) {
				p.suggest(c, s, q, Possible, 10, phrase.Mono(n)+" is one digit away")
			} else if t := c.Target(); t.HasFragment && t.Fragment != "" && !p.bears(q, t.Fragment) {
				p.suggest(c, s, q, Possible, 20, phrase.Mono(n)+" is one letter away")
			} else if d == dir {
				certainty, why := Likely, phrase.Mono(n)+" is one letter away"
				if p.confirms(c, q) {
					certainty, why = Certain, why+", and what the link says of it fits"
				}
				p.suggest(c, s, q, certainty, 80, why)
			} else if len(p.names.byName[near]) <= 3 {
				p.suggest(c, s, q, Possible, 30, phrase.Mono(q)+" is one letter away, in another folder")
			}
		}
	}
}

// confirms tells whether the reference says more of its target than a name, and that fits the page: its fragment is on
// it, or its words are the page's title.
func (p *Planner) confirms(c *audit.Case, target string) bool {
	i, ok := p.snapshot.Find(target)
	if !ok || p.snapshot.Files[i].Doc == nil {
		return false
	}
	doc := p.snapshot.Files[i].Doc
	if t := c.Target(); t.HasFragment && t.Fragment != "" {
		a, _ := doc.Indicated(t.Fragment, address.UnescapeFragment)
		return a != nil && p.names.bearers()[a.Name] == 1
	}
	words := distance.Plain(c.Ref.Text)
	return len(words) > 4 && distance.Plain(doc.Title) == words && len(p.names.titled[words]) == 1
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
		s.add(suggestion{value: value, target: path.Join(f.Path, n), certainty: certainty, weight: 10, why: why})
	}
}

// backslash turns them round, if that lands.
func (p *Planner) backslash(c *audit.Case, s *suggestions) {
	for _, g := range s.all {
		if !strings.Contains(g.value, `\`) {
			return // mended along with what else is wrong
		}
	}
	if c.Target().Kind == address.Inside && c.Landed() == nil {
		return
	}
	part, query, fragment := address.Split(c.Value)
	value := strings.ReplaceAll(part, `\`, "/") + query + fragment
	target := ""
	if f := c.Landed(); f != nil {
		target = f.Path
	}
	s.add(suggestion{value: value, target: target, certainty: Certain, weight: 50, why: "it lands on the same thing, in every program"})
}

// climbsOut takes out the "../" that have nowhere to go.
func (p *Planner) climbsOut(c *audit.Case, s *suggestions) {
	f := c.Landed()
	if f == nil || c.Target().Climbed == 0 {
		return
	}
	certainty := Certain
	if p.isIndex(path.Base(f.Path)) {
		certainty = Likely // an index page is in many folders, and the page may have been moved
	}
	p.suggest(c, s, f.Path, certainty, 60, "it lands on the same thing, from every place")
}
