package workspace

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/plan"
	"arvel/core/site"
	"arvel/internal/disk"
	"arvel/internal/journal"
	"arvel/internal/store"
)

// Into makes of each place that is a folder, or ends in a slash, that of the file or folder in it, as moving into a folder is said; but
// not of a folder that is moved away itself, so that folders can change places.
func (v *View) Into(moves []plan.Move) []plan.Move {
	out := slices.Clone(moves)
	for i, m := range moves {
		to := strings.TrimSuffix(m.To, "/")
		leaves := slices.ContainsFunc(moves, func(n plan.Move) bool { return strings.TrimSuffix(n.From, "/") == to })
		if to != m.To || v.Snapshot.Folders[to] != nil && !leaves {
			out[i].To = path.Join(to, path.Base(m.From))
		}
	}
	return out
}

// nothingToChange is why a plan that was asked for by name has nothing in it.
const nothingToChange = "There is nothing to change."

// PlanMoves plans moves. What is in a folder that is moved but is no part of the site, hidden files and what is left out, goes
// along.
func (s *Session) PlanMoves(moves []plan.Move, o plan.Options) (*Plan, error) {
	p := &Plan{none: nothingToChange}
	p.onTexts = func(snapshot *site.Snapshot, _ func(string) ([]byte, error)) *plan.Plan {
		return plan.Moves(snapshot, moves, o)
	}
	return p, s.plan(p, func(v *View) error {
		p.Plan = *s.moves(v, moves, o)
		return nil
	})
}

