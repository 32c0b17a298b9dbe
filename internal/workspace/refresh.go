package workspace

import (
	"errors"
	"io/fs"
	"log/slog"
	"maps"
	"slices"
	"strings"

	"arvel/core/site"
	"arvel/internal/disk"
)

// Watch renews the view whenever something in the folder changes, until the workbench is closed.
func (s *Session) Watch() error {
	return s.folder.Watch(s.life, func(c disk.Change) {
		s.changes.Lock()
		defer s.changes.Unlock()
		if s.life.Err() == nil {
			s.renew(c, true)
		}
	})
}

// renew brings the view up to date with what changed on disk; if former is set, what was there before is kept. It does not hang on
// the request of anybody: what could not be read becomes the folder's problem.
func (s *Session) renew(c disk.Change, former bool) {
	v := s.View()
	if c.Missing == nil {
		c.Missing = s.folder.Present()
	}
	switch {
	case c.Missing != nil:
		if was := s.Problem(); was == nil || was.Error() != c.Missing.Error() {
			s.fail(c.Missing)
		}
		return
	case v == nil && s.Problem() == nil:
		return // it is read for the first time
	case v == nil:
		if err := s.readAll(s.life); err != nil && s.life.Err() == nil {
			s.fail(err)
		}
		return
	}
	if err := s.update(v, c, former); err != nil && s.life.Err() == nil {
		s.fail(err)
	}
}

func (s *Session) update(v *View, c disk.Change, former bool) error {
	back := s.Problem() != nil
	entries, removed, listing, err := s.changedEntries(v, c)
	if err != nil {
		return err
	}
	changed, fresh, err := s.readFiles(s.life, entries, nil)
	if err != nil {
		return err
	}
	changed, removed = differing(v.Snapshot, changed, removed)
	same := slices.Equal(listing.Unknown, v.listing.Unknown) && slices.Equal(listing.Outside, v.listing.Outside) && maps.Equal(listing.Same, v.listing.Same)
	s.problem.Store(nil)
	if len(changed)+len(removed) == 0 && same && slices.Equal(listing.Trouble, v.listing.Trouble) {
		if back {
			s.hub.send(Event{Kind: Renewed, Version: v.Version})
		}
		return nil
	}
	before := v.Snapshot
	if !same {
		before = site.Build(before.Files, v.conditions.at(listing))
		v = newView(v.Version, before, v.conditions.judge(before, v.record), v.conditions, listing, v.record)
	}
	gone := slices.DeleteFunc(slices.Clone(removed), before.IsUnknown)
	replaced, first := parted(fresh, func(p string) bool { _, was := before.Find(p); return was })
	if err := s.keep(replaced, gone, former); err != nil {
		slog.Warn("what is gone could not be noted", "folder", s.folder.Path, "error", err)
	}
	snapshot, touched := before.Renew(changed, removed)
	known := s.recorded().seen(first)
	next := newView(v.Version+1, snapshot, v.Report.Renew(snapshot, touched, known.displaced(snapshot)), v.conditions, listing, known)
	e := compare(s.View(), next)
	for i := range changed {
		e.Paths = append(e.Paths, changed[i].Path)
	}
	e.Paths = append(e.Paths, gone...)
	e.Gone = len(gone)
	s.view.Store(next)
	s.hub.send(e)
	if err := s.keep(first, nil, former); err != nil { // it is read anew next time
		slog.Warn("what was read could not be kept", "folder", s.folder.Path, "error", err)
	}
	return nil
}

// changedEntries finds out which files there are where something changed, and which are gone from there. What does not follow from
// the paths that changed, such as which name of a file is its place, takes a look at the whole folder.
func (s *Session) changedEntries(v *View, c disk.Change) (entries []disk.Entry, removed []string, listing disk.Listing, err error) {
	if !c.All && len(v.listing.Unknown)+len(v.listing.Outside) == 0 && !v.severalNames() {
		entries, removed, whole, err := s.changedEntriesAt(v, c.Paths)
		if err != nil || !whole {
			return entries, removed, v.listing, err
		}
	}
	listing, err = s.folder.Walk(s.life, "")
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

// changedEntriesAt is survey for a few paths. whole reports that the whole folder has to be looked at.
func (s *Session) changedEntriesAt(v *View, paths []string) (entries []disk.Entry, removed []string, whole bool, err error) {
	seen := map[string]bool{}
	add := func(e disk.Entry) {
		if !seen[e.Path] {
			seen[e.Path] = true
			entries = append(entries, e)
		}
	}
	for _, p := range paths {
		if p == "" {
			return nil, nil, true, nil
		}
		if s.folder.Excluded(p) {
			continue // it went along with a folder
		}
		e, err := s.folder.Stat(p)
		switch {
		case err == nil:
			add(e)
			continue
		case !errors.Is(err, fs.ErrNotExist):
			return nil, nil, true, nil
		case s.folder.IsFolder(p):
			below, err := s.folder.Walk(s.life, p)
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
				if _, err := s.folder.Stat(q); errors.Is(err, fs.ErrNotExist) {
					seen[q] = true
					removed = append(removed, q)
				}
			}
		}
	}
	return entries, removed, false, nil
}

// unchangedLeftOut leaves out the entries whose size and time are as they were, but for those that are named.
func unchangedLeftOut(s *site.Snapshot, entries []disk.Entry, named map[string]bool) []disk.Entry {
	var out []disk.Entry
	for _, e := range entries {
		if i, ok := s.Find(e.Path); ok && !named[e.Path] {
			if f := &s.Files[i]; f.Size == e.Size && f.Modified == e.Modified && f.Same == e.OriginalPath && !f.Unread {
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
