// Package relocate plans moves: of files and folders, any number at once, swaps and chains included. What refers to
// what moved is rewritten, and so is every relative reference in what moved; nothing else. A reference that led nowhere
// before is left as it is and told.
package plan

import (
	"cmp"
	"fmt"
	"html"
	"maps"
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/repair"
	"arvel/core/site"
)

// Move is a file or a folder that is to stand elsewhere; both are paths in the folder.
type Move struct{ From, To string }

// Rewrite is one reference that a plan changes.
type Rewrite struct {
	// Page is where the file stands that holds it before the moves, Line where in it, from 1.
	Page string
	Line int
	// Ref is the index of the reference in its page's document; -1 for what is none.
	Ref int32
	// Before and After are what is written, Target what it leads to after the moves; "" if it is no reference then.
	Before, After, Target string
}

// Note is a reference that a plan does not change and that the author should know of.
type Note struct {
	Page    string
	Line    int
	Written string
	// Why says what of it is so, as the end of a sentence that begins with what is written.
	Why string
}

// Deleted is a file that a plan deletes.
type Deleted struct {
	Path string
	// From is how many references of the files that stay lead to it.
	From int
}

// Plan is what follows from moves, or from leading references elsewhere.
type Plan struct {
	Set change.Set
	// Moves are the files that move, by where they stand now.
	Moves    []Move
	Rewrites []Rewrite
	Notes    []Note
	// Deleted are the files that are deleted, and Lonely those that nothing refers to any more then.
	Deleted []Deleted
	Lonely  []string
	// Clashes say, a sentence each, why the moves can't be made; a plan that has any is not to be carried out.
	Clashes []string
}

// put adds the edit that writes a new value for a reference; a value that the file's encoding can't hold is told.
func (p *Plan) put(edits []change.Edit, f *site.File, ref *markup.Reference, value, target string) []change.Edit {
	written := repair.Written(f.Doc.Encoding, ref, value)
	edit, err := repair.Edit(f.Doc.Encoding, ref, written)
	if err != nil {
		p.note(f, ref, "has letters that the page’s encoding lacks at its new place, so it is left")
		return edits
	}
	p.Rewrites = append(p.Rewrites, Rewrite{f.Path, int(ref.Line), indexOf(f.Doc, ref), ref.Written, written, target})
	return append(edits, edit)
}

// indexOf returns the index of a reference of a document; -1 for one that is not in it.
func indexOf(doc *markup.Document, ref *markup.Reference) int32 {
	i, ok := slices.BinarySearchFunc(doc.References, ref.Start, func(r markup.Reference, start uint32) int { return cmp.Compare(r.Start, start) })
	for ; ok && i < len(doc.References) && doc.References[i].Start == ref.Start; i++ {
		if &doc.References[i] == ref {
			return int32(i)
		}
	}
	return -1
}

func (p *Plan) note(f *site.File, ref *markup.Reference, why string) {
	p.Notes = append(p.Notes, Note{f.Path, int(ref.Line), ref.Written, why})
}

// Options are how moves are planned.
type Options struct {
	// LeavePages puts a page at each moved page's old address that leads visitors to the new one.
	LeavePages bool
}

// planner is a plan in the making.
type planner struct {
	*Plan
	snapshot *site.Snapshot
	to       map[string]string // where files go, by where they stand
	from     map[string]string // the other way round
	folders  map[string]string // the same of folders
	stirred  []bool            // the files that what lands on them may land elsewhere then
	now      *address.Resolver // for pages as they stand
	then     *address.Resolver // for pages as they will stand
}

// Moves plans moves on a snapshot. What can't be planned stands in the plan's clashes. What is said of a file or folder
// counts before what is said of a folder around it.
func Moves(s *site.Snapshot, moves []Move, o Options) *Plan {
	p := &planner{
		Plan: &Plan{}, snapshot: s, to: map[string]string{}, from: map[string]string{}, folders: map[string]string{},
		now: address.NewResolver(s.Place), then: address.NewResolver(s.Place),
	}
	for _, m := range moves {
		if fault := naming.PathFault(m.To); fault != "" {
			p.clash("%s %s.", phrase.Mono(m.To), fault)
		}
	}
	if len(p.Clashes) > 0 {
		return p.Plan
	}
	moves = Innermost(moves)
	for _, m := range moves {
		p.expand(m.From, m.To)
	}
	p.check()
	if len(p.Clashes) > 0 {
		return p.Plan
	}
	p.stirred = mayRetarget(s, p.to)
	for _, file := range p.affected() {
		p.file(file)
	}
	if o.LeavePages {
		p.leavePages()
	}
	p.emptied()
	if len(moves) > 0 {
		p.Set.Title = title(moves)
	}
	return p.Plan
}

