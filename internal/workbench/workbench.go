// Package workbench holds one open folder together: what reads it, the snapshot and its report, the store, and
// the events that tell what happens in it. It is what every front end calls.
package workbench

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"maps"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/relocate"
	"arvel/core/repair"
	"arvel/core/site"
	"arvel/internal/folder"
	"arvel/internal/store"
)

// Workbench is one open folder. It is safe for use by several goroutines. What it answers to readers comes from its view
// and from what is set, which are immutable; nobody who only reads waits for the disk.
type Workbench struct {
	ID int64

	store    *store.Store
	folder   *folder.Folder
	forget   bool // nothing of what is read is kept
	stranger bool // the store did not know the folder before
	set      atomic.Pointer[set]
	tried    atomic.Pointer[triedLinks]
	changes  sync.Mutex // held while the view or the files are changed
	view     atomic.Pointer[View]
	read     atomic.Int64
	total    atomic.Int64
	problem  atomic.Pointer[error]
	hub      hub
	work     atomic.Pointer[work]
	unnoted  map[int64]store.ChangeState // how far change sets got, where that could not be noted; guarded by changes
	life     context.Context             // ends when the workbench is closed
	end      context.CancelFunc
}

// set is what is set for a folder, as it is resolved and judged by.
type set struct {
	kept    store.Settings
	options site.Options
	terms   audit.Terms
}

// View is the folder as it was last read. It is immutable.
type View struct {
	// Version grows with every renewal.
	Version  uint64
	At       time.Time
	Snapshot *site.Snapshot
	Report   *audit.Report
	// Trouble says what could not be read, and which names lead elsewhere, a sentence each.
	Trouble []string
	// Unread are the pages and folders that could not be read, so that there may be findings in them that nobody knows of.
	Unread []string

	set        *set
	listing    folder.Listing // of the last whole walk, without its entries
	planner    func() *repair.Planner
	causes     func() []repair.Cause
	departures func() []relocate.Off
	pages      func() []int32
	survey     func() audit.Survey

	fates     sync.Once
	differing []audit.Fate
	atPlaces  []audit.Counts
}

// Survey returns the folder at a glance, taken when it is first wanted.
func (v *View) Survey() audit.Survey { return v.survey() }

// Planner returns the planner of the view's repairs, made when it is first wanted.
func (v *View) Planner() *repair.Planner { return v.planner() }

// Causes returns what the findings have in common, found out when it is first wanted.
func (v *View) Causes() []repair.Cause { return v.causes() }

func (w *Workbench) newView(version uint64, s *site.Snapshot, r *audit.Report, set *set, listing folder.Listing) *View {
	planner := sync.OnceValue(func() *repair.Planner { return repair.NewPlanner(s, w.past()) })
	v := &View{
		Version: version, At: time.Now(), Snapshot: s, Report: r, set: set, listing: listing,
		Trouble:    slices.Clone(listing.Trouble),
		Unread:     slices.Clone(listing.Unknown),
		planner:    planner,
		causes:     sync.OnceValue(func() []repair.Cause { return planner().Causes(r) }),
		departures: sync.OnceValue(func() []relocate.Off { return relocate.Unfollowed(s, planner().Departures()) }),
		survey:     sync.OnceValue(func() audit.Survey { return r.Take(s) }),
		pages:      sync.OnceValue(func() []int32 { return listed(s, r) }),
	}
	for i := range s.Files {
		f := &s.Files[i]
		if f.Trouble != "" {
			v.Trouble = append(v.Trouble, f.Path+" "+f.Trouble)
		}
		if f.Unread {
			v.Unread = append(v.Unread, f.Path)
		}
	}
	return v
}

