package plan

import (
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// Choice is what becomes of the references to what is deleted.
type Choice string

// What can become of them.
const (
	// Leave lets them lead nowhere.
	Leave Choice = "leave"
	// Elsewhere leads them to something else.
	Elsewhere Choice = "lead"
	// Unlink takes them away and keeps their words.
	Unlink Choice = "unlink"
)

// Deletion is a file or a folder that is to be deleted, and what becomes of the references to it.
type Deletion struct {
	Path   string
	Choice Choice
	// To is what they lead to, for Elsewhere: as [Retarget] has it.
	To string
}

// remover is a plan of deletions in the making.
type remover struct {
	*retargeter
	deletions    map[int32]Deletion // by file
	destinations map[string]*destination
	source       func(string) ([]byte, error)
	counts       map[int32]int
}

// Delete plans that files and folders are deleted, and what becomes of what refers to them from the files that stay. What
// is said of a file counts before what is said of a folder around it. source returns the bytes of a file, meant
// the files that broken references mean, so that they are not lonely.
func Delete(s *site.Snapshot, deletions []Deletion, source func(string) ([]byte, error), meant map[string]bool) *Plan {
	p := &Plan{}
	r := &remover{newRetargeter(p, s), map[int32]Deletion{}, map[string]*destination{}, source, map[int32]int{}}
	for _, f := range deletions {
		r.expand(f)
	}
	r.checkDestinations()
	gone := make([]int32, 0, len(r.deletions))
	holders := map[int32]bool{}
	for i := range r.deletions {
		gone = append(gone, i)
		for _, from := range s.Referrers(i) {
			if _, goes := r.deletions[from]; !goes {
				holders[from] = true
			}
		}
	}
	slices.Sort(gone)
	for i := range s.Files {
		if holders[int32(i)] {
			r.holder(int32(i))
		}
	}
	for _, i := range gone {
		f := &s.Files[i]
		p.Set.Files = append(p.Set.Files, change.File{Kind: change.Deleted, Path: f.Path, Before: f.Hash})
		p.Deleted = append(p.Deleted, Deleted{f.Path, r.counts[i]})
	}
	r.findUnreferenced(gone, meant)
	if len(p.Clashes) > 0 {
		p.Set = change.Set{} // the counts stay: they are what is chosen by
		return p
	}
	if len(deletions) > 0 {
		p.Set.Title = phrase.Mono(deletions[0].Path) + " deleted"
		if len(deletions) > 1 {
			p.Set.Title = phrase.Mono(deletions[0].Path) + " and others deleted"
		}
	}
	return p
}

// TakeAway plans that references are taken away, and what they show is kept: those of each file, by their numbers in its document.
// source returns the bytes of a file.
func TakeAway(s *site.Snapshot, refs map[int32][]int, source func(string) ([]byte, error)) *Plan {
	p := &Plan{}
	r := &remover{newRetargeter(p, s), nil, nil, source, nil}
	for i := range s.Files {
		if of := refs[int32(i)]; len(of) > 0 {
			r.change(&s.Files[i], r.unlink(&s.Files[i], of, nil))
		}
	}
	if len(p.Clashes) > 0 {
		p.Set = change.Set{}
	}
	return p
}

// expand notes each file that is deleted.
func (r *remover) expand(f Deletion) {
	p := plain(f.Path)
	if i, isFile := r.snapshot.Find(p); isFile {
		r.deletions[i] = f
		return
	}
	if p == "" || r.snapshot.Folders[p] == nil {
		r.Clashes = append(r.Clashes, "There is no "+phrase.Mono(f.Path)+" in the folder.")
		return
	}
	for i := range r.snapshot.Files {
		if strings.HasPrefix(r.snapshot.Files[i].Path, p+"/") {
			if own := r.deletions[int32(i)]; own.Path != r.snapshot.Files[i].Path {
				r.deletions[int32(i)] = f
			}
		}
	}
	for dir := range r.snapshot.Folders {
		if dir == p || strings.HasPrefix(dir, p+"/") {
			r.Set.Emptied = append(r.Set.Emptied, dir)
		}
	}
	slices.Sort(r.Set.Emptied)
	r.Set.Emptied = slices.Compact(r.Set.Emptied)
}

// checkDestinations reads what references are to be led to; it must be there, and stay.
func (r *remover) checkDestinations() {
	for _, f := range r.deletions {
		if f.Choice != Leave && f.Choice != Unlink && f.Choice != Elsewhere {
			r.Clashes = append(r.Clashes, phrase.Mono(string(f.Choice))+" is not known as a choice for the references to "+phrase.Mono(f.Path)+".")
		}
		if f.Choice != Elsewhere || r.destinations[f.To] != nil {
			continue
		}
		a := destinationOf(r.snapshot, f.To)
		fault := a.fault(r.snapshot)
		if _, goes := r.deletions[a.index]; goes && fault == "" {
			fault = phrase.Mono(a.file) + " is to be deleted itself. Choose something that stays."
		}
		if fault != "" {
			r.Clashes = append(r.Clashes, fault)
			continue
		}
		r.destinations[f.To] = &a
	}
	slices.Sort(r.Clashes)
	r.Clashes = slices.Compact(r.Clashes)
}

// holder plans what becomes of the references of a file that stays.
func (r *remover) holder(i int32) {
	f := &r.snapshot.Files[i]
	r.at(f)
	var edits []change.Edit
	var unlink []int
	for k, link := range r.snapshot.Links(i) {
		deletion, goes := r.deletions[link.File]
		ref := &f.Doc.References[k]
		if !goes || !lands(r.snapshot, link) || ref.Flags&(markup.ByID|markup.ByMap|markup.NoValue) != 0 {
			continue
		}
		r.counts[link.File]++
		now := r.resolver.Resolve(ref.Value())
		switch a := r.destinations[deletion.To]; {
		case deletion.Choice == Elsewhere && a != nil:
			was := destination{file: r.snapshot.Files[link.File].Path, index: link.File}
			edits = r.retarget(edits, i, k, &now, &was, a)
		case deletion.Choice == Unlink:
			unlink = append(unlink, k)
		default:
			r.note(f, ref, r.replacement(link.File, &now))
		}
	}
	r.change(f, r.unlink(f, unlink, edits))
}

// replacement says what a reference to a file leads to once that is deleted.
func (r *remover) replacement(file int32, now *address.Target) string {
	dir, name := site.Cut(r.snapshot.Files[file].Path)
	if now.Path == r.snapshot.Files[file].Path || !slices.Contains(r.snapshot.IndexNames, name) {
		return "will be broken"
	}
	for _, other := range r.snapshot.IndexNames {
		p := path.Join(dir, other)
		if i, there := r.snapshot.Find(p); there {
			if _, goes := r.deletions[i]; !goes {
				return "will land on " + phrase.Mono(p) + " instead"
			}
		}
	}
	return "will be broken"
}

// unlink adds to the edits of a file those that take references away. What else was to be changed in what goes is
// forgotten.
func (r *remover) unlink(f *site.File, refs []int, edits []change.Edit) []change.Edit {
	if len(refs) == 0 {
		return edits
	}
	src, err := r.source(f.Path)
	if err != nil || !f.Hash.Is(src) {
		r.Clashes = append(r.Clashes, phrase.Mono(f.Path)+" was just changed by another program. Try again.")
		return nil
	}
	m := markup.NewMapper(src)
	page := compose.Open(r.snapshot, f.Path, []byte(m.Text))
	if len(page.Doc.References) != len(f.Doc.References) {
		refs = nil // its text reads differently from its bytes; nothing is cut by guessing
	}
	taken, left := page.RemoveAll(refs)
	for _, u := range taken {
		fresh, err := compose.InBytes(src, m, u.Edits)
		if err != nil || overlap(edits, fresh) {
			left = append(left, u.Ref)
			continue
		}
		edits = append(edits, fresh...)
		r.Rewrites = append(r.Rewrites, Rewrite{f.Path, int(f.Doc.References[u.Ref].Line), int32(u.Ref), u.Before, u.After, ""})
	}
	for _, k := range left {
		r.note(f, &f.Doc.References[k], "is part of something larger than a link, so it is left, and will be broken")
	}
	return edits
}

// overlap reports whether any of the edits touch the same bytes as any of the others.
func overlap(edits, others []change.Edit) bool {
	for _, a := range edits {
		for _, b := range others {
			if a.Start < b.End && b.Start < a.End {
				return true
			}
		}
	}
	return false
}

// findUnreferenced lists the files that only what is deleted refers to, but for those that are meant by what is broken.
func (r *remover) findUnreferenced(gone []int32, meant map[string]bool) {
	seen := map[int32]bool{}
	for _, i := range gone {
		for _, link := range r.snapshot.Links(i) {
			to := link.File
			if _, goes := r.deletions[to]; to < 0 || goes || seen[to] || meant[r.snapshot.Files[to].Path] {
				continue
			}
			seen[to] = true
			if !slices.ContainsFunc(r.snapshot.Referrers(to), func(from int32) bool { _, goes := r.deletions[from]; return !goes && from != to }) {
				r.Unreferenced = append(r.Unreferenced, r.snapshot.Files[to].Path)
			}
		}
	}
	slices.Sort(r.Unreferenced)
}

// Deleted is a file that a plan deletes.
type Deleted struct {
	Path string
	// Referrers is how many references of the files that stay lead to it.
	Referrers int
}
