package journal_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/change"
	"arvel/internal/disk"
	"arvel/internal/journal"
)

// lay makes a folder of files given as path and content.
func lay(t *testing.T, files map[string]string) string {
	t.Helper()
	dir, err := filepath.EvalSymlinks(t.TempDir())
	require.NoError(t, err)
	for p, src := range files {
		full := filepath.Join(dir, p)
		require.NoError(t, os.MkdirAll(filepath.Dir(full), 0o755))
		require.NoError(t, os.WriteFile(full, []byte(src), 0o644))
	}
	return dir
}

func open(t *testing.T, dir string, exclude ...string) *disk.Folder {
	t.Helper()
	f, err := disk.Open(dir, exclude)
	require.NoError(t, err)
	t.Cleanup(func() { f.Close() })
	return f
}

func apply(f *disk.Folder, set change.Set, j journal.Notes) error {
	return journal.Apply(context.Background(), f, set, j, nil)
}

// notes is a journal that remembers what it was told.
type notes struct {
	said  []string
	begin error
	plan  *change.Record
}

func (n *notes) Begin(p *change.Record) error {
	n.said, n.plan = append(n.said, "begin"), p
	return n.begin
}

func (n *notes) Done() error { n.said = append(n.said, "done"); return nil }

func (n *notes) TakenBack() error { n.said = append(n.said, "taken back"); return nil }

func edit(path, before string, at int, fresh string) change.File {
	return change.File{Path: path, Before: change.HashOf([]byte(before)), Edits: []change.Edit{{Start: at, End: at + 1, New: []byte(fresh)}}}
}

func content(t *testing.T, dir, p string) string {
	t.Helper()
	b, err := os.ReadFile(filepath.Join(dir, p))
	require.NoError(t, err)
	return string(b)
}

func TestApplyWritesNothingOverAnEditedFile(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "edited", "c.html": "edited too"})
	var n notes
	err := apply(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "x"), edit("c.html", "x", 0, "x")}}, &n)
	var conflict *journal.ConflictError
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, []string{"b.html", "c.html"}, conflict.Paths)
	assert.Equal(t, "one", content(t, dir, "a.html"))
	assert.Empty(t, n.said)
}

func TestApplyTakesBackWhatItWrote(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "two"})
	require.NoError(t, os.Chmod(filepath.Join(dir, "b.html"), 0o444))
	var n notes
	err := apply(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "T")}}, &n)
	assert.ErrorContains(t, err, "b.html can't be written: it is set to read-only. Nothing was changed.")
	assert.Equal(t, []string{"begin", "taken back"}, n.said)
	assert.Equal(t, []string{"one", "two"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
}

// A file in the place of a folder, and a folder outside, are refused; whatever is taken back, the file stays.
func TestNothingIsPutIntoAFile(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "two"})
	f := open(t, dir)
	for _, set := range []change.Set{
		{Folders: []string{"a.html/new"}},
		{Folders: []string{"a.html"}},
		{Files: []change.File{{Kind: change.Made, Path: "a.html/n.html", Content: []byte("n")}}},
		{Files: []change.File{{Kind: change.Moved, Path: "a.html/b.html", From: "b.html", Before: change.HashOf([]byte("two"))}}},
	} {
		n := &notes{}
		var inTheWay *journal.FileInTheWayError
		require.ErrorAs(t, apply(f, set, n), &inTheWay, "%v", set)
		assert.Equal(t, "a.html", inTheWay.Path)
		assert.Empty(t, n.said)
	}
	var outside *journal.OutsideError
	require.ErrorAs(t, apply(f, change.Set{Folders: []string{"../new"}}, &notes{}), &outside)
	// A journal that an older program left, which would have made a folder of the file.
	_, err := journal.Recover(f, &change.Record{Set: change.Set{Folders: []string{"a.html"}, Files: []change.File{{Kind: change.Edited, Path: "b.html"}}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"one", "two"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
}

func TestApplyWithoutNotesDoesNothing(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one"})
	err := apply(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O")}}, &notes{begin: errors.New("no room")})
	assert.ErrorContains(t, err, "nothing was changed")
	assert.Equal(t, "one", content(t, dir, "a.html"))
}

func TestRecoverCompletesOrTakesBack(t *testing.T) {
	plan := func(t *testing.T, dir string) (*disk.Folder, *change.Record) {
		f := open(t, dir)
		p, err := journal.Prepare(context.Background(), f, change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "T")}})
		require.NoError(t, err)
		return f, p
	}
	start := map[string]string{"a.html": "one", "b.html": "two"}
	t.Run("cut short after the first file", func(t *testing.T) {
		dir := lay(t, start)
		f, p := plan(t, dir)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "a.html"), []byte("One"), 0o644))
		left := ".arvel-" + p.Token + "-1"
		require.NoError(t, os.WriteFile(filepath.Join(dir, left), []byte("half"), 0o644))
		completed, err := journal.Recover(f, p)
		require.NoError(t, err)
		assert.True(t, completed)
		assert.Equal(t, []string{"One", "Two"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
		assert.NoFileExists(t, filepath.Join(dir, left))
	})
	t.Run("a file edited since", func(t *testing.T) {
		dir := lay(t, start)
		f, p := plan(t, dir)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "a.html"), []byte("One"), 0o644))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "b.html"), []byte("mine"), 0o644))
		require.NoError(t, os.WriteFile(filepath.Join(dir, ".arvel-"+p.Token+"-1"), []byte("Two"), 0o644))
		completed, err := journal.Recover(f, p)
		require.NoError(t, err)
		assert.False(t, completed)
		assert.Equal(t, []string{"one", "mine"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
	})
}

