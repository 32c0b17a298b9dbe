package workspace

import (
	"cmp"
	"errors"
	"log/slog"
	"strings"
	"sync"

	"arvel/core/change"
	"arvel/internal/disk"
	"arvel/internal/journal"
	"arvel/internal/store"
)

// Change is one change of a folder's history.
type Change = store.Change

// ChangeDone is the state of a change that was carried out.
const ChangeDone = store.Done

// History is what was changed in a folder.
type History struct {
	store  *store.Store
	folder *disk.Folder
	id     int64
	forget bool

	mu      sync.Mutex
	unnoted map[int64]store.ChangeState // how far changes got, where that could not be noted
}

// List returns a stretch of the changes without their files, the last one first, and how many there are in all.
func (h *History) List(find string, offset, limit int) ([]Change, int, error) {
	list, total, err := h.store.Changes(h.id, find, offset, limit)
	return list, total, h.store.Explained(err)
}

// Change returns one change with its files, or a *GoneError.
func (h *History) Change(id int64) (Change, error) {
	c, err := h.store.Change(h.id, id)
	if errors.Is(err, store.ErrNotFound) {
		return c, &GoneError{"That change is not in the history."}
	}
	return c, h.store.Explained(err)
}

// Diff returns a change as a unified diff. A file that was edited since gives a *GoneError.
func (h *History) Diff(id int64) (string, error) {
	c, err := h.Change(id)
	if err != nil {
		return "", err
	}
	var b strings.Builder
	for i := range c.Files {
		f := &c.Files[i]
		src := f.Content
		if f.Kind == change.Edited || f.Kind == change.Moved {
			if src, err = h.before(f); err != nil {
				return "", err
			}
		}
		text, err := f.Unified(src)
		if err != nil {
			return "", err
		}
		b.WriteString(text)
	}
	return b.String(), nil
}

// before returns the bytes that a file had before a change, made of those that it has now.
func (h *History) before(f *change.File) ([]byte, error) {
	if len(f.Edits) == 0 {
		return nil, nil
	}
	for _, p := range []string{f.Path, f.From} {
		now, err := h.folder.Read(p)
		if err != nil {
			continue
		}
		switch {
		case f.After.Is(now):
			return change.Apply(now, change.Inverse(f.Edits))
		case f.Before.Is(now):
			return now, nil
		}
	}
	return nil, &GoneError{f.Path + " was edited since, so there are no lines to show the change in."}
}

// inverse returns the set that takes a change back. Its title says what the folder is like then.
func (h *History) inverse(c *Change) change.Set {
	title := c.Title
	if first, err := h.store.Summary(h.id, c.Of); err == nil {
		title = first.Title
	}
	what := "Undone: "
	if c.Depth%2 == 1 {
		what = "Done again: "
	}
	set := c.Inverse()
	set.Title = what + title
	return set
}

// prune keeps the history within limits; 0 for the usual size, and for any age.
func (h *History) prune(megabytes, days int) {
	limit := int64(cmp.Or(megabytes, store.DefaultHistoryMegabytes)) << 20
	if _, err := h.store.Prune(h.id, limit, days); err != nil {
		slog.Warn("the history could not be kept within its limits", "folder", h.folder.Path, "error", err)
	}
}

// note notes how far a change got. If that fails, as on a full disk, it is what happened all the same: it is noted with the
// next change, or at the next start.
func (h *History) note(id int64, state store.ChangeState) {
	if err := h.store.SetState(id, state); err != nil {
		slog.Error("how far a change got could not be noted", "change", id, "state", state, "error", err)
		h.later(id, state)
	}
}

func (h *History) later(id int64, state store.ChangeState) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.unnoted[id] = state
}

// retry notes what could not be noted before.
func (h *History) retry() {
	h.mu.Lock()
	defer h.mu.Unlock()
	for id, state := range h.unnoted {
		if err := h.store.SetState(id, state); err == nil {
			delete(h.unnoted, id)
		}
	}
}

// settle notes how a change ended that was cut short, and drops it if nothing is to be kept.
func (h *History) settle(id int64, state store.ChangeState) error {
	if err := h.store.SetState(id, state); err != nil {
		h.later(id, state)
		return err
	}
	if h.forget {
		return h.store.Drop(id)
	}
	return nil
}

// forgotten drops a change that was carried out, if nothing is to be kept.
func (h *History) forgotten(id int64) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if !h.forget || h.unnoted[id] != "" {
		return
	}
	if err := h.store.Drop(id); err != nil {
		slog.Warn("the record of a change could not be dropped", "change", id, "error", err)
	}
}

// notes keeps the record of one change in the history.
type notes struct {
	history *History
	undoes  int64 // the change that it takes back, or 0
	id      int64
	moves   map[string]string // of the record
}

var _ journal.Notes = (*notes)(nil)

func (n *notes) Begin(r *change.Record) (err error) {
	n.moves = r.Moves()
	n.id, err = n.history.store.Begin(n.history.id, n.undoes, r)
	return err
}

func (n *notes) Done() error {
	n.history.note(n.id, store.Done)
	return nil
}

func (n *notes) TakenBack() error {
	n.history.note(n.id, store.TakenBack)
	return nil
}
