package workspace

import (
	"errors"

	"arvel/internal/disk"
	"arvel/internal/journal"
	"arvel/internal/store"
)

// ErrNotReady is returned while the folder is read for the first time.
var ErrNotReady = errors.New("The folder is still being read.")

// A GoneError says that what was asked for is not there any more.
type GoneError struct{ Sentence string }

func (e *GoneError) Error() string { return e.Sentence }

// A SettingError says what in some settings can't be.
type SettingError struct{ Sentence string }

func (e *SettingError) Error() string { return e.Sentence }

// A NameError says why a file can't be made under a name.
type NameError struct{ Sentence string }

func (e *NameError) Error() string { return e.Sentence }

// The errors of the disk, the journal and the store that whoever works with a session is given.
type (
	OpenError         = disk.OpenError
	MissingError      = disk.MissingError
	ConflictError     = journal.ConflictError
	WriteError        = journal.WriteError
	OccupiedError     = journal.OccupiedError
	OutsideError      = journal.OutsideError
	FileInTheWayError = journal.FileInTheWayError
	DamagedError      = store.DamagedError
)

// ErrStopped is why a change that its author stopped was taken back, ErrUnknownFolder why there is no folder of an id.
var (
	ErrStopped       = journal.ErrStopped
	ErrUnknownFolder = store.ErrNotFound
)
