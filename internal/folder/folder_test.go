package folder_test

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/change"
	"arvel/internal/folder"
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

func open(t *testing.T, dir string, exclude ...string) *folder.Folder {
	t.Helper()
	f, err := folder.Open(dir, exclude)
	require.NoError(t, err)
	t.Cleanup(func() { f.Close() })
	return f
}

func paths(t *testing.T, f *folder.Folder) (list, trouble []string) {
	t.Helper()
	found, err := f.Walk(t.Context(), "")
	require.NoError(t, err)
	for _, e := range found.Entries {
		list = append(list, e.Path)
	}
	slices.Sort(list)
	return list, found.Trouble
}

func TestOpenSaysWhatIsWrong(t *testing.T) {
	dir := lay(t, map[string]string{"page.html": ""})
	for path, says := range map[string]string{
		filepath.Join(dir, "gone"):      "There is no folder at",
		filepath.Join(dir, "page.html"): "is a file",
	} {
		_, err := folder.Open(path, nil)
		var bad *folder.OpenError
		require.ErrorAs(t, err, &bad)
		assert.Contains(t, bad.Sentence, says)
	}
	_, err := folder.Open(dir, []string{"[x"})
	assert.ErrorContains(t, err, "is no pattern")
}

func TestWalkLeavesOutWhatIsNoPartOfTheSite(t *testing.T) {
	dir := lay(t, map[string]string{
		"index.html": "", ".git/x.html": "", "node_modules/x.html": "", "a/.hidden": "", "a/node_modules/y.html": "", "old/a/x.html": "", "b/draft.html": "",
	})
	list, _ := paths(t, open(t, dir))
	assert.Equal(t, []string{"b/draft.html", "index.html", "old/a/x.html"}, list)
	list, _ = paths(t, open(t, dir, "old", "**/draft.*"))
	assert.Equal(t, []string{"a/node_modules/y.html", "index.html", "node_modules/x.html"}, list)
}

func TestWalkTakesNamesAsTheyAre(t *testing.T) {
	names := []string{"a#b.html", "a?b.html", "100%.html", "a b.html", "it's \"x\".html", "line\nend.html", "種.html", "caf\xe9.html", "A.html", "a.html"}
	files := map[string]string{}
	for _, n := range names {
		files[n] = n
	}
	f := open(t, lay(t, files))
	list, _ := paths(t, f)
	slices.Sort(names)
	assert.Equal(t, names, list)
	for _, n := range names {
		b, err := f.Read(n)
		require.NoError(t, err)
		assert.Equal(t, n, string(b))
	}
}

func TestNothingLeadsOutOfTheFolder(t *testing.T) {
	outside := lay(t, map[string]string{"secret.html": "secret", "sub/x.html": ""})
	dir := lay(t, map[string]string{"index.html": "", "real/x.html": "x"})
	for name, to := range map[string]string{
		"leak.html": filepath.Join(outside, "secret.html"), "leak": outside, "round": ".", "real/up": "..", "inside": "real", "nowhere.html": "gone.html",
	} {
		require.NoError(t, os.Symlink(to, filepath.Join(dir, name)))
	}
	f := open(t, dir)
	list, trouble := paths(t, f)
	assert.Equal(t, []string{"index.html", "real/x.html"}, list, "what is seen through a link is listed at its place")
	assert.Len(t, trouble, 5, "%q", trouble)
	for _, p := range []string{"leak.html", "leak/secret.html", "../" + filepath.Base(outside) + "/secret.html", "/etc/hostname"} {
		_, err := f.Read(p)
		assert.Error(t, err, p)
	}
	set := change.Set{Files: []change.File{{Path: "leak.html", Before: change.HashOf([]byte("secret"))}}}
	assert.Error(t, carry(f, set, &notes{}))
}

func carry(f *folder.Folder, set change.Set, j folder.Journal) error {
	return f.Carry(context.Background(), set, j, nil)
}

// notes is a journal that remembers what it was told.
type notes struct {
	said  []string
	begin error
	plan  *folder.Plan
}

func (n *notes) Begin(p *folder.Plan) error {
	n.said, n.plan = append(n.said, "begin"), p
	return n.begin
}
func (n *notes) Done() error      { n.said = append(n.said, "done"); return nil }
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

func TestCarryWritesTheBytesAndKeepsTheRest(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b/c.html": "two"})
	require.NoError(t, os.Chmod(filepath.Join(dir, "a.html"), 0o640))
	require.NoError(t, os.Symlink("b/c.html", filepath.Join(dir, "link.html")))
	var n notes
	require.NoError(t, carry(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("link.html", "two", 2, "OO")}}, &n))
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

func TestCarryWritesNothingOverAnEditedFile(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "edited", "c.html": "edited too"})
	var n notes
	err := carry(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "x"), edit("c.html", "x", 0, "x")}}, &n)
	var conflict *folder.ConflictError
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, []string{"b.html", "c.html"}, conflict.Paths)
	assert.Equal(t, "one", content(t, dir, "a.html"))
	assert.Empty(t, n.said)
}

