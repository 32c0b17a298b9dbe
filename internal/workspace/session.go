package workspace

import (
	"context"
	"os"
	"sync"
	"sync/atomic"

	"arvel/internal/disk"
	"arvel/internal/store"
)

// Session is one open folder: it is read, watched, and changed by what it applies. It is safe for use by several goroutines.
// What it answers to readers comes from its view, which is immutable; nobody who only reads waits for the disk.
type Session struct {
	ID int64
	// Drafts are the texts that are not saved yet, History the changes that were made.
	Drafts  *Drafts
	History *History

	store    *store.Store
	folder   *disk.Folder
	forget   bool // nothing of what is read is kept
	stranger bool // the store did not know the folder before

	changes    sync.Mutex // held while the view or the files are changed
	view       atomic.Pointer[View]
	conditions atomic.Pointer[conditions]
	record     atomic.Pointer[record]
	tried      atomic.Pointer[triedLinks]

	read, total atomic.Int64
	problem     atomic.Pointer[error]
	hub         hub
	work        atomic.Pointer[work]
	life        context.Context // ends when the session is closed
	end         context.CancelFunc
}

// Options are how a folder is opened.
type Options struct {
	// Place is where references are resolved: "root", "disk" or a path such as "/club/"; "" for what is set for the
	// folder, which then also decides at which other places everything has to land.
	Place      string
	IgnoreCase bool
	// Exclude are patterns to leave out besides those that are kept for the folder.
	Exclude []string
	// Forget keeps nothing of what is read, and no history. The journal of a change is kept until it is done.
	Forget bool
}

// Open opens a folder without reading it yet. Files are changed only after [Session.Recover].
func Open(st *store.Store, path string, o Options) (*Session, error) {
	f, err := disk.Open(path, nil)
	if err != nil {
		return nil, err
	}
	before, err := st.Knows(f.Path)
	if err != nil {
		f.Close()
		return nil, st.Explained(err)
	}
	known, err := st.OpenFolder(f.Path)
	if err != nil {
		f.Close()
		return nil, st.Explained(err)
	}
	if known.Exclude != nil || len(o.Exclude) > 0 {
		exclude := known.Exclude
		if exclude == nil {
			exclude = disk.DefaultExclude
		}
		f.Close()
		if f, err = disk.Open(path, append(exclude[:len(exclude):len(exclude)], o.Exclude...)); err != nil {
			return nil, err
		}
	}
	s := &Session{
		ID: known.ID, store: st, folder: f, forget: o.Forget, stranger: !before,
		Drafts:  &Drafts{store: st, folder: f, id: known.ID},
		History: &History{store: st, folder: f, id: known.ID, forget: o.Forget, unnoted: map[int64]store.ChangeState{}},
	}
	s.life, s.end = context.WithCancel(context.Background())
	set, err := s.conditionsOf(known.Settings, o.Place, o.IgnoreCase)
	if err != nil {
		f.Close()
		return nil, st.Explained(err)
	}
	s.conditions.Store(set)
	return s, nil
}

// Present returns nil if the folder that was opened still is at its path, else a *disk.MissingError.
func (s *Session) Present() error { return s.folder.Present() }

// Path returns the folder's absolute path.
func (s *Session) Path() string { return s.folder.Path }

// View returns the folder as it was last read, or nil while it is read for the first time.
func (s *Session) View() *View { return s.view.Load() }

// Progress returns how many of the folder's files are read, and of how many.
func (s *Session) Progress() (read, total int) { return int(s.read.Load()), int(s.total.Load()) }

// Problem returns why the folder could not be read, or nil.
func (s *Session) Problem() error {
	if p := s.problem.Load(); p != nil {
		return *p
	}
	return nil
}

// Close stops reading, watching and changing, and lets go of the folder.
func (s *Session) Close() {
	s.end()
	s.changes.Lock()
	defer s.changes.Unlock()
	s.hub.close()
	s.folder.Close()
	if s.forget && s.stranger {
		if list, err := s.store.Unfinished(s.ID); err == nil && len(list) == 0 {
			_ = s.store.Forget(s.ID) // which is tried again by nobody, and only keeps a path
		}
	}
}

// alive returns a context that ends with ctx, and with the workbench.
func (s *Session) alive(ctx context.Context) (context.Context, context.CancelFunc) {
	ctx, cancel := context.WithCancel(ctx)
	stop := context.AfterFunc(s.life, cancel)
	return ctx, func() { stop(); cancel() }
}

// Source returns the bytes of a file of the folder as they are now.
func (s *Session) Source(path string) ([]byte, error) { return s.folder.Read(path) }

// OpenFile opens a file of the folder for reading, of any size.
func (s *Session) OpenFile(path string) (*os.File, error) { return s.folder.OpenFile(path) }
