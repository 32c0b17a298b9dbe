package store

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"syscall"
)

// A LockedError says who else works on the data directory.
type LockedError struct {
	Dir    string
	Holder string // what the holder said of itself: its address
}

func (e *LockedError) Error() string {
	return fmt.Sprintf("Arvel already works on the data directory %s, at %s. Use that one, or start this one with --data and another directory.", e.Dir, e.Holder)
}

// Lock is the right to change folders' files by this data directory. Whoever has it has to keep it as long as files are
// changed, and to release it then; the end of the process releases it, too.
type Lock struct{ file *os.File }

// Lock takes the lock, of which there is one a data directory; an *LockedError if another process has it.
func (s *Store) Lock() (*Lock, error) {
	if s.Dir == "" {
		return &Lock{}, nil
	}
	file, err := os.OpenFile(filepath.Join(s.Dir, "arvel.lock"), os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, fmt.Errorf("the data directory %s can't be written: %w", s.Dir, err)
	}
	if err := syscall.Flock(int(file.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		holder, _ := io.ReadAll(io.LimitReader(file, 200))
		file.Close()
		return nil, &LockedError{s.Dir, strings.TrimSpace(string(holder))}
	}
	return &Lock{file}, nil
}

// Say notes what others are told who find the lock taken.
func (l *Lock) Say(holder string) error {
	if l.file == nil {
		return nil
	}
	if err := l.file.Truncate(0); err != nil {
		return err
	}
	_, err := l.file.WriteAt([]byte(holder), 0)
	return err
}

// Release gives the lock back.
func (l *Lock) Release() {
	if l.file != nil {
		l.file.Close()
	}
}
