package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"syscall"
	"time"

	"golang.org/x/sync/errgroup"

	"arvel/core/relocate"
	"arvel/internal/store"
	"arvel/internal/workbench"
)

// moved measures planning and carrying out the move of a folder that every page refers to, and noticing that a tenth of
// the pages were moved by somebody else, on a copy of the folder.
func moved(dir string) error {
	work, err := os.MkdirTemp(filepath.Dir(dir), "moved-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work)
	site := filepath.Join(work, "site")
	if err := os.CopyFS(site, os.DirFS(dir)); err != nil {
		return err
	}
	at := func(do func(w *workbench.Workbench) error) error {
		st, err := store.Open(filepath.Join(work, "data"))
		if err != nil {
			return err
		}
		defer st.Close()
		w, err := workbench.Open(st, site, workbench.Options{})
		if err != nil {
			return err
		}
		defer w.Close()
		if err := w.Read(context.Background()); err != nil {
			return err
		}
		return do(w)
	}
	if err := at(func(w *workbench.Workbench) error { return planned(w, work) }); err != nil {
		return err
	}
	for i := 20; i < 30; i++ {
		if err := os.Rename(filepath.Join(site, fmt.Sprintf("notes/%03d", i)), filepath.Join(site, fmt.Sprintf("notes/years-%03d", i))); err != nil {
			return err
		}
	}
	return at(func(w *workbench.Workbench) error {
		var off []relocate.Off
		took := timed(func() { off = w.View().Departures() })
		files, still, inside := 0, 0, 0
		for _, o := range off {
			files, still, inside = files+o.Files, still+o.Still, inside+o.Inside
		}
		fmt.Printf("%-34s %9s      at most 2 s; %d references lead to the old places, %d in them are off\n", fmt.Sprintf("%d moved files noticed", files), took.Round(100*time.Microsecond), still, inside)
		return nil
	})
}

func planned(w *workbench.Workbench, work string) error {
	moves := []relocate.Move{{From: "notes/016", To: "notes/archive/016"}}
	var p *relocate.Plan
	took := time.Hour
	for range 3 {
		took = min(took, timed(func() { p = w.PlanMoves(w.View(), moves, relocate.Options{}) }))
	}
	fmt.Printf("%-34s %9s      at most 1 s; %d references in %d files\n", "a folder's move planned", took.Round(100*time.Microsecond), len(p.Rewrites), len(p.Set.Files))

	const page = "notes/050/page-05050.html"
	src, err := w.Source(page)
	if err != nil {
		return err
	}
	var to []workbench.BroughtTo
	took = timed(func() {
		_, _, to, _, err = w.Bring(context.Background(), workbench.Bringing{Page: page, Text: string(src), Block: -1}, false)
	})
	if err != nil {
		return err
	}
	fmt.Printf("%-34s %9s      for %d pages\n", "a menu for other pages planned", took.Round(100*time.Microsecond), len(to))

	// The yardstick: each of those files replaced as a careful program saves one, as many at a time.
	var contents [][]byte
	for _, f := range p.Set.Files {
		src, err := w.Source(f.Standing())
		if err != nil {
			return err
		}
		contents = append(contents, src)
	}
	yard := filepath.Join(work, "yard")
	if err := os.Mkdir(yard, 0o755); err != nil {
		return err
	}
	err = eachAtOnce(contents, func(i int, b []byte) error { return os.WriteFile(filepath.Join(yard, fmt.Sprint(i)), b, 0o644) })
	if err != nil {
		return err
	}
	syscall.Sync() // so that neither waits for what was written before
	wrote := timed(func() {
		err = eachAtOnce(contents, func(i int, b []byte) error { return saveSynced(filepath.Join(yard, fmt.Sprint(i)), b) })
	})
	if err != nil {
		return err
	}
	syscall.Sync()
	took = timed(func() { _, _, err = w.Move(moves, relocate.Options{}) })
	row("and carried out", took, "those files saved with sync", wrote)
	return err
}

func eachAtOnce(contents [][]byte, do func(int, []byte) error) error {
	var g errgroup.Group
	g.SetLimit(8)
	for i, b := range contents {
		g.Go(func() error { return do(i, b) })
	}
	return g.Wait()
}

// saveSynced writes a file beside the one it replaces, syncs it, and puts it into its place.
func saveSynced(name string, b []byte) error {
	f, err := os.Create(name + "~")
	if err != nil {
		return err
	}
	defer f.Close()
	if _, err := f.Write(b); err != nil {
		return err
	}
	if err := f.Sync(); err != nil {
		return err
	}
	return os.Rename(name+"~", name)
}
