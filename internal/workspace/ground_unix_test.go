//go:build !windows

package workspace_test

import (
	"os"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/plan"
)

func TestAPipeIsNamedInThePlanAndStays(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": `<a href="d/a.html">A</a>`, "d/a.html": "<p>"})
	require.NoError(t, syscall.Mkfifo(filepath.Join(b.dir, "d/pipe"), 0o644))
	moves := []plan.Move{{From: "d", To: "e"}}
	p := b.planMoves(moves, plan.Options{})
	var told []string
	for _, one := range p.Notes {
		told = append(told, one.Page)
	}
	assert.Contains(t, told, "d/pipe")
	_, _, err := b.move(moves, plan.Options{})
	require.NoError(t, err)
	assert.Equal(t, "<p>", b.content("e/a.html"))
	_, err = os.Lstat(filepath.Join(b.dir, "d/pipe"))
	require.NoError(t, err)
}
