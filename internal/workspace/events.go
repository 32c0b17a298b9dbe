package workspace

import (
	"sync"

	"arvel/core/audit"
)

// EventKind says what an event is about.
type EventKind string

// The kinds of events.
const (
	// Progress: so many pages of so many are read.
	Progress EventKind = "progress"
	// Renewed: there is a new view.
	Renewed EventKind = "renewed"
	// Failed: the folder can't be read any more.
	Failed EventKind = "failed"
	// Working: so many steps of so many of a change, or of what is made ready for it, are done.
	Working EventKind = "working"
)

// Event is something that happened in an open folder.
type Event struct {
	Kind       EventKind `json:"kind"`
	Read       int       `json:"read,omitempty"`
	Total      int       `json:"total,omitempty"`
	Version    uint64    `json:"version,omitempty"`
	Paths      []string  `json:"paths,omitempty"` // what changed on disk; at most pathsTold
	Broke      int       `json:"broke"`           // references that are broken and were not
	Mended     int       `json:"mended"`          // references that were broken and are not
	Problem    string    `json:"problem,omitempty"`
	PathsInAll int       `json:"pathsInAll,omitempty"`
	Gone       int       `json:"gone,omitempty"` // how many of the paths are not there any more
	Work       *Work     `json:"work,omitempty"` // what is being done; its end has Done equal to Total
}

const pathsShown = 20

// hub hands events to all who listen.
type hub struct {
	mu        sync.Mutex
	listeners map[chan Event]bool
	closed    bool
}

func (h *hub) send(e Event) {
	e.PathsInAll = len(e.Paths)
	if len(e.Paths) > pathsShown {
		e.Paths = e.Paths[:pathsShown]
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.listeners {
		select {
		case c <- e:
		default: // who is that slow asks for the whole state anyway when the next one comes
		}
	}
}

func (h *hub) close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.closed = true
	for c := range h.listeners {
		close(c)
	}
	h.listeners = nil
}

// Listen returns a channel of the folder's events, closed when the folder is, and how to stop listening.
func (s *Session) Listen() (events <-chan Event, stop func()) {
	c := make(chan Event, 64)
	h := &s.hub
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.closed {
		close(c)
		return c, func() {}
	}
	if h.listeners == nil {
		h.listeners = map[chan Event]bool{}
	}
	h.listeners[c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.listeners, c)
	}
}

// brokenReference identifies a broken reference across two readings of its page.
type brokenReference struct{ page, written string }

// compare returns what the change from one view to the next broke and mended.
func compare(before, after *View) Event {
	e := Event{Kind: Renewed, Version: after.Version}
	was := brokenCounts(before)
	for b, n := range brokenCounts(after) {
		e.Broke += max(0, n-was[b])
		e.Mended += max(0, was[b]-n)
		delete(was, b)
	}
	for _, n := range was {
		e.Mended += n
	}
	return e
}

func brokenCounts(v *View) map[brokenReference]int {
	out := map[brokenReference]int{}
	for i := range v.Snapshot.Files {
		f := &v.Snapshot.Files[i]
		if v.Report.Tally(int32(i), audit.Broken) == 0 {
			continue
		}
		for ref, s := range v.Report.States(int32(i)) {
			if s == audit.Broken {
				out[brokenReference{f.Path, f.Doc.References[ref].Written}]++
			}
		}
	}
	return out
}
