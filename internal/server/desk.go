package server

import (
	"context"
	"log/slog"
	"sync"

	"arvel/internal/store"
	"arvel/internal/workbench"
)

// desk holds the folders that are open.
type desk struct {
	store *store.Store

	mu   sync.Mutex
	open map[int64]*workbench.Workbench
}

// openPath opens the folder at path, unless it is open, and begins to read it.
func (d *desk) openPath(path string) (*workbench.Workbench, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.openLocked(path)
}

func (d *desk) openLocked(path string) (*workbench.Workbench, error) {
	w, err := workbench.Open(d.store, path, workbench.Options{})
	if err != nil {
		return nil, err
	}
	if already := d.open[w.ID]; already != nil {
		w.Close()
		return already, nil
	}
	if err := w.Recover(); err != nil {
		// The folder can be looked at all the same, and the next start tries again.
		slog.Error("a change that was cut short could not be completed", "folder", w.Path(), "error", err)
	}
	// The watch stands before the reading begins, so that nothing falls between them.
	if err := w.Watch(); err != nil {
		w.Close()
		return nil, err
	}
	d.open[w.ID] = w
	go func() {
		if err := w.Read(context.Background()); err != nil {
			slog.Error("a folder could not be read", "folder", w.Path(), "error", err)
		}
	}()
	return w, nil
}

// get returns the open folder of that id, opening it if it was opened before.
func (d *desk) get(id int64) (*workbench.Workbench, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if w := d.open[id]; w != nil {
		return w, nil
	}
	known, err := d.store.Folder(id)
	if err != nil {
		return nil, err
	}
	return d.openLocked(known.Path)
}

// shut closes a folder.
func (d *desk) shut(id int64) {
	d.mu.Lock()
	w := d.open[id]
	delete(d.open, id)
	d.mu.Unlock()
	if w != nil {
		w.Close()
	}
}

func (d *desk) close() {
	d.mu.Lock()
	defer d.mu.Unlock()
	for id, w := range d.open {
		w.Close()
		delete(d.open, id)
	}
}