// mayRetarget tells of which files what lands on them may land elsewhere by moves: of those that are moved, and of index
// pages, for which another one can step in.
func mayRetarget(s *site.Snapshot, moved map[string]string) []bool {
	out := make([]bool, len(s.Files))
	for i := range s.Files {
		_, name := site.Cut(s.Files[i].Path)
		out[i] = moved[s.Files[i].Path] != "" || slices.Contains(s.IndexNames, name)
	}
	return out
}

func title(moves []Move) string {
	if len(moves) == 1 {
		return phrase.Mono(moves[0].From) + " moved to " + phrase.Mono(moves[0].To)
	}
	return fmt.Sprintf("%d moves, of %s first", len(moves), phrase.Mono(moves[0].From))
}

func (p *planner) clash(format string, args ...any) {
	p.Clashes = append(p.Clashes, fmt.Sprintf(format, args...))
}

// expand makes of a move those of all files that go with it.
func (p *planner) expand(from, to string) {
	if _, isFile := p.snapshot.Find(from); isFile {
		p.one(from, to)
		return
	}
	if p.snapshot.Folders[from] == nil || from == "" {
		p.clash("There is no %s in the folder.", phrase.Mono(from))
		return
	}
	if strings.HasPrefix(to+"/", from+"/") {
		p.clash("The folder %s can't be moved into itself.", phrase.Mono(from))
		return
	}
	if before, twice := p.folders[from]; twice && before != to {
		p.clash("%s can't be moved to %s and to %s at once.", phrase.Mono(from), phrase.Mono(before), phrase.Mono(to))
		return
	}
	p.folders[from] = to
	for i := range p.snapshot.Files {
		q := p.snapshot.Files[i].Path
		if rest, in := strings.CutPrefix(q, from+"/"); in && p.to[q] == "" {
			p.one(q, to+"/"+rest)
		}
	}
}

// Innermost returns the moves that move anything, with plain paths, those of what stands deeper in the folder first.
func Innermost(moves []Move) []Move {
	var out []Move
	for _, m := range moves {
		m.From, m.To = plain(m.From), plain(m.To)
		if m.From != m.To {
			out = append(out, m)
		}
	}
	slices.SortStableFunc(out, func(a, b Move) int { return strings.Count(b.From, "/") - strings.Count(a.From, "/") })
	return out
}

// plain returns a path that was typed as the snapshot has it.
func plain(p string) string { return strings.Trim(path.Clean("/"+p), "/") }

func (p *planner) one(from, to string) {
	if before, twice := p.to[from]; twice && before != to {
		p.clash("%s can't be moved to %s and to %s at once.", phrase.Mono(from), phrase.Mono(before), phrase.Mono(to))
		return
	}
	if other, taken := p.from[to]; taken && other != from {
		p.clash("%s and %s can't both be moved to %s.", phrase.Mono(other), phrase.Mono(from), phrase.Mono(to))
		return
	}
	p.to[from], p.from[to] = to, from
	p.Moves = append(p.Moves, Move{from, to})
}

// check finds what stands in the way.
func (p *planner) check() {
	folded := map[string]string{}
	for i := range p.snapshot.Files {
		if q := p.snapshot.Files[i].Path; p.to[q] == "" {
			folded[site.Fold(q)] = q
		}
	}
	for _, m := range p.Moves {
		if len(m.To) > naming.PathLimit {
			p.clash("%s %s.", phrase.Mono(m.To[:80]+" …"), naming.PathFault(m.To))
		}
		switch other, taken := folded[site.Fold(m.To)]; {
		case taken && other == m.To:
			p.clash("%s is there already.", phrase.Mono(m.To))
		case taken:
			p.clash("%s differs from %s in letter case alone, which many disks can't keep apart.", phrase.Mono(m.To), phrase.Mono(other))
		}
		for dir, _ := site.Cut(m.To); dir != ""; dir, _ = site.Cut(dir) {
			if _, isFile := p.snapshot.Find(dir); isFile {
				p.clash("%s is a file, so nothing can stand in it.", phrase.Mono(dir))
			} else if _, comes := p.from[dir]; comes {
				p.clash("%s can't be a file and a folder at once.", phrase.Mono(dir))
			}
		}
		if p.snapshot.Folders[m.To] != nil {
			p.clash("%s is a folder already.", phrase.Mono(m.To))
		}
	}
}

