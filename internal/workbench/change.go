package workbench

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"log/slog"
	"os"
	"slices"
	"strings"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
	"arvel/internal/folder"
	"arvel/internal/store"
)

// ErrNotReady is returned while the folder is read for the first time.
var ErrNotReady = errors.New("The folder is still being read.")

// A GoneError says that what was asked for is not there any more.
type GoneError struct{ Sentence string }

func (e *GoneError) Error() string { return e.Sentence }

// Key names a reference on its page so that it is found again after the page was edited elsewhere: by what is
// written, and which one of those that are written the same.
func Key(d *markup.Document, ref int) string {
	nth := 0
	for i := range ref {
		if d.References[i].Written == d.References[ref].Written {
			nth++
		}
	}
	return key(d.References[ref].Written, nth)
}

func key(written string, nth int) string {
	h := fnv.New32a()
	h.Write([]byte(written))
	return fmt.Sprintf("%08x.%d", h.Sum32(), nth)
}

// Keys returns the keys of all references of a document, in their order.
func Keys(d *markup.Document) []string {
	nth := map[string]int{}
	out := make([]string, len(d.References))
	for i := range d.References {
		w := d.References[i].Written
		out[i] = key(w, nth[w])
		nth[w]++
	}
	return out
}

func gone(page string) error {
	return &GoneError{fmt.Sprintf("%s is not in the folder any more.", page)}
}

// File returns the index of the file at the path, or a *GoneError.
func (v *View) File(path string) (int32, error) {
	file, ok := v.Snapshot.Find(path)
	if !ok {
		return 0, gone(path)
	}
	return file, nil
}

// Find returns the page at the path and the reference on it with the key.
func (v *View) Find(page, wanted string) (file int32, ref int, err error) {
	file, err = v.File(page)
	if err != nil || v.Snapshot.Files[file].Doc == nil {
		return 0, 0, gone(page)
	}
	ref = slices.Index(Keys(v.Snapshot.Files[file].Doc), wanted)
	if ref < 0 {
		return 0, 0, &GoneError{fmt.Sprintf("The reference is not on %s any more: the page was edited in the meantime.", page)}
	}
	return file, ref, nil
}

// Repairs returns the repairs of a reference, the best first.
func (v *View) Repairs(file int32, ref int) []repair.Repair {
	findings := v.Report.Of(file, ref)
	if len(findings) == 0 {
		return nil
	}
	return v.Planner().For(audit.NewCase(v.Snapshot, file, ref), findings)
}

// Rewrite writes a new value for one reference into its file, as a change set of its own. It returns the change
// set's id and the reference's new key.
func (w *Workbench) Rewrite(page, wanted, written string) (id int64, fresh string, err error) {
	v, done, err := w.toChange()
	if err != nil {
		return 0, "", err
	}
	defer done()
	file, ref, err := v.Find(page, wanted)
	if err != nil {
		return 0, "", err
	}
	f := &v.Snapshot.Files[file]
	r := &f.Doc.References[ref]
	edit, err := repair.Edit(f.Doc.Encoding, r, written)
	if err != nil {
		return 0, "", err
	}
	set := change.Set{
		Title: title(page, r, written),
		Files: []change.File{{Path: page, Before: f.Hash, Edits: []change.Edit{edit}}},
	}
	if id, err = w.carry(set, 0, nil); err != nil {
		return 0, "", err
	}
	if now, ok := w.View().Snapshot.Find(page); ok {
		if d := w.View().Snapshot.Files[now].Doc; d != nil && ref < len(d.References) {
			fresh = Key(d, ref)
		}
	}
	return id, fresh, nil
}

func title(page string, r *markup.Reference, written string) string {
	if r.Flags&markup.NoValue != 0 {
		return audit.Mono(written) + " given to a link on " + audit.Mono(page)
	}
	return audit.Mono(r.Written) + " became " + audit.Mono(written) + " on " + audit.Mono(page)
}

// toChange takes the right to change files, which done gives back, and returns the view as it is then.
func (w *Workbench) toChange() (v *View, done func(), err error) {
	if w.View() == nil {
		return nil, nil, cmp.Or(w.Problem(), ErrNotReady)
	}
	w.changes.Lock()
	return w.View(), w.changes.Unlock, nil
}

// Undo takes a change set back, as a change set of its own. Files that were edited since are named in a
// *folder.ConflictError, and nothing is done; with partly they are left alone and named, and the rest is taken back.
func (w *Workbench) Undo(id int64, partly bool) (undone int64, left []string, err error) {
	_, done, err := w.toChange()
	if err != nil {
		return 0, nil, err
	}
	defer done()
	return w.undo(id, partly)
}

