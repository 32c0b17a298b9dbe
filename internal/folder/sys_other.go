//go:build !linux

package folder

import (
	"errors"
	"os"
)

// errUnsupported: the disk or the system does not know an operation, so it has to be done in another way.
var errUnsupported = errors.New("not supported here")

func exchange(*os.Root, string, string) error { return errUnsupported }

func renameToFree(*os.Root, string, string) error { return errUnsupported }

func copyAttributes(_, _ *os.File) {}