// A save that comes while a change is on its way is kept, at whatever step it comes; the change is then taken back whole and
// names the file.
func TestASaveDuringAChangeIsKept(t *testing.T) {
	t.Cleanup(func() { journal.Step = func() {} })
	before := map[string]string{"a.html": "<p>a", "b.html": "<p>b", "c.html": "<p>c", "d.html": "<p>d", "e/f.html": "<p>f"}
	set := change.Set{Files: []change.File{
		edit("a.html", "<p>a", 3, "A"), edit("b.html", "<p>b", 3, "B"),
		{Kind: change.Deleted, Path: "c.html", Before: change.HashOf([]byte("<p>c"))},
		{Kind: change.Moved, Path: "new/d.html", From: "d.html", Before: change.HashOf([]byte("<p>d")), Edits: []change.Edit{{Start: 3, End: 4, New: []byte("D")}}},
		{Kind: change.Moved, Path: "new/f.html", From: "e/f.html", Before: change.HashOf([]byte("<p>f"))},
	}}
	for _, saved := range []string{"a.html", "b.html", "c.html", "d.html"} {
		for _, beside := range []bool{true, false} { // an editor renames over the file, or writes into it
			conflicts := 0
			for at := int64(1); ; at++ {
				dir := lay(t, before)
				mine := "<p>saved just now"
				var steps atomic.Int64
				was := false
				journal.Step = func() {
					if steps.Add(1) != at {
						return
					}
					full := filepath.Join(dir, saved)
					b, err := os.ReadFile(full)
					was = err == nil && string(b) == before[saved]
					if !was {
						return // the change went over it already
					}
					to := full
					if beside {
						to += "~"
					}
					require.NoError(t, os.WriteFile(to, []byte(mine), 0o644))
					if beside {
						require.Eventually(t, func() bool { return os.Rename(to, full) == nil }, 5*time.Second, time.Millisecond, "as editors do where it is being read")
					}
				}
				var n notes
				err := apply(open(t, dir), set, &n)
				journal.Step = func() {}
				if steps.Load() < at {
					break
				}
				if !was {
					continue
				}
				if err == nil { // it came just behind the change of this file
					require.Equal(t, mine, content(t, dir, saved), "at step %d", at)
					continue
				}
				var conflict *journal.ConflictError
				require.ErrorAs(t, err, &conflict, "%s at step %d", saved, at)
				require.Equal(t, []string{saved}, conflict.Paths)
				require.Equal(t, []string{"begin", "taken back"}, n.said)
				conflicts++
				for p, src := range before {
					if p == saved {
						src = mine
					}
					require.Equal(t, src, content(t, dir, p), "%s after %s was saved at step %d", p, saved, at)
				}
				require.NoDirExists(t, filepath.Join(dir, "new"))
				left, err := filepath.Glob(filepath.Join(dir, ".arvel-*"))
				require.NoError(t, err)
				require.Empty(t, left)
			}
			assert.Greater(t, conflicts, 3, "%s, beside %t", saved, beside)
		}
	}
}

