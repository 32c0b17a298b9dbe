package folder

import (
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"syscall"

	"arvel/core/change"
	"arvel/core/markup"
)

// A ConflictError says which files are not as they were when a change was planned, so that nothing was done.
type ConflictError struct{ Paths []string }

func (e *ConflictError) Error() string {
	verb := "was"
	if len(e.Paths) > 1 {
		verb = "were"
	}
	return fmt.Sprintf("%s %s edited in the meantime, so nothing was changed. Look at it again as it is now.", strings.Join(e.Paths, ", "), verb)
}

// A WriteError says which file could not be written; everything was put back as it was.
type WriteError struct {
	Path string
	Err  error
}

func (e *WriteError) Error() string {
	why := e.Err.Error()
	switch {
	case errors.Is(e.Err, syscall.ENOSPC):
		why = "the disk is full"
	case errors.Is(e.Err, fs.ErrPermission):
		why = "your account has no permission to change it"
	case errors.Is(e.Err, errReadOnly):
		why = "it is set to read-only"
	}
	return fmt.Sprintf("%s can't be written: %s. Nothing was changed.", e.Path, why)
}

func (e *WriteError) Unwrap() error { return e.Err }

var errReadOnly = errors.New("read-only")

// Journal is told of a change set before the first byte is written and after the last.
type Journal interface {
	// Begin keeps all that is needed to complete or take back the change set; once it returns, that is on disk.
	Begin(plan *Plan) error
	// Done notes that every file is written; TakenBack that every file is as it was.
	Done() error
	TakenBack() error
}

// Plan is a change set with the bytes that it replaces.
type Plan struct {
	Title string
	Files []PlannedFile
}

// PlannedFile is one file of a plan.
type PlannedFile struct {
	Path          string
	Before, After change.Hash
	Edits         []change.Edit
	Inverse       []change.Edit // the edits that take it back
	old, new      []byte
}

// Prepare reads the files of a set and checks that each is as it was planned for; else a *ConflictError names
// those that are not.
func (f *Folder) Prepare(set change.Set) (*Plan, error) {
	plan := &Plan{Title: set.Title}
	var conflict ConflictError
	for _, file := range set.Files {
		old, err := f.Read(file.Path)
		if err != nil || change.HashOf(old) != file.Before {
			conflict.Paths = append(conflict.Paths, file.Path)
			continue
		}
		edits, err := change.Sorted(file.Edits, len(old))
		if err != nil {
			return nil, err
		}
		fresh, err := change.Apply(old, edits)
		if err != nil {
			return nil, err
		}
		inverse, err := change.Invert(old, edits)
		if err != nil {
			return nil, err
		}
		plan.Files = append(plan.Files, PlannedFile{
			Path: file.Path, Before: file.Before, After: change.HashOf(fresh),
			Edits: edits, Inverse: inverse, old: old, new: fresh,
		})
	}
	if len(conflict.Paths) > 0 {
		return nil, &conflict
	}
	return plan, nil
}

// Carry carries a change set out: whole, or not at all. See architecture, "Carrying out a change set".
func (f *Folder) Carry(set change.Set, j Journal) error {
	plan, err := f.Prepare(set)
	if err != nil {
		return err
	}
	if err := j.Begin(plan); err != nil {
		return fmt.Errorf("the change could not be noted down, so nothing was changed: %w", err)
	}
	for i := range plan.Files {
		file := &plan.Files[i]
		if err := f.replace(file.Path, file.new); err != nil {
			return f.takeBack(plan.Files[:i], j, &WriteError{file.Path, err})
		}
	}
	return j.Done()
}

// takeBack puts back the files that were written before cause stopped the change.
func (f *Folder) takeBack(written []PlannedFile, j Journal, cause error) error {
	for i := range written {
		if err := f.replace(written[i].Path, written[i].old); err != nil {
			return fmt.Errorf("%w And %s could not be put back: %v. It will be tried again at the next start.", cause, written[i].Path, err)
		}
	}
	return errors.Join(cause, j.TakenBack())
}

