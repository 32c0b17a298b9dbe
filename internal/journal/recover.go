package journal

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"arvel/core/change"
	"arvel/core/site"
	"arvel/internal/disk"
)

// Recover completes a change that was cut short, or takes it back if a file in it was edited since, and reports which. One
// that was carried out, and only not noted as done, is left alone.
func Recover(folder *disk.Folder, record *change.Record) (completed bool, err error) {
	f := files{folder}
	if err := f.Present(); err != nil {
		return false, err
	}
	all := f.tasks(record, true)
	if err := f.restoreSaves(record, all); err != nil {
		return false, err
	}
	completed = f.ended(all) || f.begun(all) && !slices.ContainsFunc(all.list, func(c *task) bool { return !f.reachable(all, c) })
	return completed, f.transition(context.Background(), record, completed, false, nil)
}

// restoreSaves puts back what a killed process left aside: what an author saved while the change was carried out, and what
// was being looked at before it was removed. It also completes what was being written in place.
func (f files) restoreSaves(record *change.Record, all tasks) error {
	ours := func(p string, c *task) bool {
		return f.Holds(p, c.have.hash) || f.Holds(p, c.want.hash)
	}
	for i := range record.Files {
		for _, forward := range []bool{true, false} {
			c := f.task(record, i, forward)
			if err := f.complete(c); err != nil {
				return &WriteError{c.want.path, err}
			}
			if c.want.path != "" && f.Holds(c.want.path, c.want.hash) && f.Exists(c.beside) && !ours(c.beside, c) && !f.holdsAny(c.beside, all.belongs[site.Fold(c.want.path)]) {
				// Both were exchanged, and what was there before is an author's save. (What is half written is beside a
				// file that was not exchanged yet.)
				if err := f.Rename(c.beside, c.want.path); err != nil {
					return &WriteError{c.want.path, err}
				}
			}
			if c.aside != "" && f.Exists(c.aside) && !ours(c.aside, c) && !f.Exists(c.have.path) {
				if err := f.Rename(c.aside, c.have.path); err != nil {
					return &WriteError{c.have.path, err}
				}
			}
		}
	}
	return nil
}

// complete completes an exchange or an overwriting that was cut short.
func (f files) complete(c *task) error {
	if c.beside == "" {
		return nil
	}
	if err := f.CompleteExchange(c.beside); err != nil {
		return err
	}
	return f.completeOverwrite(c)
}

// completeOverwrite completes a cut-short [files.overwrite], unless somebody else wrote to the place since.
func (f files) completeOverwrite(c *task) error {
	marked := c.beside + overSuffix
	if !f.Holds(marked, c.want.hash) {
		return nil
	}
	whole, err := f.Read(marked)
	if err != nil {
		return err
	}
	if part, err := f.Read(c.want.path); err == nil && (bytes.HasPrefix(whole, part) || c.have.hash.Is(part)) {
		return f.overwrite(c.beside+overSuffix, c.want.path)
	}
	return nil
}

// begun reports whether any file of a change is on its way, or as the change wants it. If none is, the change was taken back
// and only not noted as that.
func (f files) begun(all tasks) bool {
	return slices.ContainsFunc(all.list, func(c *task) bool {
		return c.beside != "" && f.Exists(c.beside) || c.aside != "" && f.Exists(c.aside) ||
			c.want.path != "" && c.want != c.have && f.Holds(c.want.path, c.want.hash) || c.want.path == "" && !f.Exists(c.have.path)
	})
}

// ended reports whether a change was carried out: no file is where it was before, or on its way, and at least one is as the
// change wants it.
func (f files) ended(all tasks) bool {
	any := false
	for _, c := range all.list {
		switch {
		case c.beside != "" && f.Exists(c.beside):
			return false
		case c.want.path == "":
			if f.Holds(c.have.path, c.have.hash) {
				return false
			}
		case f.Holds(c.want.path, c.want.hash):
			any = any || c.have.hash != c.want.hash || c.have.path != c.want.path
		case !f.foreign(all, c.want.path):
			return false
		}
	}
	return any
}

// keepStranded gives moved files that were on their way, and whose place somebody else took, a free name beside that place.
func (f files) keepStranded(stranded []*task) error {
	for _, c := range stranded {
		for _, p := range []string{c.beside, c.left} {
			if !f.Exists(p) {
				continue
			}
			ext := path.Ext(c.want.path)
			free := strings.TrimSuffix(c.want.path, ext) + "-kept" + ext
			for n := 2; f.Exists(free); n++ {
				free = fmt.Sprintf("%s-kept-%d%s", strings.TrimSuffix(c.want.path, ext), n, ext)
			}
			if err := f.Rename(p, free); err != nil {
				return &WriteError{free, err}
			}
		}
	}
	return nil
}

// removeLeftovers removes what a killed process left beside the files of a record.
func (f files) removeLeftovers(record *change.Record) error {
	for i := range record.Files {
		for _, p := range []string{record.Files[i].Path, record.Files[i].From} {
			if p == "" {
				continue
			}
			left, err := fs.Glob(f.Root().FS(), path.Join(path.Dir(p), temporary+record.Token+"-*"))
			if err != nil {
				return err
			}
			for _, l := range left {
				if err := f.Remove(l); err != nil && !errors.Is(err, fs.ErrNotExist) {
					return err
				}
			}
		}
	}
	return nil
}