func (s *Session) moves(v *View, moves []plan.Move, o plan.Options) *plan.Plan {
	p := plan.Moves(v.Snapshot, moves, o)
	moves = plan.Innermost(moves)
	if p.Clashes = append(p.Clashes, s.brokenSymlinks(p, moves)...); len(p.Clashes) > 0 {
		p.Set = change.Set{}
		return p
	}
	if set, ok := s.inverseOf(v, p.Moves); ok && !o.LeavePages {
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
		files, dirs, left := s.otherContents(v, m.From, known)
		p.Notes = append(p.Notes, left...)
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

// otherContents returns what goes along with a folder of the view but is not known to go by itself: files, as they are and with
// their hashes, and folders. They are known then. left is what stays, since it is no file that could go.
func (s *Session) otherContents(v *View, dir string, known map[string]bool) (files []change.File, dirs []string, left []plan.Note) {
	if v.Snapshot.Folders[dir] == nil {
		return nil, nil, nil
	}
	all, folders, irregular := s.folder.Contents(dir)
	stays := func(q, why string) {
		left = append(left, plan.Note{Page: q, Written: path.Base(q), Why: why, Breaks: true})
	}
	for _, q := range irregular {
		stays(q, "is a pipe, a socket, a device or can't be read, so it stays where it is")
	}
	for _, q := range all {
		if known[q] {
			continue
		}
		known[q] = true
		if hash, _, err := s.folder.Hash(q); err == nil {
			files = append(files, change.File{Path: q, Before: hash})
		} else if !errors.Is(err, fs.ErrNotExist) {
			stays(q, disk.Trouble(err)+", so it stays where it is")
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

// brokenSymlinks says, a sentence each, which symbolic links would lead elsewhere than they did after moves.
func (s *Session) brokenSymlinks(p *plan.Plan, moves []plan.Move) (out []string) {
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
	links := s.folder.Symlinks()
	for _, m := range moves {
		out = append(out, s.symlinksOnPath(links, m.From)...)
	}
	for _, l := range links {
		was, inside := s.folder.SymlinkTarget(l, l.Path)
		is, _ := s.folder.SymlinkTarget(l, place(l.Path))
		if inside && is != place(was) {
			out = append(out, "`"+l.Path+"` is a symbolic link to `"+was+"` and would lead nowhere. Put a copy of the file into its place first, or leave both where they are.")
		}
	}
	return out
}

// symlinksOnPath says which symbolic links to folders are at a path, above or below it. What is seen through one is
// elsewhere, so moving or deleting it there would do it there, too.
func (s *Session) symlinksOnPath(links []disk.Symlink, p string) (out []string) {
	for _, l := range links {
		within := strings.HasPrefix(l.Path+"/", p+"/") || strings.HasPrefix(p+"/", l.Path+"/")
		if within && s.folder.IsFolder(l.Path) {
			out = append(out, "`"+l.Path+"` is a symbolic link to a folder, so what is in it would be taken from another place. Delete the link first.")
		}
	}
	return out
}

// inverseOf returns the inverse of the change set that the moves take back to the letter, if there is one and its files
// are as it left them: then there and back are the same bytes, whatever way its authors wrote what was rewritten.
func (s *Session) inverseOf(v *View, moves []plan.Move) (change.Set, bool) {
	if len(moves) == 0 {
		return change.Set{}, false
	}
	ids, err := s.store.MovedTo(s.ID, moves[0].To, moves[0].From)
	if err != nil {
		return change.Set{}, false
	}
	back := map[string]string{}
	for _, m := range moves {
		back[m.To] = m.From
	}
	for _, id := range ids {
		if c, err := s.store.Change(s.ID, id); err == nil && s.isInverseOf(v, c, back) {
			return s.History.inverse(&c), true
		}
	}
	return change.Set{}, false
}

// isInverseOf reports whether the moves, by where files go to, are those of a change set the other way round.
func (s *Session) isInverseOf(v *View, c store.Change, back map[string]string) bool {
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

// planOn plans by a planner that reads nothing but the snapshot and the pages.
func (s *Session) planOn(make onTexts) (*Plan, error) {
	p := &Plan{none: nothingToChange, onTexts: make}
	return p, s.plan(p, func(v *View) error {
		p.Plan = *make(v.Snapshot, s.folder.Read)
		return nil
	})
}

// PlanFollow plans what has to follow moves that were made elsewhere.
func (s *Session) PlanFollow(moves []plan.Move) (*Plan, error) {
	return s.planOn(func(snapshot *site.Snapshot, _ func(string) ([]byte, error)) *plan.Plan {
		return plan.Follow(snapshot, moves, s.View().Planner().Departures())
	})
}

// PlanRetarget plans that every reference that leads to one thing leads to another one, but for those to be left alone, as
// [plan.Retarget] does.
func (s *Session) PlanRetarget(from, to string, leave []At) (*Plan, error) {
	left := map[At]bool{}
	for _, at := range leave {
		left[at] = true
	}
	stays := func(f *site.File, ref int) bool { return left[At{f.Path, Key(f.Doc, ref)}] }
	return s.planOn(func(snapshot *site.Snapshot, _ func(string) ([]byte, error)) *plan.Plan {
		return plan.Retarget(snapshot, from, to, stays)
	})
}

// PlanIDRename plans to rename an id of a page with all that refers to it.
func (s *Session) PlanIDRename(page, from, to string) (*Plan, error) {
	return s.planOn(func(snapshot *site.Snapshot, read func(string) ([]byte, error)) *plan.Plan {
		return plan.RenameID(snapshot, page, from, to, read)
	})
}

// PlanDeletion plans to delete files and folders, with what is chosen for the references to them. What is in a folder but is
// no part of the site, hidden files and what is left out, is deleted with it.
func (s *Session) PlanDeletion(deletions []plan.Deletion) (*Plan, error) {
	p := &Plan{none: nothingToChange}
	p.onTexts = func(snapshot *site.Snapshot, read func(string) ([]byte, error)) *plan.Plan {
		return plan.Delete(snapshot, deletions, read, s.View().intendedTargets())
	}
	return p, s.plan(p, func(v *View) error {
		p.Plan = *plan.Delete(v.Snapshot, deletions, s.folder.Read, v.intendedTargets())
		s.deleteAlong(v, &p.Plan, deletions)
		return s.noteTexts(v, &p.Plan)
	})
}

// noteTexts says what becomes of text that is not saved: that of pages that are deleted goes with them, and what only it refers to
// may be deleted.
func (s *Session) noteTexts(v *View, p *plan.Plan) error {
	deleted := map[string]bool{}
	for _, d := range p.Deleted {
		deleted[d.Path] = true
	}
	for page := range s.Drafts.Pages() {
		if deleted[page] {
			p.Notes = append(p.Notes, plan.Note{Page: page, Written: page, Why: "has text that is not saved, which goes with it", Breaks: true})
			continue
		}
		draft, ok, err := s.Drafts.Get(page)
		if err != nil || !ok {
			return err
		}
		now, file, err := v.WithText(page, []byte(draft.Text))
		if err != nil {
			continue // the page is gone by now
		}
		saved := map[string]bool{}
		if doc := v.Snapshot.Files[file].Doc; doc != nil {
			for i := range doc.References {
				saved[doc.References[i].Written] = true
			}
		}
		for i, l := range now.Snapshot.Links(file) {
			ref := &now.Snapshot.Files[file].Doc.References[i]
			if l.File >= 0 && deleted[now.Snapshot.Files[l.File].Path] && !saved[ref.Written] {
				p.Notes = append(p.Notes, plan.Note{Page: page, Line: int(ref.Line), Written: ref.Written, Why: "is in text that is not saved, and will be broken", Breaks: true})
			}
		}
	}
	return nil
}

// deleteAlong adds to a plan what is deleted along with folders, and says what becomes of symbolic links.
func (s *Session) deleteAlong(v *View, p *plan.Plan, deletions []plan.Deletion) {
	links := s.folder.Symlinks()
	for _, d := range deletions {
		p.Clashes = append(p.Clashes, s.symlinksOnPath(links, d.Path)...)
	}
	if len(p.Clashes) > 0 {
		p.Set = change.Set{}
		return
	}
	known := map[string]bool{}
	for _, d := range p.Deleted {
		known[d.Path] = true
	}
	for _, l := range links {
		to, inside := s.folder.SymlinkTarget(l, l.Path)
		switch {
		case known[l.Path]:
			p.Notes = append(p.Notes, plan.Note{Page: l.Path, Written: l.Written, Why: "is the target of a symbolic link; after undoing, a copy of the file is in its place"})
		case inside && known[to]:
			p.Notes = append(p.Notes, plan.Note{Page: l.Path, Written: l.Written, Why: "is the target of a symbolic link, which will be broken", Breaks: true})
		}
	}
	for _, d := range deletions {
		files, dirs, left := s.otherContents(v, d.Path, known)
		p.Notes = append(p.Notes, left...)
		for _, f := range files {
			f.Kind = change.Deleted
			p.Set.Files = append(p.Set.Files, f)
			p.Deleted = append(p.Deleted, plan.Deleted{Path: f.Path})
		}
		for _, dir := range dirs {
			if !slices.Contains(p.Set.Emptied, dir) {
				p.Set.Emptied = append(p.Set.Emptied, dir)
			}
		}
	}
	if clash := s.tooLarge(p.Set); clash != "" {
		p.Clashes, p.Set = append(p.Clashes, clash), change.Set{}
	}
}

// tooLarge says why what a change deletes can't be kept for undoing; "" if it can.
func (s *Session) tooLarge(set change.Set) string {
	var sum, most int64
	largest := ""
	for i := range set.Files {
		if set.Files[i].Kind != change.Deleted {
			continue
		}
		if e, err := s.folder.Stat(set.Files[i].Path); err == nil {
			if sum += e.Size; e.Size > most {
				most, largest = e.Size, e.Path
			}
		}
	}
	if sum <= journal.KeptLimit {
		return ""
	}
	return fmt.Sprintf("These files have %d MB in all, and Arvel keeps %d MB at most for undoing. The largest is %s. Delete it in your file manager, or some files at a time.",
		sum>>20, journal.KeptLimit>>20, phrase.Mono(largest))
}

// intendedTargets returns the files that broken references mean, by their best repair.
func (v *View) intendedTargets() map[string]bool {
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

// DismissMove forgets that a file, or all in a folder, was there before, so that nothing is made of it any more.
func (s *Session) DismissMove(from string) error {
	s.changes.Lock()
	defer s.changes.Unlock()
	if err := s.store.ForgetPast(s.ID, from); err != nil {
		return err
	}
	s.recordChanged()
	s.refreshRecord()
	return nil
}

// PlanFolder plans to make a folder, with those above it.
func (s *Session) PlanFolder(path string) (*Plan, error) {
	p := &Plan{}
	return p, s.plan(p, func(v *View) error {
		if clash := s.folderClash(v, path); clash != "" {
			p.Clashes = []string{clash}
			return nil
		}
		p.Set = change.Set{Title: "Folder " + phrase.Mono(path) + " made", Folders: []string{path}}
		return nil
	})
}

// folderClash says why a folder can't be made; "" if it can.
func (s *Session) folderClash(v *View, p string) string {
	fault := naming.PathFault(p)
	switch {
	case fault != "":
		return phrase.Mono(p) + " " + fault + "."
	case v.Snapshot.Exists(p) || s.folder.IsFolder(p):
		return phrase.Mono(p) + " exists already."
	case site.IsExtension(path.Ext(p)):
		return phrase.Mono(p) + " has the extension of a file. Give a folder a name without one."
	}
	return ""
}

// EmptyFolders lists the names of the folders in the folder at p that hold nothing that the view knows of.
func (s *Session) EmptyFolders(v *View, p string) []string {
	var out []string
	for _, name := range s.folder.Folders(p) {
		if v.Snapshot.Folders[path.Join(p, name)] == nil {
			out = append(out, name)
		}
	}
	return out
}