// UndoLast takes back the last change that is in effect, and returns it.
func (w *Workbench) UndoLast() (store.Change, error) {
	return w.undoThe(w.store.LastUndoable, "There is nothing to undo.")
}

// Redo does the last change once more that was taken back, if nothing else was changed since, and returns the undoing that
// it takes back.
func (w *Workbench) Redo() (store.Change, error) {
	return w.undoThe(w.store.LastUndone, "There is nothing to do again: nothing was undone, or something else was changed since.")
}

func (w *Workbench) undoThe(last func(folder int64) (store.Change, error), none string) (store.Change, error) {
	_, done, err := w.toChange()
	if err != nil {
		return store.Change{}, err
	}
	defer done()
	c, err := last(w.ID)
	if errors.Is(err, store.ErrNotFound) {
		return c, &GoneError{none}
	}
	if err == nil {
		_, _, err = w.undo(c.ID, false)
	}
	return c, w.store.Explained(err)
}

func (w *Workbench) undo(id int64, partly bool) (undone int64, left []string, err error) {
	w.note()
	c, err := w.change(id)
	switch {
	case err != nil:
		return 0, nil, err
	case c.State != store.Done:
		return 0, nil, &GoneError{"That change was never completed, so there is nothing to undo."}
	case c.UndoneBy != 0:
		return 0, nil, &GoneError{"That change was undone already."}
	}
	set := w.inverse(c)
	if c.Undoes != 0 { // what that took back is followed again
		if first, err := w.store.Summary(w.ID, c.Undoes); err == nil {
			set.Followed = first.Followed
		}
	}
	undone, err = w.carry(set, id, nil)
	var conflict *folder.ConflictError
	if partly && errors.As(err, &conflict) {
		left = conflict.Paths
		set.Files = slices.DeleteFunc(set.Files, func(f change.File) bool { return slices.Contains(left, f.Standing()) })
		if len(set.Files) == 0 {
			return 0, nil, err
		}
		undone, err = w.carry(set, id, nil)
	}
	if err == nil && len(c.Followed) > 0 {
		w.unfollow(c)
	}
	return undone, left, err
}

// change returns a change set of the history with its files, or a *GoneError.
func (w *Workbench) change(id int64) (store.Change, error) {
	c, err := w.store.Change(w.ID, id)
	if errors.Is(err, store.ErrNotFound) {
		return c, &GoneError{"That change is not in the history."}
	}
	return c, w.store.Explained(err)
}

// unfollow notes, once a change set is undone, that the moves which it let references follow are not followed any more.
func (w *Workbench) unfollow(c store.Change) {
	if err := w.store.Unfollow(w.ID, c.Followed); err != nil {
		slog.Warn("what is not followed any more could not be noted", "change", c.ID, "error", err)
		return
	}
	w.recordAnew()
}

// UndoBackTo takes back a change set and all that were made after it, the last one first. What could not be taken back
// ends it, with an error that says why.
func (w *Workbench) UndoBackTo(id int64) (undone int, err error) {
	_, done, err := w.toChange()
	if err != nil {
		return 0, err
	}
	defer done()
	list, err := w.store.ChangesSince(w.ID, id)
	if err != nil {
		return 0, w.store.Explained(err)
	}
	for _, c := range list {
		if c.State != store.Done || c.UndoneBy != 0 || c.Undoes >= id {
			continue
		}
		if _, _, err := w.undo(c.ID, false); err != nil {
			return undone, err
		}
		undone++
	}
	return undone, nil
}

// inverse returns the change set that takes another one back. Its title says what is so then.
func (w *Workbench) inverse(c store.Change) change.Set {
	plan := planOf(c)
	title := c.Title
	if first, err := w.store.Summary(w.ID, c.Of); err == nil {
		title = first.Title
	}
	what := "Undone: "
	if c.Depth%2 == 1 {
		what = "Done again: "
	}
	set := change.Set{Title: what + title, Folders: c.Emptied, Emptied: c.Layout.Folders}
	for _, f := range plan.Files {
		back := change.File{Kind: f.Kind, Path: f.Path, Before: f.After, Edits: f.Inverse}
		switch f.Kind {
		case change.Moved:
			back.Path, back.From = f.From, f.Path
		case change.Made:
			back.Kind = change.Deleted
		case change.Deleted:
			back.Kind, back.Content, back.Mode = change.Made, f.Content, f.Mode
		}
		set.Files = append(set.Files, back)
	}
	return set
}

// Carry carries a change set out and renews the view with what it changed. It returns the change set's id.
func (w *Workbench) Carry(set change.Set) (int64, error) {
	_, done, err := w.toChange()
	if err != nil {
		return 0, err
	}
	defer done()
	return w.carry(set, 0, nil)
}

