// Package workbench holds one open folder together: what reads it, the snapshot and its report, the store, and
// the events that tell what happens in it. It is what every front end calls.
package workbench

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
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

// Workbench is one open folder. It is safe for use by several goroutines.
type Workbench struct {
	ID int64

	store   *store.Store
	folder  *folder.Folder
	options site.Options
	terms   audit.Terms
	kept    store.Settings
	tried   atomic.Pointer[triedLinks]
	changes sync.Mutex // held while the view or the files are changed
	view    atomic.Pointer[View]
	read    atomic.Int64
	total   atomic.Int64
	problem atomic.Pointer[error]
	hub     hub
	stop    context.CancelFunc
}

// View is the folder as it was last read. It is immutable.
type View struct {
	// Version grows with every renewal.
	Version  uint64
	At       time.Time
	Snapshot *site.Snapshot
	Report   *audit.Report
	// Trouble says what could not be read, a sentence each.
	Trouble []string

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

func (w *Workbench) newView(version uint64, s *site.Snapshot, r *audit.Report, trouble []string) *View {
	planner := sync.OnceValue(func() *repair.Planner { return repair.NewPlanner(s, w.past()) })
	return &View{
		Version: version, At: time.Now(), Snapshot: s, Report: r, Trouble: trouble,
		planner:    planner,
		causes:     sync.OnceValue(func() []repair.Cause { return planner().Causes(r) }),
		departures: sync.OnceValue(func() []relocate.Off { return relocate.Unfollowed(s, planner().Departures()) }),
		survey:     sync.OnceValue(func() audit.Survey { return r.Take(s) }),
		pages:      sync.OnceValue(func() []int32 { return listed(s, r) }),
	}
}

// past returns what the record has of the folder. What of it can't be read is as if it had not been kept.
func (w *Workbench) past() (out repair.Past) {
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
}

// Open opens a folder without reading it yet. Files are changed only after [Workbench.Recover].
func Open(st *store.Store, path string, o Options) (*Workbench, error) {
	f, err := folder.Open(path, nil)
	if err != nil {
		return nil, err
	}
	known, err := st.OpenFolder(f.Path)
	if err != nil {
		f.Close()
		return nil, err
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
	w := &Workbench{ID: known.ID, store: st, folder: f, kept: known.Settings, stop: func() {}}
	if err := w.settle(o.Place, o.IgnoreCase); err != nil {
		f.Close()
		return nil, err
	}
	return w, nil
}

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

// Close stops watching and lets go of the folder.
func (w *Workbench) Close() {
	w.stop()
	w.changes.Lock()
	defer w.changes.Unlock()
	w.hub.close()
	w.folder.Close()
}

// Read reads, resolves and judges the whole folder. What has not changed since it was last read, by size and
// time, is taken from the store.
func (w *Workbench) Read(ctx context.Context) error {
	w.changes.Lock()
	defer w.changes.Unlock()
	err := w.readAll(ctx)
	if err != nil {
		w.problem.Store(&err)
		w.hub.send(Event{Kind: Failed, Problem: err.Error()})
	}
	return err
}

func (w *Workbench) readAll(ctx context.Context) error {
	entries, trouble, err := w.folder.Walk("")
	if err != nil {
		return err
	}
	known := map[string]store.Reading{}
	if err := w.store.Readings(w.ID, func(r store.Reading) { known[r.Path] = r }); err != nil {
		return err
	}
	files, fresh, err := w.readFiles(ctx, entries, known)
	if err != nil {
		return err
	}
	var gone []string
	still := make(map[string]bool, len(entries))
	for _, e := range entries {
		still[e.Path] = true
	}
	for p := range known {
		if !still[p] {
			gone = append(gone, p)
		}
	}
	for i := range files {
		if files[i].Trouble != "" {
			trouble = append(trouble, files[i].Path+" "+files[i].Trouble)
		}
	}
	// What is gone is part of the record before anybody asks what happened.
	if err := w.store.Keep(w.ID, nil, gone); err != nil {
		return err
	}
	snapshot := site.Build(files, w.options)
	report := audit.Judge(snapshot, w.terms)
	version := uint64(1)
	if v := w.View(); v != nil {
		version = v.Version + 1
	}
	w.view.Store(w.newView(version, snapshot, report, trouble))
	w.problem.Store(nil)
	w.hub.send(Event{Kind: Renewed, Version: version})
	return w.store.Keep(w.ID, fresh, nil)
}

// progressEvery is how many files are read between two events that say so.
const progressEvery = 250

// readFiles makes the model's files of the folder's entries, reading those that are not known as they are.
func (w *Workbench) readFiles(ctx context.Context, entries []folder.Entry, known map[string]store.Reading) (files []site.File, fresh []store.Reading, err error) {
	files = make([]site.File, len(entries))
	for i, e := range entries {
		files[i] = site.File{Path: e.Path, Kind: site.KindOf(e.Path), Size: e.Size, Modified: e.Modified}
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
				if r, ok := known[f.Path]; !ok || !takeOver(f, r) {
					if r, ok := w.readFile(&reader, f); ok {
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
			f.Trouble = folder.Trouble(err)
			return kept, false
		}
		f.Hash, f.Content = hash, site.ContentOf(head)
		kept.Hash, kept.Content = f.Hash, f.Content
		return kept, true
	}
	src, err := w.folder.ReadInto(f.Path, r.room)
	if err != nil {
		f.Trouble = folder.Trouble(err)
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
	ctx, cancel := context.WithCancel(context.Background())
	w.stop = cancel
	return w.folder.Watch(ctx, func(c folder.Change) {
		if ctx.Err() == nil {
			w.changes.Lock()
			defer w.changes.Unlock()
			w.renew(ctx, c)
		}
	})
}

// renew brings the view up to date with what changed on disk.
func (w *Workbench) renew(ctx context.Context, c folder.Change) {
	v := w.View()
	if v == nil {
		return
	}
	entries, removed, err := w.survey(v, c)
	if err != nil {
		w.problem.Store(&err)
		w.hub.send(Event{Kind: Failed, Problem: err.Error()})
		return
	}
	changed, fresh, err := w.readFiles(ctx, entries, nil)
	if err != nil {
		return
	}
	changed, removed = differing(v.Snapshot, changed, removed)
	if len(changed)+len(removed) == 0 {
		return
	}
	if len(removed) > 0 {
		_ = w.store.Keep(w.ID, nil, removed)
	}
	snapshot, touched := v.Snapshot.Renew(changed, removed)
	report := v.Report.Renew(snapshot, touched)
	next := w.newView(v.Version+1, snapshot, report, troubleOf(snapshot))
	e := compare(v, next)
	for i := range changed {
		e.Paths = append(e.Paths, changed[i].Path)
	}
	e.Paths = append(e.Paths, removed...)
	w.view.Store(next)
	w.problem.Store(nil)
	w.hub.send(e)
	// What can't be kept now is read anew next time.
	_ = w.store.Keep(w.ID, fresh, nil)
}

// survey finds out which files stand where something changed, and which are gone from there.
func (w *Workbench) survey(v *View, c folder.Change) (entries []folder.Entry, removed []string, err error) {
	seen := map[string]bool{}
	below := func(dir string) error {
		list, _, err := w.folder.Walk(dir)
		for _, e := range list {
			if !seen[e.Path] {
				seen[e.Path] = true
				entries = append(entries, e)
			}
		}
		return err
	}
	if c.All {
		if err := below(""); err != nil {
			return nil, nil, err
		}
		entries = unchangedLeftOut(v.Snapshot, entries)
		for i := range v.Snapshot.Files {
			if p := v.Snapshot.Files[i].Path; !seen[p] {
				removed = append(removed, p)
			}
		}
		return entries, removed, nil
	}
	for _, p := range c.Paths {
		if p != "" && w.folder.Excluded(p) {
			continue // it went along with a folder
		}
		e, err := w.folder.Stat(p)
		switch {
		case err == nil:
			if !seen[p] {
				seen[p] = true
				entries = append(entries, e)
			}
			continue
		case w.folder.IsFolder(p):
			if err := below(p); err != nil {
				return nil, nil, err
			}
		case p == "":
			return nil, nil, below("")
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
	return entries, removed, nil
}

// unchangedLeftOut leaves out the entries whose size and time are as they were.
func unchangedLeftOut(s *site.Snapshot, entries []folder.Entry) []folder.Entry {
	var out []folder.Entry
	for _, e := range entries {
		if i, ok := s.Find(e.Path); ok && s.Files[i].Size == e.Size && s.Files[i].Modified == e.Modified {
			continue
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
		case f.Doc == nil && strings.Contains(f.Trouble, "taken away"):
			if known {
				removed = append(removed, f.Path)
			}
		case known && s.Files[i].Hash == f.Hash && (s.Files[i].Doc != nil) == (f.Doc != nil) && s.Files[i].Trouble == f.Trouble:
		default:
			out = append(out, f)
		}
	}
	return out, removed
}

func troubleOf(s *site.Snapshot) []string {
	var out []string
	for i := range s.Files {
		if f := &s.Files[i]; f.Trouble != "" {
			out = append(out, f.Path+" "+f.Trouble)
		}
	}
	return out
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
		if s.Files[i].Kind == site.Page || r.Tally(int32(i), audit.Broken)+r.Tally(int32(i), audit.Fragile) > 0 {
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
