package repair

import (
	"cmp"
	"math"
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
	same      bool // the record has it there with the same bytes
	// lands of its of failing relative references land when read from there.
	lands, of int
	// certainty is how sure that is, with nothing but the folder to go by.
	certainty Certainty
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
	p.origins, p.leftBehind, p.astray = map[int32]*origin{}, map[string]int32{}, map[int32]bool{}
	s := p.snapshot
	recorded := map[string]*Departure{}
	for i := range p.departures {
		if d := &p.departures[i]; d.To != "" && d.Copies == 1 && !d.Followed {
			recorded[d.To] = d
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
		var o *origin
		if d := recorded[f.Path]; d != nil {
			failing := p.failingOn(r, int32(i), false)
			dir, _ := site.Cut(d.From)
			if n := p.landFrom(r, dir, failing); n > 0 {
				o = &origin{dir: dir, from: d.From, same: d.Same, lands: n, of: len(failing)}
			}
		}
		failing := p.failingOn(r, int32(i), true)
		landing := p.landingOn(int32(i))
		p.astray[int32(i)] = len(failing) >= enough && len(failing) > len(landing)
		if o == nil && len(failing) >= fewest {
			o = p.guessOrigin(r, f, failing, landing)
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

// failingOn returns the relative references of a page that lead to nothing, each value once; unexplained, only those of which the
// record does not say what became of what they lead to.
func (p *Planner) failingOn(r *address.Resolver, file int32, unexplained bool) []string {
	var out []string
	seen := map[string]bool{}
	f := &p.snapshot.Files[file]
	dir, _ := site.Cut(f.Path)
	r.In(dir)
	for i, l := range p.snapshot.Links(file) {
		if l.Outcome != site.NoFile && l.Outcome != site.NoIndex {
			continue
		}
		value := f.Doc.References[i].Value()
		if seen[value] || !isRelative(value) || strings.ContainsAny(value, "\\") {
			continue
		}
		seen[value] = true
		if other, _ := rule.ForOther(p.snapshot, value); other != "" {
			continue
		}
		if scheme, _ := rule.SchemeFor(value); scheme != "" {
			continue
		}
		if _, recorded := p.departed[cleaned(r.Resolve(value).Path)]; recorded && unexplained {
			continue
		}
		out = append(out, value)
	}
	return out
}

// isRelative reports whether a value is a path that starts from the folder of its page.
func isRelative(value string) bool {
	return value != "" && strings.IndexByte("/#?", value[0]) < 0 && address.SchemeOf(value) == ""
}

// landingOn returns the relative references of a page that land on a file, each value once.
func (p *Planner) landingOn(file int32) []string {
	var out []string
	seen := map[string]bool{}
	doc := p.snapshot.Files[file].Doc
	for i, l := range p.snapshot.Links(file) {
		if value := doc.References[i].Value(); l.OnFile() && l.File != file && isRelative(value) && !seen[value] {
			seen[value] = true
			out = append(out, value)
		}
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
func (p *Planner) guessOrigin(r *address.Resolver, f *site.File, failing, landing []string) *origin {
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
	lands := map[string]int{}
	for _, dir := range mostVoted(votes, candidates) {
		n := p.landFrom(r, dir, failing)
		lands[dir] = n
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
	o := &origin{lands: most, of: len(failing), certainty: Likely}
	if len(dirs) > 1 {
		if dirs = p.notAmong(dirs, f.Path, failing); len(dirs) != 1 {
			return nil
		}
		next = most
	}
	o.dir = dirs[0]
	name := path.Base(f.Path)
	old := path.Join(o.dir, name)
	stays := len(landing) - p.landFrom(r, o.dir, landing) // what lands from here alone
	switch {
	case stays >= most:
		if sibling, _ := p.siblingOf(o.dir, failing); sibling == "" {
			o.certainty = Possible // most of the page is where it belongs
		}
	case p.parallel(o.dir, own) || p.hasParallel(o.dir, lands):
		o.certainty = Possible // what lands from one of them lands from all
	case p.snapshot.Exists(old):
		if !p.isIndex(name) {
			o.certainty = Possible // a copy: who made it may mean things beside it that are still to come
		}
	case sameKindOfFolder(own, o.dir) && p.evidence().asked[old] == 0:
		o.certainty = Possible // a page of a new year's or language's folder, in which the others are still to come
	case most == len(failing) && most >= enough && most-next >= clear:
		o.certainty = Certain
	}
	return o
}

// hasParallel reports whether a folder is parallel to another one from which about as much lands.
func (p *Planner) hasParallel(dir string, lands map[string]int) bool {
	for other, n := range lands {
		if other != dir && 2*n >= lands[dir] && p.parallel(dir, other) {
			return true
		}
	}
	return false
}

// sameKindOfFolder reports whether two folders are likely to be one of a series, as years, versions and languages are.
func sameKindOfFolder(a, b string) bool {
	x, y := strings.Split(a, "/"), strings.Split(b, "/")
	if len(x) != len(y) {
		return false
	}
	for i := range x {
		if x[i] != y[i] && !series(x[i], y[i]) {
			return false
		}
	}
	return true
}

// notAmong chooses between folders from which as many references land: the one that holds the page they were copied from, or the
// one in which others look for the page, and nothing is by its name.
func (p *Planner) notAmong(dirs []string, page string, failing []string) (out []string) {
	if out = p.withSibling(dirs, failing); len(out) > 0 {
		return out
	}
	for _, dir := range dirs {
		if old := path.Join(dir, path.Base(page)); !p.snapshot.Exists(old) && p.evidence().asked[old] > 0 {
			out = append(out, dir)
		}
	}
	return out
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
	certainty, why := o.certainty, "most of this page’s links work when read from "+place(o.dir)
	if o.lands == o.of {
		why = "all of this page’s broken links work when read from " + place(o.dir)
	}
	switch {
	case o.from != "":
		certainty, why = Likely, "the page was at "+phrase.Mono(o.from)+" before"
		if o.same || p.wasWritten(o.from, c.Value) {
			certainty = Certain
		}
	case p.isIndex(path.Base(t.Path)) && len(p.names.byName[site.Fold(path.Base(t.Path))]) > 1 || p.orphanLike(name, looked, p.snapshot.Files[l.File].Path):
		certainty = min(certainty, Likely) // an index page is in many folders, and what nothing refers to may be meant
	}
	s.cause = Key{moved, c.File.Path, ""}
	if o.sibling != "" {
		s.cause = Key{copied, o.dir, ""}
	}
	p.suggest(c, s, p.snapshot.Files[l.File].Path, certainty, ofOrigin, why)
	s.cause = Key{}
}

// wroteThen reports whether the record shows that the reference was on its page while a file that is gone was there, so that it was
// right then.
func (p *Planner) wroteThen(c *audit.Case, g *Gone) bool {
	if file, ok := p.snapshot.Find(c.File.Path); ok {
		if o := p.originOf(file); o != nil && o.from != "" {
			return p.wasWritten(o.from, c.Value)
		}
	}
	since, known := p.since[c.File.Path]
	if !known || since >= g.GoneAt {
		return false
	}
	changed := false
	for _, f := range p.former[c.File.Path] {
		if f.ChangedAt < g.Since {
			continue
		}
		changed = true
		if doc := f.Read(); doc != nil && slices.ContainsFunc(doc.References, func(r markup.Reference) bool { return r.Written == c.Ref.Written }) {
			return true
		}
	}
	return !changed
}

// wasWritten reports whether the record has the value on a page that is gone: what is merely alike proves nothing of what is new
// in it.
func (p *Planner) wasWritten(page, value string) bool {
	g := p.gone[page]
	if g == nil || g.Doc == nil {
		return false
	}
	for i := range g.Doc.References {
		if g.Doc.References[i].Value() == value {
			return true
		}
	}
	return false
}

func place(dir string) string {
	if dir == "" {
		return "the top of the folder"
	}
	return phrase.Mono(dir + "/")
}

// meantPath returns the path that a reference is written for: where the record has its page elsewhere before, as read from there.
func (p *Planner) meantPath(c *audit.Case) string {
	if file, ok := p.snapshot.Find(c.File.Path); ok && c.Value != "" && c.Value[0] != '/' {
		if o := p.originOf(file); o != nil && o.from != "" {
			r := address.NewResolver(p.snapshot.Place)
			r.At(o.from, "", false)
			return cleaned(r.Resolve(c.Value).Path)
		}
	}
	return cleaned(c.Target().Path)
}

// cleaned returns a path in which several slashes are one, as disks and nearly all hosts take them.
func cleaned(p string) string {
	if strings.Contains(p, "//") || strings.HasPrefix(p, "/") {
		return strings.TrimPrefix(path.Clean("/"+p), "/")
	}
	return p
}

// moved looks up whether what was at the path was moved or renamed, by the record or with the page that was left
// behind there. It reports whether the record says so, which leaves nothing to guess.
func (p *Planner) moved(c *audit.Case, s *suggestions, wanted string) bool {
	d, known := p.departed[wanted]
	if known && d.To != "" {
		certainty, why := Likely, "what was there is nearly the same as "+phrase.Mono(d.To)+" now"
		if d.Same {
			certainty, why = Certain, "what was there is at "+phrase.Mono(d.To)+" now, the same to the byte"
		}
		s.cause = Key{moved, d.To, ""}
		if from, to, ok := p.movedFolder(wanted); ok && d.To == to+strings.TrimPrefix(wanted, from) {
			s.cause = Key{folderCalled, from, to} // the whole folder went
		} else if !p.wroteThen(c, p.gone[wanted]) && p.pathTypo(wanted, d.To) {
			certainty = Likely
		}
		if d.Copies > 1 {
			certainty = Likely
		}
		p.suggest(c, s, d.To, certainty, ofMovedFile, why)
		s.cause = Key{}
		return true
	}
	if to := p.merged[wanted]; to != "" {
		p.suggest(c, s, to, Likely, ofMovedFile, "nearly all of what was on "+phrase.Mono(wanted)+" is on "+phrase.Mono(to)+" now")
		return true
	}
	p.once.Do(p.findOrigins)
	if to, ok := p.leftBehind[wanted]; ok {
		o := p.origins[to]
		certainty := o.certainty
		if len(p.names.byName[site.Fold(path.Base(wanted))]) > 1 {
			certainty = min(certainty, Likely)
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
		case n < fewest || p.snapshot.Folders[from] != nil || !p.isNewSince(to, from):
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

// isNewSince reports whether nothing was in a folder yet when the files of another one went.
func (p *Planner) isNewSince(dir, from string) bool {
	went, first := int64(math.MaxInt64), int64(math.MaxInt64)
	for path, g := range p.gone {
		if strings.HasPrefix(path, from+"/") {
			went, first = min(went, g.GoneAt), min(first, g.Since)
		}
	}
	return !slices.ContainsFunc(p.snapshot.Files, func(f site.File) bool {
		since, known := p.since[f.Path]
		return known && (since <= first || since < went-together) && strings.HasPrefix(f.Path, dir+"/")
	})
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
