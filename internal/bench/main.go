// Bench measures Arvel's work on a large folder, each figure beside its yardstick. Run it by "make bench".
package main

import (
	"bytes"
	"context"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"golang.org/x/net/html"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/demo"
	"arvel/internal/folder"
	"arvel/internal/store"
	"arvel/internal/workbench"
)

const pages = 10_000

func main() {
	log.SetFlags(0)
	if len(os.Args) > 2 && os.Args[1] == "peak" {
		peak(os.Args[2])
		return
	}
	if err := run(); err != nil {
		log.Fatal(err)
	}
}

func run() error {
	dir := filepath.Join(".work", "bench", fmt.Sprint(pages))
	if _, err := os.Stat(filepath.Join(dir, "index.html")); err != nil {
		fmt.Println("writing the folder …")
		if err := demo.Large(dir, pages); err != nil {
			return err
		}
		past := time.Now().Add(-time.Hour)
		err := filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
			if err == nil && !e.IsDir() {
				err = os.Chtimes(p, past, past)
			}
			return err
		})
		if err != nil {
			return err
		}
	}
	f, err := folder.Open(dir, nil)
	if err != nil {
		return err
	}
	defer f.Close()
	listing, err := f.Walk(context.Background(), "")
	if err != nil {
		return err
	}
	var size int64
	for _, e := range listing.Entries {
		size += e.Size
	}
	yard, whole := time.Hour, time.Hour
	var counts audit.Counts
	for range 3 { // the best of three, since other work on the machine only ever adds
		yard = min(yard, timed(func() { each(listing.Entries, func() func([]byte, string) { return tokenize }, f) }))
		whole = min(whole, timed(func() { counts = readAndJudge(f) }))
	}
	fmt.Printf("folder: %d pages, %.0f MB, %d references, %d broken; %d cores\n", counts.Pages, float64(size)/1e6, counts.References, counts.Broken, runtime.GOMAXPROCS(0))
	row("read, resolve and judge", whole, "the tokenizer of x/net/html alone", yard)

	out, err := exec.Command(os.Args[0], "peak", dir).Output()
	if err != nil {
		return err
	}
	fmt.Printf("%-34s %9s      at most 600 MB for a million references\n", "memory at the peak of that", strings.TrimSpace(string(out)))
	if err := reopened(dir); err != nil {
		return err
	}
	if err := moved(dir); err != nil {
		return err
	}
	explained(f)
	return restored()
}

func row(what string, took time.Duration, yardstick string, yard time.Duration) {
	fmt.Printf("%-34s %9s      %s: %s; ratio %.2f\n", what, took.Round(100*time.Microsecond), yardstick, yard.Round(100*time.Microsecond), float64(took)/float64(yard))
}

func timed(f func()) time.Duration {
	runtime.GC()
	start := time.Now()
	f()
	return time.Since(start)
}

// each reads every page on all cores and hands it to what work makes for each core.
func each(entries []folder.Entry, work func() func([]byte, string), f *folder.Folder) {
	var next atomic.Int64
	var wait sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			do := work()
			var room []byte
			for {
				n := int(next.Add(1)) - 1
				if n >= len(entries) {
					return
				}
				if !site.IsRead(entries[n].Path) {
					continue
				}
				src, err := f.ReadInto(entries[n].Path, room)
				if err != nil {
					log.Fatal(err)
				}
				room = src
				do(src, entries[n].Path)
			}
		})
	}
	wait.Wait()
}

func tokenize(src []byte, _ string) {
	z := html.NewTokenizer(bytes.NewReader(src))
	for z.Next() != html.ErrorToken {
		continue
	}
}

// readAndJudge does what opening a folder does, but for keeping what was read.
func readAndJudge(f *folder.Folder) audit.Counts {
	return audit.Judge(snapshotOf(f), audit.Terms{}).Counts
}

// snapshotOf reads and resolves a folder.
func snapshotOf(f *folder.Folder) *site.Snapshot {
	listing, err := f.Walk(context.Background(), "")
	if err != nil {
		log.Fatal(err)
	}
	var mu sync.Mutex
	var files []site.File
	each(listing.Entries, func() func([]byte, string) {
		scanner := markup.NewScanner()
		return func(src []byte, path string) {
			file := site.File{Path: path, Kind: site.KindOf(path), Size: int64(len(src)), Hash: change.HashOf(src), Doc: site.Scan(scanner, path, src)}
			mu.Lock()
			files = append(files, file)
			mu.Unlock()
		}
	}, f)
	for _, e := range listing.Entries {
		if !site.IsRead(e.Path) {
			files = append(files, site.File{Path: e.Path, Kind: site.KindOf(e.Path)})
		}
	}
	return site.Build(files, site.Options{Place: address.Place{Mount: "/"}})
}

// peak opens a folder as the server does and prints the most memory that took.
func peak(dir string) {
	f, err := folder.Open(dir, nil)
	if err != nil {
		log.Fatal(err)
	}
	readAndJudge(f)
	status, err := os.ReadFile("/proc/self/status")
	if err != nil {
		log.Fatal(err)
	}
	for line := range strings.SplitSeq(string(status), "\n") {
		if kb, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			var n int
			fmt.Sscan(kb, &n)
			fmt.Printf("%d MB\n", n/1000)
		}
	}
}

// reopened measures opening a folder for the first time and again, and one page saved.
func reopened(dir string) error {
	data, err := os.MkdirTemp("", "arvel-bench-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	var first, again time.Duration
	for _, took := range []*time.Duration{&first, &again} {
		st, err := store.Open(data)
		if err != nil {
			return err
		}
		var w *workbench.Workbench
		*took = timed(func() {
			if w, err = workbench.Open(st, dir, workbench.Options{}); err == nil {
				err = w.Read(context.Background())
			}
		})
		if err != nil {
			return err
		}
		if took == &again {
			if err := saved(w, dir); err != nil {
				return err
			}
			row("open it again", again, "the first time", first)
			if err := written(w); err != nil {
				return err
			}
		}
		w.Close()
		st.Close()
	}
	return nil
}

// saved measures from the write of one page to the event that tells of it.
func saved(w *workbench.Workbench, dir string) error {
	if err := w.Watch(); err != nil {
		return err
	}
	events, stop := w.Listen()
	defer stop()
	page := filepath.Join(dir, "notes", "050", "page-05050.html")
	src, err := os.ReadFile(page)
	if err != nil {
		return err
	}
	info, err := os.Stat(page)
	if err != nil {
		return err
	}
	var best time.Duration = time.Hour
	for i := range 5 {
		start := time.Now()
		if err := os.WriteFile(page, append(src[:len(src):len(src)], fmt.Sprintf("<a href=x%d>", i)...), 0o644); err != nil {
			return err
		}
		<-events
		best = min(best, time.Since(start))
		time.Sleep(400 * time.Millisecond)
	}
	fmt.Printf("%-34s %9s      at most 50 ms of our own work, and %v that a save is waited for to be whole\n", "one page saved", best.Round(100*time.Microsecond), folder.QuietFor)
	if err := os.WriteFile(page, src, 0o644); err != nil {
		return err
	}
	return os.Chtimes(page, info.ModTime(), info.ModTime())
}
