package journal

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/internal/disk"
)

// KeptLimit is how many bytes of deleted files one change keeps, so that it can be undone.
const KeptLimit = 512 << 20

// Prepare reads the files of a set and returns its record. Files that are not as they were planned for give a
// [*ConflictError] that names them; something that is where a file is to go gives an [*OccupiedError].
func Prepare(ctx context.Context, folder *disk.Folder, set change.Set) (*change.Record, error) {
	f := files{folder}
	if err := f.Present(); err != nil {
		return nil, err
	}
	record := &change.Record{Set: set, Token: token()}
	var conflict ConflictError
	leaves := map[string]bool{} // paths that are free once the set is carried out
	for i := range set.Files {
		if k := set.Files[i].Kind; k == change.Moved || k == change.Deleted {
			leaves[set.Files[i].Source()] = true
		}
	}
	record.Files = make([]change.File, len(set.Files))
	var mu sync.Mutex
	err := eachOf(ctx, set.Files, func(i int, file change.File) (err error) {
		p := &record.Files[i]
		if *p, err = f.prepare(&file); errors.Is(err, errChanged) {
			mu.Lock()
			defer mu.Unlock()
			conflict.Paths = append(conflict.Paths, file.Source())
			return nil
		}
		if err == nil && (p.Kind == change.Made || p.Kind == change.Moved) && !leaves[p.Path] && f.occupied(p) {
			return &OccupiedError{p.Path}
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	slices.Sort(conflict.Paths)
	if len(conflict.Paths) > 0 {
		return nil, &conflict
	}
	// What is written beside the files is named by their order, which therefore has to be the one in which the record is
	// read back.
	slices.SortFunc(record.Files, func(a, b change.File) int {
		return cmp.Or(cmp.Compare(a.Path, b.Path), cmp.Compare(a.Kind, b.Kind))
	})
	if record.Folders, err = f.missingFolders(record); err != nil {
		return nil, err
	}
	return record, nil
}

func (f files) prepare(file *change.File) (change.File, error) {
	p := change.File{Kind: cmp.Or(file.Kind, change.Edited), Path: file.Path, From: file.From, Before: file.Before}
	if !filepath.IsLocal(filepath.FromSlash(file.Path)) || file.Kind == change.Moved && !filepath.IsLocal(filepath.FromSlash(file.From)) {
		return p, &OutsideError{file.Path}
	}
	if p.Kind == change.Made {
		p.Content, p.Mode = file.Content, file.Mode
		p.After = change.HashOf(file.Content)
		return p, nil
	}
	before := file.Source()
	if p.Kind == change.Moved && len(file.Edits) == 0 {
		if !f.Holds(before, file.Before) {
			return p, errChanged
		}
		p.After = file.Before
		return p, nil
	}
	old, err := f.Read(before)
	if err != nil || !file.Before.Is(old) {
		return p, errChanged
	}
	if p.Kind == change.Deleted {
		p.Content = old
		if info, err := f.Root().Stat(filepath.FromSlash(before)); err == nil {
			p.Mode = uint32(info.Mode().Perm())
		}
		return p, nil
	}
	if p.Edits, err = change.Recorded(old, file.Edits); err != nil {
		return p, err
	}
	fresh, err := change.Apply(old, p.Edits)
	if err != nil {
		return p, err
	}
	p.After = change.HashOf(fresh)
	p.Lines, err = change.LineOfEach(old, p.Edits, markup.Unit(old), func(b []byte) string { return markup.Decode(b, old) })
	return p, err
}

// occupied reports whether something other than the file itself is where the file is to go. On a disk that doesn't tell
// letter case apart, a file is found under its new name already if only case differs.
func (f files) occupied(p *change.File) bool {
	there, err := f.Root().Lstat(filepath.FromSlash(p.Path))
	if err != nil {
		return false
	}
	if p.Kind == change.Moved {
		if own, err := f.Root().Lstat(filepath.FromSlash(p.From)); err == nil && os.SameFile(own, there) && strings.EqualFold(p.From, p.Path) {
			return false
		}
	}
	return true
}

// missingFolders returns the folders that have to be made for a record, parents first. One that would be outside gives an
// [*OutsideError], a file in the place of one a [*FileInTheWayError].
func (f files) missingFolders(record *change.Record) ([]string, error) {
	var out []string
	seen := map[string]bool{}
	comes := map[string]bool{}
	for i := range record.Files {
		comes[record.Files[i].Path] = record.Files[i].Kind != change.Deleted
	}
	var need func(dir string) error
	need = func(dir string) error {
		if dir == "" || dir == "." || seen[dir] {
			return nil
		}
		seen[dir] = true
		if !filepath.IsLocal(filepath.FromSlash(dir)) {
			return &OutsideError{dir}
		}
		if err := need(path.Dir(dir)); err != nil || f.IsFolder(dir) {
			return err
		}
		if f.Exists(dir) || comes[dir] {
			return &FileInTheWayError{dir}
		}
		out = append(out, dir)
		return nil
	}
	for i := range record.Files {
		if record.Files[i].Kind != change.Deleted {
			if err := need(path.Dir(record.Files[i].Path)); err != nil {
				return nil, err
			}
		}
	}
	for _, dir := range record.Folders {
		if err := need(dir); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// token returns a random name for what a record writes beside its files.
func token() string {
	var b [6]byte
	rand.Read(b[:])
	return hex.EncodeToString(b[:])
}