// Recover completes the change set of a plan that was cut short, or takes it back if a file in it was edited
// since. It tells which.
func (f *Folder) Recover(plan *Plan) (completed bool, err error) {
	current := make([][]byte, len(plan.Files))
	completed = true
	for i := range plan.Files {
		p := &plan.Files[i]
		b, err := f.Read(p.Path)
		if err != nil {
			b = nil
		}
		current[i] = b
		if h := change.HashOf(b); h != p.Before && h != p.After {
			completed = false
		}
	}
	for i := range plan.Files {
		p := &plan.Files[i]
		from, edits := p.Before, p.Edits
		if !completed {
			from, edits = p.After, p.Inverse
		}
		if change.HashOf(current[i]) != from {
			continue
		}
		fresh, err := change.Apply(current[i], edits)
		if err == nil {
			err = f.replace(p.Path, fresh)
		}
		if err != nil {
			return completed, &WriteError{p.Path, err}
		}
	}
	return completed, f.sweep(plan)
}

// temporary begins the name of a file that is written beside the one it will replace.
const temporary = ".arvel-"

// sweep removes what a killed process left half written beside the files of a plan.
func (f *Folder) sweep(plan *Plan) error {
	for i := range plan.Files {
		dir := filepath.Dir(filepath.FromSlash(plan.Files[i].Path))
		left, err := fs.Glob(f.root.FS(), filepath.ToSlash(filepath.Join(dir, temporary+"*")))
		if err != nil {
			return err
		}
		for _, p := range left {
			if err := f.root.Remove(p); err != nil && !errors.Is(err, fs.ErrNotExist) {
				return err
			}
		}
	}
	return nil
}

// replace writes a file beside its place, syncs it and renames it over the old one, whose mode and owner it
// keeps. Of a symbolic link, the file that it leads to is replaced.
func (f *Folder) replace(p string, b []byte) (err error) {
	name, err := f.real(p)
	if err != nil {
		return err
	}
	info, err := f.root.Stat(name)
	if err != nil {
		return err
	}
	if info.Mode().Perm()&0o222 == 0 {
		return errReadOnly
	}
	var random [6]byte
	rand.Read(random[:])
	dir := filepath.Dir(name)
	beside := filepath.Join(dir, temporary+hex.EncodeToString(random[:]))
	file, err := f.root.OpenFile(beside, os.O_WRONLY|os.O_CREATE|os.O_EXCL, info.Mode().Perm())
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			file.Close()
			f.root.Remove(beside)
		}
	}()
	if _, err = file.Write(b); err != nil {
		return err
	}
	if err = file.Chmod(info.Mode().Perm()); err != nil {
		return err
	}
	if st, ok := info.Sys().(*syscall.Stat_t); ok {
		file.Chown(int(st.Uid), int(st.Gid)) // ours already, or not ours to set
	}
	if err = file.Sync(); err != nil {
		return err
	}
	if err = file.Close(); err != nil {
		return err
	}
	if err = f.root.Rename(beside, name); err != nil {
		return err
	}
	return f.syncFolder(dir)
}

// real returns the path, relative to the folder, of the file that p names when symbolic links are followed.
func (f *Folder) real(p string) (string, error) {
	full, err := filepath.EvalSymlinks(filepath.Join(f.Path, filepath.FromSlash(p)))
	if err != nil {
		return "", err
	}
	rel, err := filepath.Rel(f.Path, full)
	if err != nil || !filepath.IsLocal(rel) {
		return "", &fs.PathError{Op: "write", Path: p, Err: errors.New("it leads out of the folder")}
	}
	return rel, nil
}

func (f *Folder) syncFolder(dir string) error {
	d, err := f.root.Open(dir)
	if err != nil {
		return err
	}
	defer d.Close()
	return d.Sync()
}

// Lines returns, for each of the file's edits in order, the line it stands in before and after.
func (p *PlannedFile) Lines() ([]change.Line, error) {
	decode := func(b []byte) string { return markup.Decode(b, p.old) }
	out := make([]change.Line, len(p.Edits))
	for i := range p.Edits {
		lines, err := change.Lines(p.old, p.Edits[i:i+1], markup.Unit(p.old), decode)
		if err != nil {
			return nil, err
		}
		out[i] = lines[0]
	}
	return out, nil
}
