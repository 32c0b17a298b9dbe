package large_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/large"
)

func TestLargeIsTheSameEachTime(t *testing.T) {
	a, b := t.TempDir(), t.TempDir()
	require.NoError(t, large.Write(a, 250))
	require.NoError(t, large.Write(b, 250))
	pages := 0
	require.NoError(t, filepath.WalkDir(a, func(p string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		rel, err := filepath.Rel(a, p)
		require.NoError(t, err)
		one, err := os.ReadFile(p)
		require.NoError(t, err)
		other, err := os.ReadFile(filepath.Join(b, rel))
		require.NoError(t, err)
		assert.Equal(t, one, other, rel)
		if filepath.Ext(p) == ".html" {
			pages++
		}
		return nil
	}))
	assert.Equal(t, 250, pages)
}
