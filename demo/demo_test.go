package demo_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/demo"
)

func TestCopyToReplacesOnlyACopy(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "seed-library")
	require.NoError(t, demo.CopyTo(dir))
	page := filepath.Join(dir, "index.html")
	fresh, err := os.ReadFile(page)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(page, []byte("edited"), 0o644), "a copy can be edited")
	require.NoError(t, demo.CopyTo(dir))
	again, err := os.ReadFile(page)
	require.NoError(t, err)
	assert.Equal(t, fresh, again)

	mine := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(mine, "mine.html"), []byte("mine"), 0o644))
	assert.ErrorContains(t, demo.CopyTo(mine), "something else is there already")
	assert.FileExists(t, filepath.Join(mine, "mine.html"))
}

// A copy that somebody worked in is theirs; only one as it was laid, or one that is asked to be fresh, is replaced.
func TestAnEditedCopyIsKept(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "demo")
	lay := func(fresh bool) bool {
		kept, err := demo.Lay(dir, fresh)
		require.NoError(t, err)
		return kept
	}
	home := filepath.Join(dir, "index.html")
	assert.False(t, lay(false))
	start, err := os.ReadFile(home)
	require.NoError(t, err)
	assert.False(t, lay(false), "nothing was changed in it")
	for name, change := range map[string]func() error{
		"edited": func() error { return os.WriteFile(home, []byte("mine"), 0o644) },
		"gone":   func() error { return os.Remove(home) },
		"more":   func() error { return os.WriteFile(filepath.Join(dir, "mine.html"), nil, 0o644) },
	} {
		require.NoError(t, change(), name)
		assert.True(t, lay(false), name)
		assert.False(t, lay(true), name)
		now, err := os.ReadFile(home)
		require.NoError(t, err)
		assert.Equal(t, start, now, name)
		assert.NoFileExists(t, filepath.Join(dir, "mine.html"))
	}
	other := t.TempDir()
	_, err = demo.Lay(other, true)
	assert.ErrorContains(t, err, "something else is there")
}
