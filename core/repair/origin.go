package repair

import (
	"cmp"
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// origin is where a page was moved from, or its links were copied from.
type origin struct {
	// dir is the folder from which its references land; from the whole path, if the record has it.
	dir, from string
	// lands of its of failing relative references land when read from there.
	lands, of int
	// sure: the record says so, or all of several land from there and from nowhere else.
	sure bool
	// sibling is a page in dir with the same references, so that they were copied rather than moved; or "".
	sibling string
}

// Shares and numbers from which on a page's references are taken to be meant from another folder.
const (
	fewest     = 2  // references that fail
	enough     = 3  // of them, to be sure
	clear      = 2  // of them that land from there and not from the next best folder, to be sure
	mostOf     = 6  // tenths of them that have to land
	candidates = 64 // folders that are tried
)

// originOf returns where the page of that index was moved from, or nil.
func (p *Planner) originOf(file int32) *origin {
	p.once.Do(p.findOrigins)
	return p.origins[file]
}

// findOrigins looks for pages most of whose failing references land when read from another folder.
func (p *Planner) findOrigins() {
	p.origins, p.leftBehind = map[int32]*origin{}, map[string]int32{}
	s := p.snapshot
	recorded := map[string]string{}
	for _, d := range p.departures {
		if d.To != "" && d.Copies == 1 && !d.Followed {
			recorded[d.To] = d.From
		}
	}
	r := address.NewResolver(s.Place)
	both := map[string]bool{}
	defer func() {
		for old := range both {
			delete(p.leftBehind, old)
		}
	}()
	for i := range s.Files {
		f := &s.Files[i]
		if f.Doc == nil || f.Doc.HasBase {
			continue
		}
		failing := failingOn(s, int32(i))
		from, isRecorded := recorded[f.Path]
		if len(failing) < fewest && !(isRecorded && len(failing) > 0) {
			continue
		}
		var o *origin
		if isRecorded {
			dir, _ := site.Cut(from)
			if n := p.landFrom(r, dir, failing); n > 0 {
				o = &origin{dir: dir, from: from, lands: n, of: len(failing), sure: true}
			}
		}
		if o == nil {
			o = p.guessOrigin(r, f, failing)
		}
		if o == nil {
			continue
		}
		if o.from == "" {
			o.sibling, _ = p.siblingOf(o.dir, failing)
		}
		p.origins[int32(i)] = o
		if old := path.Join(o.dir, path.Base(f.Path)); o.sibling == "" && !s.Exists(old) {
			if _, other := p.leftBehind[old]; other {
				both[old] = true // only one of them can have been there, and nothing says which
			}
			p.leftBehind[old] = int32(i)
		}
	}
}

// failingOn returns the relative references of a page that lead to nothing, each value once.
func failingOn(s *site.Snapshot, file int32) []string {
	var out []string
	seen := map[string]bool{}
	doc := s.Files[file].Doc
	for i, l := range s.Links(file) {
		if l.Outcome != site.NoFile && l.Outcome != site.NoIndex {
			continue
		}
		value := doc.References[i].Value()
		if seen[value] || value == "" || value[0] == '/' || value[0] == '#' || value[0] == '?' || strings.ContainsAny(value, "\\") || address.SchemeOf(value) != "" {
			continue
		}
		if scheme, _ := rule.SchemeFor(value); scheme != "" {
			continue
		}
		seen[value] = true
		out = append(out, value)
	}
	return out
}

// landFrom counts the values that land when read from a page in the folder dir.
func (p *Planner) landFrom(r *address.Resolver, dir string, values []string) int {
	r.In(dir)
	n := 0
	for _, v := range values {
		t := r.Resolve(v)
		if t.Climbed > 0 {
			continue
		}
		if l := p.snapshot.Land(&t); l.OnFile() {
			n++
		}
	}
	return n
}

// guessOrigin tries the folders from which the failing references could have been written.
func (p *Planner) guessOrigin(r *address.Resolver, f *site.File, failing []string) *origin {
	own, _ := site.Cut(f.Path)
	votes := map[string]int{}
	for dir := own; dir != ""; {
		dir, _ = site.Cut(dir)
		votes[dir]++
	}
	for _, v := range failing {
		p.vote(votes, v)
	}
	delete(votes, own)
	most, next := 0, 0
	var dirs []string // from which most land
	for _, dir := range mostVoted(votes, candidates) {
		n := p.landFrom(r, dir, failing)
		if n > most {
			most, next, dirs = n, most, nil
		}
		if n == most {
			dirs = append(dirs, dir)
		} else {
			next = max(next, n)
		}
	}
	if most < fewest || most*10 < len(failing)*mostOf {
		return nil
	}
	if len(dirs) > 1 {
		dirs = p.withSibling(dirs, failing)
	}
	if len(dirs) != 1 {
		return nil
	}
	return &origin{dir: dirs[0], lands: most, of: len(failing), sure: most == len(failing) && most >= enough && most-next >= clear}
}

// vote counts the folders in which a page would stand for which the value lands.
func (p *Planner) vote(votes map[string]int, value string) {
	part, _, _ := address.Split(value)
	part = address.Unescape(part)
	climbs := 0
	for {
		rest, ok := strings.CutPrefix(part, "../")
		if !ok {
			break
		}
		part = rest
		climbs++
	}
	part = strings.TrimSuffix(strings.TrimPrefix(path.Clean(part), "./"), "/")
	if part == "." || part == "" {
		return
	}
	files := p.names.byName[site.Fold(path.Base(part))]
	if len(files) > candidates {
		return // a name that says nothing
	}
	for _, file := range files {
		base, ends := strings.CutSuffix("/"+file, "/"+part)
		if !ends {
			continue
		}
		for _, dir := range p.below(strings.TrimPrefix(base, "/"), climbs) {
			votes[dir]++
		}
	}
}

// below returns the folders so many levels below base.
func (p *Planner) below(base string, levels int) []string {
	dirs := []string{base}
	for range levels {
		var next []string
		for _, d := range dirs {
			f := p.snapshot.Folders[d]
			if f == nil {
				continue
			}
			for _, n := range f.Names {
				if name, folder := strings.CutSuffix(n, "/"); folder && len(next) < candidates {
					next = append(next, path.Join(d, name))
				}
			}
		}
		dirs = next
	}
	return dirs
}

// withSibling returns those of the folders that hold the page that the failing references were copied from.
func (p *Planner) withSibling(dirs, failing []string) (out []string) {
	most := 1
	for _, dir := range dirs {
		_, both := p.siblingOf(dir, failing)
		if both > most {
			most, out = both, nil
		}
		if both == most {
			out = append(out, dir)
		}
	}
	return out
}

// siblingOf returns the page in dir that has most of the failing references too, written the same, and how many that are;
// "" if none has enough of them.
func (p *Planner) siblingOf(dir string, failing []string) (sibling string, most int) {
	folder := p.snapshot.Folders[dir]
	if folder == nil {
		return "", 0
	}
	looked := 0
	for _, n := range folder.Names {
		i, ok := p.snapshot.Find(path.Join(dir, n))
		if !ok || p.snapshot.Files[i].Doc == nil || p.snapshot.Files[i].Kind != site.Page {
			continue
		}
		if looked++; looked > candidates {
			break
		}
		have := map[string]bool{}
		refs := p.snapshot.Files[i].Doc.References
		for k := range refs {
			have[refs[k].Value()] = true
		}
		both := 0
		for _, v := range failing {
			both += boolean(have[v])
		}
		if both > most && both*10 >= len(failing)*mostOf {
			sibling, most = p.snapshot.Files[i].Path, both
		}
	}
	return sibling, most
}

// fromOrigin reads the reference from where its page was moved from, or its links were copied from.
func (p *Planner) fromOrigin(c *audit.Case, s *suggestions) {
	file, ok := p.snapshot.Find(c.File.Path)
	if !ok || c.Ref.Flags&(markup.ByID|markup.ByMap) != 0 {
		return
	}
	o := p.originOf(file)
	if o == nil || c.Value == "" || c.Value[0] == '/' {
		return
	}
	r := address.NewResolver(p.snapshot.Place)
	r.In(o.dir)
	t := r.Resolve(c.Value)
	l := p.snapshot.Land(&t)
	if !l.OnFile() || t.Climbed > 0 {
		return
	}
	looked, name := site.Cut(c.Target().Path)
	certainty, why := Likely, "most of this page’s references land when read from "+place(o.dir)
	switch {
	case o.from != "":
		certainty, why = Certain, "the page stood at "+phrase.Mono(o.from)+" before"
	case o.sure && p.isIndex(path.Base(t.Path)) && len(p.names.byName[site.Fold(path.Base(t.Path))]) > 1:
		why = "all of this page’s failing references land when read from " + place(o.dir) // but an index page is in many folders
	case o.sure && !p.orphanLike(name, looked, p.snapshot.Files[l.File].Path):
		certainty, why = Certain, "all of this page’s failing references land when read from "+place(o.dir)
	}
	s.cause = Key{moved, c.File.Path, ""}
	p.suggest(c, s, p.snapshot.Files[l.File].Path, certainty, ofOrigin, why)
	s.cause = Key{}
}

func place(dir string) string {
	if dir == "" {
		return "the top of the folder"
	}
	return phrase.Mono(dir + "/")
}

// moved looks up whether what was at the path was moved or renamed, by the record or with the page that was left
// behind there. It reports whether the record says so, which leaves nothing to guess.
func (p *Planner) moved(c *audit.Case, s *suggestions, wanted string) bool {
	if file, ok := p.snapshot.Find(c.File.Path); ok {
		if o := p.originOf(file); o != nil && o.from != "" && c.Value != "" && c.Value[0] != '/' {
			// The page was moved itself: what its references mean follows from where it was.
			r := address.NewResolver(p.snapshot.Place)
			r.At(o.from, "", false)
			wanted = r.Resolve(c.Value).Path
		}
	}
	d, known := p.departed[wanted]
	if known && d.To != "" {
		certainty, why := Likely, "what stood there is nearly the same as what stands at "+phrase.Mono(d.To)+" now"
		if d.Same {
			certainty, why = Certain, "what stood there stands at "+phrase.Mono(d.To)+" now, the same to the byte"
		}
		s.cause = Key{moved, d.To, ""}
		if from, to, ok := p.movedFolder(wanted); ok && d.To == to+strings.TrimPrefix(wanted, from) {
			s.cause = Key{folderCalled, from, to} // the whole folder went
		} else if p.pathTypo(wanted, d.To) {
			certainty = Likely
		}
		if d.Copies > 1 {
			certainty = Likely
		}
		p.suggest(c, s, d.To, certainty, ofMovedFile, why)
		s.cause = Key{}
		return true
	}
	p.once.Do(p.findOrigins)
	if to, ok := p.leftBehind[wanted]; ok {
		o := p.origins[to]
		certainty := Likely
		if o.sure && len(p.names.byName[site.Fold(path.Base(wanted))]) == 1 {
			certainty = Certain
		}
		file := p.snapshot.Files[to].Path
		s.cause = Key{moved, file, ""}
		p.suggest(c, s, file, certainty, ofLeftBehind, phrase.Mono(file)+" seems to have been moved from there")
		s.cause = Key{}
		return false
	}
	if from, to, ok := p.movedFolder(wanted); ok {
		s.cause = Key{folderCalled, from, to}
		p.suggest(c, s, to+strings.TrimPrefix(wanted, from), Certain, ofMovedFolder, "the folder "+phrase.Mono(from+"/")+" is "+phrase.Mono(to+"/")+" now")
		s.cause = Key{}
		return true
	}
	return false
}

// pathTypo reports whether another file than the one at to has the name that is wanted and is one folder further up or
// down, so that a folder or a climb left out explains the reference as well as a move does. Of index pages, which are
// in many folders, that says nothing.
func (p *Planner) pathTypo(wanted, to string) bool {
	dir, name := site.Cut(wanted)
	if p.isIndex(name) {
		return false
	}
	if len(p.names.byName[site.Fold(name)]) > many {
		return true // one of so many surely is
	}
	return slices.ContainsFunc(p.names.byName[site.Fold(name)], func(other string) bool {
		there, _ := site.Cut(other)
		return other != to && oneStepMore(stepsTo(dir), stepsTo(there))
	})
}

// stepsTo returns the folders on the way to one.
func stepsTo(dir string) []string {
	return strings.FieldsFunc(dir, func(r rune) bool { return r == '/' })
}

// oneStepMore reports whether one of two ways is the other with one step more.
func oneStepMore(a, b []string) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	if len(b) != len(a)+1 {
		return false
	}
	i := 0
	for i < len(a) && a[i] == b[i] {
		i++
	}
	return slices.Equal(a[i:], b[i+1:])
}

