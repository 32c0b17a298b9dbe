package disk

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"arvel/core/site"
)

// How long the pages of the folders to choose from are counted, and how many files of one are looked at.
const (
	countBudget = 400 * time.Millisecond
	countLimit  = 50_000
)

// PageCount is how many pages there are in and below a folder; More says that counting them was cut short.
type PageCount struct {
	Count int
	More  bool
}

// Choice is a folder of the machine as one chooses what to open.
type Choice struct {
	Path    string
	Parent  string // "" at the top of the disk
	Pages   PageCount
	Folders []Choice // those in it, without theirs
}

// Browse lists the folders in the folder at an absolute path; in the home directory if it is "".
func Browse(path string) (Choice, error) {
	if path == "" {
		home, err := os.UserHomeDir()
		if err != nil {
			home = string(filepath.Separator)
		}
		path = home
	}
	if !filepath.IsAbs(path) {
		return Choice{}, &OpenError{Path: path, Sentence: "Give the whole path of the folder, from the top of the disk."}
	}
	path = filepath.Clean(path)
	f, err := Open(path, nil)
	if err != nil {
		return Choice{}, err
	}
	f.Close()
	list, err := os.ReadDir(path)
	if err != nil {
		return Choice{}, &OpenError{Path: path, Sentence: fmt.Sprintf("%s can't be read: your account has no permission for it.", path), Err: err}
	}
	out := Choice{Path: path}
	if parent := filepath.Dir(path); parent != path {
		out.Parent = parent
	}
	for _, e := range list {
		full := filepath.Join(path, e.Name())
		if strings.HasPrefix(e.Name(), ".") {
			continue
		}
		if info, err := os.Stat(full); err != nil || !info.IsDir() {
			if site.KindOf(e.Name()) == site.Page {
				out.Pages.Count++
			}
			continue
		}
		out.Folders = append(out.Folders, Choice{Path: full, Parent: path})
	}
	deadline := time.Now().Add(countBudget)
	var wait sync.WaitGroup
	for i := range out.Folders {
		wait.Go(func() { out.Folders[i].Pages = countPages(out.Folders[i].Path, deadline) })
	}
	wait.Wait()
	for _, sub := range out.Folders {
		out.Pages.Count += sub.Pages.Count
		out.Pages.More = out.Pages.More || sub.Pages.More
	}
	return out, nil
}

// countPages counts the pages in and below a folder until the deadline.
func countPages(dir string, deadline time.Time) (n PageCount) {
	looked := 0
	_ = filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err != nil {
			return nil
		}
		if looked++; looked > countLimit || looked%64 == 0 && time.Now().After(deadline) {
			n.More = true
			return filepath.SkipAll
		}
		switch {
		case p != dir && (strings.HasPrefix(e.Name(), ".") || e.IsDir() && e.Name() == "node_modules"):
			if e.IsDir() {
				return filepath.SkipDir
			}
		case !e.IsDir() && site.KindOf(e.Name()) == site.Page:
			n.Count++
		}
		return nil
	})
	return n
}
