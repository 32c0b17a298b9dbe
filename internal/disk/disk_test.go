package disk_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"runtime"
	"slices"
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
	assert.ErrorContains(t, err, "is not a pattern")
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
	if runtime.GOOS == "windows" { // which keeps none of the others, and no two that differ in case alone
		names = []string{"a#b.html", "100%.html", "a b.html", "it's.html", "種.html", "a.html"}
	}
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
