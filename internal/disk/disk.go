// Package folder is the disk: it walks, reads and watches the author's folder and carries out change sets in
// it. Nothing here leaves the folder, whatever symbolic links are in it.
package disk

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"syscall"

	"github.com/bmatcuk/doublestar/v4"

	"arvel/core/change"
	"arvel/core/site"
)

// ReadLimit is the size in bytes above which a page is not read.
const ReadLimit = 512 << 20

// EnormousLimit is how many files and folders a folder may hold before it is refused: it is then hardly the folder of a
// site.
const EnormousLimit = 500_000

// DeepLimit is how many folders may lie within each other before one is not read.
const DeepLimit = 500

// DefaultExclude are the patterns of what is left out where nothing else is said: a name, or a path relative to
// the folder, in which ** stands for any folders. Names that begin with a dot are always left out.
var DefaultExclude = []string{"node_modules"}

// Folder is an open folder.
type Folder struct {
	// Path is absolute, with symbolic links resolved.
	Path string

	exclude []string
	root    *os.Root
	own     fs.FileInfo // of the folder that was opened, whatever is at its path by now
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
		return fail(nil, fmt.Sprintf("%s is a file. Choose the folder that it is in.", path))
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
			return fail(doublestar.ErrBadPattern, fmt.Sprintf("%q is not a pattern of names: a bracket or brace in it is not closed.", p))
		}
	}
	return &Folder{Path: abs, exclude: exclude, root: root, own: info}, nil
}

// A MissingError says that the folder that was opened is not at its path any more, so that nothing is read or written.
type MissingError struct {
	Path string
	// Replaced: another folder is there in its place.
	Replaced bool
}

func (e *MissingError) Error() string {
	if e.Replaced {
		return fmt.Sprintf("There is another folder at %s now. Open it again to work on that one.", e.Path)
	}
	return fmt.Sprintf("The folder %s is gone: it was moved, renamed or deleted. As soon as it is back, Arvel goes on.", e.Path)
}

// Present returns nil if the folder that was opened still is at its path, else a *MissingError.
func (f *Folder) Present() error {
	info, err := os.Stat(f.Path)
	switch {
	case err != nil || !info.IsDir():
		return &MissingError{Path: f.Path}
	case !os.SameFile(info, f.own):
		return &MissingError{Path: f.Path, Replaced: true}
	}
	return nil
}

// Close lets go of the folder.
func (f *Folder) Close() error { return f.root.Close() }

// Excluded reports whether what is at p, relative to the folder, is left out.
func (f *Folder) Excluded(p string) bool {
	for at := p; at != "." && at != ""; at = path.Dir(at) {
		if f.excludes(at) {
			return true
		}
	}
	return false
}

// excludes reports whether a pattern names p itself, whatever is said of the folders that it is in.
func (f *Folder) excludes(p string) bool {
	name := path.Base(p)
	if strings.HasPrefix(name, ".") {
		return true
	}
	for _, pattern := range f.exclude {
		pattern = strings.Trim(pattern, "/")
		against := p
		if !strings.Contains(pattern, "/") {
			against = name
		}
		if ok, _ := doublestar.Match(pattern, against); ok {
			return true
		}
	}
	return false
}

// Entry is one file as the folder's listing shows it.
type Entry struct {
	Path           string // relative, with slashes
	Size, Modified int64  // bytes; nanoseconds since 1970
	// OriginalPath is the path at which the file is listed, if this is only another name of it: a symbolic link, a hard link, or
	// what is seen through a symbolic link to a folder. "" for the file itself.
	OriginalPath string
}

// Listing is what a walk found.
type Listing struct {
	Entries []Entry
	// Trouble says what could not be listed, and which names lead elsewhere, a sentence each.
	Trouble []string
	// Unknown are the folders in which nobody knows what there is, since they could not be listed; Outside the symbolic
	// links that were not followed.
	Unknown, Outside []string
	// OriginalPath are symbolic links to folders that are listed at another path: that, by the link's.
	Same map[string]string
}

