package repair

import (
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/phrase"
	"arvel/core/site"
)

// elsewhere looks for the same name in other folders: a folder left out, "../" missing or too many, or a file
// that is elsewhere. That is certain only of a slip; a name that is somewhere else as well says little.
func (p *Planner) elsewhere(c *audit.Case, s *suggestions, wanted, name string) {
	var exact []string
	all, climbed := p.names.byName[site.Fold(name)], p.climbed(c)
	if len(all) > many { // only what a single slip leads to can be chosen among the others
		all = p.oneFolderMore(wanted)
		for _, way := range climbed {
			all = append(all, way.path)
		}
	}
	for _, q := range all {
		if path.Base(q) == name {
			exact = append(exact, q)
		}
	}
	dir, _ := site.Cut(wanted)
	ways := make([]slip, len(exact))
	slips, known := 0, 0 // known: of the slips, those to what other pages of the folder refer to
	asked := true
	for i, q := range exact {
		if ways[i] = p.slipTo(climbed, wanted, q); ways[i].why != "" {
			slips++
			ways[i].known = p.refersTo(c, q) > 0 || p.saysSo(c, q)
			known += boolean(ways[i].known)
		} else if p.unasked(q) {
			asked = false // a file that nothing refers to may have been moved there
		}
	}
	for i, q := range exact {
		certainty, weight := Possible, sameName
		why := "there is a file " + phrase.Mono(name)
		only := p.names.exact[name] == 1
		if only {
			why = "it is the only " + phrase.Mono(name) + " in the folder"
		}
		there, _ := site.Cut(q)
		if ways[i].why != "" {
			weight, why = weight+ways[i].weight, ways[i].why+"; "+why
		}
		if ways[i].known {
			weight += knownBeside
		}
		switch {
		case ways[i].why == "":
			if only && p.unasked(q) && !p.isIndex(name) && q != c.File.Path && !p.mostlyGone(wanted) {
				certainty = Likely
			}
		case slips > 1 && !(known == 1 && ways[i].known), p.parallel(dir, there) && !ways[i].known, p.wrongAsAWhole(c), p.maybeMoved(c, q), !p.isSlip(c, wanted, q):
		case ways[i].value == "" && (slips > 1 || !only && p.alsoRefersTo(c, q)), q == c.File.Path, (p.isIndex(name) || !only) && !(asked && ways[i].known), p.nearIn(name, dir), p.orphanLike(name, dir, q):
			certainty = Likely
		default:
			certainty, weight = Certain, weight+decidesAlone
		}
		p.suggestAs(c, s, q, ways[i].value, certainty, weight, why)
	}
}

// alsoRefersTo reports whether the page of a reference refers to q as well, in other words alone, so that the two are likely to be two
// things.
func (p *Planner) alsoRefersTo(c *audit.Case, q string) bool {
	self, _ := p.snapshot.Find(c.File.Path)
	file, ok := p.snapshot.Find(q)
	other := false
	for i, l := range p.snapshot.Links(self) {
		if ok && l.File == file && l.OnFile() {
			if c.File.Doc.References[i].Text == c.Ref.Text {
				return false
			}
			other = true
		}
	}
	return other
}

// maybeMoved reports whether others look for the page at a path from which the reference leads to another file than q, so that it may
// have been moved from there.
func (p *Planner) maybeMoved(c *audit.Case, q string) bool {
	r := address.NewResolver(p.snapshot.Place)
	return slices.ContainsFunc(p.evidence().named[path.Base(c.File.Path)], func(was string) bool {
		dir, _ := site.Cut(was)
		r.In(dir)
		t := r.Resolve(c.Value)
		l := p.snapshot.Land(&t)
		return l.OnFile() && t.Climbed == 0 && p.snapshot.Files[l.File].Path != q
	})
}

// mostlyGone reports whether a path is in a folder that is not there, and of which most can't be found elsewhere either, so that what
// has the same name somewhere has it by chance.
func (p *Planner) mostlyGone(wanted string) bool {
	dir, _ := p.missingFolder(wanted)
	m := p.evidence().folders[dir]
	return m != nil && len(m.rests) > 1 && m.agree*10 < len(m.rests)*nearlyAll
}

// wrongAsAWhole reports whether most of what a page's relative references lead to is not there, so that it is not a slip that is to
// be found, but where the page was.
func (p *Planner) wrongAsAWhole(c *audit.Case) bool {
	file, ok := p.snapshot.Find(c.File.Path)
	if !ok {
		return false
	}
	p.once.Do(p.findOrigins)
	return p.astray[file]
}

// isSlip reports whether a path is written for another one seldom enough to be a slip: on two pages at most, or where hardly any
// of the pages in the folder that refer to the other one get it wrong.
func (p *Planner) isSlip(c *audit.Case, wanted, q string) bool {
	dir, _ := site.Cut(c.File.Path)
	return p.evidence().asked[wanted] <= few || p.refersTo(c, q) >= hardly*p.evidence().askedIn[inFolder{dir, wanted}]
}

