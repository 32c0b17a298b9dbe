package disk_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/internal/disk"
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

func paths(t *testing.T, f *disk.Folder) (list, trouble []string) {
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
		_, err := disk.Open(path, nil)
		var bad *disk.OpenError
		require.ErrorAs(t, err, &bad)
		assert.Contains(t, bad.Sentence, says)
	}
	_, err := disk.Open(dir, []string{"[x"})
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
}

func TestWatchTellsEveryKindOfSave(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "d/b.html": "", ".git/x": ""})
	f := open(t, dir)
	var mu sync.Mutex
	seen := map[string]bool{}
	require.NoError(t, f.Watch(t.Context(), func(c disk.Change) {
		mu.Lock()
		defer mu.Unlock()
		for _, p := range c.Paths {
			seen[p] = true
		}
	}))
	// A file is reported itself, or by a folder that is looked through from now on.
	expect := func(p ...string) {
		t.Helper()
		assert.Eventually(t, func() bool {
			mu.Lock()
			defer mu.Unlock()
			return slices.ContainsFunc(p, func(p string) bool { return seen[p] })
		}, 2*time.Second, 5*time.Millisecond, p)
	}
	write := func(p string) { require.NoError(t, os.WriteFile(filepath.Join(dir, p), []byte("x"), 0o644)) }
	write("a.html")
	expect("a.html")
	write("new.html~")
	require.NoError(t, os.Rename(filepath.Join(dir, "new.html~"), filepath.Join(dir, "d/b.html")))
	expect("d/b.html")
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "deep/er"), 0o755))
	expect("deep")
	mu.Lock()
	clear(seen)
	mu.Unlock()
	write("deep/er/c.html")
	expect("deep/er/c.html", "deep/er", "deep")
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
	told := make(chan disk.Change, 10)
	require.NoError(t, open(t, dir).Watch(ctx, func(c disk.Change) { told <- c }))
	stop()
	time.Sleep(50 * time.Millisecond)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "x"), nil, 0o644))
	select {
	case c := <-told:
		t.Errorf("told of %v after the end", c)
	case <-time.After(300 * time.Millisecond):
	}
}

// One file is listed at one place, however many names it has.
func TestAFileWithSeveralNamesIsListedOnce(t *testing.T) {
	dir := lay(t, map[string]string{"real/x.html": "x", "real/deep/y.html": "y", "hard.html": "h"})
	require.NoError(t, os.Symlink("real/x.html", filepath.Join(dir, "also.html")))
	require.NoError(t, os.Symlink("real", filepath.Join(dir, "all")))
	require.NoError(t, os.Symlink("../..", filepath.Join(dir, "real/deep/round")))
	require.NoError(t, os.Link(filepath.Join(dir, "hard.html"), filepath.Join(dir, "real/hard.html")))
	found, err := open(t, dir).Walk(t.Context(), "")
	require.NoError(t, err)
	same := map[string]string{}
	for _, e := range found.Entries {
		same[e.Path] = e.Same
	}
	assert.Equal(t, map[string]string{
		"also.html": "real/x.html", "hard.html": "", "real/hard.html": "hard.html", "real/x.html": "", "real/deep/y.html": "",
	}, same)
	assert.Equal(t, map[string]string{"all": "real", "real/deep/round": ""}, found.Same)
	assert.Len(t, found.Trouble, 4, "each other name is said to be one")
}

// Folders within folders are read in the time that they take, and the way to it can be stopped.
func TestDeepFoldersAreReadAndCanBeStopped(t *testing.T) {
	dir := lay(t, map[string]string{"index.html": ""})
	root, err := os.OpenRoot(dir)
	require.NoError(t, err)
	for range disk.DeepLimit + 20 { // deeper than a path can be written at once
		require.NoError(t, root.WriteFile("p.html", nil, 0o644))
		require.NoError(t, root.Mkdir("folder-with-a-name", 0o755))
		next, err := root.OpenRoot("folder-with-a-name")
		require.NoError(t, err)
		root.Close()
		root = next
	}
	root.Close()
	f := open(t, dir)
	found, err := f.Walk(t.Context(), "")
	require.NoError(t, err)
	assert.Len(t, found.Entries, disk.DeepLimit+1)
	require.Len(t, found.Unknown, 1)
	assert.Contains(t, strings.Join(found.Trouble, ""), "was not read: more than")
	deepest := slices.MaxFunc(found.Entries, func(a, b disk.Entry) int { return len(a.Path) - len(b.Path) }).Path
	assert.Greater(t, len(deepest), 4096, "past what the system takes as one path")
	_, err = f.Read(deepest)
	require.NoError(t, err)
	ctx, stop := context.WithCancel(t.Context())
	stop()
	_, err = f.Walk(ctx, "")
	require.ErrorIs(t, err, context.Canceled)
}

// The watch reports a folder that goes away and comes back, whichever folder above it was renamed.
func TestWatchTellsOfTheFolderItself(t *testing.T) {
	above := lay(t, map[string]string{"site/a.html": "one"})
	f := open(t, filepath.Join(above, "site"))
	told := make(chan error, 10)
	require.NoError(t, f.Watch(t.Context(), func(c disk.Change) { told <- c.Missing }))
	next := func() error {
		select {
		case err := <-told:
			return err
		case <-time.After(5 * time.Second):
			t.Fatal("the watch reports nothing")
			return nil
		}
	}
	require.NoError(t, os.Rename(above, above+"-away"))
	require.ErrorContains(t, next(), "is gone")
	require.NoError(t, os.Rename(above+"-away", above))
	require.NoError(t, next())
	require.NoError(t, os.WriteFile(filepath.Join(above, "site/a.html"), []byte("two"), 0o644))
	require.NoError(t, next())
}

func TestALargeFileIsToldFromOthersBySamples(t *testing.T) {
	dir := lay(t, nil)
	film := filepath.Join(dir, "film.mp4")
	require.NoError(t, os.WriteFile(film, nil, 0o644))
	require.NoError(t, os.Truncate(film, 60<<30)) // sparse
	f := open(t, dir)
	start := time.Now()
	hash, _, err := f.Hash("film.mp4")
	require.NoError(t, err)
	assert.Less(t, time.Since(start), 5*time.Second, "it is not read to its end")
	file, err := os.OpenFile(filepath.Join(dir, "film.mp4"), os.O_WRONLY, 0)
	require.NoError(t, err)
	_, err = file.WriteAt([]byte("x"), 60<<30-1)
	require.NoError(t, errors.Join(err, file.Close()))
	again, _, err := f.Hash("film.mp4")
	require.NoError(t, err)
	assert.NotEqual(t, hash, again)
}
