// Package demo holds the demo folder: the pages of a community seed library, in the uneven hand of several
// volunteers, with one example at least of each mistake that Arvel knows. What is wrong in it is listed in
// mistakes.json, which a test compares with what "arvel check" finds.
package demo

import (
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

// marker stands beside a copy of the demo folder and tells that the directory is one, so that nothing else is
// ever replaced.
const marker = ".arvel-demo"

// CopyTo copies the demo folder to dir. An earlier copy is replaced; a directory that is none is not touched.
func CopyTo(dir string) error {
	if _, err := os.Stat(dir); err == nil {
		if _, err := os.Stat(filepath.Join(dir, marker)); err != nil {
			return errors.New("something else is there already")
		}
		if err := os.RemoveAll(dir); err != nil {
			return err
		}
	}
	if err := os.CopyFS(dir, Files()); err != nil {
		return err
	}
	err := fs.WalkDir(Files(), ".", func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		return os.Chmod(filepath.Join(dir, p), 0o644) // embedded files are read-only
	})
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, marker), nil, 0o644)
}
