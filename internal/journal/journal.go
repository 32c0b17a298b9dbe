// Package journal carries out change records in a folder: whole, or not at all, whatever happens in between.
//
// A set is prepared first: its files are looked up, and what it replaces is recorded. The record is on disk before the first
// byte of the folder changes. Then everything that is wanted is staged, which is to say written and synced beside its
// place. To commit, what was there before goes, and what is wanted takes its place. What was cut short is completed or taken
// back by recovering, from the record and from what is found in the folder. At no point is a file overwritten that somebody else
// saved in the meantime.
package journal

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync/atomic"

	"golang.org/x/sync/errgroup"

	"arvel/core/change"
	"arvel/internal/disk"
)

// Notes keeps a record outside of the folder while it is carried out.
type Notes interface {
	// Begin keeps all that is needed to complete or take back the change set; once it returns, that is on disk.
	Begin(record *change.Record) error
	// Done notes that every file is written; TakenBack that every file is as it was. Either has happened whether it can be
	// noted or not.
	Done() error
	TakenBack() error
}

// Apply carries a change set out, whole or not at all. If ctx is done before it is carried out, everything is taken back and
// the error is [ErrStopped]. progress is called with how many of how many steps are done; it may be nil.
func Apply(ctx context.Context, folder *disk.Folder, set change.Set, notes Notes, progress func(done, total int)) error {
	f := files{folder}
	record, err := Prepare(ctx, folder, set)
	if err != nil {
		return stopped(ctx, err)
	}
	if err := notes.Begin(record); err != nil {
		return fmt.Errorf("the change could not be noted down, so nothing was changed: %w", err)
	}
	Step()
	if err := f.transition(ctx, record, true, true, progress); err != nil {
		if err := f.restoreSaves(record, f.tasks(record, true)); err != nil {
			slog.Error("what was put aside could not be given back", "error", err) // the next start tries again
		}
		if back := f.transition(context.WithoutCancel(ctx), record, false, false, nil); back != nil {
			return fmt.Errorf("%w And it could not be put back: %v. It will be tried again at the next start.", err, back)
		}
		return errors.Join(stopped(ctx, err), notes.TakenBack())
	}
	Step()
	return notes.Done()
}

// files is the folder that a record is carried out in.
type files struct{ *disk.Folder }

// Step is called between any two steps of carrying out a change set. Tests end the process there.
var Step = func() {}

// atOnce is how many files are worked on at a time: each waits for the disk.
const atOnce = 8

// eachOf calls do for each of a list, with its index, several at a time. It stops at the first error, which it returns.
func eachOf[T any](ctx context.Context, list []T, do func(int, T) error) error {
	g, stopped := errgroup.WithContext(ctx)
	g.SetLimit(atOnce)
	for i, one := range list {
		if stopped.Err() != nil {
			break
		}
		g.Go(func() error { return do(i, one) })
	}
	return cmp.Or(g.Wait(), ctx.Err())
}

// counted returns a function that counts one of total steps, and reports progress about a hundred times in all.
func counted(total int, progress func(done, total int)) (step func()) {
	if progress == nil {
		return func() {}
	}
	var done atomic.Int64
	every := int64(max(1, total/100))
	return func() {
		if n := done.Add(1); n%every == 0 {
			progress(int(n), total)
		}
	}
}