// affected returns the files whose references may have to be rewritten: what moves, what refers to it, and what refers
// to a folder that gets another index page.
func (p *planner) affected() []int32 {
	set := map[int32]bool{}
	for from, to := range p.to {
		i, _ := p.snapshot.Find(from)
		set[i] = true
		for _, page := range p.snapshot.From(i) {
			set[page] = true
		}
		dir, name := site.Cut(to)
		if f := p.snapshot.Folders[dir]; f != nil && f.Index >= 0 && slices.Contains(p.snapshot.IndexNames, name) {
			for _, page := range p.snapshot.From(f.Index) {
				set[page] = true
			}
		}
	}
	return slices.Sorted(maps.Keys(set))
}

// place returns where a file will stand.
func (p *planner) place(q string) string { return cmp.Or(p.to[q], q) }

// folderPlace returns where a folder will stand: where it is moved, itself or with one above it.
func (p *planner) folderPlace(dir string) string {
	for at := dir; at != ""; at, _ = site.Cut(at) {
		if to, moved := p.folders[at]; moved {
			return to + strings.TrimPrefix(dir, at)
		}
	}
	return dir
}

// stood returns what will stand at a path, by where it stands now; "" for nothing.
func (p *planner) stood(q string) string {
	if from, ok := p.from[q]; ok {
		return from
	}
	if _, there := p.snapshot.Find(q); there && p.to[q] == "" {
		return q
	}
	return ""
}

// lands returns what a target will land on, by where it stands now; "" for nothing.
func (p *planner) lands(t *address.Target) string {
	if t.Kind != address.Inside {
		return ""
	}
	q := t.Path
	if strings.Contains(q, "//") {
		q = strings.TrimPrefix(path.Clean("/"+q), "/")
	}
	q = p.snapshot.Through(q)
	if !t.Folder {
		if from := p.stood(q); from != "" {
			return from
		}
	}
	for _, name := range p.snapshot.IndexNames {
		if from := p.stood(path.Join(q, name)); from != "" {
			return from
		}
	}
	return ""
}

// file plans what becomes of one file.
func (p *planner) file(i int32) {
	f := &p.snapshot.Files[i]
	to, moves := p.to[f.Path]
	out := change.File{Kind: change.Edited, Path: f.Path, Before: f.Hash}
	if moves {
		out.Kind, out.Path, out.From = change.Moved, to, f.Path
	}
	if f.Doc != nil {
		out.Edits = p.edits(i, f, cmp.Or(to, f.Path))
	}
	if moves || len(out.Edits) > 0 {
		p.Set.Files = append(p.Set.Files, out)
	}
}

// edits rewrites the references of a file that will stand at to.
func (p *planner) edits(i int32, f *site.File, to string) []change.Edit {
	doc := f.Doc
	var out []change.Edit
	base, baseEdit := p.base(f, to)
	if baseEdit != nil {
		out = append(out, *baseEdit)
	}
	p.now.At(f.Path, doc.Base, doc.HasBase)
	p.then.At(to, base, doc.HasBase)
	stays := f.Path == to && baseEdit == nil
	for k, l := range p.snapshot.Links(i) {
		ref := &doc.References[k]
		if ref.Flags&(markup.ByID|markup.ByMap|markup.NoValue) != 0 {
			continue
		}
		if stays && l.File >= 0 && !p.stirred[l.File] && lands(p.snapshot, l) {
			continue // it lands where it did
		}
		value := ref.Value()
		if value == "" || l.Outcome == site.Elsewhere || l.Outcome == site.Handed {
			continue
		}
		fresh, target := p.rewrite(f, ref, l, value, to)
		if fresh == value {
			continue
		}
		out = p.put(out, f, ref, fresh, target)
	}
	return out
}

// base returns the value of the base element of a page that will stand at to, and the edit that writes it, if it has to
// change so that it leads to the same folder.
func (p *planner) base(f *site.File, to string) (string, *change.Edit) {
	doc := f.Doc
	if !doc.HasBase || doc.Base == "" || address.SchemeOf(doc.Base) != "" {
		return doc.Base, nil
	}
	p.now.At(f.Path, "", false)
	t := p.now.Resolve(doc.Base)
	if t.Kind != address.Inside {
		return doc.Base, nil
	}
	meant := p.folderPlace(t.Path)
	if !t.Folder {
		meant = p.place(t.Path)
	}
	p.then.At(to, "", false)
	if now := p.then.Resolve(doc.Base); now.Kind == address.Inside && now.Path == meant {
		return doc.Base, nil
	}
	if t.Folder && meant != "" {
		meant += "/"
	}
	ref := markup.Reference{Written: doc.Base, Start: doc.BaseStart, End: doc.BaseEnd, Quote: doc.BaseQuote}
	value := p.snapshot.Place.Rewrite(doc.Base, address.FolderOf(to), meant)
	written := repair.Written(doc.Encoding, &ref, value)
	edit, err := repair.Edit(doc.Encoding, &ref, written)
	if err != nil {
		return doc.Base, nil
	}
	p.Rewrites = append(p.Rewrites, Rewrite{f.Path, 0, -1, doc.Base, written, strings.TrimSuffix(meant, "/")})
	return value, &edit
}

