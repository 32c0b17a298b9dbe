//go:build !windows

package journal_test

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/change"
	"arvel/internal/disk"
	"arvel/internal/journal"
)

func TestApplyOnAFullDisk(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one"})
	// A limit on the size of files takes the place of a full disk; the log of the tests has to stay below it.
	var was syscall.Rlimit
	require.NoError(t, syscall.Getrlimit(syscall.RLIMIT_FSIZE, &was))
	f := open(t, dir)
	big := make([]byte, 1<<24)
	set := change.Set{Files: []change.File{{Path: "a.html", Before: change.HashOf([]byte("one")), Edits: []change.Edit{{Start: 0, End: 1, New: big}}}}}
	require.NoError(t, syscall.Setrlimit(syscall.RLIMIT_FSIZE, &syscall.Rlimit{Cur: 1 << 23, Max: was.Max}))
	err := apply(f, set, &notes{})
	require.NoError(t, syscall.Setrlimit(syscall.RLIMIT_FSIZE, &was))
	require.ErrorIs(t, err, syscall.EFBIG)
	assert.Equal(t, "one", content(t, dir, "a.html"))
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, list, 1, "nothing is left beside it")
}

// A change set of many files, of every kind, that can't be carried out whole leaves all of them as they were, wherever it
// fails: on a full disk, or where something came to be in the way of the last file.
func TestALargeMoveThatFailsIsTakenBackWhole(t *testing.T) {
	before := map[string]string{"gone.html": "<p>gone", "big.html": "<p>big"}
	var set change.Set
	for i := range 200 {
		p, src := fmt.Sprintf("old/%d/p%03d.html", i%7, i), fmt.Sprintf("<p>page %d", i)
		before[p] = src
		f := change.File{Kind: change.Moved, Path: strings.Replace(p, "old/", "new/deep/", 1), From: p, Before: change.HashOf([]byte(src))}
		if i%2 == 0 {
			f.Edits = []change.Edit{{Start: 3, End: 7, New: []byte("PAGE")}}
		}
		set.Files = append(set.Files, f)
	}
	for i := range 7 {
		set.Emptied = append(set.Emptied, fmt.Sprintf("old/%d", i))
	}
	set.Emptied = append(set.Emptied, "old")
	set.Files = append(
		set.Files,
		change.File{Kind: change.Deleted, Path: "gone.html", Before: change.HashOf([]byte("<p>gone"))},
		change.File{Kind: change.Made, Path: "new/made.html", Content: []byte("<p>made")},
	)
	whole := func(dir string) map[string]string {
		out := map[string]string{}
		require.NoError(t, filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
			if err == nil && !e.IsDir() {
				rel, _ := filepath.Rel(dir, p)
				out[filepath.ToSlash(rel)] = content(t, dir, filepath.ToSlash(rel))
			}
			return err
		}))
		return out
	}

	dir := lay(t, before)
	f := open(t, dir)
	var was syscall.Rlimit
	require.NoError(t, syscall.Getrlimit(syscall.RLIMIT_FSIZE, &was))
	full := set
	full.Files = append(slices.Clone(set.Files), change.File{Kind: change.Edited, Path: "big.html", Before: change.HashOf([]byte("<p>big")), Edits: []change.Edit{{Start: 3, End: 3, New: make([]byte, 1<<24)}}})
	require.NoError(t, syscall.Setrlimit(syscall.RLIMIT_FSIZE, &syscall.Rlimit{Cur: 1 << 23, Max: was.Max}))
	var n notes
	err := apply(f, full, &n)
	require.NoError(t, syscall.Setrlimit(syscall.RLIMIT_FSIZE, &was))
	require.ErrorIs(t, err, syscall.EFBIG)
	assert.Equal(t, []string{"begin", "taken back"}, n.said)
	assert.Equal(t, before, whole(dir), "on a full disk")

	// A folder comes to be where the last file is to go, after all was checked.
	var steps atomic.Int64
	journal.Step = func() {
		if steps.Add(1) == 50 {
			require.NoError(t, os.MkdirAll(filepath.Join(dir, "new/made.html/x"), 0o755))
		}
	}
	t.Cleanup(func() { journal.Step = func() {} })
	n = notes{}
	err = apply(f, set, &n)
	require.ErrorContains(t, err, "new/made.html can't be written")
	assert.Equal(t, []string{"begin", "taken back"}, n.said)
	assert.Equal(t, before, whole(dir), "what is in the way is left, and all else is as it was")
	require.NoError(t, os.RemoveAll(filepath.Join(dir, "new")))

	journal.Step = func() {}
	require.NoError(t, apply(f, set, &notes{}))
	after := whole(dir)
	assert.Equal(t, "<p>PAGE 8", after["new/deep/1/p008.html"])
	assert.NotContains(t, after, "gone.html")
	assert.NoDirExists(t, filepath.Join(dir, "old"))
}

