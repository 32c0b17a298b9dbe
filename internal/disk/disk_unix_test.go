//go:build !windows

package disk_test

import (
	"os"
	"path/filepath"
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
		_, _, irregular := f.All("d")
		assert.Equal(t, []string{"d/pipe"}, irregular)
	}()
	select {
	case <-done:
	case <-time.After(10 * time.Second):
		t.Fatal("something waits for a pipe")
	}
}