// past returns what the record has of the folder. What of it can't be read is as if it had not been kept.
func (w *Workbench) past() (out repair.Past) {
	if w.forget {
		return repair.Past{}
	}
	past, err := w.store.Past(w.ID)
	if err == nil && len(past) > 0 {
		out.Since, err = w.store.Since(w.ID)
	}
	if err != nil {
		slog.Warn("what was in a folder before can't be read", "folder", w.folder.Path, "error", err)
		return repair.Past{}
	}
	for _, p := range past {
		g := repair.Gone{Path: p.Path, Size: p.Size, Hash: p.Hash, Since: p.Since, Left: p.Gone, Went: p.Went}
		if p.Doc != nil {
			g.Doc, _ = markup.Unpack(p.Doc) // one of an older program says nothing
		}
		out.Gone = append(out.Gone, g)
	}
	return out
}

// Options are how a folder is opened.
type Options struct {
	// Place is where references are resolved: "root", "disk" or a path such as "/club/"; "" for what is set for the
	// folder, which then also decides at which other places everything has to land.
	Place      string
	IgnoreCase bool
	// Exclude are patterns to leave out besides those that are kept for the folder.
	Exclude []string
	// Forget keeps nothing of what is read, and no history. The journal of a change is kept until it is done.
	Forget bool
}

// Open opens a folder without reading it yet. Files are changed only after [Workbench.Recover].
func Open(st *store.Store, path string, o Options) (*Workbench, error) {
	f, err := folder.Open(path, nil)
	if err != nil {
		return nil, err
	}
	before, err := st.Knows(f.Path)
	if err != nil {
		f.Close()
		return nil, st.Explained(err)
	}
	known, err := st.OpenFolder(f.Path)
	if err != nil {
		f.Close()
		return nil, st.Explained(err)
	}
	if known.Exclude != nil || len(o.Exclude) > 0 {
		exclude := known.Exclude
		if exclude == nil {
			exclude = folder.DefaultExclude
		}
		f.Close()
		if f, err = folder.Open(path, append(exclude[:len(exclude):len(exclude)], o.Exclude...)); err != nil {
			return nil, err
		}
	}
	w := &Workbench{ID: known.ID, store: st, folder: f, forget: o.Forget, stranger: !before, unnoted: map[int64]store.ChangeState{}}
	w.life, w.end = context.WithCancel(context.Background())
	set, err := w.settle(known.Settings, o.Place, o.IgnoreCase)
	if err != nil {
		f.Close()
		return nil, st.Explained(err)
	}
	w.set.Store(set)
	return w, nil
}

// Present returns nil if the folder that was opened still is at its path, else a *folder.MissingError.
func (w *Workbench) Present() error { return w.folder.Present() }

// Failed notes why the folder can't be worked on, and tells of it.
func (w *Workbench) Failed(err error) { w.fail(err) }

// Path returns the folder's absolute path.
func (w *Workbench) Path() string { return w.folder.Path }

// View returns the folder as it was last read, or nil while it is read for the first time.
func (w *Workbench) View() *View { return w.view.Load() }

// Progress returns how many of the folder's files are read, and of how many.
func (w *Workbench) Progress() (read, total int) { return int(w.read.Load()), int(w.total.Load()) }

// Problem returns why the folder could not be read, or nil.
func (w *Workbench) Problem() error {
	if p := w.problem.Load(); p != nil {
		return *p
	}
	return nil
}

// Close stops reading, watching and changing, and lets go of the folder.
func (w *Workbench) Close() {
	w.end()
	w.changes.Lock()
	defer w.changes.Unlock()
	w.hub.close()
	w.folder.Close()
	if w.forget && w.stranger {
		if list, err := w.store.Unfinished(w.ID); err == nil && len(list) == 0 {
			_ = w.store.Forget(w.ID) // which is tried again by nobody, and only keeps a path
		}
	}
}

// alive returns a context that ends with ctx, and with the workbench.
func (w *Workbench) alive(ctx context.Context) (context.Context, context.CancelFunc) {
	ctx, cancel := context.WithCancel(ctx)
	stop := context.AfterFunc(w.life, cancel)
	return ctx, func() { stop(); cancel() }
}