// carry carries a change set out and renews the view with what it changed. led are what texts that are not saved become by
// it, by the pages before it. Nothing of it hangs on a request: who asked for it may have left. It ends if it is stopped.
func (w *Workbench) carry(set change.Set, undoes int64, led map[string]string) (int64, error) {
	w.note()
	ctx, told, end := w.working(context.Background(), set.Title)
	defer end()
	texts := w.unsavedOf(set)
	j := &journal{w: w, undoes: undoes}
	err := w.folder.Carry(ctx, set, j, told)
	var c folder.Change
	for i := range set.Files {
		f := &set.Files[i]
		c.Paths = append(c.Paths, f.Path)
		if f.From != "" {
			c.Paths = append(c.Paths, f.From)
		}
	}
	if err != nil {
		w.forgetReadings(err)
		w.renew(c) // what was taken back is what is there, whatever the view had
		return 0, w.store.Explained(err)
	}
	w.renew(c)
	w.followMoves(j.moves)
	w.keepUnsaved(set, texts, led)
	w.prune()
	if w.forget && w.unnoted[j.id] == "" {
		if err := w.store.Drop(j.id); err != nil {
			slog.Warn("the journal of a change could not be dropped", "change", j.id, "error", err)
		}
	}
	return j.id, nil
}

// forgetReadings forgets what was kept of the files that did not fit a change: it may be that which is wrong.
func (w *Workbench) forgetReadings(err error) {
	var conflict *folder.ConflictError
	if !errors.As(err, &conflict) || w.forget {
		return
	}
	for _, p := range conflict.Paths {
		if err := w.store.ForgetReading(w.ID, p); err != nil {
			slog.Warn("what was kept of a file could not be forgotten", "path", p, "error", err)
		}
	}
}

// prune keeps the history within its limits.
func (w *Workbench) prune() {
	kept := w.set.Load().kept
	limit := int64(cmp.Or(kept.HistoryMegabytes, store.DefaultHistoryMegabytes)) << 20
	if _, err := w.store.Prune(w.ID, limit, kept.HistoryDays); err != nil {
		slog.Warn("the history could not be kept within its limits", "folder", w.folder.Path, "error", err)
	}
}

// note notes how far change sets got for which that failed before, as on a full disk.
func (w *Workbench) note() {
	for id, state := range w.unnoted {
		if err := w.store.SetState(id, state); err == nil {
			delete(w.unnoted, id)
		}
	}
}

// followMoves lets what is kept of pages, their drafts and what is set aside on them, stand under their new paths, and
// notes where they went.
func (w *Workbench) followMoves(to map[string]string) {
	if len(to) == 0 {
		return
	}
	kept, err := w.store.FollowMoves(w.ID, to)
	if err == nil && kept {
		err = w.takeAside()
	}
	if err != nil {
		slog.Warn("what is kept of moved pages could not follow them", "folder", w.folder.Path, "error", err)
		return
	}
	if kept {
		w.judgeAnew()
	} else {
		w.recordAnew()
	}
}

// Unified returns a change set as a unified diff that "git apply" takes, against the files as they are now.
func (w *Workbench) Unified(set change.Set) (string, error) {
	var b strings.Builder
	for i := range set.Files {
		f := &set.Files[i]
		var src []byte
		if p := f.Standing(); p != "" && (f.Kind != change.Moved || len(f.Edits) > 0) {
			var err error
			if src, err = w.folder.Read(p); err != nil || !f.Before.Is(src) {
				return "", &folder.ConflictError{Paths: []string{p}}
			}
		}
		diff, err := f.Unified(src)
		if err != nil {
			return "", err
		}
		b.WriteString(diff)
	}
	return b.String(), nil
}

// Recover completes or takes back the change sets that were cut short when the program was last stopped.
func (w *Workbench) Recover() error {
	w.changes.Lock()
	defer w.changes.Unlock()
	list, err := w.store.Unfinished(w.ID)
	if err != nil {
		return w.store.Explained(err)
	}
	for _, c := range list {
		plan := planOf(c)
		completed, err := w.folder.Recover(plan)
		if err != nil {
			return err
		}
		state := store.TakenBack
		if completed {
			state = store.Done
			w.followMoves(plan.Moves())
		}
		if err := w.store.SetState(c.ID, state); err != nil {
			w.unnoted[c.ID] = state
			return w.store.Explained(err)
		}
		if w.forget {
			if err := w.store.Drop(c.ID); err != nil {
				return w.store.Explained(err)
			}
		}
	}
	w.prune()
	return nil
}

