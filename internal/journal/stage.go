package journal

import (
	"cmp"
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"

	"arvel/core/change"
	"arvel/internal/disk"
)

// temporary begins the name of a file that is written beside the one it will replace.
const temporary = ".arvel-"

// stage puts what is wanted of each file beside its place. Files that are only moved are renamed to there.
func (f files) stage(ctx context.Context, tasks []*task, fresh bool, step func()) error {
	return eachOf(ctx, tasks, func(_ int, c *task) error {
		defer step()
		if c.want.path == "" {
			return nil
		}
		Step()
		switch err := f.stageOne(c, fresh); {
		case errors.Is(err, errChanged):
			return &ConflictError{[]string{c.have.path}}
		case err != nil:
			return &WriteError{c.want.path, err}
		}
		return nil
	})
}

func (f files) stageOne(c *task, fresh bool) error {
	from := c.have.path
	if !fresh {
		if f.Holds(c.want.path, c.want.hash) || f.Holds(c.beside, c.want.hash) {
			return nil
		}
		from = f.source(c)
	}
	if c.onlyMoves() {
		err := f.Rename(from, c.beside)
		if err == nil && fresh && !f.isLink(c.beside) && !f.Holds(c.beside, c.have.hash) {
			err = cmp.Or(f.Rename(c.beside, from), errChanged)
		}
		return err
	}
	b := c.whole
	if b == nil && c.have.path != "" {
		old, err := f.Read(from)
		if err != nil {
			return err
		}
		if !c.have.hash.Is(old) {
			return errChanged
		}
		if b, err = change.Apply(old, c.edits); err != nil {
			return err
		}
	}
	return f.write(c, from, b)
}

// write writes a file beside its place and syncs it, with the mode, owner and attributes of the file at from that it is made
// from, if any.
func (f files) write(c *task, from string, b []byte) (err error) {
	mode := fs.FileMode(c.Mode)
	if mode == 0 {
		mode = 0o644
	}
	var info fs.FileInfo
	if from != "" {
		if info, err = f.Root().Stat(filepath.FromSlash(from)); err != nil {
			return err
		}
		mode = info.Mode().Perm()
		if mode&0o222 == 0 && c.have.path == c.want.path {
			return errReadOnly
		}
	}
	file, err := f.Root().OpenFile(filepath.FromSlash(c.beside), os.O_WRONLY|os.O_CREATE|os.O_TRUNC, mode)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			file.Close()
			f.Remove(c.beside)
		}
	}()
	if _, err = file.Write(b); err != nil {
		return err
	}
	if err = file.Chmod(mode); err != nil {
		return err
	}
	if info != nil {
		if old, err := f.OpenFile(from); err == nil {
			disk.CopyAttributes(old, file)
			old.Close()
		}
	}
	if err = file.Sync(); err != nil {
		return err
	}
	return file.Close()
}

// real returns the path, relative to the folder, of the file that p names when symbolic links are followed.
func (f files) real(p string) (string, error) {
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
