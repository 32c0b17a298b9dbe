package disk

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"golang.org/x/sys/windows"
)

// openNonblocking is nothing here: named pipes are not in folders.
const openNonblocking = 0

// identity tells files and folders apart: by the path at which they are when links are followed, in folded letters. Two hard
// links to one file are two files, since asking for more would take opening every file.
type identity string

// identity returns what identifies the file or folder at p.
func (f *Folder) identity(p string, _ fs.FileInfo, link bool) identity {
	if link {
		if full, err := filepath.EvalSymlinks(filepath.Join(f.Path, filepath.FromSlash(p))); err == nil {
			if rel, err := filepath.Rel(f.Path, full); err == nil {
				p = filepath.ToSlash(rel)
			}
		}
	}
	if p == "." {
		p = ""
	}
	return identity(strings.ToLower(p))
}

// LinkCount returns how many names a file has on its disk, which is not known here without opening it.
func LinkCount(fs.FileInfo) uint64 { return 1 }

// IsFull reports whether an error says that there is no room left on the disk.
func IsFull(err error) bool {
	return errors.Is(err, windows.ERROR_DISK_FULL) || errors.Is(err, windows.ERROR_HANDLE_DISK_FULL)
}

// isNameTooLong reports whether an error says that a name is longer than the disk takes.
func isNameTooLong(err error) bool { return errors.Is(err, windows.ERROR_FILENAME_EXCED_RANGE) }

// copyOwner does nothing: what is made in a folder has the owner and the rights that the folder gives.
func copyOwner(_, _ *os.File) {}

// SyncFolder does nothing: folders can't be synced here, and a rename is on the disk when it returns.
func (f *Folder) SyncFolder(string) error { return nil }