// Diff returns a change set of the history as a unified diff. A file that was edited since gives a *GoneError.
func (w *Workbench) Diff(id int64) (string, error) {
	c, err := w.change(id)
	if err != nil {
		return "", err
	}
	var b strings.Builder
	for _, f := range planOf(c).Files {
		file := change.File{Kind: f.Kind, Path: f.Path, From: f.From, Edits: f.Edits, Content: f.Content}
		src := f.Content
		if f.Kind == change.Edited || f.Kind == change.Moved {
			if src, err = w.before(f); err != nil {
				return "", err
			}
		}
		text, err := file.Unified(src)
		if err != nil {
			return "", err
		}
		b.WriteString(text)
	}
	return b.String(), nil
}

// before returns the bytes that a file had before a change, from those that it has now.
func (w *Workbench) before(f folder.PlannedFile) ([]byte, error) {
	if len(f.Edits) == 0 {
		return nil, nil
	}
	for _, p := range []string{f.Path, f.From} {
		now, err := w.folder.Read(p)
		if err != nil {
			continue
		}
		switch {
		case f.After.Is(now):
			return change.Apply(now, f.Inverse)
		case f.Before.Is(now):
			return now, nil
		}
	}
	return nil, &GoneError{f.Path + " was edited since, so there are no lines to show the change in."}
}

// History returns a stretch of the folder's change sets without their files, the last one first, and how many there are in
// all.
func (w *Workbench) History(offset, limit int) ([]store.Change, int, error) {
	list, total, err := w.store.Changes(w.ID, offset, limit)
	return list, total, w.store.Explained(err)
}

// Change returns one change set of the history, with its files, or a *GoneError.
func (w *Workbench) Change(id int64) (store.Change, error) { return w.change(id) }

// planOf makes a plan of what the history holds of a change set.
func planOf(c store.Change) *folder.Plan {
	p := &folder.Plan{Title: c.Title, Token: c.Token, Folders: c.Layout.Folders, Emptied: c.Emptied, Followed: c.Followed}
	for _, f := range c.Files {
		file := folder.PlannedFile{Kind: f.Kind, Path: f.Path, From: f.From, Before: f.Before, After: f.After, Content: f.Content, Mode: f.Mode}
		if (f.Kind == change.Made || f.Kind == change.Deleted) && file.Content == nil {
			file.Content = []byte{}
		}
		shift := 0
		for _, e := range f.Edits {
			file.Edits = append(file.Edits, change.Edit{Start: e.Start, End: e.Start + len(e.Old), New: e.New})
			start := e.Start + shift
			file.Inverse = append(file.Inverse, change.Edit{Start: start, End: start + len(e.New), New: e.Old})
			shift += len(e.New) - len(e.Old)
		}
		p.Files = append(p.Files, file)
	}
	return p
}

// journal notes one change set in the store.
type journal struct {
	w      *Workbench
	undoes int64
	id     int64
	moves  map[string]string // of the plan
}

func (j *journal) Begin(plan *folder.Plan) error {
	j.moves = plan.Moves()
	c := store.Change{
		Title: plan.Title, Undoes: j.undoes, Layout: store.Layout{Token: plan.Token, Folders: plan.Folders, Emptied: plan.Emptied, Followed: plan.Followed},
	}
	for i := range plan.Files {
		f := &plan.Files[i]
		file := store.ChangedFile{
			Kind: f.Kind, Path: f.Path, From: f.From, Before: f.Before, After: f.After, Content: f.Content, Mode: f.Mode,
		}
		for k, e := range f.Edits {
			file.Edits = append(file.Edits, store.ChangedBytes{Start: e.Start, Old: f.Inverse[k].New, New: e.New, Line: f.Lines[k]})
		}
		c.Files = append(c.Files, file)
	}
	id, err := j.w.store.Begin(j.w.ID, c)
	j.id = id
	return err
}

func (j *journal) Done() error      { return j.w.noted(j.id, store.Done) }
func (j *journal) TakenBack() error { return j.w.noted(j.id, store.TakenBack) }

// noted notes how far a change set got. If that fails, as on a full disk, it is what happened all the same: it is noted
// with the next change, or at the next start.
func (w *Workbench) noted(id int64, state store.ChangeState) error {
	if err := w.store.SetState(id, state); err != nil {
		slog.Error("how far a change got could not be noted", "change", id, "state", state, "error", err)
		w.unnoted[id] = state
	}
	return nil
}

// Source returns the bytes of a file of the folder as they are now.
func (w *Workbench) Source(path string) ([]byte, error) { return w.folder.Read(path) }

// Open opens a file of the folder for reading, of any size.
func (w *Workbench) Open(path string) (*os.File, error) { return w.folder.OpenFile(path) }

// Holds reports whether the file is one that the view has.
func (v *View) Holds(path string) (*site.File, bool) {
	i, ok := v.Snapshot.Find(path)
	if !ok {
		return nil, false
	}
	return &v.Snapshot.Files[i], true
}