// Read reads, resolves and judges the whole folder. What has not changed since it was last read, by size and
// time, is taken from the store.
func (w *Workbench) Read(ctx context.Context) error {
	w.changes.Lock()
	defer w.changes.Unlock()
	ctx, done := w.alive(ctx)
	defer done()
	err := w.readAll(ctx)
	if err != nil && ctx.Err() == nil {
		w.fail(err)
	}
	return err
}

// fail notes why the folder can't be read, and tells of it.
func (w *Workbench) fail(err error) {
	w.problem.Store(&err)
	w.hub.send(Event{Kind: Failed, Problem: err.Error()})
}

func (w *Workbench) readAll(ctx context.Context) error {
	if err := w.folder.Present(); err != nil {
		return err
	}
	listing, err := w.folder.Walk(ctx, "")
	if err != nil {
		return err
	}
	known := map[string]store.Reading{}
	if !w.forget {
		if err := w.store.Readings(w.ID, func(r store.Reading) { known[r.Path] = r }); err != nil {
			return w.store.Explained(err)
		}
	}
	files, fresh, err := w.readFiles(ctx, listing.Entries, known)
	if err != nil {
		return err
	}
	still := make(map[string]bool, len(listing.Entries))
	for _, e := range listing.Entries {
		still[e.Path] = true
	}
	listing.Entries = nil
	set := w.set.Load()
	snapshot := site.Build(files, set.at(listing))
	var gone []string
	for p := range known {
		if !still[p] && !snapshot.IsUnknown(p) {
			gone = append(gone, p)
		}
	}
	// What is gone is part of the record before anybody asks what happened.
	if err := w.keep(nil, gone); err != nil {
		return err
	}
	report := audit.Judge(snapshot, set.terms)
	version := uint64(1)
	if v := w.View(); v != nil {
		version = v.Version + 1
	}
	w.view.Store(w.newView(version, snapshot, report, set, listing))
	w.problem.Store(nil)
	w.hub.send(Event{Kind: Renewed, Version: version})
	return w.keep(fresh, nil)
}

// at returns the options with what could not be read of the folder.
func (s *set) at(l folder.Listing) site.Options {
	o := s.options
	o.Unknown, o.Same = slices.Concat(l.Unknown, l.Outside), l.Same
	return o
}

// keep keeps what was read and what is gone, unless nothing is to be kept.
func (w *Workbench) keep(readings []store.Reading, gone []string) error {
	if w.forget {
		return nil
	}
	return w.store.Explained(w.store.Keep(w.ID, readings, gone))
}

// progressEvery is how many files are read between two events that say so.
const progressEvery = 250

// readFiles makes the model's files of the folder's entries, reading those that are not known as they are.
func (w *Workbench) readFiles(ctx context.Context, entries []folder.Entry, known map[string]store.Reading) (files []site.File, fresh []store.Reading, err error) {
	files = make([]site.File, len(entries))
	for i, e := range entries {
		files[i] = site.File{Path: e.Path, Kind: site.KindOf(e.Path), Size: e.Size, Modified: e.Modified, Same: e.Same}
	}
	w.total.Store(int64(len(files)))
	w.read.Store(0)
	var next atomic.Int64
	var wait sync.WaitGroup
	var mu sync.Mutex
	for range min(runtime.GOMAXPROCS(0), len(files)) {
		wait.Go(func() {
			reader := reader{scanner: markup.NewScanner()}
			var mine []store.Reading
			for ctx.Err() == nil {
				n := int(next.Add(1)) - 1
				if n >= len(files) {
					break
				}
				f := &files[n]
				if r, ok := known[f.Path]; f.Same == "" && (!ok || !takeOver(f, r)) {
					if r, ok := w.readSafely(&reader, f); ok {
						mine = append(mine, r)
					}
				}
				if done := w.read.Add(1); done%progressEvery == 0 {
					w.hub.send(Event{Kind: Progress, Read: int(done), Total: len(files)})
				}
			}
			mu.Lock()
			fresh = append(fresh, mine...)
			mu.Unlock()
		})
	}
	wait.Wait()
	at := map[string]int{}
	for i := range files {
		at[files[i].Path] = i
	}
	for i := range files {
		if own, ok := at[files[i].Same]; ok && files[i].Same != "" {
			files[i].Hash, files[i].Content = files[own].Hash, files[own].Content
		}
	}
	return files, fresh, ctx.Err()
}