// refersTo counts the files in the folder of a page that refer to q.
func (p *Planner) refersTo(c *audit.Case, q string) int {
	dir, _ := site.Cut(c.File.Path)
	key := inFolder{dir, q}
	if n, known := p.neighbours.Load(key); known {
		return n.(int)
	}
	n := 0
	file, _ := p.snapshot.Find(q)
	for _, from := range p.snapshot.Referrers(file) {
		d, _ := site.Cut(p.snapshot.Files[from].Path)
		n += boolean(d == dir)
	}
	p.neighbours.Store(key, n)
	return n
}

// hardly is how many pages get something right for each that gets it wrong, if hardly any does.
const hardly = 8

// climb is a way that the reference would go with one "../" more, or one less.
type climb struct{ value, path, why string }

// climbed returns the files that the reference leads to with one "../" more, or one less.
func (p *Planner) climbed(c *audit.Case) (out []climb) {
	r := address.NewResolver(p.snapshot.Place)
	r.In(c.Start())
	less, one := strings.CutPrefix(c.Value, "../")
	ways := []climb{{"../" + c.Value, "", "one " + phrase.Mono("../") + " is missing"}, {less, "", "there is one " + phrase.Mono("../") + " too many"}}
	for _, way := range ways[:1+boolean(one)] {
		if c.Value == "" || c.Value[0] == '/' || address.SchemeOf(c.Value) != "" {
			break
		}
		if t := r.Resolve(way.value); t.Kind == address.Inside && t.Climbed == 0 {
			if l := p.snapshot.Land(&t); l.OnFile() {
				way.path = p.snapshot.Files[l.File].Path
				out = append(out, way)
			}
		}
	}
	return out
}

// slip is one slip in a path that leads to another file than the one that is meant.
type slip struct {
	why    string
	weight int
	value  string // what is then to be written; "" for what is usual
	known  bool   // other pages of the folder refer to where it leads
}

// slipTo says which single slip makes the way to q what is written, if one does.
func (p *Planner) slipTo(climbed []climb, wanted, q string) slip {
	for _, way := range climbed {
		if way.path == q {
			return slip{why: way.why, weight: oneClimbOff, value: way.value}
		}
	}
	if oneFolderLess(wanted, q) {
		return slip{why: "a folder was left out", weight: folderLeftOut}
	}
	return slip{}
}

// oneFolderMore returns the files at the path with one folder more on the way.
func (p *Planner) oneFolderMore(wanted string) (out []string) {
	for at := 0; at >= 0; {
		dir := strings.TrimSuffix(wanted[:at], "/")
		f := p.snapshot.Folders[dir]
		if f == nil {
			break
		}
		for _, n := range f.Names {
			if q := path.Join(dir, n, wanted[at:]); strings.HasSuffix(n, "/") {
				if _, there := p.snapshot.Find(q); there {
					out = append(out, q)
				}
			}
		}
		next := strings.IndexByte(wanted[at:], '/')
		if next < 0 {
			break
		}
		at += next + 1
	}
	return out
}

// saysSo reports whether the reference has a fragment, and that its id is on q and on no other page.
func (p *Planner) saysSo(c *audit.Case, q string) bool {
	t := c.Target()
	return t.HasFragment && t.Fragment != "" && p.hasFragment(q, t.Fragment) && p.names.bearers()[c.Fragment()].pages == 1
}

// oneFolderLess reports whether short is path with one folder left out.
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

// unasked reports whether no reference from elsewhere leads to the file, as with one that was moved away from under all of them.
func (p *Planner) unasked(q string) bool {
	i, ok := p.snapshot.Find(q)
	return ok && !slices.ContainsFunc(p.snapshot.Referrers(i), func(from int32) bool { return from != i })
}

// orphanLike reports whether a file besides q that no reference leads to is in the folder under a name that holds the
// one that is looked for: it may have been renamed.
func (p *Planner) orphanLike(name, dir, q string) bool {
	f := p.snapshot.Folders[dir]
	if f == nil {
		return false
	}
	stem, _ := cutExtension(name)
	words, kind := spaced(stem), site.KindOf(q)
	for _, o := range p.orphans(f) {
		if o.kind == kind && o.path != q && strings.Contains(o.words, words) {
			return true
		}
	}
	return false
}

// orphan is a file that no reference leads to.
type orphan struct {
	path, words string
	kind        site.Kind
}

// spaced returns the words of a name in lower case, each with a space on both sides.
func spaced(name string) string {
	return " " + strings.NewReplacer("%20", " ", "-", " ", "_", " ", "+", " ").Replace(site.Fold(name)) + " "
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
			stem, _ := cutExtension(n)
			out = append(out, orphan{q, spaced(stem), site.KindOf(q)})
		}
	}
	p.orphansIn.Store(f.Path, out)
	return out
}

// nearIn reports whether a name one letter away is in the folder: then it may be the name that is off, not the folder.
func (p *Planner) nearIn(name, dir string) bool {
	if p.snapshot.Folders[dir] == nil {
		return false
	}
	for _, near := range p.names.near(name) {
		for _, q := range p.names.in(dir, near) {
			if !series(path.Base(q), name) {
				return true
			}
		}
	}
	return false
}