// Walk lists the files of the folder at and below the relative path p ("" for all), in order. Symbolic links are followed
// while they stay in the folder and do not lead in a circle. It ends with the context's error when ctx is done.
func (f *Folder) Walk(ctx context.Context, p string) (Listing, error) {
	w := walker{ctx: ctx, f: f, places: map[identity]string{}, folders: map[identity]string{}}
	w.Same = map[string]string{}
	root, err := f.root.OpenRoot(filepath.FromSlash(cmp.Or(p, ".")))
	switch {
	case err != nil && p == "":
		return w.Listing, cmp.Or(f.Present(), err)
	case errors.Is(err, fs.ErrNotExist):
		return w.Listing, nil
	case err != nil:
		w.unreadable(p, err)
		return w.Listing, nil
	}
	err = w.walk(root, p, strings.Count(p, "/"))
	if err == nil {
		err = w.follow()
	}
	slices.SortFunc(w.Entries, func(a, b Entry) int { return strings.Compare(a.Path, b.Path) })
	return w.Listing, err
}

type walker struct {
	Listing
	ctx     context.Context
	f       *Folder
	count   int                 // of files and folders
	places  map[identity]string // where each file is listed
	folders map[identity]string // where each folder is
	links   []string            // symbolic links, which are looked at once all else is listed
}

// errEnormous ends a walk.
var errEnormous = errors.New("too many files")

// walk lists dir, which root is opened at, and closes root.
func (w *walker) walk(root *os.Root, dir string, depth int) error {
	defer root.Close()
	if depth >= DeepLimit {
		w.Unknown = append(w.Unknown, dir)
		w.Trouble = append(w.Trouble, fmt.Sprintf("%s/ was not read: more than %d folders are nested there", shortened(dir), DeepLimit))
		return nil
	}
	list, err := readDir(root)
	if err != nil {
		w.unreadable(dir, err)
		return nil
	}
	info, err := root.Stat(".")
	if err != nil {
		w.unreadable(dir, err)
		return nil
	}
	w.folders[w.f.identity(dir, info, false)] = dir
	for _, e := range list {
		p := path.Join(dir, e.Name())
		if w.f.excludes(p) {
			continue
		}
		if err := cmp.Or(w.ctx.Err(), w.more()); err != nil {
			return err
		}
		if err := w.entry(root, p, e, depth); err != nil {
			return err
		}
	}
	return nil
}

