package journal

import (
	"fmt"
	"io/fs"
	"path"
	"path/filepath"
	"slices"

	"arvel/core/change"
	"arvel/core/site"
)

// side is where a file is and what it holds, before a change or after it. A path of "" means that there is no file.
type side struct {
	path string
	hash change.Hash
}

// task is what has to be done to bring one file from one side to the other.
type task struct {
	*change.File
	have, want side
	// beside is where what is wanted waits until it takes its place, left where what there is may be if the other
	// direction was cut short, aside where what goes is looked at once more before it is removed.
	beside, left, aside string
	edits               []change.Edit // from have to want
	whole               []byte        // all bytes of what is wanted, if they are known
}

func (f files) task(record *change.Record, i int, forward bool) *task {
	p := &record.Files[i]
	before, after := side{p.Path, p.Before}, side{p.Path, p.After}
	switch p.Kind {
	case change.Moved:
		before.path = p.From
	case change.Made:
		before = side{}
	case change.Deleted:
		after = side{}
	case change.Edited:
		// Of a symbolic link, the file that it leads to is edited.
		if real, err := f.real(p.Path); err == nil {
			before.path, after.path = filepath.ToSlash(real), filepath.ToSlash(real)
		}
	}
	c := &task{File: p, have: before, want: after, edits: p.Edits}
	if !forward {
		c.have, c.want, c.edits = after, before, change.Inverse(p.Edits)
	}
	if (p.Kind == change.Made) == forward {
		c.whole = p.Content
	}
	there := fmt.Sprintf("%s%s-%d", temporary, record.Token, i)
	back := there + "-back"
	if !forward {
		there, back = back, there
	}
	if c.want.path != "" {
		c.beside = path.Join(path.Dir(c.want.path), there)
	}
	if c.have.path != "" {
		c.left = path.Join(path.Dir(c.have.path), back)
		c.aside = path.Join(path.Dir(c.have.path), there+"-gone")
	}
	return c
}

// onlyMoves reports whether a file goes from one place to another as it is.
func (c *task) onlyMoves() bool { return c.have.path != "" && c.have.hash == c.want.hash }

// tasks are those of all files of a record.
type tasks struct {
	list []*task
	// belongs are the contents that may be at each path, before or after. Paths are folded, since some disks don't tell
	// letter case apart.
	belongs map[string][]change.Hash
	// now is what is at each path before, except for what is only moved, which leaves it first.
	now map[string]change.Hash
}

func (f files) tasks(record *change.Record, forward bool) tasks {
	out := tasks{belongs: map[string][]change.Hash{}, now: map[string]change.Hash{}}
	for i := range record.Files {
		c := f.task(record, i, forward)
		out.list = append(out.list, c)
		if c.have.path != "" && !c.onlyMoves() {
			out.now[c.have.path] = c.have.hash
		}
		for _, s := range []side{c.have, c.want} {
			if s.path != "" {
				at := site.Fold(s.path)
				out.belongs[at] = append(out.belongs[at], s.hash)
			}
		}
	}
	return out
}

// foreign reports whether what is at a path is of no side of any file of the record, so that somebody else wrote it.
func (f files) foreign(all tasks, p string) bool {
	return f.Exists(p) && !f.holdsAny(p, all.belongs[site.Fold(p)])
}

// holdsAny reports whether the file at p has one of the contents.
func (f files) holdsAny(p string, contents []change.Hash) bool {
	return slices.ContainsFunc(contents, func(h change.Hash) bool { return f.Holds(p, h) })
}

// reachable reports whether what is wanted of a file can be had without touching what somebody else wrote.
func (f files) reachable(all tasks, c *task) bool {
	switch {
	case c.want.path == "":
		return !f.foreign(all, c.have.path)
	case f.foreign(all, c.want.path):
		return false
	case f.Holds(c.want.path, c.want.hash), f.Holds(c.beside, c.want.hash):
		return true
	case c.have.path == "":
		return c.whole != nil
	}
	return f.source(c) != ""
}

// source returns the path that holds the bytes that what is wanted is made from: the file's own, or one beside it that a
// cut-short change left there; "" if no path does.
func (f files) source(c *task) string {
	for _, p := range []string{c.have.path, c.left} {
		if f.Holds(p, c.have.hash) {
			return p
		}
	}
	return ""
}

// isLink reports whether a symbolic link is at the path. What it leads to is somewhere else, and is not moved with it.
func (f files) isLink(p string) bool {
	info, err := f.Root().Lstat(filepath.FromSlash(p))
	return err == nil && info.Mode()&fs.ModeSymlink != 0
}
