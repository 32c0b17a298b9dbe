// Package workspace holds the open folders together. A [Session] is one of them: what reads it, its view, its history, its
// settings, and what is applied to it. Every front end speaks to this package alone.
package workspace

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"strconv"
	"strings"
	"sync"

	"golang.org/x/sync/singleflight"

	"arvel/internal/disk"
	"arvel/internal/store"
)

// Workspace is the folders that are open, and the data directory that keeps what is known of each. Opening one holds up
// nobody who works on another.
type Workspace struct {
	store   *store.Store
	opening singleflight.Group // by the folder's id, or path where that is not known yet

	mu     sync.Mutex
	open   map[int64]*Session
	closed bool
}

// What the store keeps of a folder, as front ends see it.
type (
	KnownFolder  = store.Folder
	Settings     = store.Settings
	PlaceSetting = store.PlaceSetting
	Lock         = store.Lock
	LockedError  = store.LockedError
)

// DefaultDir is the data directory by the platform's convention, DefaultExclude what is left out of a folder for which nothing
// else is set.
var (
	DefaultDir     = store.DefaultDir
	DefaultExclude = disk.DefaultExclude
)

// New opens the data directory at dir, which is made if need be; with "" everything is kept in memory only. A database that is
// damaged is put aside; see [Workspace.PutAside].
func New(dir string) (*Workspace, error) {
	st, err := store.Open(dir)
	if err != nil {
		return nil, err
	}
	return On(st), nil
}

// On returns a workspace on an open store, which is closed with it.
func On(st *store.Store) *Workspace { return &Workspace{store: st, open: map[int64]*Session{}} }

// Dir returns the data directory, "" for none.
func (w *Workspace) Dir() string { return w.store.Dir }

// PutAside returns where a damaged database was put when the data directory was opened; "" if it was not.
func (w *Workspace) PutAside() string { return w.store.PutAside }

// Lock takes the right to change files by this data directory; a [*LockedError] if another process has it.
func (w *Workspace) Lock() (*Lock, error) { return w.store.Lock() }

// Close closes all folders and the data directory.
func (w *Workspace) Close() error {
	w.CloseFolders()
	return w.store.Close()
}

// CloseFolders closes all folders. None is opened any more.
func (w *Workspace) CloseFolders() {
	w.mu.Lock()
	all := w.open
	w.open, w.closed = map[int64]*Session{}, true
	w.mu.Unlock()
	for _, s := range all {
		s.Close()
	}
}

// Alone opens the folder at path for one caller, who closes it. It is not read yet; files are changed only after
// [Session.Recover].
func (w *Workspace) Alone(path string, o Options) (*Session, error) { return Open(w.store, path, o) }

// Open opens the folder at path, unless it is open, and begins to read it. One that is open but is not the folder at its path
// any more is opened anew.
func (w *Workspace) Open(path string) (*Session, error) {
	s, err, _ := w.opening.Do(path, func() (any, error) { return w.begin(path) })
	if err != nil {
		return nil, err
	}
	return s.(*Session), nil
}

func (w *Workspace) begin(path string) (*Session, error) {
	s, err := Open(w.store, path, Options{})
	if err != nil {
		return nil, err
	}
	w.mu.Lock()
	already := w.open[s.ID]
	w.mu.Unlock()
	if already != nil && already.Present() == nil {
		s.Close()
		return already, nil
	}
	if already != nil {
		w.shut(s.ID)
	}
	if err := s.Recover(); err != nil {
		// The folder can be looked at all the same, and the next start tries again.
		slog.Error("a change that was cut short could not be completed", "folder", s.Path(), "error", err)
	}
	// The watch begins before the reading does, so that nothing falls between them.
	if err := s.Watch(); err != nil {
		s.Close()
		return nil, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if other := w.open[s.ID]; other != nil || w.closed {
		s.Close()
		if other == nil {
			return nil, context.Canceled
		}
		return other, nil
	}
	w.open[s.ID] = s
	go first(s)
	return s, nil
}

// first reads a folder for the first time. Whatever fails stays the folder's own problem.
func first(s *Session) {
	defer func() {
		if e := recover(); e != nil {
			s.fail(fmt.Errorf("Arvel fails on what is in this folder: %v", e)) //nolint:staticcheck // a sentence for the author
		}
	}()
	if err := s.Read(context.Background()); err != nil {
		slog.Error("a folder could not be read", "folder", s.Path(), "error", err)
	}
}

// Session returns the open folder of that id, opening it if it was opened before; [ErrUnknownFolder] if it never was.
func (w *Workspace) Session(id int64) (*Session, error) {
	w.mu.Lock()
	s := w.open[id]
	w.mu.Unlock()
	if s != nil {
		return s, nil
	}
	again, err, _ := w.opening.Do(strconv.FormatInt(id, 10), func() (any, error) {
		known, err := w.Folder(id)
		if err != nil {
			return nil, err
		}
		return w.begin(known.Path)
	})
	if err != nil {
		return nil, err
	}
	return again.(*Session), nil
}

// shut closes a folder.
func (w *Workspace) shut(id int64) {
	w.mu.Lock()
	s := w.open[id]
	delete(w.open, id)
	w.mu.Unlock()
	if s != nil {
		s.Close()
	}
}

// Folders returns the folders that were opened, the last one first.
func (w *Workspace) Folders() ([]KnownFolder, error) {
	list, err := w.store.Folders()
	return list, w.store.Explained(err)
}

// Folder returns what is known of a folder, or [ErrUnknownFolder].
func (w *Workspace) Folder(id int64) (KnownFolder, error) {
	known, err := w.store.Folder(id)
	return known, w.store.Explained(err)
}

// Forget closes a folder and forgets it, with its history.
func (w *Workspace) Forget(id int64) error {
	w.shut(id)
	return w.store.Forget(id)
}

// SetExclude sets the patterns of what is left out of a folder, and opens it anew. A pattern that can't be read gives an
// [*OpenError], and nothing is set.
func (w *Workspace) SetExclude(id int64, patterns []string) (*Session, error) {
	known, err := w.Folder(id)
	if err != nil {
		return nil, err
	}
	patterns = append([]string{}, slices.DeleteFunc(slices.Clone(patterns), func(p string) bool { return strings.TrimSpace(p) == "" })...)
	tried, err := disk.Open(known.Path, patterns)
	if err != nil {
		return nil, err
	}
	tried.Close()
	if err := w.store.SetExclude(id, patterns); err != nil {
		return nil, err
	}
	w.shut(id)
	return w.Session(id)
}

// Choice is a folder of the machine as one chooses what to open.
type Choice = disk.Choice

// Browse lists the folders in the folder at an absolute path, for choosing one; in the home directory if it is "".
func Browse(path string) (Choice, error) { return disk.Browse(path) }
