// Package demo holds the demo folder: the pages of a community seed library, in the uneven hand of several
// volunteers, with one example at least of each mistake that Arvel knows. What is wrong in it is listed in
// mistakes.json, which a test compares with what "arvel check" finds.
package demo

import (
	"bytes"
	"embed"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
)

//go:embed all:seed-library
var files embed.FS

// Files returns the demo folder's files.
func Files() fs.FS {
	sub, err := fs.Sub(files, "seed-library")
	if err != nil {
		panic(err) // the folder is embedded
	}
	return sub
}

// marker is beside a copy of the demo folder and shows that the directory is one, so that nothing else is
// ever replaced.
const marker = ".arvel-demo"

// CopyTo copies the demo folder to dir. An earlier copy is replaced; a directory that is none is not touched.
func CopyTo(dir string) error {
	_, err := Lay(dir, true)
	return err
}

// Lay copies the demo folder to dir. An earlier copy in which something was changed is kept as it is, and reported as that,
// unless it is to be fresh; a directory that is none is not touched.
func Lay(dir string, fresh bool) (kept bool, err error) {
	if _, err := os.Stat(dir); err == nil {
		if _, err := os.Stat(filepath.Join(dir, marker)); err != nil {
			return false, errors.New("something else is there already")
		}
		if !fresh && changed(dir) {
			return true, nil
		}
		if err := os.RemoveAll(dir); err != nil {
			return false, err
		}
	}
	if err := os.MkdirAll(filepath.Dir(dir), 0o755); err != nil {
		return false, err
	}
	if err := os.CopyFS(dir, Files()); err != nil {
		return false, err
	}
	err = fs.WalkDir(Files(), ".", func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		return os.Chmod(filepath.Join(dir, p), 0o644) // embedded files are read-only
	})
	if err != nil {
		return false, err
	}
	return false, os.WriteFile(filepath.Join(dir, marker), nil, 0o644)
}

// changed reports whether a copy differs from the demo folder, by a file more, a file less, or what is in one.
func changed(dir string) bool {
	there := map[string]bool{}
	same := fs.WalkDir(Files(), ".", func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		there[p] = true
		want, err := fs.ReadFile(Files(), p)
		if err != nil {
			return err
		}
		if got, err := os.ReadFile(filepath.Join(dir, p)); err != nil || !bytes.Equal(got, want) {
			return errChanged
		}
		return nil
	})
	more := fs.WalkDir(os.DirFS(dir), ".", func(p string, e fs.DirEntry, err error) error {
		if err != nil || !e.IsDir() && !there[p] && p != marker {
			return errChanged
		}
		return nil
	})
	return same != nil || more != nil
}

var errChanged = errors.New("changed")
