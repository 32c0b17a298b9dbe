package workbench

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/relocate"
	"arvel/core/site"
	"arvel/internal/folder"
	"arvel/internal/store"
)

// Into makes of a place that is a folder, or ends in a slash, that of the file or folder in it, as moving into a folder
// is said.
func (v *View) Into(m relocate.Move) relocate.Move {
	if to := strings.TrimSuffix(m.To, "/"); to != m.To || v.Snapshot.Folders[to] != nil && to != m.From {
		m.To = path.Join(to, path.Base(m.From))
	}
	return m
}

// PlanMoves plans moves on the view. What stands in a folder that is moved but is no part of the site, hidden files and
// what is left out, goes along.
func (w *Workbench) PlanMoves(v *View, moves []relocate.Move, o relocate.Options) *relocate.Plan {
	p := relocate.New(v.Snapshot, moves, o)
	moves = relocate.Innermost(moves)
	if p.Clashes = append(p.Clashes, w.linksOff(p, moves)...); len(p.Clashes) > 0 {
		p.Set = change.Set{}
		return p
	}
	if set, ok := w.takenBack(v, p.Moves); ok && !o.LeavePages {
		set.Title = p.Set.Title
		p.Set = set
		return p
	}
	known := map[string]bool{}
	for _, m := range p.Moves {
		known[m.From] = true
	}
	gone := map[string]bool{}
	for _, dir := range p.Set.Emptied {
		gone[dir] = true
	}
	for _, m := range moves {
		files, dirs, left := w.along(v, m.From, known)
		p.Told = append(p.Told, left...)
		for _, f := range files {
			f.Kind, f.From, f.Path = change.Moved, f.Path, m.To+strings.TrimPrefix(f.Path, m.From)
			p.Set.Files = append(p.Set.Files, f)
		}
		for _, dir := range dirs {
			p.Set.Folders = append(p.Set.Folders, m.To+strings.TrimPrefix(dir, m.From))
			if !gone[dir] {
				p.Set.Emptied = append(p.Set.Emptied, dir)
			}
		}
	}
	return p
}

// along returns what goes along with a folder of the view but is not known to go by itself: files, as they stand and with
// their hashes, and folders. They are known then. left is what stays, since it is no file that could go.
func (w *Workbench) along(v *View, dir string, known map[string]bool) (files []change.File, dirs []string, left []relocate.Told) {
	if v.Snapshot.Folders[dir] == nil {
		return nil, nil, nil
	}
	all, folders, irregular := w.folder.All(dir)
	stays := func(q, why string) {
		left = append(left, relocate.Told{Page: q, Written: path.Base(q), Why: why})
	}
	for _, q := range irregular {
		stays(q, "is a pipe, a socket, a device or can't be read, so it stays where it is")
	}
	for _, q := range all {
		if known[q] {
			continue
		}
		known[q] = true
		if hash, _, err := w.folder.Hash(q); err == nil {
			files = append(files, change.File{Path: q, Before: hash})
		} else if !errors.Is(err, fs.ErrNotExist) {
			stays(q, folder.Trouble(err)+", so it stays where it is")
		}
	}
	for _, q := range folders {
		if !known[q] {
			known[q] = true
			dirs = append(dirs, q)
		}
	}
	return files, dirs, left
}

// linksOff says, a sentence each, which symbolic links would lead elsewhere than they did after moves.
func (w *Workbench) linksOff(p *relocate.Plan, moves []relocate.Move) (out []string) {
	to := map[string]string{}
	for _, m := range slices.Concat(moves, p.Moves) {
		to[m.From] = m.To
	}
	place := func(q string) string {
		for at := q; at != "."; at = path.Dir(at) {
			if fresh, moved := to[at]; moved {
				return fresh + strings.TrimPrefix(q, at)
			}
		}
		return q
	}
	links := w.folder.Links()
	for _, m := range moves {
		out = append(out, w.throughLinks(links, m.From)...)
	}
	for _, l := range links {
		was, inside := w.folder.To(l, l.Path)
		is, _ := w.folder.To(l, place(l.Path))
		if inside && is != place(was) {
			out = append(out, "`"+l.Path+"` is a symbolic link to `"+was+"` and would lead nowhere. Put a copy of the file into its place first, or leave both where they are.")
		}
	}
	return out
}

// throughLinks says which symbolic links to folders stand at a path, above or below it. What is seen through one stands
// elsewhere, so moving or deleting it there would do it there, too.
func (w *Workbench) throughLinks(links []folder.Link, p string) (out []string) {
	for _, l := range links {
		within := strings.HasPrefix(l.Path+"/", p+"/") || strings.HasPrefix(p+"/", l.Path+"/")
		if within && w.folder.IsFolder(l.Path) {
			out = append(out, "`"+l.Path+"` is a symbolic link to a folder, so what is in it stands elsewhere and would go from there. Take the link away first.")
		}
	}
	return out
}