// rewrite returns the value that leads to the same as before from where its page will stand, and that; the same value
// where nothing has to change.
func (p *planner) rewrite(f *site.File, ref *markup.Reference, l site.Link, value, to string) (fresh, target string) {
	now := p.now.Resolve(value)
	then := p.then.Resolve(value)
	if !lands(p.snapshot, l) {
		return p.keepBroken(f, ref, &now, &then, value, to), ""
	}
	was := p.snapshot.Files[l.File].Path
	goal := p.place(was)
	if l.Outcome == site.NotJudged && now.Kind != address.Inside {
		return value, goal
	}
	aim, written := goal, was
	if dir, name := site.Cut(goal); now.Path != was && slices.Contains(p.snapshot.IndexNames, name) && p.lands(&address.Target{Path: dir, Folder: true}) == was {
		aim = dir // it is written as a folder
		if now.Folder {
			aim += "/"
		}
		aim = strings.TrimPrefix(aim, "/")
	}
	if now.Path != was {
		written = now.Path // by its folder
		if now.Folder {
			written = strings.TrimPrefix(written+"/", "/")
		}
	}
	before, after := p.now.Start(), p.then.Start()
	// What lands all the same is left alone, unless its page moves and another way is the shortest now, as this one was.
	if p.lands(&then) == was && then.Climbed <= now.Climbed && (f.Path == to || now.Own || !address.Shortest(value, before, written)) {
		return value, goal
	}
	if now.Own {
		return ownAddress(value, p.snapshot.Place.Published, aim), goal
	}
	if part, _, _ := address.Split(value); part == "" {
		return value, goal // a fragment or a query of the page itself
	}
	return p.snapshot.Place.Follow(strings.TrimSpace(value), before, written, after, aim), goal
}

// ownAddress writes the published address of another path in the folder, with the scheme, the query and the fragment of
// value.
func ownAddress(value, published, target string) string {
	part, query, fragment := address.Split(value)
	scheme, _, _ := strings.Cut(part, "://")
	return scheme + "://" + published + strings.TrimPrefix(address.Relative("", target), "./") + query + fragment
}

// keepBroken leaves a reference that lands nowhere as it is, unless it would land by chance where its page will stand.
func (p *planner) keepBroken(f *site.File, ref *markup.Reference, now, then *address.Target, value, to string) string {
	if now.Kind != address.Inside || then.Kind != address.Inside {
		if now.Kind == address.Beyond && f.Path != to {
			p.note(f, ref, "leads out of the folder, so it can’t follow")
		}
		return value
	}
	switch chance := p.lands(then); {
	case chance == "":
		p.note(f, ref, "led nowhere before and is left as it is")
		return value
	case now.Path == then.Path:
		p.note(f, ref, "led nowhere before and lands on what is moved there")
		return value
	}
	p.note(f, ref, "led nowhere before; it is written so that it does not land by chance")
	return p.snapshot.Place.Rewrite(strings.TrimSpace(value), p.then.Start(), now.Path)
}

// leavePages puts a page at the old address of each page that moves, which leads to the new one.
func (p *planner) leavePages() {
	for _, m := range p.Moves {
		i, _ := p.snapshot.Find(m.From)
		f := &p.snapshot.Files[i]
		if f.Kind != site.Page || p.from[m.From] != "" {
			continue
		}
		name := path.Base(m.To)
		if f.Doc != nil && f.Doc.Title != "" {
			name = f.Doc.Title
		}
		p.Set.Files = append(p.Set.Files, change.File{Kind: change.Made, Path: m.From, Content: leftPage(name, address.Relative(address.FolderOf(m.From), m.To))})
	}
}

func leftPage(title, to string) []byte {
	title, to = html.EscapeString(title), html.EscapeString(to)
	return fmt.Appendf(nil, `<!DOCTYPE html>
<html>
<head>
<meta charset="utf-8">
<title>%[1]s</title>
<link rel="canonical" href="%[2]s">
<meta http-equiv="refresh" content="0; url=%[2]s">
</head>
<body>
<p>This page has moved: <a href="%[2]s">%[1]s</a></p>
</body>
</html>
`, title, to)
}

// emptied lists the folders that are moved as wholes, and are gone from where they stood.
func (p *planner) emptied() {
	gone := map[string]bool{}
	for from := range p.folders {
		for dir := range p.snapshot.Folders {
			if dir == from || strings.HasPrefix(dir, from+"/") {
				gone[dir] = true
			}
		}
	}
	p.Set.Emptied = slices.Sorted(maps.Keys(gone))
}
