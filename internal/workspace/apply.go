package workspace

import (
	"cmp"
	"context"
	"errors"
	"log/slog"
	"strings"

	"arvel/core/change"
	"arvel/core/plan"
	"arvel/internal/disk"
	"arvel/internal/journal"
	"arvel/internal/store"
)

// Plan is what is to be changed, worked out on a view before anything is. [Session.Apply] carries it out.
type Plan struct {
	plan.Plan

	view *View
	make func(*View) error // works the plan out, on a newer view if need be
	// onTexts makes the same plan on a snapshot in which pages hold texts that are not saved; nil if those are merged.
	onTexts onTexts
	none    string        // why there is nothing to do, if that is a mistake
	saves   string        // the page whose unsaved text is saved by it
	undoes  *store.Change // the change that it takes back
}

// plan works out a plan on the current view.
func (s *Session) plan(p *Plan, work func(*View) error) error {
	v := s.View()
	if v == nil {
		return cmp.Or(s.Problem(), ErrNotReady)
	}
	p.view, p.make = v, work
	return work(v)
}

// A ClashError says why a plan can't be carried out, a sentence for each reason.
type ClashError struct{ Sentences []string }

func (e *ClashError) Error() string { return strings.Join(e.Sentences, " ") }

// Apply carries a plan out, whole or not at all, renews the view with what it changed, and returns the id of the change in the
// history; 0 if there was nothing to do. If the view was renewed since the plan was made, the plan is made once more. What is
// being applied doesn't end with ctx, since whoever asked for it may have left; [Session.Stop] ends it, and then everything is
// taken back.
func (s *Session) Apply(ctx context.Context, p *Plan) (int64, error) {
	s.changes.Lock()
	defer s.changes.Unlock()
	return s.apply(ctx, p)
}

func (s *Session) apply(ctx context.Context, p *Plan) (int64, error) {
	if v := s.View(); v != p.view {
		p.view, p.Plan = v, plan.Plan{}
		if err := p.make(v); err != nil {
			return 0, err
		}
	}
	switch {
	case len(p.Clashes) > 0:
		return 0, &ClashError{p.Clashes}
	case len(p.Set.Files)+len(p.Set.Folders) == 0 && p.none != "":
		return 0, &GoneError{p.none}
	case len(p.Set.Files)+len(p.Set.Folders) == 0:
		s.Drafts.drop(p.saves)
		return 0, nil
	}
	texts := s.Drafts.of(p.Set)
	delete(texts, p.saves)
	rebased := s.rebased(p, texts)
	id, err := s.carryOut(context.WithoutCancel(ctx), p)
	if err != nil {
		return 0, err
	}
	s.Drafts.follow(p.Set, texts, rebased)
	s.Drafts.drop(p.saves)
	if p.undoes != nil && len(p.undoes.Followed) > 0 {
		s.unfollow(p.undoes)
	}
	return id, nil
}

// carryOut carries the set of a plan out and shows the folder as it is then.
func (s *Session) carryOut(ctx context.Context, p *Plan) (int64, error) {
	s.History.retry()
	ctx, progress, end := s.beginWork(ctx, p.Set.Title)
	defer end()
	n := &notes{history: s.History}
	if p.undoes != nil {
		n.undoes = p.undoes.ID
	}
	err := journal.Apply(ctx, s.folder, p.Set, n, progress)
	if err != nil {
		s.forgetReadings(err)
	}
	s.renew(disk.Change{Paths: p.Set.Paths()}, len(p.Set.Files) <= formerOf && len(n.moves) == 0) // what was taken back is there, too, whatever the view had
	if err != nil {
		return 0, s.store.Explained(err)
	}
	s.followMoves(n.moves)
	s.prune()
	s.History.forgotten(n.id)
	return n.id, nil
}

// formerOf is how many files a change set has at most of which the record keeps what they were: a page that was saved, not
// thousands that were repaired.
const formerOf = 16

// forgetReadings forgets what was kept of the files that did not fit a change: that may be what is wrong.
func (s *Session) forgetReadings(err error) {
	var conflict *journal.ConflictError
	if !errors.As(err, &conflict) || s.forget {
		return
	}
	for _, p := range conflict.Paths {
		if err := s.store.ForgetReading(s.ID, p); err != nil {
			slog.Warn("what was kept of a file could not be forgotten", "path", p, "error", err)
		}
	}
}

// followMoves keeps what is kept of moved pages, their drafts and what is set aside on them, under their new paths, and notes
// where they went.
func (s *Session) followMoves(to map[string]string) {
	if len(to) == 0 {
		return
	}
	kept, err := s.store.FollowMoves(s.ID, to)
	s.recordChanged()
	if err == nil && kept {
		err = s.takeAside()
	}
	if err != nil {
		slog.Warn("what is kept of moved pages could not follow them", "folder", s.folder.Path, "error", err)
		return
	}
	if kept {
		s.rejudge()
	} else {
		s.refreshRecord()
	}
}

// unfollow notes, once a change is undone, that references don't follow the moves any more that it let them follow.
func (s *Session) unfollow(c *store.Change) {
	if err := s.store.Unfollow(s.ID, c.Followed); err != nil {
		slog.Warn("what is not followed any more could not be noted", "change", c.ID, "error", err)
		return
	}
	s.recordChanged()
	s.refreshRecord()
}

// prune keeps the history within the limits that are set.
func (s *Session) prune() {
	kept := s.conditions.Load().kept
	s.History.prune(kept.HistoryMegabytes, kept.HistoryDays)
}

// Unified returns a change set as a unified diff that "git apply" takes, against the files as they are now.
func (s *Session) Unified(set change.Set) (string, error) {
	var b strings.Builder
	for i := range set.Files {
		f := &set.Files[i]
		var src []byte
		if p := f.Source(); p != "" && (f.Kind != change.Moved || len(f.Edits) > 0) {
			var err error
			if src, err = s.folder.Read(p); err != nil || !f.Before.Is(src) {
				return "", &journal.ConflictError{Paths: []string{p}}
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

// Recover completes or takes back the changes that were cut short when the program was last stopped. No file is to be changed
// before.
func (s *Session) Recover() error {
	s.changes.Lock()
	defer s.changes.Unlock()
	list, err := s.store.Unfinished(s.ID)
	if err != nil {
		return s.store.Explained(err)
	}
	for i := range list {
		c := &list[i]
		completed, err := journal.Recover(s.folder, &c.Record)
		if err != nil {
			return err
		}
		state := store.TakenBack
		if completed {
			state = store.Done
			s.followMoves(c.Moves())
		}
		if err := s.History.settle(c.ID, state); err != nil {
			return s.store.Explained(err)
		}
	}
	s.prune()
	return nil
}
