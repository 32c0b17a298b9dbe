// Package folder is the disk: it walks, reads and watches the author's folder and carries out change sets in
// it. Nothing here leaves the folder, whatever symbolic links stand in it.
package folder

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"syscall"

	"github.com/bmatcuk/doublestar/v4"

	"arvel/core/change"
	"arvel/core/site"
)

// ReadLimit is the size in bytes above which a page is not read.
const ReadLimit = 512 << 20

// EnormousLimit is how many files a folder may hold before it is refused: it is then hardly the folder of a site.
const EnormousLimit = 500_000

// DefaultExclude are the patterns of what is left out where nothing else is said: a name, or a path relative to
// the folder, in which ** stands for any folders. Names that begin with a dot are always left out.
var DefaultExclude = []string{"node_modules"}

// Folder is an open folder.
type Folder struct {
	// Path is absolute, with symbolic links resolved.
	Path string

	exclude []string
	root    *os.Root
}

// An OpenError says why a folder can't be opened, in a sentence for the author.
type OpenError struct {
	Path, Sentence string
	Err            error
}

func (e *OpenError) Error() string { return e.Sentence }
func (e *OpenError) Unwrap() error { return e.Err }

// Open opens the folder at path. exclude are patterns of what to leave out, nil for the default. A folder that
// can't be opened gives an *OpenError.
func Open(path string, exclude []string) (*Folder, error) {
	fail := func(err error, sentence string) (*Folder, error) {
		return nil, &OpenError{path, sentence, err}
	}
	abs, err := filepath.Abs(path)
	if err == nil {
		abs, err = filepath.EvalSymlinks(abs)
	}
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return fail(err, fmt.Sprintf("There is no folder at %s. It may have been moved or renamed; choose it again.", path))
	case errors.Is(err, fs.ErrPermission):
		return fail(err, fmt.Sprintf("%s can't be read: your account has no permission for it.", path))
	case err != nil:
		return fail(err, fmt.Sprintf("%s can't be opened: %v.", path, err))
	}
	info, err := os.Stat(abs)
	if err == nil && !info.IsDir() {
		return fail(nil, fmt.Sprintf("%s is a file. Choose the folder that it stands in.", path))
	}
	if _, err := os.ReadDir(abs); err != nil {
		return fail(err, fmt.Sprintf("%s can't be read: your account has no permission for it.", path))
	}
	root, err := os.OpenRoot(abs)
	if err != nil {
		return fail(err, fmt.Sprintf("%s can't be opened: %v.", path, err))
	}
	if exclude == nil {
		exclude = DefaultExclude
	}
	for _, p := range exclude {
		if !doublestar.ValidatePattern(p) {
			root.Close()
			return fail(doublestar.ErrBadPattern, fmt.Sprintf("%q is no pattern of names: a bracket or brace in it is not closed.", p))
		}
	}
	return &Folder{Path: abs, exclude: exclude, root: root}, nil
}

// Close lets go of the folder.
func (f *Folder) Close() error { return f.root.Close() }

// Excluded tells whether what stands at p, relative to the folder, is left out.
func (f *Folder) Excluded(p string) bool {
	for _, name := range strings.Split(p, "/") {
		if strings.HasPrefix(name, ".") {
			return true
		}
	}
	for _, pattern := range f.exclude {
		pattern = strings.Trim(pattern, "/")
		if !strings.Contains(pattern, "/") {
			pattern = "**/" + pattern
		}
		for at := p; at != "." && at != ""; at = path.Dir(at) {
			if ok, _ := doublestar.Match(pattern, at); ok {
				return true
			}
		}
	}
	return false
}

// Entry is one file as the folder's listing shows it.
type Entry struct {
	Path           string // relative, with slashes
	Size, Modified int64  // bytes; nanoseconds since 1970
}

// Walk lists the files of the folder at and below the relative path p ("" for all), and what in it could not be
// listed, as sentences. Symbolic links are followed while they stay in the folder and do not lead in a circle.
func (f *Folder) Walk(p string) (entries []Entry, trouble []string, err error) {
	w := walker{f: f}
	var above []inode
	if info, err := os.Stat(filepath.Join(f.Path, filepath.FromSlash(p))); err == nil {
		above = append(above, inodeOf(info))
	}
	err = w.walk(p, above)
	return w.entries, w.trouble, err
}

