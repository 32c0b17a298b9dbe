package workspace

import (
	"context"
	"sync/atomic"
	"time"
)

// Work is something that takes a while: a large change, or what is made ready for one.
type Work struct {
	Title       string `json:"title"`
	Done, Total int    // steps
}

// work is what is being done now.
type work struct {
	title       string
	done, total atomic.Int64
	stop        context.CancelFunc
}

// shownAfter is how long something takes before its progress is shown.
const shownAfter = 300 * time.Millisecond

// beginWork begins something that may take a while. Its context ends when its author stops it, with ctx, or with the
// session; progress is called with how far it is; end has to be called when it is over.
func (s *Session) beginWork(ctx context.Context, title string) (_ context.Context, progress func(done, total int), end func()) {
	ctx, cancel := s.alive(ctx)
	now := &work{title: title, stop: cancel}
	s.work.Store(now)
	begun := time.Now()
	var shown atomic.Bool
	progress = func(done, total int) {
		now.done.Store(int64(done))
		now.total.Store(int64(total))
		if shown.Load() || time.Since(begun) > shownAfter {
			shown.Store(true)
			s.hub.send(Event{Kind: Working, Work: now.report()})
		}
	}
	return ctx, progress, func() {
		cancel()
		s.work.CompareAndSwap(now, nil)
		if shown.Load() {
			over := now.report()
			over.Done, over.Total = 1, 1
			s.hub.send(Event{Kind: Working, Work: over})
		}
	}
}

func (w *work) report() *Work {
	return &Work{Title: w.title, Done: int(w.done.Load()), Total: int(w.total.Load())}
}

// Work returns what is being done now, or nil.
func (s *Session) Work() *Work {
	if now := s.work.Load(); now != nil {
		return now.report()
	}
	return nil
}

// Stop stops what is being done now. What it changed is taken back, so that every file is whole.
func (s *Session) Stop() {
	if now := s.work.Load(); now != nil {
		now.stop()
	}
}