func TestCarryTakesBackWhatItWrote(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "two"})
	require.NoError(t, os.Chmod(filepath.Join(dir, "b.html"), 0o444))
	var n notes
	err := carry(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "T")}}, &n)
	assert.ErrorContains(t, err, "b.html can't be written: it is set to read-only. Nothing was changed.")
	assert.Equal(t, []string{"begin", "taken back"}, n.said)
	assert.Equal(t, []string{"one", "two"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
}

func TestCarryOnAFullDisk(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one"})
	// A limit on the size of files stands in for the end of the disk; the log of the tests has to stay below it.
	var was syscall.Rlimit
	require.NoError(t, syscall.Getrlimit(syscall.RLIMIT_FSIZE, &was))
	f := open(t, dir)
	big := make([]byte, 1<<24)
	set := change.Set{Files: []change.File{{Path: "a.html", Before: change.HashOf([]byte("one")), Edits: []change.Edit{{Start: 0, End: 1, New: big}}}}}
	require.NoError(t, syscall.Setrlimit(syscall.RLIMIT_FSIZE, &syscall.Rlimit{Cur: 1 << 23, Max: was.Max}))
	err := carry(f, set, &notes{})
	require.NoError(t, syscall.Setrlimit(syscall.RLIMIT_FSIZE, &was))
	require.ErrorIs(t, err, syscall.EFBIG)
	assert.Equal(t, "one", content(t, dir, "a.html"))
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, list, 1, "nothing is left beside it")
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
		var inTheWay *folder.FileInTheWayError
		require.ErrorAs(t, carry(f, set, n), &inTheWay, "%v", set)
		assert.Equal(t, "a.html", inTheWay.Path)
		assert.Empty(t, n.said)
	}
	var outside *folder.OutsideError
	require.ErrorAs(t, carry(f, change.Set{Folders: []string{"../new"}}, &notes{}), &outside)
	// A journal that an older program left, which would have made a folder of the file.
	_, err := f.Recover(&folder.Plan{Folders: []string{"a.html"}, Files: []folder.PlannedFile{{Kind: change.Edited, Path: "b.html"}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"one", "two"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
}

func TestCarryWithoutAJournalDoesNothing(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one"})
	err := carry(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O")}}, &notes{begin: errors.New("no room")})
	assert.ErrorContains(t, err, "nothing was changed")
	assert.Equal(t, "one", content(t, dir, "a.html"))
}

func TestRecoverCompletesOrTakesBack(t *testing.T) {
	plan := func(t *testing.T, dir string) (*folder.Folder, *folder.Plan) {
		f := open(t, dir)
		p, err := f.Prepare(context.Background(), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "T")}})
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
		completed, err := f.Recover(p)
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
		completed, err := f.Recover(p)
		require.NoError(t, err)
		assert.False(t, completed)
		assert.Equal(t, []string{"one", "mine"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html")})
	})
}

func TestWatchTellsEveryKindOfSave(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "d/b.html": "", ".git/x": ""})
	f := open(t, dir)
	var mu sync.Mutex
	seen := map[string]bool{}
	require.NoError(t, f.Watch(t.Context(), func(c folder.Change) {
		mu.Lock()
		defer mu.Unlock()
		for _, p := range c.Paths {
			seen[p] = true
		}
	}))
	expect := func(p string) {
		t.Helper()
		assert.Eventually(t, func() bool { mu.Lock(); defer mu.Unlock(); return seen[p] }, 2*time.Second, 5*time.Millisecond, p)
	}
	write := func(p string) { require.NoError(t, os.WriteFile(filepath.Join(dir, p), []byte("x"), 0o644)) }
	write("a.html")
	expect("a.html")
	write("new.html~")
	require.NoError(t, os.Rename(filepath.Join(dir, "new.html~"), filepath.Join(dir, "d/b.html")))
	expect("d/b.html")
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "deep/er"), 0o755))
	expect("deep")
	time.Sleep(100 * time.Millisecond)
	write("deep/er/c.html")
	expect("deep/er/c.html")
	write(".git/x")
	write("last.html")
	expect("last.html")
	mu.Lock()
	defer mu.Unlock()
	assert.False(t, seen[".git/x"])
}

func TestWatchEndsWithItsContext(t *testing.T) {
	dir := lay(t, nil)
	ctx, stop := context.WithCancel(t.Context())
	told := make(chan folder.Change, 10)
	require.NoError(t, open(t, dir).Watch(ctx, func(c folder.Change) { told <- c }))
	stop()
	time.Sleep(50 * time.Millisecond)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "x"), nil, 0o644))
	select {
	case c := <-told:
		t.Errorf("told of %v after the end", c)
	case <-time.After(300 * time.Millisecond):
	}
}

// A change set of many files, of every kind, that can't be carried out whole leaves all of them as they were, wherever it
// fails: on a full disk, or where something came to stand in the way of the last file.
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
	err := carry(f, full, &n)
	require.NoError(t, syscall.Setrlimit(syscall.RLIMIT_FSIZE, &was))
	require.ErrorIs(t, err, syscall.EFBIG)
	assert.Equal(t, []string{"begin", "taken back"}, n.said)
	assert.Equal(t, before, whole(dir), "on a full disk")

	// A folder comes to stand where the last file is to go, after all was checked.
	var steps atomic.Int64
	folder.Step = func() {
		if steps.Add(1) == 50 {
			require.NoError(t, os.MkdirAll(filepath.Join(dir, "new/made.html/x"), 0o755))
		}
	}
	t.Cleanup(func() { folder.Step = func() {} })
	n = notes{}
	err = carry(f, set, &n)
	require.ErrorContains(t, err, "new/made.html can't be written")
	assert.Equal(t, []string{"begin", "taken back"}, n.said)
	assert.Equal(t, before, whole(dir), "what stands in the way is left, and all else is as it was")
	require.NoError(t, os.RemoveAll(filepath.Join(dir, "new")))

	folder.Step = func() {}
	require.NoError(t, carry(f, set, &notes{}))
	after := whole(dir)
	assert.Equal(t, "<p>PAGE 8", after["new/deep/1/p008.html"])
	assert.NotContains(t, after, "gone.html")
	assert.NoDirExists(t, filepath.Join(dir, "old"))
}
