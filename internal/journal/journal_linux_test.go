package journal_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"arvel/core/change"
)

func TestHardLinksAndExtendedAttributesOutlastARepair(t *testing.T) {
	dir := lay(t, map[string]string{"a.html": "one", "b.html": "two"})
	outside := filepath.Join(t.TempDir(), "other.html")
	require.NoError(t, os.Link(filepath.Join(dir, "a.html"), outside))
	attribute := unix.Setxattr(filepath.Join(dir, "b.html"), "user.note", []byte("keep"), 0) == nil // not on every disk
	require.NoError(t, apply(open(t, dir), change.Set{Files: []change.File{edit("a.html", "one", 0, "O"), edit("b.html", "two", 0, "T")}}, &notes{}))
	b, err := os.ReadFile(outside)
	require.NoError(t, err)
	assert.Equal(t, []string{"One", "Two", "One"}, []string{content(t, dir, "a.html"), content(t, dir, "b.html"), string(b)}, "it is the same file still")
	if attribute {
		value := make([]byte, 10)
		n, err := unix.Getxattr(filepath.Join(dir, "b.html"), "user.note", value)
		require.NoError(t, err)
		assert.Equal(t, "keep", string(value[:n]))
	}
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, list, 2, "nothing is left beside them")
}
