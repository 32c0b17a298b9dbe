package disk

import (
	"errors"
	"os"
	"path"
	"path/filepath"

	"golang.org/x/sys/unix"
)

// ErrUnsupported: the disk or the system does not know an operation, so it has to be done in another way.
var ErrUnsupported = errors.New("not supported here")

// Exchange swaps two files of one folder in a single step, so that neither name is free in between. It gives
// [ErrUnsupported] where the disk or the system can't.
func (f *Folder) Exchange(a, b string) error { return renameWith(f.root, a, b, unix.RENAME_EXCHANGE) }

// CompleteExchange does nothing: an exchange is one step here.
func (f *Folder) CompleteExchange(string) error { return nil }

// RenameToFree renames a file within its folder to a name that nothing has. It gives [fs.ErrExist] if something does, and
// [ErrUnsupported] where the disk or the system can't tell in the same step.
func (f *Folder) RenameToFree(from, to string) error {
	return renameWith(f.root, from, to, unix.RENAME_NOREPLACE)
}

func renameWith(root *os.Root, from, to string, flags uint) error {
	if path.Dir(from) != path.Dir(to) {
		return ErrUnsupported
	}
	dir, err := root.Open(filepath.FromSlash(path.Dir(from)))
	if err != nil {
		return err
	}
	defer dir.Close()
	fd := int(dir.Fd())
	err = unix.Renameat2(fd, path.Base(from), fd, path.Base(to), flags)
	switch {
	case errors.Is(err, unix.EINVAL), errors.Is(err, unix.ENOSYS), errors.Is(err, unix.EOPNOTSUPP):
		return ErrUnsupported
	case err != nil:
		return &os.LinkError{Op: "rename", Old: from, New: to, Err: err}
	}
	return nil
}

// CopyAttributes gives one open file the owner and the extended attributes of another one, as far as the account may set them.
func CopyAttributes(from, to *os.File) {
	copyOwner(from, to)
	size, err := unix.Flistxattr(int(from.Fd()), nil)
	if err != nil || size == 0 {
		return
	}
	names := make([]byte, size)
	if size, err = unix.Flistxattr(int(from.Fd()), names); err != nil {
		return
	}
	for start, i := 0, 0; i < size; i++ {
		if names[i] != 0 {
			continue
		}
		name := string(names[start:i])
		start = i + 1
		n, err := unix.Fgetxattr(int(from.Fd()), name, nil)
		if err != nil {
			continue
		}
		value := make([]byte, n)
		if n, err = unix.Fgetxattr(int(from.Fd()), name, value); err == nil {
			_ = unix.Fsetxattr(int(to.Fd()), name, value[:n], 0) // some are the system's own
		}
	}
}