// takenBack returns the inverse of the change set that the moves take back to the letter, if there is one and its files
// are as it left them: then there and back are the same bytes, whatever way its authors wrote what was rewritten.
func (w *Workbench) takenBack(v *View, moves []relocate.Move) (change.Set, bool) {
	if len(moves) == 0 {
		return change.Set{}, false
	}
	ids, err := w.store.MovedTo(w.ID, moves[0].To, moves[0].From)
	if err != nil {
		return change.Set{}, false
	}
	back := map[string]string{}
	for _, m := range moves {
		back[m.To] = m.From
	}
	for _, id := range ids {
		if c, err := w.store.Change(w.ID, id); err == nil && w.undoes(v, c, back) {
			return w.inverse(c), true
		}
	}
	return change.Set{}, false
}

// undoes reports whether the moves, by where files go to, are those of a change set the other way round.
func (w *Workbench) undoes(v *View, c store.Change, back map[string]string) bool {
	moved := 0
	for _, f := range c.Files {
		i, there := v.Snapshot.Find(f.Path)
		if !there && f.Kind == change.Moved && f.Before == f.After {
			moved++ // hidden, or left out
			continue
		}
		if !there || v.Snapshot.Files[i].Hash != f.After || f.Kind == change.Made || f.Kind == change.Deleted {
			return false
		}
		if f.Kind == change.Moved {
			if back[f.From] != f.Path {
				return false
			}
			moved++
		}
	}
	return moved >= len(back) && len(back) > 0
}

// A ClashError says why a plan can't be carried out.
type ClashError struct{ Sentences []string }

func (e *ClashError) Error() string { return strings.Join(e.Sentences, " ") }

// Move carries out moves, as one change set, and returns what was planned on the view as it was then.
func (w *Workbench) Move(moves []relocate.Move, o relocate.Options) (*relocate.Plan, int64, error) {
	return w.planned(
		true, func(v *View) *relocate.Plan { return w.PlanMoves(v, moves, o) },
		func(s *site.Snapshot, _ func(string) ([]byte, error)) *relocate.Plan {
			return relocate.New(s, moves, o)
		},
	)
}

// Follow carries out what has to follow moves that were made elsewhere.
func (w *Workbench) Follow(moves []relocate.Move) (*relocate.Plan, int64, error) {
	return w.planned(true, nil, func(s *site.Snapshot, _ func(string) ([]byte, error)) *relocate.Plan {
		return relocate.Noticed(s, moves, w.View().Planner().Departures())
	})
}

// Lead plans that every reference that leads to one thing leads to another one, but for those to be left alone, as
// [relocate.Lead] plans it, and carries it out if it is to be.
func (w *Workbench) Lead(from, to string, leave []At, carry bool) (*relocate.Plan, int64, error) {
	left := map[At]bool{}
	for _, at := range leave {
		left[at] = true
	}
	stays := func(f *site.File, ref int) bool { return left[At{f.Path, Key(f.Doc, ref)}] }
	return w.planned(carry, nil, func(s *site.Snapshot, _ func(string) ([]byte, error)) *relocate.Plan {
		return relocate.Lead(s, from, to, stays)
	})
}

// RenameID renames an id of a page with all that refers to it, or only plans it.
func (w *Workbench) RenameID(page, from, to string, carry bool) (*relocate.Plan, int64, error) {
	return w.planned(carry, nil, func(s *site.Snapshot, read func(string) ([]byte, error)) *relocate.Plan {
		return relocate.RenameID(s, page, from, to, read)
	})
}

// Delete deletes files and folders, with what is said of the references to them, or only plans it. What stands in a folder
// but is no part of the site, hidden files and what is left out, is deleted with it.
func (w *Workbench) Delete(deletions []relocate.Deletion, carry bool) (*relocate.Plan, int64, error) {
	remove := func(s *site.Snapshot, read func(string) ([]byte, error)) *relocate.Plan {
		return relocate.Remove(s, deletions, read, w.View().meant())
	}
	return w.planned(carry, func(v *View) *relocate.Plan {
		p := remove(v.Snapshot, w.folder.Read)
		links := w.folder.Links()
		for _, d := range deletions {
			p.Clashes = append(p.Clashes, w.throughLinks(links, d.Path)...)
		}
		if len(p.Clashes) > 0 {
			p.Set = change.Set{}
			return p
		}
		known := map[string]bool{}
		for _, d := range p.Deleted {
			known[d.Path] = true
		}
		for _, l := range links {
			to, inside := w.folder.To(l, l.Path)
			switch {
			case known[l.Path]:
				p.Told = append(p.Told, relocate.Told{Page: l.Path, Written: l.Written, Why: "is where a symbolic link leads; undone, a copy of the file stands in its place"})
			case inside && known[to]:
				p.Told = append(p.Told, relocate.Told{Page: l.Path, Written: l.Written, Why: "is where a symbolic link leads, which will lead nowhere"})
			}
		}
		for _, d := range deletions {
			files, dirs, left := w.along(v, d.Path, known)
			p.Told = append(p.Told, left...)
			for _, f := range files {
				f.Kind = change.Deleted
				p.Set.Files = append(p.Set.Files, f)
				p.Deleted = append(p.Deleted, relocate.Deleted{Path: f.Path})
			}
			for _, dir := range dirs {
				if !slices.Contains(p.Set.Emptied, dir) {
					p.Set.Emptied = append(p.Set.Emptied, dir)
				}
			}
		}
		if clash := w.tooLarge(p.Set); clash != "" {
			p.Clashes, p.Set = append(p.Clashes, clash), change.Set{}
		}
		return p
	}, remove)
}

