package journal

import (
	"cmp"
	"context"
	"errors"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"

	"arvel/core/change"
	"arvel/core/site"
	"arvel/internal/disk"
)

// transition brings all files of a record to the side that forward names: first everything that is wanted is staged; then
// what was there before leaves, and what is wanted takes its place. It can be cut short at any point and done again, in
// either direction. fresh means that nothing of it was done yet; otherwise each file is looked at first, and one that somebody
// edited in between is left alone.
func (f files) transition(ctx context.Context, record *change.Record, forward, fresh bool, progress func(done, total int)) error {
	made, emptied := record.Folders, record.Emptied
	if !forward {
		made, emptied = emptied, made
	}
	for _, dir := range made {
		if err := f.Root().MkdirAll(filepath.FromSlash(dir), 0o755); err != nil {
			return &WriteError{dir, err}
		}
	}
	all := f.tasks(record, forward)
	todo, stranded := all.list, []*task(nil)
	if !fresh {
		todo, stranded = f.feasible(all)
	}
	step := counted(2*len(todo), progress)
	if err := f.stage(ctx, todo, fresh, step); err != nil {
		return err
	}
	c := commit{files: f, all: all, todo: todo, fresh: fresh, step: step}
	if err := c.leave(ctx); err != nil {
		return err
	}
	if err := c.arrive(ctx); err != nil {
		return err
	}
	if !fresh {
		if err := f.keepStranded(stranded); err != nil {
			return err
		}
		if err := f.removeLeftovers(record); err != nil {
			return err
		}
	}
	return f.sync(todo, f.removeEmptied(emptied))
}

// feasible returns the tasks that can be done without touching what somebody else wrote, and the moved files that are on
// their way while somebody else took their place.
func (f files) feasible(all tasks) (todo, stranded []*task) {
	for _, t := range all.list {
		switch {
		case f.reachable(all, t):
			todo = append(todo, t)
		case t.Kind == change.Moved && !f.Holds(t.have.path, t.have.hash):
			stranded = append(stranded, t)
		}
	}
	return todo, stranded
}

// removeEmptied removes the folders that are empty by now, and returns those that they were in.
func (f files) removeEmptied(folders []string) (parents []string) {
	folders = slices.Sorted(slices.Values(folders)) // a folder comes before those in it
	for _, dir := range slices.Backward(folders) {
		Step()
		if f.IsFolder(dir) {
			_ = f.Remove(dir) // fails if something is left in it
		}
		parents = append(parents, path.Dir(dir))
	}
	return parents
}

// sync makes sure that the folders in which tasks were done, and some others, are on the disk.
func (f files) sync(done []*task, others []string) error {
	touched := map[string]bool{}
	for _, dir := range others {
		touched[dir] = true
	}
	for _, t := range done {
		for _, p := range []string{t.have.path, t.want.path} {
			if p != "" {
				touched[path.Dir(p)] = true
			}
		}
	}
	return eachOf(context.Background(), slices.Collect(maps.Keys(touched)), func(_ int, dir string) error {
		if err := f.SyncFolder(dir); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return &WriteError{dir, err}
		}
		return nil
	})
}

// commit is the second half of a transition: everything that is wanted is staged.
type commit struct {
	files
	all   tasks
	todo  []*task
	fresh bool
	step  func()
}

// fits reports whether the file at p may be replaced or removed in its place at: it is what was there when the change was
// planned, or, in a transition that is done again, any of the record's contents for that place.
func (c *commit) fits(at, p string) bool {
	if c.fresh {
		hash, expected := c.all.now[at]
		return expected && c.Holds(p, hash)
	}
	return c.holdsAny(p, c.all.belongs[site.Fold(at)])
}

// result turns what happened at a place into the transition's error. In a transition that is done again, a file that was
// edited since is left alone.
func (c *commit) result(place string, err error) error {
	switch {
	case errors.Is(err, errChanged) && c.fresh:
		return &ConflictError{[]string{place}}
	case err != nil && !errors.Is(err, errChanged):
		return &WriteError{place, err}
	}
	return nil
}