// takeOver takes what was known of a page if its size and time are still the same.
func takeOver(f *site.File, r store.Reading) bool {
	if r.Size != f.Size || r.Modified != f.Modified || r.Hash.Aged() {
		return false
	}
	f.Hash, f.Content = r.Hash, r.Content
	if r.Doc == nil {
		return !site.IsRead(f.Path)
	}
	doc, err := markup.Unpack(r.Doc)
	if err != nil {
		return false
	}
	f.Doc = doc
	f.Trouble = faults(doc)
	return true
}

// settled is how old a file's last change must be before its time tells that it did not change again: some
// disks keep whole seconds only.
const settled = 2 * time.Second

// reader reads one page after another, in the same room.
type reader struct {
	scanner *markup.Scanner
	room    []byte
}

// readSafely is readFile for whatever is in a file: where reading it fails, that stays the file's own trouble.
func (w *Workbench) readSafely(r *reader, f *site.File) (kept store.Reading, ok bool) {
	defer func() {
		if e := recover(); e != nil {
			slog.Error("a file could not be read", "path", f.Path, "error", e)
			f.Doc, f.Trouble, f.Unread = nil, "can't be read: Arvel fails on what is in it", site.IsRead(f.Path)
			*r = reader{scanner: markup.NewScanner()}
			kept, ok = store.Reading{}, false
		}
	}()
	return w.readFile(r, f)
}

// readFile reads a file into f and returns what is to be kept of it, if it could be read. Of a file that holds no
// references only the hash and the kind of its content are kept.
func (w *Workbench) readFile(r *reader, f *site.File) (store.Reading, bool) {
	kept := store.Reading{Path: f.Path, Size: f.Size, Modified: f.Modified}
	if time.Since(time.Unix(0, f.Modified)) < settled {
		kept.Modified = -1
	}
	if !site.IsRead(f.Path) {
		hash, head, err := w.folder.Hash(f.Path)
		if err != nil {
			f.Trouble, f.Vanished = folder.Trouble(err), errors.Is(err, fs.ErrNotExist)
			return kept, false
		}
		f.Hash, f.Content = hash, site.ContentOf(head)
		kept.Hash, kept.Content = f.Hash, f.Content
		return kept, true
	}
	src, err := w.folder.ReadInto(f.Path, r.room)
	if err != nil {
		f.Trouble = folder.Trouble(err)
		f.Unread, f.Vanished = !folder.Irregular(err), errors.Is(err, fs.ErrNotExist)
		return kept, false
	}
	r.room = src
	f.Content = site.ContentOf(src[:min(len(src), site.HeadSize)])
	f.Doc, f.Hash, f.Size = site.Scan(r.scanner, f.Path, src), change.HashOf(src), int64(len(src))
	f.Trouble = faults(f.Doc)
	kept.Size, kept.Hash, kept.Content, kept.Doc = f.Size, f.Hash, f.Content, markup.Pack(f.Doc)
	return kept, true
}

func faults(d *markup.Document) string {
	var all []string
	for _, f := range d.Faults {
		all = append(all, f.String())
	}
	return strings.Join(all, "; it ")
}

// Watch renews the view whenever something in the folder changes, until the workbench is closed.
func (w *Workbench) Watch() error {
	return w.folder.Watch(w.life, func(c folder.Change) {
		w.changes.Lock()
		defer w.changes.Unlock()
		if w.life.Err() == nil {
			w.renew(c)
		}
	})
}

