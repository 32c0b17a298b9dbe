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
// that is elsewhere.
func (p *Planner) elsewhere(c *audit.Case, s *suggestions, wanted, name string) {
	var exact []string
	all := p.names.byName[site.Fold(name)]
	if len(all) > many { // only what one climb more or less leads to can be chosen among the others
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
		certainty, weight := Likely, sameName
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
				certainty, weight = Certain, weight+decidesAlone
			}
		case ways[i].why == "":
			certainty = Possible
		case slips == 1 && p.saysSo(c, q) && !p.nearIn(name, dir) && !p.orphanLike(name, dir, q):
			certainty, weight = Certain, weight+decidesAlone
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

// slipTo says which single slip makes the way to q what is written, if one does.
func (p *Planner) slipTo(c *audit.Case, wanted, q string) slip {
	value := p.write(c, q)
	rest := func(v string) string { return strings.TrimLeft(v, "./") }
	switch climbs, written := strings.Count(value, "../"), c.Climbs(); {
	case climbs == written+1 && rest(value) == rest(c.Value):
		return slip{"one " + phrase.Mono("../") + " is missing", oneClimbOff}
	case climbs == written-1 && rest(value) == rest(c.Value):
		return slip{"there is one " + phrase.Mono("../") + " too many", oneClimbOff}
	case oneFolderLess(wanted, q):
		return slip{"a folder was left out", folderLeftOut}
	}
	return slip{}
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

// unasked reports whether no reference leads to the file, as with one that was moved away from under all of them.
func (p *Planner) unasked(q string) bool {
	i, ok := p.snapshot.Find(q)
	return ok && len(p.snapshot.Referrers(i)) == 0
}

// orphanLike reports whether a file besides q that no reference leads to is in the folder under a name that holds the
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

// saysSo reports whether the reference has a fragment, and that its id is on q and on no other page.
func (p *Planner) saysSo(c *audit.Case, q string) bool {
	t := c.Target()
	return t.HasFragment && t.Fragment != "" && p.hasFragment(q, t.Fragment) && p.names.bearers()[c.Fragment()] == 1
}

// nearIn reports whether a name one letter away is in the folder: then it may be the name that is off, not the folder.
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
