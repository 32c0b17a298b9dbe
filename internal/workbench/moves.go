package workbench

import (
	"context"
	"path"
	"strings"

	"arvel/core/change"
	"arvel/core/relocate"
	"arvel/core/site"
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
	if len(p.Clashes) > 0 {
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
		if v.Snapshot.Folders[m.From] == nil {
			continue
		}
		files, dirs := w.folder.All(m.From)
		for _, q := range files {
			if known[q] {
				continue
			}
			if hash, _, err := w.folder.Hash(q); err == nil {
				p.Set.Files = append(p.Set.Files, change.File{Kind: change.Moved, From: q, Path: m.To + strings.TrimPrefix(q, m.From), Before: hash})
			}
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

// lookedBack is how many change sets are looked at for one that moves take back.
const lookedBack = 30

// takenBack returns the inverse of the change set that the moves take back to the letter, if there is one and its files
// are as it left them: then there and back are the same bytes, whatever way its authors wrote what was rewritten.
func (w *Workbench) takenBack(v *View, moves []relocate.Move) (change.Set, bool) {
	list, _, err := w.store.Changes(w.ID, 0, lookedBack)
	if err != nil {
		return change.Set{}, false
	}
	back := map[string]string{}
	for _, m := range moves {
		back[m.To] = m.From
	}
	for _, c := range list {
		if c.State == store.Done && c.UndoneBy == 0 && w.undoes(v, c, back) {
			return inverse(c), true
		}
	}
	return change.Set{}, false
}

// undoes tells whether the moves, by where files go to, are those of a change set the other way round.
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

// Move carries out moves, as one change set.
func (w *Workbench) Move(ctx context.Context, moves []relocate.Move, o relocate.Options) (int64, error) {
	return w.planned(ctx, func(v *View) *relocate.Plan { return w.PlanMoves(v, moves, o) })
}

// Follow carries out what has to follow moves that were made elsewhere.
func (w *Workbench) Follow(ctx context.Context, moves []relocate.Move) (int64, error) {
	return w.planned(ctx, func(v *View) *relocate.Plan { return relocate.Noticed(v.Snapshot, moves) })
}

func (w *Workbench) planned(ctx context.Context, plan func(*View) *relocate.Plan) (int64, error) {
	w.changes.Lock()
	defer w.changes.Unlock()
	v := w.View()
	if v == nil {
		return 0, ErrNotReady
	}
	p := plan(v)
	switch {
	case len(p.Clashes) > 0:
		return 0, &ClashError{p.Clashes}
	case len(p.Set.Files)+len(p.Set.Folders) == 0:
		return 0, &GoneError{"There is nothing to change."}
	}
	return w.carry(ctx, p.Set, 0)
}

// Departed is a file that was moved elsewhere, and how many references are off since.
type Departed struct {
	From, To string
	// Same tells that it is the same to the byte, Sure that no other file could be it.
	Same, Sure bool
	// Still lead to the old place; Inside are off in what moved.
	Still, Inside int
}

// Departures returns the moves that were made elsewhere and that references have not followed.
func (v *View) Departures() []Departed {
	out := []Departed{}
	for _, d := range v.Planner().Departures() {
		if d.To == "" {
			continue
		}
		one := Departed{From: d.From, To: d.To, Same: d.Same, Sure: d.Copies == 1}
		for _, r := range relocate.Noticed(v.Snapshot, []relocate.Move{{From: d.From, To: d.To}}).Rewrites {
			if r.Page == d.To {
				one.Inside++
			} else {
				one.Still++
			}
		}
		if one.Still+one.Inside > 0 {
			out = append(out, one)
		}
	}
	return out
}

// Refuse forgets that a file was there before, so that nothing is made of it any more.
func (w *Workbench) Refuse(from string) error {
	w.changes.Lock()
	defer w.changes.Unlock()
	if err := w.store.ForgetPast(w.ID, from); err != nil {
		return err
	}
	w.judgeAnew()
	return nil
}

// MakeFolder makes a folder, with those above it.
func (w *Workbench) MakeFolder(ctx context.Context, p string) (int64, error) {
	w.changes.Lock()
	defer w.changes.Unlock()
	if v := w.View(); v != nil && v.Snapshot.Stands(p) || w.folder.IsFolder(p) {
		return 0, &ClashError{[]string{"`" + p + "` is there already."}}
	}
	if site.IsExtension(path.Ext(p)) {
		return 0, &ClashError{[]string{"`" + p + "` has the extension of a file. Give a folder a name without one."}}
	}
	return w.carry(ctx, change.Set{Title: "Folder `" + p + "` made", Folders: []string{p}}, 0)
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
