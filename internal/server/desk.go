package server

import (
	"context"
	"fmt"
	"log/slog"
	"strconv"
	"sync"

	"golang.org/x/sync/singleflight"

	"arvel/internal/store"
	"arvel/internal/workbench"
)

// desk holds the folders that are open. Opening one holds up nobody who works on another.
type desk struct {
	store   *store.Store
	opening singleflight.Group // by the folder's id, or path where that is not known yet

	mu     sync.Mutex
	open   map[int64]*workbench.Workbench
	closed bool
}

// openPath opens the folder at path, unless it is open, and begins to read it. One that is open but is not the folder at its
// path any more is opened anew.
func (d *desk) openPath(path string) (*workbench.Workbench, error) {
	w, err, _ := d.opening.Do(path, func() (any, error) { return d.begin(path) })
	if err != nil {
		return nil, err
	}
	return w.(*workbench.Workbench), nil
}

func (d *desk) begin(path string) (*workbench.Workbench, error) {
	w, err := workbench.Open(d.store, path, workbench.Options{})
	if err != nil {
		return nil, err
	}
	d.mu.Lock()
	already := d.open[w.ID]
	d.mu.Unlock()
	if already != nil && already.Present() == nil {
		w.Close()
		return already, nil
	}
	if already != nil {
		d.shut(w.ID)
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
	d.mu.Lock()
	defer d.mu.Unlock()
	if other := d.open[w.ID]; other != nil || d.closed {
		w.Close()
		if other == nil {
			return nil, context.Canceled
		}
		return other, nil
	}
	d.open[w.ID] = w
	go d.read(w)
	return w, nil
}

// read reads a folder for the first time. Whatever fails stays the folder's own problem.
func (d *desk) read(w *workbench.Workbench) {
	defer func() {
		if e := recover(); e != nil {
			w.Failed(fmt.Errorf("Arvel fails on what is in this folder: %v", e)) //nolint:staticcheck // a sentence for the author
		}
	}()
	if err := w.Read(context.Background()); err != nil {
		slog.Error("a folder could not be read", "folder", w.Path(), "error", err)
	}
}

// get returns the open folder of that id, opening it if it was opened before.
func (d *desk) get(id int64) (*workbench.Workbench, error) {
	d.mu.Lock()
	w := d.open[id]
	d.mu.Unlock()
	if w != nil {
		return w, nil
	}
	again, err, _ := d.opening.Do(strconv.FormatInt(id, 10), func() (any, error) {
		known, err := d.store.Folder(id)
		if err != nil {
			return nil, d.store.Explained(err)
		}
		return d.begin(known.Path)
	})
	if err != nil {
		return nil, err
	}
	return again.(*workbench.Workbench), nil
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
	all := d.open
	d.open, d.closed = map[int64]*workbench.Workbench{}, true
	d.mu.Unlock()
	for _, w := range all {
		w.Close()
	}
}