func TestAPipeIsNeverDeleted(t *testing.T) {
	dir := lay(t, nil)
	require.NoError(t, syscall.Mkfifo(filepath.Join(dir, "pipe.html"), 0o644))
	assert.Error(t, apply(open(t, dir), change.Set{Files: []change.File{{Kind: change.Deleted, Path: "pipe.html"}}}, &notes{}))
}

// Nothing is written into a folder that is not the one that was opened.
func TestAFolderThatIsReplacedIsLeftAlone(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one"})
	f := open(t, dir)
	require.NoError(t, f.Present())
	require.NoError(t, os.Rename(dir, dir+"-away"))
	t.Cleanup(func() { os.RemoveAll(dir + "-away") })
	var missing *disk.MissingError
	set := change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), {Kind: change.Made, Path: "new.html", Content: []byte("n")}}}
	require.ErrorAs(t, apply(f, set, &notes{}), &missing)
	assert.False(t, missing.Replaced)
	require.NoError(t, os.Mkdir(dir, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.html"), []byte("one"), 0o644))
	require.ErrorAs(t, apply(f, set, &notes{}), &missing)
	assert.True(t, missing.Replaced)
	assert.Equal(t, []string{"one", "one"}, []string{content(t, dir, "a.html"), content(t, dir+"-away", "a.html")})
	assert.NoFileExists(t, filepath.Join(dir, "new.html"))
	require.NoError(t, os.RemoveAll(dir))
	require.NoError(t, os.Rename(dir+"-away", dir))
	require.NoError(t, f.Present())
	require.NoError(t, apply(f, set, &notes{}))
}

func TestNothingIsWrittenThroughALinkThatLeadsOut(t *testing.T) {
	outside := lay(t, map[string]string{"secret.html": "secret"})
	dir := lay(t, map[string]string{"index.html": ""})
	require.NoError(t, os.Symlink(filepath.Join(outside, "secret.html"), filepath.Join(dir, "leak.html")))
	set := change.Set{Files: []change.File{{Path: "leak.html", Before: change.HashOf([]byte("secret"))}}}
	assert.Error(t, apply(open(t, dir), set, &notes{}))
}

func TestApplyWritesTheBytesAndKeepsTheRest(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b/c.html": "two"})
	require.NoError(t, os.Chmod(filepath.Join(dir, "a.html"), 0o640))
	require.NoError(t, os.Symlink("b/c.html", filepath.Join(dir, "link.html")))
	var n notes
	require.NoError(t, apply(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("link.html", "two", 2, "OO")}}, &n))
	assert.Equal(t, []string{"begin", "done"}, n.said)
	assert.Equal(t, []string{"One", "twOO"}, []string{content(t, dir, "a.html"), content(t, dir, "b/c.html")})
	info, err := os.Lstat(filepath.Join(dir, "a.html"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o640), info.Mode().Perm())
	info, err = os.Lstat(filepath.Join(dir, "link.html"))
	require.NoError(t, err)
	assert.NotZero(t, info.Mode()&os.ModeSymlink, "a link stays a link")
	left, err := filepath.Glob(filepath.Join(dir, ".arvel-*"))
	require.NoError(t, err)
	assert.Empty(t, left)
}