// renew brings the view up to date with what changed on disk. It does not hang on the request of anybody: what could not
// be read becomes the folder's problem.
func (w *Workbench) renew(c folder.Change) {
	v := w.View()
	if c.Missing == nil {
		c.Missing = w.folder.Present()
	}
	switch {
	case c.Missing != nil:
		if was := w.Problem(); was == nil || was.Error() != c.Missing.Error() {
			w.fail(c.Missing)
		}
		return
	case v == nil && w.Problem() == nil:
		return // it is read for the first time
	case v == nil:
		if err := w.readAll(w.life); err != nil && w.life.Err() == nil {
			w.fail(err)
		}
		return
	}
	if err := w.bringUpToDate(v, c); err != nil && w.life.Err() == nil {
		w.fail(err)
	}
}

func (w *Workbench) bringUpToDate(v *View, c folder.Change) error {
	back := w.Problem() != nil
	entries, removed, listing, err := w.survey(v, c)
	if err != nil {
		return err
	}
	changed, fresh, err := w.readFiles(w.life, entries, nil)
	if err != nil {
		return err
	}
	changed, removed = differing(v.Snapshot, changed, removed)
	same := slices.Equal(listing.Unknown, v.listing.Unknown) && slices.Equal(listing.Outside, v.listing.Outside) && maps.Equal(listing.Same, v.listing.Same)
	w.problem.Store(nil)
	if len(changed)+len(removed) == 0 && same && slices.Equal(listing.Trouble, v.listing.Trouble) {
		if back {
			w.hub.send(Event{Kind: Renewed, Version: v.Version})
		}
		return nil
	}
	before := v.Snapshot
	if !same {
		before = site.Build(before.Files, v.set.at(listing))
		v = w.newView(v.Version, before, audit.Judge(before, v.set.terms), v.set, listing)
	}
	gone := slices.DeleteFunc(slices.Clone(removed), before.IsUnknown)
	if len(gone) > 0 {
		if err := w.keep(nil, gone); err != nil {
			slog.Warn("what is gone could not be noted", "folder", w.folder.Path, "error", err)
		}
	}
	snapshot, touched := before.Renew(changed, removed)
	next := w.newView(v.Version+1, snapshot, v.Report.Renew(snapshot, touched), v.set, listing)
	e := compare(w.View(), next)
	for i := range changed {
		e.Paths = append(e.Paths, changed[i].Path)
	}
	e.Paths = append(e.Paths, gone...)
	e.Gone = len(gone)
	w.view.Store(next)
	w.hub.send(e)
	if err := w.keep(fresh, nil); err != nil { // it is read anew next time
		slog.Warn("what was read could not be kept", "folder", w.folder.Path, "error", err)
	}
	return nil
}

// survey finds out which files there are where something changed, and which are gone from there. What can't be told from
// the paths that changed, such as which name of a file is its place, takes a look at the whole folder.
func (w *Workbench) survey(v *View, c folder.Change) (entries []folder.Entry, removed []string, listing folder.Listing, err error) {
	if !c.All && len(v.listing.Unknown)+len(v.listing.Outside) == 0 && !v.severalNames() {
		entries, removed, whole, err := w.surveyPaths(v, c.Paths)
		if err != nil || !whole {
			return entries, removed, v.listing, err
		}
	}
	listing, err = w.folder.Walk(w.life, "")
	if err != nil {
		return nil, nil, listing, err
	}
	seen := make(map[string]bool, len(listing.Entries))
	for _, e := range listing.Entries {
		seen[e.Path] = true
	}
	named := map[string]bool{}
	for _, p := range c.Paths {
		named[p] = true
	}
	entries = unchangedLeftOut(v.Snapshot, listing.Entries, named)
	for i := range v.Snapshot.Files {
		if p := v.Snapshot.Files[i].Path; !seen[p] {
			removed = append(removed, p)
		}
	}
	listing.Entries = nil
	return entries, removed, listing, nil
}

// severalNames reports whether a file of the view has several names.
func (v *View) severalNames() bool {
	return len(v.listing.Same) > 0 || slices.ContainsFunc(v.Snapshot.Files, func(f site.File) bool { return f.Same != "" })
}