func readDir(root *os.Root) ([]fs.DirEntry, error) {
	dir, err := root.Open(".")
	if err != nil {
		return nil, err
	}
	defer dir.Close()
	list, err := dir.ReadDir(-1)
	slices.SortFunc(list, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return list, err
}

func (w *walker) more() error {
	if w.count++; w.count <= EnormousLimit {
		return nil
	}
	return &OpenError{w.f.Path, fmt.Sprintf(
		"%s holds more than %d files and folders, which is hardly the folder of a site. Choose a folder further down, or leave some of it out.",
		w.f.Path, EnormousLimit), errEnormous}
}

func (w *walker) unreadable(dir string, err error) {
	if errors.Is(err, fs.ErrNotExist) {
		return // gone since it was listed
	}
	w.Unknown = append(w.Unknown, dir)
	why := "your account has no permission for it"
	if !errors.Is(err, fs.ErrPermission) {
		why = Reason(err)
	}
	w.Trouble = append(w.Trouble, shortened(dir)+"/ can't be read: "+why)
}

// shortened leaves out the middle of a path that is too long to be read.
func shortened(p string) string {
	if len(p) <= 200 {
		return p
	}
	return p[:90] + " … " + p[len(p)-90:]
}

func (w *walker) entry(root *os.Root, p string, e fs.DirEntry, depth int) error {
	switch {
	case e.Type()&fs.ModeSymlink != 0:
		w.links = append(w.links, p)
	case e.IsDir():
		below, err := root.OpenRoot(e.Name())
		if err != nil {
			w.unreadable(p, err)
			return nil
		}
		return w.walk(below, p, depth+1)
	case e.Type().IsRegular():
		info, err := e.Info()
		if err != nil {
			if info, err = root.Lstat(e.Name()); err != nil {
				return nil // gone since the listing
			}
		}
		w.list(p, info, false)
	default: // reading it says what it is
		w.Entries = append(w.Entries, Entry{Path: p})
	}
	return nil
}

// list lists a regular file, once at its place and then as another name of that.
func (w *walker) list(p string, info fs.FileInfo, link bool) {
	at := w.f.identity(p, info, link)
	place, known := w.places[at]
	if !known {
		w.places[at] = p
		place = ""
	}
	w.Entries = append(w.Entries, Entry{p, info.Size(), info.ModTime().UnixNano(), place})
	if known {
		w.Trouble = append(w.Trouble, p+" is another name of "+place+", where it is shown and repaired")
	}
}

// follow follows the symbolic links that were met with.
func (w *walker) follow() error {
	for len(w.links) > 0 {
		p := w.links[0]
		w.links = w.links[1:]
		info, err := w.f.root.Stat(filepath.FromSlash(p))
		switch {
		case errors.Is(err, fs.ErrNotExist):
		case err != nil:
			w.Outside = append(w.Outside, p)
			w.Trouble = append(w.Trouble, p+" is a symbolic link out of the folder, or in a circle, so it was not followed")
		case info.IsDir():
			if real, known := w.folders[w.f.identity(p, info, true)]; known {
				w.Same[p] = real
				w.Trouble = append(w.Trouble, p+"/ is another name of "+cmp.Or(real, ".")+"/, where its files are shown and repaired")
				continue
			}
			below, err := w.f.root.OpenRoot(filepath.FromSlash(p))
			if err != nil {
				w.unreadable(p, err)
				continue
			}
			if err := w.walk(below, p, strings.Count(p, "/")); err != nil {
				return err
			}
		case info.Mode().IsRegular():
			w.list(p, info, true)
		default:
			w.Entries = append(w.Entries, Entry{Path: p})
		}
	}
	return nil
}

// ErrSeveralNames is the reason why only a walk can tell what is at a path.
var ErrSeveralNames = errors.New("it has several names")

// Stat returns the entry of the file at p. What is no regular file does not exist. A symbolic link, or a file with hard
// links, gives [ErrSeveralNames]: which of its names it is listed under is found by [Folder.Walk].
func (f *Folder) Stat(p string) (Entry, error) {
	info, err := f.root.Lstat(filepath.FromSlash(p))
	switch {
	case err != nil:
		return Entry{}, err
	case info.Mode()&fs.ModeSymlink != 0, info.Mode().IsRegular() && LinkCount(info) > 1:
		return Entry{}, ErrSeveralNames
	case !info.Mode().IsRegular():
		return Entry{}, fs.ErrNotExist
	}
	return Entry{Path: p, Size: info.Size(), Modified: info.ModTime().UnixNano()}, nil
}

// errIrregular is the reason why something that is no regular file is not opened.
var errIrregular = errors.New("it is a pipe, a socket or a device")

// Irregular reports whether a file was not opened since it is no regular one.
func Irregular(err error) bool { return errors.Is(err, errIrregular) || errors.Is(err, syscall.EISDIR) }

// OpenFile opens the regular file at p for reading. Nothing else is ever opened, so that no pipe holds anybody up.
func (f *Folder) OpenFile(p string) (*os.File, error) {
	name := filepath.FromSlash(p)
	info, err := f.root.Stat(name)
	if err != nil {
		return nil, err
	}
	if info.IsDir() {
		return nil, &fs.PathError{Op: "open", Path: p, Err: syscall.EISDIR}
	}
	if !info.Mode().IsRegular() {
		return nil, &fs.PathError{Op: "open", Path: p, Err: errIrregular}
	}
	file, err := f.root.OpenFile(name, os.O_RDONLY|openNonblocking, 0)
	if err != nil {
		return nil, err
	}
	// It may have become something else in between.
	if info, err = file.Stat(); err == nil && !info.Mode().IsRegular() {
		err = &fs.PathError{Op: "open", Path: p, Err: errIrregular}
	}
	if err != nil {
		file.Close()
		return nil, err
	}
	return file, nil
}

// Root returns the folder for reading and writing. No path leads out of it.
func (f *Folder) Root() *os.Root { return f.root }

// ErrInterrupted is given by [Folder.Exchange] if somebody else wrote one of the files in the middle of it. Both are as they
// were left.
var ErrInterrupted = errors.New("written by somebody else in the meantime")

// Rename renames a file; one that is at to already is replaced.
func (f *Folder) Rename(from, to string) error {
	return patiently(func() error { return f.root.Rename(filepath.FromSlash(from), filepath.FromSlash(to)) })
}

// Remove removes a file or an empty folder.
func (f *Folder) Remove(p string) error {
	return patiently(func() error { return f.root.Remove(filepath.FromSlash(p)) })
}

// Exists reports whether something is at p, be it a symbolic link that leads nowhere.
func (f *Folder) Exists(p string) bool {
	_, err := f.root.Lstat(filepath.FromSlash(p))
	return err == nil
}

// IsFolder reports whether a folder is at p.
func (f *Folder) IsFolder(p string) bool {
	info, err := f.root.Stat(filepath.FromSlash(p))
	return err == nil && info.IsDir()
}

// Read returns the bytes of the file at p, which are never more than ReadLimit.
func (f *Folder) Read(p string) ([]byte, error) { return f.ReadInto(p, nil) }

// ReadInto is Read for those who read many files and keep none: it writes into room, if that is enough.
func (f *Folder) ReadInto(p string, room []byte) ([]byte, error) {
	file, err := f.OpenFile(p)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		return nil, err
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

// Contents lists the files and folders in the folder at p, those that are left out too, as paths in the opened folder. The
// folder itself is the first of the folders. irregular are pipes, sockets, devices, and what could not be listed.
func (f *Folder) Contents(p string) (files, folders, irregular []string) {
	_ = fs.WalkDir(f.root.FS(), p, func(q string, e fs.DirEntry, err error) error {
		switch {
		case err != nil:
			irregular = append(irregular, q)
		case e.IsDir():
			folders = append(folders, q)
		case e.Type().IsRegular(), e.Type()&fs.ModeSymlink != 0:
			files = append(files, q)
		default:
			irregular = append(irregular, q)
		}
		return nil
	})
	return files, folders, irregular
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

// Hash returns the hash of a file's bytes and its first [site.HeadSize] bytes. Of a file that is large and holds no
// references, only samples are hashed; see [change.HashFile].
func (f *Folder) Hash(p string) (hash change.Hash, head []byte, err error) {
	file, err := f.OpenFile(p)
	if err != nil {
		return hash, nil, err
	}
	defer file.Close()
	head = make([]byte, site.HeadSize)
	n, err := io.ReadFull(file, head)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return hash, nil, err
	}
	info, err := file.Stat()
	if err != nil {
		return hash, nil, err
	}
	if site.IsRead(p) {
		hash, err = change.HashAll(io.NewSectionReader(file, 0, info.Size()))
	} else {
		hash, err = change.HashFile(file, info.Size())
	}
	return hash, head[:n], err
}

// Holds reports whether the file at p holds what the hash is of.
func (f *Folder) Holds(p string, hash change.Hash) bool {
	file, err := f.OpenFile(p)
	if err != nil {
		return false
	}
	defer file.Close()
	info, err := file.Stat()
	return err == nil && hash.IsFile(file, info.Size())
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
	case Irregular(err):
		return "is a pipe, a socket or a device, so it was left alone"
	case errors.Is(err, ErrTooLarge):
		return "was not read: it is larger than 512 MB"
	}
	return "can't be read: " + Reason(err)
}

// Reason returns why the system refused something, without the path, which is said beside it.
func Reason(err error) string {
	var path *fs.PathError
	if errors.As(err, &path) {
		err = path.Err
	}
	if isNameTooLong(err) {
		return "its name is longer than the disk takes"
	}
	return err.Error()
}

// Symlink is a symbolic link in a folder.
type Symlink struct {
	// Path is where it is, Written where it says that it leads.
	Path, Written string
}

// SymlinkTarget returns the path, relative to the folder, that the link would lead to if it were at p; false if that is outside.
func (f *Folder) SymlinkTarget(l Symlink, p string) (string, bool) {
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

// Symlinks lists the symbolic links in the folder. What can't be read is passed over.
func (f *Folder) Symlinks() (out []Symlink) {
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
			out = append(out, Symlink{filepath.ToSlash(rel), written})
		}
		return nil
	})
	return out
}
