//go:build !windows

package disk

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"syscall"
)

// openNonblocking keeps the opening of what turns out to be a pipe from waiting for its other end.
const openNonblocking = syscall.O_NONBLOCK

// identity tells files and folders apart, whatever their names.
type identity struct{ dev, ino uint64 }

// identity returns what identifies the file or folder at p.
func (f *Folder) identity(_ string, info fs.FileInfo, _ bool) identity {
	st := info.Sys().(*syscall.Stat_t)
	return identity{uint64(st.Dev), st.Ino} //nolint:unconvert // other systems have other types
}

// LinkCount returns how many names a file has on its disk.
func LinkCount(info fs.FileInfo) uint64 { return uint64(info.Sys().(*syscall.Stat_t).Nlink) }

// patiently does something that other programs may be in the way of for a moment, which they can't be here.
func patiently(do func() error) error { return do() }

// IsInUse reports whether an error says that another program has a file open, which keeps nobody from anything here.
func IsInUse(error) bool { return false }

// IsFull reports whether an error says that there is no room left on the disk.
func IsFull(err error) bool { return errors.Is(err, syscall.ENOSPC) }

// isNameTooLong reports whether an error says that a name is longer than the disk takes.
func isNameTooLong(err error) bool { return errors.Is(err, syscall.ENAMETOOLONG) }

// copyOwner gives one open file the owner of another one, as far as the account may.
func copyOwner(from, to *os.File) {
	if info, err := from.Stat(); err == nil {
		st := info.Sys().(*syscall.Stat_t)
		_ = to.Chown(int(st.Uid), int(st.Gid)) // ours already, or not ours to set
	}
}

// SyncFolder makes sure that what was made, renamed or removed in the folder at p is on the disk.
func (f *Folder) SyncFolder(p string) error {
	d, err := f.root.Open(filepath.FromSlash(p))
	if err != nil {
		return err
	}
	defer d.Close()
	return d.Sync()
}
