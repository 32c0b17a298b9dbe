//go:build !linux && !windows

package disk

import (
	"errors"
	"os"
)

// ErrUnsupported: the disk or the system does not know an operation, so it has to be done in another way.
var ErrUnsupported = errors.New("not supported here")

// Exchange swaps two files of one folder in a single step.
func (*Folder) Exchange(_, _ string) error { return ErrUnsupported }

// CompleteExchange does nothing.
func (*Folder) CompleteExchange(string) error { return nil }

// RenameToFree renames a file to a name that nothing has.
func (*Folder) RenameToFree(_, _ string) error { return ErrUnsupported }

// CopyAttributes gives one open file the owner of another one.
func CopyAttributes(from, to *os.File) { copyOwner(from, to) }
