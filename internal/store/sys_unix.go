//go:build !windows

package store

import (
	"io/fs"
	"os"
)

// closeToOthers sets the mode of a file or directory that others than its owner may use.
func closeToOthers(name string, mode fs.FileMode) error {
	info, err := os.Stat(name)
	if err == nil && info.Mode().Perm()&0o077 != 0 {
		err = os.Chmod(name, mode)
	}
	return err
}