// leave removes what only leaves its place, before anything arrives.
func (c *commit) leave(ctx context.Context) error {
	wanted := map[string]bool{}
	for _, t := range c.todo {
		wanted[t.want.path] = true
	}
	return eachOf(ctx, c.todo, func(_ int, t *task) error {
		p := t.have.path
		if p == "" || wanted[p] || c.fresh && t.onlyMoves() || !c.fresh && !c.Holds(p, t.have.hash) {
			return nil
		}
		Step()
		return c.result(p, c.remove(p, t.aside))
	})
}

// arrive lets everything that is wanted take its place.
func (c *commit) arrive(ctx context.Context) error {
	return eachOf(ctx, c.todo, func(_ int, t *task) error {
		defer c.step()
		if t.beside == "" || !c.fresh && !c.Holds(t.beside, t.want.hash) {
			return nil
		}
		Step()
		return c.result(t.want.path, c.replace(t))
	})
}

// replace lets what is wanted of a file take its place. If what is found there may not be replaced, or if something has to be
// there and is not, everything is as it was and the error is errChanged. Where the disk can, both are exchanged first and
// what was there is looked at then, so that no save falls in between.
func (c *commit) replace(t *task) error {
	beside, place := t.beside, t.want.path
	_, expected := c.all.now[place]
	expected = expected && c.fresh
	info, err := c.Root().Lstat(filepath.FromSlash(place))
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if expected {
			return errChanged
		}
		if err = c.RenameToFree(beside, place); !errors.Is(err, disk.ErrUnsupported) {
			return err
		}
		return c.Rename(beside, place)
	case err != nil:
		return err
	case info.IsDir():
		return fs.ErrExist
	case t.have.path == place && disk.LinkCount(info) > 1:
		if !c.fits(place, place) {
			return errChanged
		}
		return c.overwrite(beside, place)
	}
	switch err := c.Exchange(beside, place); {
	case errors.Is(err, disk.ErrInterrupted):
		return errChanged
	case errors.Is(err, disk.ErrUnsupported):
		if !c.fits(place, place) {
			return errChanged
		}
		return c.Rename(beside, place)
	case err != nil:
		return err
	}
	Step()
	if c.fits(place, beside) {
		return c.Remove(beside)
	}
	err = c.Exchange(beside, place)
	if err == nil && !c.Holds(beside, t.want.hash) {
		err = c.Exchange(beside, place) // it was saved once more, which is the version that counts
	}
	return cmp.Or(err, errChanged)
}

// overSuffix ends the name of a file whose bytes are being written over those at its place. That is how a file that has
// other names on the disk (hard links) is replaced, since renaming would leave the old bytes to those.
const overSuffix = "-over"

// overwrite writes the bytes of the file beside a place over those at the place. Cut short, it is completed by restoreSaves.
func (f files) overwrite(beside, place string) error {
	marked := beside + overSuffix
	if err := f.Rename(beside, marked); err != nil {
		return err
	}
	Step()
	b, err := f.Read(marked)
	if err != nil {
		return err
	}
	file, err := f.Root().OpenFile(filepath.FromSlash(place), os.O_WRONLY|os.O_TRUNC, 0)
	if err != nil {
		return err
	}
	Step()
	_, err = file.Write(b)
	err = cmp.Or(err, file.Sync(), file.Close())
	if err != nil {
		return err
	}
	return f.Remove(marked)
}

// remove removes the file at a place. If it may not be, it is as it was and the error is errChanged.
func (c *commit) remove(place, aside string) error {
	if err := c.Rename(place, aside); errors.Is(err, fs.ErrNotExist) {
		return errChanged
	} else if err != nil {
		return err
	}
	Step()
	if !c.fits(place, aside) {
		err := c.RenameToFree(aside, place)
		switch {
		case errors.Is(err, disk.ErrUnsupported):
			err = c.Rename(aside, place)
		case errors.Is(err, fs.ErrExist): // it was saved once more, which is the version that counts
			err = c.Remove(aside)
		}
		return cmp.Or(err, errChanged)
	}
	return c.Remove(aside)
}