type walker struct {
	f       *Folder
	entries []Entry
	trouble []string
}

type inode struct{ dev, ino uint64 }

func inodeOf(info fs.FileInfo) inode {
	if st, ok := info.Sys().(*syscall.Stat_t); ok {
		return inode{uint64(st.Dev), st.Ino}
	}
	return inode{}
}

// errEnormous ends a walk.
var errEnormous = errors.New("too many files")

func (w *walker) walk(dir string, above []inode) error {
	full := filepath.Join(w.f.Path, filepath.FromSlash(dir))
	list, err := os.ReadDir(full)
	if err != nil {
		if dir == "" {
			return &OpenError{w.f.Path, fmt.Sprintf("%s can't be read any more: it was moved, renamed or taken away.", w.f.Path), err}
		}
		if !errors.Is(err, fs.ErrNotExist) {
			w.trouble = append(w.trouble, dir+"/ can't be read: your account has no permission for it")
		}
		return nil
	}
	for _, e := range list {
		p := path.Join(dir, e.Name())
		if w.f.Excluded(p) {
			continue
		}
		if err := w.entry(p, e, above); err != nil {
			return err
		}
	}
	return nil
}

func (w *walker) entry(p string, e fs.DirEntry, above []inode) error {
	info, err := e.Info()
	if e.Type()&fs.ModeSymlink != 0 {
		info, err = w.f.root.Stat(filepath.FromSlash(p))
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			w.trouble = append(w.trouble, p+" is a symbolic link that leads out of the folder or in a circle; it was not followed")
		}
	}
	switch {
	case err != nil:
		return nil // gone since the listing, or a link to nothing
	case info.IsDir():
		at := inodeOf(info)
		for _, a := range above {
			if a == at && at != (inode{}) {
				w.trouble = append(w.trouble, p+" is a symbolic link that leads in a circle; it was not followed")
				return nil
			}
		}
		return w.walk(p, append(above[:len(above):len(above)], at))
	case info.Mode().IsRegular():
		if len(w.entries) >= EnormousLimit {
			return &OpenError{w.f.Path, fmt.Sprintf(
				"%s holds more than %d files, which is hardly the folder of a site. Choose a folder further down, or leave some of it out.",
				w.f.Path, EnormousLimit), errEnormous}
		}
		w.entries = append(w.entries, Entry{p, info.Size(), info.ModTime().UnixNano()})
	}
	return nil
}

// Stat returns the entry of the file at p. What is no regular file does not exist.
func (f *Folder) Stat(p string) (Entry, error) {
	info, err := f.root.Stat(filepath.FromSlash(p))
	if err != nil {
		return Entry{}, err
	}
	if !info.Mode().IsRegular() {
		return Entry{}, fs.ErrNotExist
	}
	return Entry{p, info.Size(), info.ModTime().UnixNano()}, nil
}

// IsFolder tells whether a folder stands at p.
func (f *Folder) IsFolder(p string) bool {
	info, err := f.root.Stat(filepath.FromSlash(p))
	return err == nil && info.IsDir()
}

// Read returns the bytes of the file at p, which are never more than ReadLimit.
func (f *Folder) Read(p string) ([]byte, error) { return f.ReadInto(p, nil) }