// What an author saved while a process was killed in the middle of a change is given back.
func TestASaveIsGivenBackAfterACrash(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "two", "c.html": "three"})
	f := open(t, dir)
	plan, err := journal.Prepare(t.Context(), f, change.Set{Files: []change.File{
		edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "T"), {Kind: change.Deleted, Path: "c.html", Before: change.HashOf([]byte("three"))},
	}})
	require.NoError(t, err)
	// Killed behind an exchange, and behind the first half of a removal: what was there has not been looked at yet.
	beside := func(i int, end string) string {
		return filepath.Join(dir, fmt.Sprintf(".arvel-%s-%d%s", plan.Token, i, end))
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.html"), []byte("One"), 0o644))
	require.NoError(t, os.WriteFile(beside(0, ""), []byte("mine"), 0o644))
	require.NoError(t, os.WriteFile(beside(1, ""), []byte("Two"), 0o644))
	require.NoError(t, os.Rename(filepath.Join(dir, "c.html"), beside(2, "-gone")))
	require.NoError(t, os.WriteFile(beside(2, "-gone"), []byte("mine, too"), 0o644))
	completed, err := journal.Recover(f, plan)
	require.NoError(t, err)
	assert.False(t, completed)
	assert.Equal(t, []string{"mine", "two", "mine, too"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html"), content(t, dir, "c.html")})
}

// A change that had come to its end, and was only not noted, stays; one that was taken back, and was only not noted, too.
func TestWhatHappenedIsNotDoneAgainAtTheNextStart(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "two"})
	f := open(t, dir)
	set := change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "T")}}
	var n notes
	require.NoError(t, apply(f, set, &n))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "b.html"), []byte("edited since"), 0o644))
	completed, err := journal.Recover(f, n.plan)
	require.NoError(t, err)
	assert.True(t, completed)
	assert.Equal(t, []string{"One", "edited since"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})

	dir = lay(t, map[string]string{"a.html": "one", "b.html": "two"})
	completed, err = journal.Recover(open(t, dir), n.plan)
	require.NoError(t, err)
	assert.False(t, completed)
	assert.Equal(t, []string{"one", "two"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
}

func TestAStoppedChangeLeavesEveryFileWhole(t *testing.T) {
	t.Cleanup(func() { journal.Step = func() {} })
	before := map[string]string{}
	var set change.Set
	for i := range 40 {
		p := fmt.Sprintf("p%02d.html", i)
		before[p] = "one"
		set.Files = append(set.Files, edit(p, "one", 0, "O"))
	}
	for at := int64(2); at < 100; at += 13 {
		dir := lay(t, before)
		ctx, stop := context.WithCancel(t.Context())
		var steps atomic.Int64
		journal.Step = func() {
			if steps.Add(1) == at {
				stop()
			}
		}
		var told atomic.Int64
		err := journal.Apply(ctx, open(t, dir), set, &notes{}, func(done, total int) { told.Store(int64(total)) })
		journal.Step = func() {}
		stop()
		if err == nil {
			continue
		}
		require.ErrorIs(t, err, journal.ErrStopped)
		for p := range before {
			require.Equal(t, "one", content(t, dir, p), "stopped at step %d", at)
		}
		assert.LessOrEqual(t, told.Load(), int64(80))
	}
}

func TestALargeFileIsMovedWithoutReadingItToItsEnd(t *testing.T) {
	dir := lay(t, nil)
	film := filepath.Join(dir, "film.mp4")
	require.NoError(t, os.WriteFile(film, nil, 0o644))
	require.NoError(t, os.Truncate(film, 60<<30)) // sparse
	f := open(t, dir)
	start := time.Now()
	hash, _, err := f.Hash("film.mp4")
	require.NoError(t, err)
	require.NoError(t, apply(f, change.Set{Files: []change.File{{Kind: change.Moved, Path: "media/film.mp4", From: "film.mp4", Before: hash}}}, &notes{}))
	assert.Less(t, time.Since(start), 10*time.Second)
}

func TestApplyWritesTheBytes(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one\r\n", "b/c.html": "two"})
	var n notes
	set := change.Set{Files: []change.File{
		edit("a.html", "one\r\n", 0, "O"),
		{Kind: change.Moved, From: "b/c.html", Path: "d/e/C.html", Before: change.HashOf([]byte("two"))},
		{Kind: change.Made, Path: "f.html", Content: []byte("six")},
	}, Emptied: []string{"b"}}
	require.NoError(t, apply(open(t, dir), set, &n))
	assert.Equal(t, []string{"begin", "done"}, n.said)
	assert.Equal(t, "One\r\n", content(t, dir, "a.html"))
	assert.Equal(t, "two", content(t, dir, "d/e/C.html"))
	assert.Equal(t, "six", content(t, dir, "f.html"))
	assert.NoDirExists(t, filepath.Join(dir, "b"))
}

// A file that is set to read-only is left alone, and so is all else.
func TestAReadOnlyFileIsLeftAlone(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "two"})
	require.NoError(t, os.Chmod(filepath.Join(dir, "b.html"), 0o444))
	var n notes
	err := apply(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "T")}}, &n)
	require.ErrorContains(t, err, "b.html can't be written: it is set to read-only. Nothing was changed.")
	assert.Equal(t, []string{"one", "two"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
	require.NoError(t, os.Chmod(filepath.Join(dir, "b.html"), 0o644))
}

// Where a disk does not tell letter case apart, a name can be changed in its case alone.
func TestANameIsChangedInItsCaseAlone(t *testing.T) {
	dir := lay(t, map[string]string{"Page.html": "one"})
	set := change.Set{Files: []change.File{{Kind: change.Moved, From: "Page.html", Path: "page.html", Before: change.HashOf([]byte("one"))}}}
	require.NoError(t, apply(open(t, dir), set, &notes{}))
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "page.html", list[0].Name())
}
