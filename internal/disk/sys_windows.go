package disk

import (
	"cmp"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"
	"unsafe"

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

// How long a file is waited for that another program has open: editors and scanners look at what was just written.
const (
	patience = 600 * time.Millisecond
	pause    = 20 * time.Millisecond
)

// patiently does something that other programs may be in the way of for a moment.
func patiently(do func() error) error {
	for end := time.Now().Add(patience); ; time.Sleep(pause) {
		if err := do(); !IsInUse(err) && !errors.Is(err, windows.ERROR_ACCESS_DENIED) || time.Now().After(end) {
			return err
		}
	}
}

// IsInUse reports whether an error says that another program has a file open.
func IsInUse(err error) bool {
	return errors.Is(err, windows.ERROR_SHARING_VIOLATION) || errors.Is(err, windows.ERROR_LOCK_VIOLATION)
}

// IsFull reports whether an error says that there is no room left on the disk.
func IsFull(err error) bool {
	return errors.Is(err, windows.ERROR_DISK_FULL) || errors.Is(err, windows.ERROR_HANDLE_DISK_FULL)
}

// isNameTooLong reports whether an error says that a name is longer than the disk takes.
func isNameTooLong(err error) bool { return errors.Is(err, windows.ERROR_FILENAME_EXCED_RANGE) }

// SyncFolder does nothing: folders can't be synced here, and a rename is on the disk when it returns.
func (f *Folder) SyncFolder(string) error { return nil }

// ErrUnsupported: the disk or the system does not know an operation, so it has to be done in another way.
var ErrUnsupported = errors.New("not supported here")

var replaceFile = windows.NewLazySystemDLL("kernel32.dll").NewProc("ReplaceFileW")

// replacedSuffix ends the name that what was replaced has in the middle of an exchange.
const replacedSuffix = "-replaced"

func (f *Folder) full(p string) (*uint16, error) {
	return windows.UTF16PtrFromString(filepath.Join(f.Path, filepath.FromSlash(p)))
}

// Exchange swaps two files: a takes the place of b in one step, in which what was there is put aside, and gets the name of a in
// a second one. See [Folder.CompleteExchange].
func (f *Folder) Exchange(a, b string) error {
	from, err := f.full(a)
	if err != nil {
		return err
	}
	to, err := f.full(b)
	if err != nil {
		return err
	}
	aside, err := f.full(a + replacedSuffix)
	if err != nil {
		return err
	}
	err = patiently(func() error {
		const ignoreMergeErrors = 2 // of attributes and rights, which are the replaced file's as far as they can be
		ok, _, err := replaceFile.Call(uintptr(unsafe.Pointer(to)), uintptr(unsafe.Pointer(from)), uintptr(unsafe.Pointer(aside)), ignoreMergeErrors, 0, 0)
		if ok == 0 {
			return &os.LinkError{Op: "replace", Old: a, New: b, Err: err}
		}
		return nil
	})
	if errors.Is(err, windows.ERROR_UNABLE_TO_MOVE_REPLACEMENT) || errors.Is(err, windows.ERROR_UNABLE_TO_MOVE_REPLACEMENT_2) {
		// Something else came to be at b in the middle, which is the version that counts.
		if back := f.RenameToFree(a+replacedSuffix, b); errors.Is(back, fs.ErrExist) {
			return cmp.Or(f.Remove(a+replacedSuffix), ErrInterrupted)
		} else if back != nil && !errors.Is(back, fs.ErrNotExist) {
			return back
		}
		return ErrInterrupted
	}
	if err != nil {
		return err
	}
	return f.CompleteExchange(a)
}

// CompleteExchange completes an exchange of a that was cut short after its first step. It does nothing if none was.
func (f *Folder) CompleteExchange(a string) error {
	if !f.Exists(a+replacedSuffix) || f.Exists(a) {
		return nil
	}
	return f.RenameToFree(a+replacedSuffix, a)
}

// RenameToFree renames a file to a name that nothing has. It gives [fs.ErrExist] if something does.
func (f *Folder) RenameToFree(a, b string) error {
	from, err := f.full(a)
	if err != nil {
		return err
	}
	to, err := f.full(b)
	if err != nil {
		return err
	}
	err = patiently(func() error { return windows.MoveFileEx(from, to, windows.MOVEFILE_WRITE_THROUGH) })
	if err != nil {
		return &os.LinkError{Op: "rename", Old: a, New: b, Err: err}
	}
	return nil
}

// CopyAttributes does nothing: a replacing file gets those of the one that it replaces.
func CopyAttributes(_, _ *os.File) {}