// tooLarge says why what a change deletes can't be kept for undoing; "" if it can.
func (w *Workbench) tooLarge(set change.Set) string {
	var sum, most int64
	largest := ""
	for i := range set.Files {
		if set.Files[i].Kind != change.Deleted {
			continue
		}
		if e, err := w.folder.Stat(set.Files[i].Path); err == nil {
			if sum += e.Size; e.Size > most {
				most, largest = e.Size, e.Path
			}
		}
	}
	if sum <= folder.KeptLimit {
		return ""
	}
	return fmt.Sprintf("These files have %d MB in all, and Arvel keeps %d MB at most for undoing. The largest is %s. Delete it in your file manager, or some files at a time.",
		sum>>20, folder.KeptLimit>>20, audit.Mono(largest))
}

// meant returns the files that broken references mean, by their best repair.
func (v *View) meant() map[string]bool {
	out := map[string]bool{}
	causes := v.Causes()
	for i := range causes {
		for _, e := range causes[i].Findings {
			if e.Finding.State == audit.Broken && len(e.Repairs) > 0 && e.Repairs[0].Target != "" {
				out[e.Repairs[0].Target] = true
			}
		}
	}
	return out
}

// toPlan returns the view to plan on, with the right to change files if what is planned is to be carried out.
func (w *Workbench) toPlan(carry bool) (v *View, done func(), err error) {
	if carry {
		return w.toChange()
	}
	if v = w.View(); v == nil {
		return nil, nil, cmp.Or(w.Problem(), ErrNotReady)
	}
	return v, func() {}, nil
}

// planned plans something on the view, and carries it out if it is to be. on is the same plan on any snapshot, by which
// texts that are not saved are led along; whole is what it takes besides for the folder, if anything.
func (w *Workbench) planned(carry bool, whole func(*View) *relocate.Plan, on planOn) (*relocate.Plan, int64, error) {
	v, done, err := w.toPlan(carry)
	if err != nil {
		return nil, 0, err
	}
	defer done()
	if whole == nil {
		whole = func(v *View) *relocate.Plan { return on(v.Snapshot, w.folder.Read) }
	}
	p := whole(v)
	switch {
	case !carry:
		return p, 0, nil
	case len(p.Clashes) > 0:
		return nil, 0, &ClashError{p.Clashes}
	case len(p.Set.Files)+len(p.Set.Folders) == 0:
		return nil, 0, &GoneError{"There is nothing to change."}
	}
	id, err := w.carry(p.Set, 0, w.ledAlong(v, w.unsavedOf(p.Set), on))
	return p, id, err
}

// Departures returns the moves that were made elsewhere and that references have not followed.
func (v *View) Departures() []relocate.Off { return v.departures() }

// Refuse forgets that a file, or all in a folder, was there before, so that nothing is made of it any more.
func (w *Workbench) Refuse(from string) error {
	_, done, err := w.toChange()
	if err != nil {
		return err
	}
	defer done()
	if err := w.store.ForgetPast(w.ID, from); err != nil {
		return err
	}
	w.recordAnew()
	return nil
}

// MakeFolder makes a folder, with those above it.
func (w *Workbench) MakeFolder(p string) (int64, error) {
	v, done, err := w.toChange()
	if err != nil {
		return 0, err
	}
	defer done()
	if fault := site.PathFault(p); fault != "" {
		return 0, &ClashError{[]string{audit.Mono(p) + " " + fault + "."}}
	}
	if v.Snapshot.Stands(p) || w.folder.IsFolder(p) {
		return 0, &ClashError{[]string{audit.Mono(p) + " is there already."}}
	}
	if site.IsExtension(path.Ext(p)) {
		return 0, &ClashError{[]string{audit.Mono(p) + " has the extension of a file. Give a folder a name without one."}}
	}
	return w.carry(change.Set{Title: "Folder " + audit.Mono(p) + " made", Folders: []string{p}}, 0, nil)
}

// EmptyFolders lists the names of the folders in the folder at p in which nothing stands that the view knows of.
func (w *Workbench) EmptyFolders(v *View, p string) []string {
	var out []string
	for _, name := range w.folder.Folders(p) {
		if v.Snapshot.Folders[path.Join(p, name)] == nil {
			out = append(out, name)
		}
	}
	return out
}
