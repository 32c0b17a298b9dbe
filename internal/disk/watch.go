package disk

import (
	"context"
	"io/fs"
	"path/filepath"
	"strings"
	"time"

	"github.com/fsnotify/fsnotify"
)

// A save is often several events: a write in two parts, or a new file that is renamed over the old one. They
// are gathered until it is quiet, but never for long.
const (
	QuietFor     = 30 * time.Millisecond
	atMost       = 250 * time.Millisecond
	pollEvery    = 2 * time.Second
	manyEvents   = 2000
	presentEvery = 500 * time.Millisecond // whether the folder itself still is where it was
)

// Change is what happened in the folder.
type Change struct {
	// Paths are what was written, made or taken away; relative, with slashes. They may be folders.
	Paths []string
	// All: so much happened that everything has to be looked at again.
	All bool
	// Missing says that the folder itself is not at its path any more, and how; nil once it is back.
	Missing error
}

// Watch calls changed for what happens in the folder until ctx is done. Where the system has no watches left,
// the folder is looked through every two seconds instead.
func (f *Folder) Watch(ctx context.Context, changed func(Change)) error {
	w, err := fsnotify.NewWatcher()
	if err != nil {
		go f.poll(ctx, changed)
		return nil
	}
	if err := f.watchBelow(w, f.Path); err != nil {
		w.Close()
		go f.poll(ctx, changed)
		return nil
	}
	go f.gather(ctx, w, changed)
	return nil
}

// watchBelow watches dir and the folders below it.
func (f *Folder) watchBelow(w *fsnotify.Watcher, dir string) error {
	return filepath.WalkDir(dir, func(full string, e fs.DirEntry, err error) error {
		if err != nil || !e.IsDir() {
			return nil
		}
		if rel := f.relative(full); rel != "" && f.Excluded(rel) {
			return fs.SkipDir
		}
		return w.Add(full)
	})
}

func (f *Folder) relative(full string) string {
	return filepath.ToSlash(strings.TrimPrefix(strings.TrimPrefix(full, f.Path), string(filepath.Separator)))
}

func (f *Folder) gather(ctx context.Context, w *fsnotify.Watcher, changed func(Change)) {
	defer w.Close()
	paths := map[string]bool{}
	all := false
	var first time.Time
	timer := time.NewTimer(time.Hour)
	timer.Stop()
	look := time.NewTicker(presentEvery)
	defer look.Stop()
	var missing error
	note := func() {
		now := time.Now()
		if first.IsZero() {
			first = now
		}
		timer.Reset(min(QuietFor, max(0, first.Add(atMost).Sub(now))))
	}
	for {
		select {
		case <-ctx.Done():
			return
		case e, ok := <-w.Events:
			if !ok {
				return
			}
			rel := f.relative(e.Name)
			if e.Op == fsnotify.Chmod || f.Excluded(rel) && rel != "" {
				continue
			}
			if e.Op.Has(fsnotify.Create) && f.IsFolder(rel) {
				// Files made before the watch began are found by looking the new folder through.
				if f.watchBelow(w, e.Name) != nil {
					all = true
				}
			}
			paths[rel] = true
			note()
		case _, ok := <-w.Errors:
			if !ok {
				return
			}
			all = true // events were lost
			note()
		case <-look.C:
			// No event tells that a folder above was renamed, so the folder itself is looked at.
			now := f.Present()
			if sameText(now, missing) {
				continue
			}
			missing = now
			if now == nil {
				_ = f.watchBelow(w, f.Path) // what is missed is found by looking all through
			}
			changed(Change{All: true, Missing: now})
		case <-timer.C:
			if missing != nil || f.Present() != nil {
				continue // reported as soon as it is looked at
			}
			c := Change{All: all || len(paths) > manyEvents}
			for p := range paths {
				c.Paths = append(c.Paths, p)
			}
			clear(paths)
			all, first = false, time.Time{}
			changed(c)
		}
	}
}

func sameText(a, b error) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Error() == b.Error()
}

// poll looks the whole folder through again and again.
func (f *Folder) poll(ctx context.Context, changed func(Change)) {
	tick := time.NewTicker(pollEvery)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			changed(Change{All: true, Missing: f.Present()})
		}
	}
}