// movedFolder returns the folder on the path that was renamed or moved, by the record: two files of it at least are
// in the other one now, and none is left in it.
func (p *Planner) movedFolder(wanted string) (from, to string, ok bool) {
	for dir, _ := site.Cut(wanted); dir != ""; dir, _ = site.Cut(dir) {
		if to, ok := p.renamed[dir]; ok {
			return dir, to, true
		}
	}
	return "", "", false
}

// findMovedFolders joins the departures of files to those of whole folders.
func (p *Planner) findMovedFolders() {
	p.renamed = map[string]string{}
	votes := map[[2]string]int{}
	for _, d := range p.departures {
		if d.To == "" || d.Copies > 1 {
			continue
		}
		from, to := d.From, d.To
		for {
			a, nameA := site.Cut(from)
			b, nameB := site.Cut(to)
			if nameA != nameB || a == "" || b == "" {
				break
			}
			from, to = a, b
			votes[[2]string{from, to}]++
		}
	}
	most, tied := map[string]int{}, map[string]bool{}
	for pair, n := range votes {
		from, to := pair[0], pair[1]
		switch {
		case n < fewest || p.snapshot.Folders[from] != nil:
		case n > most[from]:
			most[from], p.renamed[from], tied[from] = n, to, false
		case n == most[from]:
			tied[from] = true
		}
	}
	for from := range tied { // two answers that are as good are none
		if tied[from] {
			delete(p.renamed, from)
		}
	}
}

// mostVoted returns the n folders with most votes.
func mostVoted(votes map[string]int, n int) []string {
	dirs := make([]string, 0, len(votes))
	for d := range votes {
		dirs = append(dirs, d)
	}
	slices.SortFunc(dirs, func(a, b string) int { return cmp.Or(votes[b]-votes[a], cmp.Compare(a, b)) })
	return dirs[:min(n, len(dirs))]
}
