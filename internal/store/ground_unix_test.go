//go:build !windows

package store_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is kept is for the owner alone, also in a directory that existed and was open to others.
func TestTheDataDirectoryIsForItsOwnerOnly(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.Chmod(dir, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "arvel.db"), nil, 0o644))
	s := open(t, dir)
	_, err := s.OpenFolder("/seeds")
	require.NoError(t, err)
	lock, err := s.Lock()
	require.NoError(t, err)
	defer lock.Release()
	require.NoError(t, filepath.Walk(dir, func(p string, info os.FileInfo, err error) error {
		assert.Zero(t, info.Mode().Perm()&0o077, p)
		return err
	}))
}
