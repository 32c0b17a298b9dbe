package folder

import (
	"bytes"
	"cmp"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"

	"golang.org/x/sync/errgroup"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
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
	case errors.Is(e.Err, fs.ErrExist):
		why = "something else came to be there in the meantime"
	}
	return fmt.Sprintf("%s can't be written: %s. Nothing was changed.", e.Path, why)
}

func (e *WriteError) Unwrap() error { return e.Err }

var errReadOnly = errors.New("read-only")

// An OccupiedError says that something stands already where a change would put a file, so that nothing was done.
type OccupiedError struct{ Path string }

func (e *OccupiedError) Error() string {
	return fmt.Sprintf("%s is there already, so nothing was changed. Choose another name, or move that one first.", e.Path)
}

// Journal is told of a change set before the first byte is written and after the last.
type Journal interface {
	// Begin keeps all that is needed to complete or take back the change set; once it returns, that is on disk.
	Begin(plan *Plan) error
	// Done notes that every file is written; TakenBack that every file is as it was. Either has happened whether it can be
	// noted or not.
	Done() error
	TakenBack() error
}

// Plan is a change set with the bytes that it replaces.
type Plan struct {
	Title string
	// Token names what is written beside the files until it takes their place.
	Token string
	Files []PlannedFile
	// Folders are made by the change, Emptied taken away by it.
	Folders, Emptied []string
	// Followed are moves made by somebody else that references follow by it: the new paths by the old ones.
	Followed map[string]string
}

// Moves returns the new paths, by the old ones, of what a plan moves and of what it follows.
func (p *Plan) Moves() map[string]string {
	to := map[string]string{}
	maps.Copy(to, p.Followed)
	for i := range p.Files {
		if f := &p.Files[i]; f.From != "" {
			to[f.From] = f.Path
		}
	}
	return to
}

// PlannedFile is one file of a plan.
type PlannedFile struct {
	Kind          change.Kind
	Path, From    string
	Before, After change.Hash
	Edits         []change.Edit
	Inverse       []change.Edit // the edits that take it back
	Content       []byte        // of a file that is made or deleted
	Mode          uint32        // of the same
	Lines         []change.Line // for each of the edits, the line it stands in before and after; not kept for recovery
}

// KeptLimit is how many bytes of deleted files one change keeps, so that it can be undone.
const KeptLimit = 512 << 20

// ErrStopped is why a change that its author stopped was taken back.
var ErrStopped = errors.New("It was stopped. Every file is as it was.")