// ReadInto is Read for those who read many files and keep none: it writes into room, if that is enough.
func (f *Folder) ReadInto(p string, room []byte) ([]byte, error) {
	file, err := f.root.Open(filepath.FromSlash(p))
	if err != nil {
		return nil, err
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() {
		return nil, &fs.PathError{Op: "read", Path: p, Err: errors.New("not a regular file")}
	}
	if info.Size() > ReadLimit {
		return nil, &fs.PathError{Op: "read", Path: p, Err: ErrTooLarge}
	}
	b := room[:0]
	if int64(cap(b)) <= info.Size() {
		b = make([]byte, 0, info.Size()+info.Size()/4+1)
	}
	for {
		n, err := file.Read(b[len(b):cap(b)])
		b = b[:len(b)+n]
		switch {
		case errors.Is(err, io.EOF):
			return b, nil
		case err != nil:
			return nil, err
		case len(b) > ReadLimit:
			return nil, &fs.PathError{Op: "read", Path: p, Err: ErrTooLarge}
		case len(b) == cap(b):
			b = append(b, 0)[:len(b)]
		}
	}
}

// All lists the files and folders in the folder at p, those that are left out too, as paths in the opened folder. The
// folder itself is the first of the folders.
func (f *Folder) All(p string) (files, folders []string) {
	_ = fs.WalkDir(f.root.FS(), p, func(q string, e fs.DirEntry, err error) error {
		switch {
		case err != nil:
		case e.IsDir():
			folders = append(folders, q)
		default:
			files = append(files, q)
		}
		return nil
	})
	return files, folders
}

// Folders lists the names of the folders in the folder at p that are not left out.
func (f *Folder) Folders(p string) []string {
	list, err := fs.ReadDir(f.root.FS(), cmp.Or(p, "."))
	if err != nil {
		return nil
	}
	var out []string
	for _, e := range list {
		if e.IsDir() && !f.Excluded(path.Join(p, e.Name())) {
			out = append(out, e.Name())
		}
	}
	return out
}

// OpenFile opens the file at p for reading.
func (f *Folder) OpenFile(p string) (*os.File, error) { return f.root.Open(filepath.FromSlash(p)) }

// Hash returns the hash of a file's bytes, of any size, and its first [site.HeadSize] bytes.
func (f *Folder) Hash(p string) (hash change.Hash, head []byte, err error) {
	file, err := f.root.Open(filepath.FromSlash(p))
	if err != nil {
		return hash, nil, err
	}
	defer file.Close()
	head = make([]byte, site.HeadSize)
	n, err := io.ReadFull(file, head)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return hash, nil, err
	}
	head = head[:n]
	hash, err = change.HashAll(io.MultiReader(bytes.NewReader(head), file))
	return hash, head, err
}

// is tells whether the file at p holds what the hash is of.
func (f *Folder) is(p string, hash change.Hash) bool {
	file, err := f.root.Open(filepath.FromSlash(p))
	if err != nil {
		return false
	}
	defer file.Close()
	return hash.IsAll(file)
}

// ErrTooLarge is the reason why a page above ReadLimit is not read.
var ErrTooLarge = errors.New("it is larger than 512 MB")

// Trouble turns an error of reading a file into the end of a sentence that begins with its name.
func Trouble(err error) string {
	switch {
	case err == nil:
		return ""
	case errors.Is(err, fs.ErrPermission):
		return "can't be read: your account has no permission for it"
	case errors.Is(err, fs.ErrNotExist):
		return "was taken away while it was read"
	case errors.Is(err, ErrTooLarge):
		return "was not read: it is larger than 512 MB"
	}
	return "can't be read: " + err.Error()
}

// Link is a symbolic link in a folder.
type Link struct {
	// Path is where it stands, Written where it says that it leads.
	Path, Written string
}

// To returns the path, relative to the folder, that the link would lead to if it stood at p; false if that is outside.
func (f *Folder) To(l Link, p string) (string, bool) {
	to := filepath.FromSlash(l.Written)
	if filepath.IsAbs(to) {
		rel, err := filepath.Rel(f.Path, to)
		if err != nil {
			return "", false
		}
		to = rel
	} else {
		to = filepath.Join(filepath.Dir(filepath.FromSlash(p)), to)
	}
	return filepath.ToSlash(to), filepath.IsLocal(to)
}

// Links lists the symbolic links in the folder. What can't be read is passed over.
func (f *Folder) Links() (out []Link) {
	_ = filepath.WalkDir(f.Path, func(full string, e fs.DirEntry, err error) error {
		if err != nil {
			return nil
		}
		rel, err := filepath.Rel(f.Path, full)
		if e.IsDir() && err == nil && rel != "." && f.Excluded(filepath.ToSlash(rel)) {
			return filepath.SkipDir
		}
		if e.Type()&fs.ModeSymlink == 0 {
			return nil
		}
		if written, unread := os.Readlink(full); err == nil && unread == nil {
			out = append(out, Link{filepath.ToSlash(rel), written})
		}
		return nil
	})
	return out
}
