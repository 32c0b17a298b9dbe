package workspace

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
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/internal/disk"
	"arvel/internal/store"
)

// Read reads, resolves and judges the whole folder. What has not changed since it was last read, by size and
// time, is taken from the store.
func (s *Session) Read(ctx context.Context) error {
	s.changes.Lock()
	defer s.changes.Unlock()
	ctx, done := s.alive(ctx)
	defer done()
	err := s.readAll(ctx)
	if err != nil && ctx.Err() == nil {
		s.fail(err)
	}
	return err
}

// fail notes why the folder can't be read, and tells of it.
func (s *Session) fail(err error) {
	s.problem.Store(&err)
	s.hub.send(Event{Kind: Failed, Problem: err.Error()})
}

func (s *Session) readAll(ctx context.Context) error {
	if err := s.folder.Present(); err != nil {
		return err
	}
	listing, err := s.folder.Walk(ctx, "")
	if err != nil {
		return err
	}
	known := map[string]store.Reading{}
	if !s.forget {
		if err := s.store.Readings(s.ID, func(r store.Reading) { known[r.Path] = r }); err != nil {
			return s.store.Explained(err)
		}
	}
	files, fresh, err := s.readFiles(ctx, listing.Entries, known)
	if err != nil {
		return err
	}
	still := make(map[string]bool, len(listing.Entries))
	for _, e := range listing.Entries {
		still[e.Path] = true
	}
	listing.Entries = nil
	set := s.conditions.Load()
	snapshot := site.Build(files, set.at(listing))
	var gone []string
	for p := range known {
		if !still[p] && !snapshot.IsUnknown(p) {
			gone = append(gone, p)
		}
	}
	// What is gone, and what is another one now, is part of the record before anybody asks what happened.
	replaced, first := parted(fresh, func(p string) bool { _, was := known[p]; return was })
	if err := s.keep(replaced, gone, true); err != nil {
		return err
	}
	report := set.judge(snapshot, s.recorded())
	version := uint64(1)
	if v := s.View(); v != nil {
		version = v.Version + 1
	}
	s.view.Store(newView(version, snapshot, report, set, listing, s.recorded().seen(first)))
	s.problem.Store(nil)
	s.hub.send(Event{Kind: Renewed, Version: version})
	return s.keep(first, nil, true)
}

// judge judges a snapshot, with what the record of the folder says of it.
func (s *conditions) judge(snapshot *site.Snapshot, r *record) *audit.Report {
	terms := s.terms
	terms.Displaced = r.displaced(snapshot)
	return audit.Judge(snapshot, rule.All, terms)
}

// at returns the options with what could not be read of the folder.
func (s *conditions) at(l disk.Listing) site.Options {
	o := s.options
	o.Unknown, o.Same = slices.Concat(l.Unknown, l.Outside), l.Same
	return o
}

// parted parts readings in those of files that were known and those of files that are new.
func parted(readings []store.Reading, known func(path string) bool) (replaced, first []store.Reading) {
	for _, r := range readings {
		if known(r.Path) {
			replaced = append(replaced, r)
		} else {
			first = append(first, r)
		}
	}
	return replaced, first
}

// keep keeps what was read and what is gone, unless nothing is to be kept; if former is set, also what was there in place of what
// was read.
func (s *Session) keep(readings []store.Reading, gone []string, former bool) error {
	if s.forget {
		return nil
	}
	if len(readings)+len(gone) > 0 {
		defer s.recordChanged()
	}
	return s.store.Explained(s.store.Keep(s.ID, readings, gone, former))
}

// progressEvery is how many files are read between two events that say so.
const progressEvery = 250

// readFiles makes the model's files of the folder's entries, reading those that are not known as they are.
func (s *Session) readFiles(ctx context.Context, entries []disk.Entry, known map[string]store.Reading) (files []site.File, fresh []store.Reading, err error) {
	files = make([]site.File, len(entries))
	for i, e := range entries {
		files[i] = site.File{Path: e.Path, Kind: site.KindOf(e.Path), Size: e.Size, Modified: e.Modified, Same: e.OriginalPath}
	}
	s.total.Store(int64(len(files)))
	s.read.Store(0)
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
					if r, ok := s.readSafely(&reader, f); ok {
						mine = append(mine, r)
					}
				}
				if done := s.read.Add(1); done%progressEvery == 0 {
					s.hub.send(Event{Kind: Progress, Read: int(done), Total: len(files)})
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
func (s *Session) readSafely(r *reader, f *site.File) (kept store.Reading, ok bool) {
	defer func() {
		if e := recover(); e != nil {
			slog.Error("a file could not be read", "path", f.Path, "error", e)
			f.Doc, f.Trouble, f.Unread = nil, "can't be read: Arvel fails on what is in it", site.IsRead(f.Path)
			*r = reader{scanner: markup.NewScanner()}
			kept, ok = store.Reading{}, false
		}
	}()
	return s.readFile(r, f)
}

// readFile reads a file into f and returns what is to be kept of it, if it could be read. Of a file that holds no
// references only the hash and the kind of its content are kept.
func (s *Session) readFile(r *reader, f *site.File) (store.Reading, bool) {
	kept := store.Reading{Path: f.Path, Size: f.Size, Modified: f.Modified}
	if time.Since(time.Unix(0, f.Modified)) < settled {
		kept.Modified = -1
	}
	if !site.IsRead(f.Path) {
		hash, head, err := s.folder.Hash(f.Path)
		if err != nil {
			f.Trouble, f.Vanished = disk.Trouble(err), errors.Is(err, fs.ErrNotExist)
			return kept, false
		}
		f.Hash, f.Content = hash, site.ContentOf(head)
		kept.Hash, kept.Content = f.Hash, f.Content
		return kept, true
	}
	src, err := s.folder.ReadInto(f.Path, r.room)
	if err != nil {
		f.Trouble = disk.Trouble(err)
		f.Unread, f.Vanished = !disk.Irregular(err), errors.Is(err, fs.ErrNotExist)
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
