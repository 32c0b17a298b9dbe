package store

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/gofrs/flock"
)

// A LockedError says who else works on the data directory.
type LockedError struct {
	Dir    string
	Holder string // what the holder said of itself: its address
}

func (e *LockedError) Error() string {
	return fmt.Sprintf("Arvel already works on the data directory %s, at %s. Use that one, or start this one with --data and another directory.", e.Dir, e.Holder)
}

// The lock is on a file that nothing is written to, since some systems let nobody read what is locked. What its holder says of
// itself is in another one.
const (
	lockFile   = "arvel.lock"
	holderFile = "arvel.address"
)

// Lock is the right to change folders' files by this data directory. Whoever has it has to keep it as long as files are
// changed, and to release it then; the end of the process releases it, too.
type Lock struct {
	dir  string
	file *flock.Flock
}

// Lock takes the lock, of which there is one a data directory; a [*LockedError] if another process has it.
func (s *Store) Lock() (*Lock, error) {
	if s.Dir == "" {
		return &Lock{}, nil
	}
	file := flock.New(filepath.Join(s.Dir, lockFile), flock.SetFlag(os.O_RDWR|os.O_CREATE), flock.SetPermissions(0o600))
	got, err := file.TryLock()
	if err != nil {
		return nil, fmt.Errorf("the data directory %s can't be written: %w", s.Dir, err)
	}
	l := &Lock{s.Dir, file}
	if !got {
		holder, _ := os.ReadFile(l.holder())
		return nil, &LockedError{s.Dir, strings.TrimSpace(string(holder))}
	}
	return l, nil
}

func (l *Lock) holder() string { return filepath.Join(l.dir, holderFile) }

// Say notes what those read who find the lock taken.
func (l *Lock) Say(holder string) error {
	if l.file == nil {
		return nil
	}
	return os.WriteFile(l.holder(), []byte(holder+"\n"), 0o600)
}

// Release gives the lock back.
func (l *Lock) Release() {
	if l.file == nil {
		return
	}
	if err := os.Remove(l.holder()); err != nil && !errors.Is(err, fs.ErrNotExist) {
		_ = os.Truncate(l.holder(), 0)
	}
	_ = l.file.Unlock() // which closing it at the end of the process does, too
}