// surveyPaths is survey for a few paths. whole reports that the whole folder has to be looked at.
func (w *Workbench) surveyPaths(v *View, paths []string) (entries []folder.Entry, removed []string, whole bool, err error) {
	seen := map[string]bool{}
	add := func(e folder.Entry) {
		if !seen[e.Path] {
			seen[e.Path] = true
			entries = append(entries, e)
		}
	}
	for _, p := range paths {
		if p == "" {
			return nil, nil, true, nil
		}
		if w.folder.Excluded(p) {
			continue // it went along with a folder
		}
		e, err := w.folder.Stat(p)
		switch {
		case err == nil:
			add(e)
			continue
		case !errors.Is(err, fs.ErrNotExist):
			return nil, nil, true, nil
		case w.folder.IsFolder(p):
			below, err := w.folder.Walk(w.life, p)
			if err != nil || len(below.Unknown)+len(below.Outside)+len(below.Trouble) > 0 {
				return nil, nil, true, err
			}
			for _, e := range below.Entries {
				add(e)
			}
		}
		for i := range v.Snapshot.Files {
			q := v.Snapshot.Files[i].Path
			if (q == p || strings.HasPrefix(q, p+"/")) && !seen[q] {
				if _, err := w.folder.Stat(q); errors.Is(err, fs.ErrNotExist) {
					seen[q] = true
					removed = append(removed, q)
				}
			}
		}
	}
	return entries, removed, false, nil
}

// unchangedLeftOut leaves out the entries whose size and time are as they were, but for those that are named.
func unchangedLeftOut(s *site.Snapshot, entries []folder.Entry, named map[string]bool) []folder.Entry {
	var out []folder.Entry
	for _, e := range entries {
		if i, ok := s.Find(e.Path); ok && !named[e.Path] {
			if f := &s.Files[i]; f.Size == e.Size && f.Modified == e.Modified && f.Same == e.Same && !f.Unread {
				continue
			}
		}
		out = append(out, e)
	}
	return out
}

// differing leaves out the files that are as the snapshot has them, and takes those that vanished while they
// were read as removed.
func differing(s *site.Snapshot, changed []site.File, removed []string) ([]site.File, []string) {
	var out []site.File
	for _, f := range changed {
		i, known := s.Find(f.Path)
		switch {
		case f.Vanished:
			if known {
				removed = append(removed, f.Path)
			}
		case known && s.Files[i].Hash == f.Hash && (s.Files[i].Doc != nil) == (f.Doc != nil) && s.Files[i].Trouble == f.Trouble && s.Files[i].Same == f.Same:
		default:
			out = append(out, f)
		}
	}
	return out, removed
}

// Pages returns the folder's pages, and the style sheets and pictures in which something is wrong, in the order in
// which they are listed: those of a folder before the folders in it, the index page first.
func (v *View) Pages() []int32 { return v.pages() }

// Files returns all files of the folder, by path.
func (v *View) Files() []int32 {
	out := make([]int32, len(v.Snapshot.Files))
	for i := range out {
		out[i] = int32(i)
	}
	return out
}

func listed(s *site.Snapshot, r *audit.Report) []int32 {
	var out []int32
	for i := range s.Files {
		if s.Files[i].IsPage() || r.Tally(int32(i), audit.Broken)+r.Tally(int32(i), audit.Fragile) > 0 {
			out = append(out, int32(i))
		}
	}
	slices.SortFunc(out, func(a, b int32) int {
		dirA, nameA := site.Cut(s.Files[a].Path)
		dirB, nameB := site.Cut(s.Files[b].Path)
		if dirA != dirB {
			return strings.Compare(dirA, dirB)
		}
		index := s.Folders[dirA].Index
		if a == index || b == index {
			return map[bool]int{true: -1, false: 1}[a == index]
		}
		return strings.Compare(nameA, nameB)
	})
	return out
}
