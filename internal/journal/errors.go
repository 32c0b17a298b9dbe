package journal

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"arvel/internal/disk"
)

// A ConflictError says which files are not as they were when a change was planned, so that nothing was done.
type ConflictError struct{ Paths []string }

func (e *ConflictError) Error() string {
	verb := "was"
	if len(e.Paths) > 1 {
		verb = "were"
	}
	return fmt.Sprintf("%s %s edited in the meantime, so nothing was changed. Look at it again as it is now.", strings.Join(e.Paths, ", "), verb)
}

// A WriteError says which file could not be written; everything was put back as it was.
type WriteError struct {
	Path string
	Err  error
}

func (e *WriteError) Error() string {
	why := e.Err.Error()
	switch {
	case disk.IsFull(e.Err):
		why = "the disk is full"
	case disk.IsInUse(e.Err):
		why = "another program has it open"
	case errors.Is(e.Err, fs.ErrPermission):
		why = "your account has no permission to change it"
	case errors.Is(e.Err, errReadOnly):
		why = "it is set to read-only"
	case errors.Is(e.Err, fs.ErrExist):
		why = "something else was put there in the meantime"
	}
	return fmt.Sprintf("%s can't be written: %s. Nothing was changed.", e.Path, why)
}

func (e *WriteError) Unwrap() error { return e.Err }

// An OccupiedError says that something is already where a change would put a file, so that nothing was done.
type OccupiedError struct{ Path string }

func (e *OccupiedError) Error() string {
	return fmt.Sprintf("%s is there already, so nothing was changed. Choose another name, or move that one first.", e.Path)
}

// An OutsideError says that a change would put a file outside of the folder.
type OutsideError struct{ Path string }

func (e *OutsideError) Error() string {
	return fmt.Sprintf("%s is outside of the folder, so nothing was changed.", e.Path)
}

// A FileInTheWayError says that a change would put something into what is a file, so that nothing was done.
type FileInTheWayError struct{ Path string }

func (e *FileInTheWayError) Error() string {
	return fmt.Sprintf("%s is a file, so nothing can be put into it, and nothing was changed.", e.Path)
}

// ErrStopped is why a change that its author stopped was taken back.
var ErrStopped = errors.New("It was stopped. Every file is as it was.")

// stopped returns ErrStopped in place of an error that comes of the context's end.
func stopped(ctx context.Context, err error) error {
	if ctx.Err() != nil && errors.Is(err, ctx.Err()) {
		return ErrStopped
	}
	return err
}

var errReadOnly = errors.New("read-only")

// errChanged is the reason why a file does not fit its record.
var errChanged = errors.New("not as it was planned for")
