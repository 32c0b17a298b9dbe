//go:build !windows

package disk_test

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/internal/disk"
)

// Pipes are never opened: nobody writes to them, so whoever opened one would wait for ever.
func TestPipesAreNeverOpened(t *testing.T) {
	dir := lay(t, map[string]string{"d/a.html": "one"})
	for _, p := range []string{"pipe.html", "d/pipe"} {
		require.NoError(t, syscall.Mkfifo(filepath.Join(dir, p), 0o644))
	}
	require.NoError(t, os.Symlink("pipe.html", filepath.Join(dir, "to-pipe.html")))
	f := open(t, dir)
	done := make(chan struct{})
	go func() {
		defer close(done)
		list, _ := paths(t, f)
		assert.Equal(t, []string{"d/a.html", "d/pipe", "pipe.html", "to-pipe.html"}, list, "something is there")
		for _, p := range []string{"pipe.html", "to-pipe.html", "d/pipe"} {
			_, err := f.Read(p)
			assert.Equal(t, "is a pipe, a socket or a device, so it was left alone", disk.Trouble(err))
			_, _, err = f.Hash(p)
			assert.True(t, disk.Irregular(err))
		}
		_, _, irregular := f.Contents("d")
		assert.Equal(t, []string{"d/pipe"}, irregular)
	}()
	select {
	case <-done:
	case <-time.After(10 * time.Second):
		t.Fatal("something waits for a pipe")
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
		same[e.Path] = e.OriginalPath
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