// Prepare reads the files of a set and checks that each is as it was planned for, else a *ConflictError names those
// that are not; and that nothing stands where a file is to go, else there is an *OccupiedError.
func (f *Folder) Prepare(ctx context.Context, set change.Set) (*Plan, error) {
	if err := f.Present(); err != nil {
		return nil, err
	}
	plan := &Plan{Title: set.Title, Token: token(), Folders: slices.Clone(set.Folders), Emptied: slices.Clone(set.Emptied), Followed: set.Followed}
	var conflict ConflictError
	leaves := map[string]bool{} // paths that are free once the set is carried out
	for i := range set.Files {
		if k := set.Files[i].Kind; k == change.Moved || k == change.Deleted {
			leaves[set.Files[i].Standing()] = true
		}
	}
	plan.Files = make([]PlannedFile, len(set.Files))
	var mu sync.Mutex
	err := eachOf(ctx, set.Files, func(i int, file change.File) (err error) {
		p := &plan.Files[i]
		if *p, err = f.prepare(&file); errors.Is(err, errChanged) {
			mu.Lock()
			defer mu.Unlock()
			conflict.Paths = append(conflict.Paths, file.Standing())
			return nil
		}
		if err == nil && (p.Kind == change.Made || p.Kind == change.Moved) && !leaves[p.Path] && f.occupied(p) {
			return &OccupiedError{p.Path}
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	slices.Sort(conflict.Paths)
	if len(conflict.Paths) > 0 {
		return nil, &conflict
	}
	// The order names what is written beside the files, so it is the one in which a journal gives them back.
	slices.SortFunc(plan.Files, func(a, b PlannedFile) int {
		return cmp.Or(cmp.Compare(a.Path, b.Path), cmp.Compare(a.Kind, b.Kind))
	})
	if plan.Folders, err = f.missingFolders(plan); err != nil {
		return nil, err
	}
	return plan, nil
}

// errChanged is the reason why a file does not fit its plan.
var errChanged = errors.New("not as it was planned for")

func (f *Folder) prepare(file *change.File) (PlannedFile, error) {
	p := PlannedFile{Kind: cmp.Or(file.Kind, change.Edited), Path: file.Path, From: file.From, Before: file.Before}
	if !filepath.IsLocal(filepath.FromSlash(file.Path)) || file.Kind == change.Moved && !filepath.IsLocal(filepath.FromSlash(file.From)) {
		return p, &OutsideError{file.Path}
	}
	if p.Kind == change.Made {
		p.Content, p.Mode = file.Content, file.Mode
		p.After = change.HashOf(file.Content)
		return p, nil
	}
	standing := file.Standing()
	if p.Kind == change.Moved && len(file.Edits) == 0 {
		if !f.is(standing, file.Before) {
			return p, errChanged
		}
		p.After = file.Before
		return p, nil
	}
	old, err := f.Read(standing)
	if err != nil || !file.Before.Is(old) {
		return p, errChanged
	}
	if p.Kind == change.Deleted {
		p.Content = old
		if info, err := f.root.Stat(filepath.FromSlash(standing)); err == nil {
			p.Mode = uint32(info.Mode().Perm())
		}
		return p, nil
	}
	if p.Edits, err = change.Sorted(file.Edits, len(old)); err != nil {
		return p, err
	}
	fresh, err := change.Apply(old, p.Edits)
	if err != nil {
		return p, err
	}
	p.After = change.HashOf(fresh)
	if p.Inverse, err = change.Invert(old, p.Edits); err != nil {
		return p, err
	}
	p.Lines, err = change.LineOfEach(old, p.Edits, markup.Unit(old), func(b []byte) string { return markup.Decode(b, old) })
	return p, err
}

// An OutsideError says that a change would put a file outside of the folder.
type OutsideError struct{ Path string }

func (e *OutsideError) Error() string {
	return fmt.Sprintf("%s lies outside of the folder, so nothing was changed.", e.Path)
}

// occupied tells whether something else than the file itself stands where the file is to go. On a disk that does not
// tell letter case, a file stands under its new name already if only that differs.
func (f *Folder) occupied(p *PlannedFile) bool {
	there, err := f.root.Lstat(filepath.FromSlash(p.Path))
	if err != nil {
		return false
	}
	if p.Kind == change.Moved {
		if own, err := f.root.Lstat(filepath.FromSlash(p.From)); err == nil && os.SameFile(own, there) && strings.EqualFold(p.From, p.Path) {
			return false
		}
	}
	return true
}

// A FileInTheWayError says that a change would put something into what is a file, so that nothing was done.
type FileInTheWayError struct{ Path string }

func (e *FileInTheWayError) Error() string {
	return fmt.Sprintf("%s is a file, so nothing can be put into it, and nothing was changed.", e.Path)
}

// missingFolders are the folders that have to be made for a plan, those above before those in them. One that would lie
// outside gives an *OutsideError, a file in the place of one a *FileInTheWayError.
func (f *Folder) missingFolders(plan *Plan) ([]string, error) {
	var out []string
	seen := map[string]bool{}
	comes := map[string]bool{}
	for i := range plan.Files {
		comes[plan.Files[i].Path] = plan.Files[i].Kind != change.Deleted
	}
	var need func(dir string) error
	need = func(dir string) error {
		if dir == "" || dir == "." || seen[dir] {
			return nil
		}
		seen[dir] = true
		if !filepath.IsLocal(filepath.FromSlash(dir)) {
			return &OutsideError{dir}
		}
		if err := need(path.Dir(dir)); err != nil || f.IsFolder(dir) {
			return err
		}
		if f.stands(dir) || comes[dir] {
			return &FileInTheWayError{dir}
		}
		out = append(out, dir)
		return nil
	}
	for i := range plan.Files {
		if plan.Files[i].Kind != change.Deleted {
			if err := need(path.Dir(plan.Files[i].Path)); err != nil {
				return nil, err
			}
		}
	}
	for _, dir := range plan.Folders {
		if err := need(dir); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Carry carries a change set out: whole, or not at all. See architecture, "Carrying out a change set". If ctx is done
// before it is carried out, everything is taken back and the error is [ErrStopped]. told is called with how many of how
// many steps are done; it may be nil.
func (f *Folder) Carry(ctx context.Context, set change.Set, j Journal, told func(done, total int)) error {
	plan, err := f.Prepare(ctx, set)
	if err != nil {
		return stopped(ctx, err)
	}
	if err := j.Begin(plan); err != nil {
		return fmt.Errorf("the change could not be noted down, so nothing was changed: %w", err)
	}
	Step()
	if err := f.settle(ctx, plan, true, true, told); err != nil {
		if err := f.giveBack(plan, f.courses(plan, true)); err != nil {
			slog.Error("what was put aside could not be given back", "error", err) // the next start tries again
		}
		if back := f.settle(context.WithoutCancel(ctx), plan, false, false, nil); back != nil {
			return fmt.Errorf("%w And it could not be put back: %v. It will be tried again at the next start.", err, back)
		}
		return errors.Join(stopped(ctx, err), j.TakenBack())
	}
	Step()
	return j.Done()
}

// stopped returns ErrStopped in place of an error that comes of the context's end.
func stopped(ctx context.Context, err error) error {
	if ctx.Err() != nil && errors.Is(err, ctx.Err()) {
		return ErrStopped
	}
	return err
}

// Recover completes the change set of a plan that was cut short, or takes it back if a file in it was edited since. It
// reports which. One that had come to its end, and was only not noted as done, is left alone.
func (f *Folder) Recover(plan *Plan) (completed bool, err error) {
	if err := f.Present(); err != nil {
		return false, err
	}
	all := f.courses(plan, true)
	if err := f.giveBack(plan, all); err != nil {
		return false, err
	}
	completed = f.ended(all) || f.begun(all) && !slices.ContainsFunc(all.list, func(c *course) bool { return !f.reachable(all, c) })
	return completed, f.settle(context.Background(), plan, completed, false, nil)
}

// giveBack completes what was being written in place, and puts what an author saved while a change was carried out, and what a killed process had put aside to look at,
// back into its place.
func (f *Folder) giveBack(plan *Plan, all courses) error {
	ours := func(p string, c *course) bool {
		return f.is(p, c.have.hash) || f.is(p, c.want.hash)
	}
	for i := range plan.Files {
		for _, forward := range []bool{true, false} {
			c := f.course(plan, i, forward)
			if err := f.completeOver(c); err != nil {
				return &WriteError{c.want.path, err}
			}
			if c.want.path != "" && f.is(c.want.path, c.want.hash) && f.stands(c.beside) && !ours(c.beside, c) && !slices.ContainsFunc(all.belongs[site.Fold(c.want.path)], func(h change.Hash) bool { return f.is(c.beside, h) }) {
				// What is half written is beside a file that was not exchanged yet; this one was.
				if err := f.root.Rename(filepath.FromSlash(c.beside), filepath.FromSlash(c.want.path)); err != nil {
					return &WriteError{c.want.path, err}
				}
			}
			if c.aside != "" && f.stands(c.aside) && !ours(c.aside, c) && !f.stands(c.have.path) {
				if err := f.root.Rename(filepath.FromSlash(c.aside), filepath.FromSlash(c.have.path)); err != nil {
					return &WriteError{c.have.path, err}
				}
			}
		}
	}
	return nil
}

// begun reports whether any file of a change is on its way, or as the change wants it. A change that was taken back, and
// only not noted as that, has none.
func (f *Folder) begun(all courses) bool {
	return slices.ContainsFunc(all.list, func(c *course) bool {
		return c.beside != "" && f.stands(c.beside) || c.aside != "" && f.stands(c.aside) ||
			c.want.path != "" && c.want != c.have && f.is(c.want.path, c.want.hash) || c.want.path == "" && !f.stands(c.have.path)
	})
}

// ended reports whether a change had come to its end: no file is where it was before, or on its way, and at least one is
// as the change wants it.
func (f *Folder) ended(all courses) bool {
	any := false
	for _, c := range all.list {
		switch {
		case c.beside != "" && f.stands(c.beside):
			return false
		case c.want.path == "":
			if f.is(c.have.path, c.have.hash) {
				return false
			}
		case f.is(c.want.path, c.want.hash):
			any = any || c.have.hash != c.want.hash || c.have.path != c.want.path
		case !f.foreign(all, c.want.path):
			return false
		}
	}
	return any
}

// side is where a file stands and what it holds, before a change or after it; a path of "" stands for no file.
type side struct {
	path string
	hash change.Hash
}

// course is the way of one file from one side to the other.
type course struct {
	*PlannedFile
	have, want side
	// beside is where what is wanted stands until it takes its place, left where what there is may stand if the other
	// way was cut short, aside where what goes is looked at once more before it is gone.
	beside, left, aside string
	edits               []change.Edit // from the one to the other
	whole               []byte        // all bytes of what is wanted, if they are known
}

func (f *Folder) course(plan *Plan, i int, forward bool) *course {
	p := &plan.Files[i]
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
	c := &course{PlannedFile: p, have: before, want: after, edits: p.Edits}
	if !forward {
		c.have, c.want, c.edits = after, before, p.Inverse
	}
	if (p.Kind == change.Made) == forward {
		c.whole = p.Content
	}
	there := fmt.Sprintf("%s%s-%d", temporary, plan.Token, i)
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
func (c *course) onlyMoves() bool { return c.have.path != "" && c.have.hash == c.want.hash }

// courses are those of all files of a plan, and what may stand at each path by them: paths without their letter case, which
// some disks do not tell.
type courses struct {
	list    []*course
	belongs map[string][]change.Hash
	now     map[string]change.Hash // what is at each path before, but for what is only moved, which leaves it first
}

func (f *Folder) courses(plan *Plan, forward bool) courses {
	out := courses{belongs: map[string][]change.Hash{}, now: map[string]change.Hash{}}
	for i := range plan.Files {
		c := f.course(plan, i, forward)
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

// foreign tells whether something stands at a path that is of no side of any file of a plan, so somebody else wrote it.
func (f *Folder) foreign(all courses, p string) bool {
	return f.stands(p) && !slices.ContainsFunc(all.belongs[site.Fold(p)], func(h change.Hash) bool { return f.is(p, h) })
}

// reachable tells whether what is wanted of a file can be had without touching what somebody else wrote.
func (f *Folder) reachable(all courses, c *course) bool {
	switch {
	case c.want.path == "":
		return !f.foreign(all, c.have.path)
	case f.foreign(all, c.want.path):
		return false
	case f.is(c.want.path, c.want.hash), f.is(c.beside, c.want.hash):
		return true
	case c.have.path == "":
		return c.whole != nil
	}
	return f.source(c) != ""
}

// source returns where that stands which what is wanted is made of: in its place, or beside it if it did not take that or
// was on its way from it; "" for nowhere.
func (f *Folder) source(c *course) string {
	for _, p := range []string{c.have.path, c.left} {
		if f.is(p, c.have.hash) {
			return p
		}
	}
	return ""
}

// isLink reports whether a symbolic link is at the path. What it leads to is somewhere else, and is not moved with it.
func (f *Folder) isLink(p string) bool {
	info, err := f.root.Lstat(filepath.FromSlash(p))
	return err == nil && info.Mode()&fs.ModeSymlink != 0
}

func (f *Folder) stands(p string) bool {
	_, err := f.root.Lstat(filepath.FromSlash(p))
	return err == nil
}

// Step is called between any two steps of carrying out a change set. Tests end the process there.
var Step = func() {}

// settle brings all files of a plan to the side that forward tells. First everything that is wanted is written beside
// its place and synced; then what stood there before goes, and what is wanted takes its place. It can be cut short at
// any point and done again, in either direction. fresh tells that nothing of it was done yet; else each file is looked
// at first, and one that somebody edited in between is left alone.
func (f *Folder) settle(ctx context.Context, plan *Plan, forward, fresh bool, told func(done, total int)) error {
	made, emptied := plan.Folders, slices.Clone(plan.Emptied)
	if !forward {
		made, emptied = plan.Emptied, slices.Clone(plan.Folders)
	}
	for _, dir := range made {
		if err := f.root.MkdirAll(filepath.FromSlash(dir), 0o755); err != nil {
			return &WriteError{dir, err}
		}
	}
	all := f.courses(plan, forward)
	courses := make([]*course, 0, len(plan.Files))
	wanted := map[string]bool{}
	var stranded []*course // moved files whose place somebody else took while they were on their way
	for _, c := range all.list {
		if !fresh && !f.reachable(all, c) {
			if c.Kind == change.Moved && !f.is(c.have.path, c.have.hash) {
				stranded = append(stranded, c)
			}
			continue
		}
		courses = append(courses, c)
		wanted[c.want.path] = true
	}
	step := counted(2*len(courses), told)
	if err := f.stage(ctx, courses, fresh, step); err != nil {
		return err
	}
	fits := func(at, p string) bool {
		if fresh {
			hash, expected := all.now[at]
			return expected && f.is(p, hash)
		}
		return slices.ContainsFunc(all.belongs[site.Fold(at)], func(h change.Hash) bool { return f.is(p, h) })
	}
	// What only leaves its place goes before anything comes.
	err := eachOf(ctx, courses, func(_ int, c *course) error {
		if c.have.path == "" || wanted[c.have.path] || fresh && c.onlyMoves() || !fresh && !f.is(c.have.path, c.have.hash) {
			return nil
		}
		Step()
		switch err := f.remove(c.have.path, c.aside, fits); {
		case errors.Is(err, errChanged) && fresh:
			return &ConflictError{[]string{c.have.path}}
		case err != nil && !errors.Is(err, errChanged):
			return &WriteError{c.have.path, err}
		}
		return nil
	})
	if err != nil {
		return err
	}
	err = eachOf(ctx, courses, func(_ int, c *course) error {
		defer step()
		if c.beside == "" || !fresh && !f.is(c.beside, c.want.hash) {
			return nil
		}
		Step()
		_, expected := all.now[c.want.path]
		switch err := f.replace(c, fresh && expected, fits); {
		case errors.Is(err, errChanged) && fresh:
			return &ConflictError{[]string{c.want.path}}
		case err != nil && !errors.Is(err, errChanged):
			return &WriteError{c.want.path, err}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if !fresh {
		if err := f.land(stranded); err != nil {
			return err
		}
		if err := f.sweep(plan); err != nil {
			return err
		}
	}
	touched := map[string]bool{}
	for _, c := range courses {
		for _, p := range []string{c.have.path, c.want.path} {
			if p != "" {
				touched[path.Dir(p)] = true
			}
		}
	}
	slices.Sort(emptied) // those in a folder come after it
	for i := len(emptied) - 1; i >= 0; i-- {
		Step()
		if f.IsFolder(emptied[i]) {
			_ = f.root.Remove(filepath.FromSlash(emptied[i])) // which fails if something is left in it
		}
		touched[path.Dir(emptied[i])] = true
	}
	return eachOf(context.Background(), slices.Collect(maps.Keys(touched)), func(_ int, dir string) error {
		if err := f.syncFolder(filepath.FromSlash(dir)); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return &WriteError{dir, err}
		}
		return nil
	})
}

// atOnce is how many files are worked on at a time: each waits for the disk.
const atOnce = 8

// eachOf does something with each of a list, by its number, some at a time. After an error it stops, and returns it.
func eachOf[T any](ctx context.Context, list []T, do func(int, T) error) error {
	g, stopped := errgroup.WithContext(ctx)
	g.SetLimit(atOnce)
	for i, one := range list {
		if stopped.Err() != nil {
			break
		}
		g.Go(func() error { return do(i, one) })
	}
	return cmp.Or(g.Wait(), ctx.Err())
}

// counted returns what counts the steps of total, and tells of every hundredth part of them.
func counted(total int, told func(done, total int)) (step func()) {
	if told == nil {
		return func() {}
	}
	var done atomic.Int64
	every := int64(max(1, total/100))
	return func() {
		if n := done.Add(1); n%every == 0 {
			told(int(n), total)
		}
	}
}

// replace lets what is wanted of a file take its place. fits reports whether what is found at a place may be replaced by
// it; if it may not, or if something has to be there and is not, everything is as it was and the error is errChanged.
// Where the disk can, both are exchanged first and what was there is looked at then, so that no save falls in between.
func (f *Folder) replace(c *course, expected bool, fits func(at, p string) bool) error {
	beside, place := c.beside, c.want.path
	info, err := f.root.Lstat(filepath.FromSlash(place))
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if expected {
			return errChanged
		}
		if err = renameToFree(f.root, beside, place); !errors.Is(err, errUnsupported) {
			return err
		}
		return f.root.Rename(filepath.FromSlash(beside), filepath.FromSlash(place))
	case err != nil:
		return err
	case info.IsDir():
		return fs.ErrExist
	case c.have.path == place && names(info) > 1:
		if !fits(place, place) {
			return errChanged
		}
		return f.overwrite(beside, place)
	}
	if err := exchange(f.root, beside, place); errors.Is(err, errUnsupported) {
		if !fits(place, place) {
			return errChanged
		}
		return f.root.Rename(filepath.FromSlash(beside), filepath.FromSlash(place))
	} else if err != nil {
		return err
	}
	Step()
	if fits(place, beside) {
		return f.root.Remove(filepath.FromSlash(beside))
	}
	err = exchange(f.root, beside, place)
	if err == nil && !f.is(beside, c.want.hash) {
		err = exchange(f.root, beside, place) // it was saved once more, which is the version that counts
	}
	return cmp.Or(err, errChanged)
}

// over ends the name of a file that is being written over a place in place, since that has other names on the disk, which
// would else keep the old bytes.
const over = "-over"

// overwrite writes the bytes of the file beside a place over those at the place. Cut short, it is completed by giveBack.
func (f *Folder) overwrite(beside, place string) error {
	marked := beside + over
	if err := f.root.Rename(filepath.FromSlash(beside), filepath.FromSlash(marked)); err != nil {
		return err
	}
	Step()
	b, err := f.Read(marked)
	if err != nil {
		return err
	}
	file, err := f.root.OpenFile(filepath.FromSlash(place), os.O_WRONLY|os.O_TRUNC, 0)
	if err != nil {
		return err
	}
	Step()
	_, err = file.Write(b)
	err = cmp.Or(err, file.Sync(), file.Close())
	if err != nil {
		return err
	}
	return f.root.Remove(filepath.FromSlash(marked))
}

// completeOver completes an overwriting that was cut short, unless somebody else wrote to the place since.
func (f *Folder) completeOver(c *course) error {
	marked := c.beside + over
	if c.beside == "" || !f.is(marked, c.want.hash) {
		return nil
	}
	whole, err := f.Read(marked)
	if err != nil {
		return err
	}
	if part, err := f.Read(c.want.path); err == nil && (bytes.HasPrefix(whole, part) || c.have.hash.Is(part)) {
		return f.overwrite(c.beside+over, c.want.path)
	}
	return nil
}

// remove removes the file at a place, if fits reports that it may be; else it is as it was and the error is errChanged.
func (f *Folder) remove(place, aside string, fits func(at, p string) bool) error {
	if err := f.root.Rename(filepath.FromSlash(place), filepath.FromSlash(aside)); errors.Is(err, fs.ErrNotExist) {
		return errChanged
	} else if err != nil {
		return err
	}
	Step()
	if !fits(place, aside) {
		err := renameToFree(f.root, aside, place)
		switch {
		case errors.Is(err, errUnsupported):
			err = f.root.Rename(filepath.FromSlash(aside), filepath.FromSlash(place))
		case errors.Is(err, fs.ErrExist): // it was saved once more, which is the version that counts
			err = f.root.Remove(filepath.FromSlash(aside))
		}
		return cmp.Or(err, errChanged)
	}
	return f.root.Remove(filepath.FromSlash(aside))
}

// stage puts what is wanted beside its place. Files that are only moved are renamed to there.
func (f *Folder) stage(ctx context.Context, courses []*course, fresh bool, step func()) error {
	return eachOf(ctx, courses, func(_ int, c *course) error {
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

func (f *Folder) stageOne(c *course, fresh bool) error {
	from := c.have.path
	if !fresh {
		if f.is(c.want.path, c.want.hash) || f.is(c.beside, c.want.hash) {
			return nil
		}
		from = f.source(c)
	}
	if c.onlyMoves() {
		err := f.root.Rename(filepath.FromSlash(from), filepath.FromSlash(c.beside))
		if err == nil && fresh && !f.isLink(c.beside) && !f.is(c.beside, c.have.hash) {
			err = cmp.Or(f.root.Rename(filepath.FromSlash(c.beside), filepath.FromSlash(from)), errChanged)
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

// temporary begins the name of a file that is written beside the one it will replace.
const temporary = ".arvel-"

// token returns letters that name what a plan writes.
func token() string {
	var b [6]byte
	rand.Read(b[:])
	return hex.EncodeToString(b[:])
}

// land puts moved files that were on their way, and whose place somebody else took, beside that place under a free name.
func (f *Folder) land(stranded []*course) error {
	for _, c := range stranded {
		for _, p := range []string{c.beside, c.left} {
			if !f.stands(p) {
				continue
			}
			ext := path.Ext(c.want.path)
			free := strings.TrimSuffix(c.want.path, ext) + "-kept" + ext
			for n := 2; f.stands(free); n++ {
				free = fmt.Sprintf("%s-kept-%d%s", strings.TrimSuffix(c.want.path, ext), n, ext)
			}
			if err := f.root.Rename(filepath.FromSlash(p), filepath.FromSlash(free)); err != nil {
				return &WriteError{free, err}
			}
		}
	}
	return nil
}

// sweep removes what a killed process left half written beside the files of a plan.
func (f *Folder) sweep(plan *Plan) error {
	for i := range plan.Files {
		for _, p := range []string{plan.Files[i].Path, plan.Files[i].From} {
			if p == "" {
				continue
			}
			left, err := fs.Glob(f.root.FS(), path.Join(path.Dir(p), temporary+plan.Token+"-*"))
			if err != nil {
				return err
			}
			for _, l := range left {
				if err := f.root.Remove(filepath.FromSlash(l)); err != nil && !errors.Is(err, fs.ErrNotExist) {
					return err
				}
			}
		}
	}
	return nil
}

// write writes a file beside its place and syncs it, with the mode and owner of the one that it comes of, which stands at
// from.
func (f *Folder) write(c *course, from string, b []byte) (err error) {
	mode := fs.FileMode(c.Mode)
	if mode == 0 {
		mode = 0o644
	}
	var info fs.FileInfo
	if from != "" {
		if info, err = f.root.Stat(filepath.FromSlash(from)); err != nil {
			return err
		}
		mode = info.Mode().Perm()
		if mode&0o222 == 0 && c.have.path == c.want.path {
			return errReadOnly
		}
	}
	file, err := f.root.OpenFile(filepath.FromSlash(c.beside), os.O_WRONLY|os.O_CREATE|os.O_TRUNC, mode)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			file.Close()
			f.root.Remove(filepath.FromSlash(c.beside))
		}
	}()
	if _, err = file.Write(b); err != nil {
		return err
	}
	if err = file.Chmod(mode); err != nil {
		return err
	}
	if info != nil {
		if st, ok := info.Sys().(*syscall.Stat_t); ok {
			file.Chown(int(st.Uid), int(st.Gid)) // ours already, or not ours to set
		}
		if old, err := f.OpenFile(from); err == nil {
			copyAttributes(old, file)
			old.Close()
		}
	}
	if err = file.Sync(); err != nil {
		return err
	}
	return file.Close()
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
