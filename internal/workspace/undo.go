package workspace

import (
	"context"
	"errors"
	"slices"

	"arvel/core/change"
	"arvel/internal/journal"
	"arvel/internal/store"
)

// UndoPlan takes a change back, as a change of its own.
type UndoPlan struct {
	Plan
	// Undone is the change that it takes back.
	Undone Change
	// Left are the files that were edited since, which are left alone.
	Left []string
}

// PlanUndo plans to take a change back. Files that were edited since give a [*journal.ConflictError] when it is applied; with
// partly they are left alone, and the rest is taken back.
func (s *Session) PlanUndo(id int64, partly bool) (*UndoPlan, error) {
	return s.planUndo(partly, func() (Change, error) { return s.History.Change(id) })
}

// PlanUndoLast plans to take back the last change that is in effect.
func (s *Session) PlanUndoLast() (*UndoPlan, error) {
	return s.planUndo(false, func() (Change, error) { return s.last(s.store.LastUndoable, "There is nothing to undo.") })
}

// PlanRedo plans to do the last change once more that was taken back, if nothing else was changed since.
func (s *Session) PlanRedo() (*UndoPlan, error) {
	return s.planUndo(false, func() (Change, error) {
		return s.last(s.store.LastUndone, "There is nothing to redo: nothing was undone, or something else was changed since.")
	})
}

// last returns a change, with its files, that is found by its place in the history; a *GoneError if there is none.
func (s *Session) last(find func(folder int64) (Change, error), none string) (Change, error) {
	c, err := find(s.ID)
	if errors.Is(err, store.ErrNotFound) {
		return c, &GoneError{none}
	}
	if err != nil {
		return c, s.store.Explained(err)
	}
	return s.History.Change(c.ID)
}

func (s *Session) planUndo(partly bool, which func() (Change, error)) (*UndoPlan, error) {
	p := &UndoPlan{}
	return p, s.plan(&p.Plan, func(*View) error {
		s.History.retry()
		c, err := which()
		switch {
		case err != nil:
			return err
		case c.State != store.Done:
			return &GoneError{"That change was never completed, so there is nothing to undo."}
		case c.UndoneBy != 0:
			return &GoneError{"That change was undone already."}
		}
		p.Undone, p.undoes, p.Left = c, &c, nil
		p.Set = s.History.inverse(&c)
		if c.Undoes != 0 { // what that took back is followed again
			if first, err := s.store.Summary(s.ID, c.Undoes); err == nil {
				p.Set.Followed = first.Followed
			}
		}
		if !partly {
			return nil
		}
		var conflict *journal.ConflictError
		if _, err := journal.Prepare(s.life, s.folder, p.Set); errors.As(err, &conflict) {
			p.Left = conflict.Paths
			rest := slices.DeleteFunc(slices.Clone(p.Set.Files), func(f change.File) bool { return slices.Contains(p.Left, f.Source()) })
			if len(rest) == 0 {
				return conflict
			}
			p.Set.Files = rest
		}
		return nil
	})
}

// UndoBackTo takes back a change and all that were made after it, the last one first, but for the files that were edited since, which
// are left. What else can't be taken back ends it, with an error that says why.
func (s *Session) UndoBackTo(ctx context.Context, id int64) (undone int, left []string, err error) {
	s.changes.Lock()
	defer s.changes.Unlock()
	list, err := s.store.ChangesSince(s.ID, id)
	if err != nil {
		return 0, nil, s.store.Explained(err)
	}
	for _, c := range list {
		if c.State != store.Done || c.UndoneBy != 0 || c.Undoes >= id {
			continue
		}
		p, err := s.PlanUndo(c.ID, true)
		var conflict *journal.ConflictError
		if errors.As(err, &conflict) {
			left = append(left, conflict.Paths...)
			continue
		}
		if err == nil {
			_, err = s.apply(ctx, &p.Plan)
		}
		if err != nil {
			return undone, left, err
		}
		left = append(left, p.Left...)
		undone++
	}
	slices.Sort(left)
	return undone, slices.Compact(left), nil
}
