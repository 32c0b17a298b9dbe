//go:build !windows

package workspace_test

import (
	"errors"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/plan"
	"arvel/core/repair"
	"arvel/internal/disk"
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

// What can't be read is neither there nor gone: nothing is judged or repaired by it, and nothing is said to be deleted.
func TestWhatCannotBeReadIsNotKnown(t *testing.T) {
	if os.Getuid() == 0 {
		t.Log("the account may read everything, so the folder is made one that nobody could list: a link out of it")
	}
	b := newBench(t, map[string]string{
		"index.html": `<a href="private/a.html">A</a><a href="private/">P</a><a href="page.html#x">x</a><a href="none.html">n</a>`,
		"page.html":  "<p id=x>", "copies/a.html": "<p>a", "private/a.html": "<p>a", "copies/none.html": "<p>",
	})
	require.Equal(t, 2, b.View().Report.Counts.Broken, "the folder without an index page, and what is nowhere")
	shut := filepath.Join(b.dir, "private")
	away := filepath.Join(t.TempDir(), "private")
	if os.Getuid() == 0 {
		require.NoError(t, os.Rename(shut, away))
		require.NoError(t, os.Symlink(away, shut))
	} else {
		require.NoError(t, os.Chmod(shut, 0))
		t.Cleanup(func() { os.Chmod(shut, 0o755) })
	}
	require.Eventually(t, func() bool { return b.View().Report.Counts.Unchecked == 2 }, 5*time.Second, 10*time.Millisecond)
	v := b.View()
	assert.Equal(t, 1, v.Report.Counts.Broken, "what is nowhere")
	assert.NotEmpty(t, v.Trouble)
	for _, c := range v.Causes() {
		for _, e := range c.Findings {
			for _, r := range e.Repairs {
				assert.Less(t, r.Certainty, repair.Certain, "the one that is meant could be where nobody can look: %s", r.Written)
			}
		}
	}
	assert.Empty(t, v.PendingMoves(), "nothing was deleted or moved")
	// The notice outlasts the next save.
	version := v.Version
	b.write("page.html", "<p id=x>more")
	require.Eventually(t, func() bool { return b.View().Version > version }, 5*time.Second, 10*time.Millisecond)
	assert.Equal(t, v.Trouble, b.View().Trouble)
	assert.Equal(t, 2, b.View().Report.Counts.Unchecked)
}

// A page seen through a symbolic link is judged and repaired at its place alone, and what leads through the link lands.
func TestOneFileIsRepairedAtOnePlace(t *testing.T) {
	b := newBench(t, map[string]string{
		"index.html": `<a href="all/x.html">x</a><a href="all/">none</a><a href="also.html#y">y</a>`, "real/x.html": `<p id=y><a href="../Index.html">home</a>`,
	})
	require.NoError(t, os.Symlink("real", filepath.Join(b.dir, "all")))
	require.NoError(t, os.Symlink("real/x.html", filepath.Join(b.dir, "also.html")))
	require.Eventually(t, func() bool { return b.View().Report.Counts.Broken == 2 }, 5*time.Second, 10*time.Millisecond, "the folder without an index page, and one wrong letter")
	assert.Equal(t, 2, b.View().Report.Counts.Pages)
	n, _, err := b.repair(repair.Certain)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	assert.Equal(t, `<p id=y><a href="../index.html">home</a>`, b.content("real/x.html"))
}

func TestTheFolderItselfGoesAndComesBack(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": `<a href="a.html">A</a>`, "a.html": "<p>"})
	require.NoError(t, os.Rename(b.dir, b.dir+"-away"))
	t.Cleanup(func() { os.Rename(b.dir+"-away", b.dir) })
	var missing *disk.MissingError
	require.Eventually(t, func() bool { return errors.As(b.Problem(), &missing) }, 5*time.Second, 10*time.Millisecond)
	assert.False(t, missing.Replaced)
	require.NoError(t, os.Mkdir(b.dir, 0o755)) // somebody builds the site anew
	b.write("index.html", "<p>another")
	require.Eventually(t, func() bool { return errors.As(b.Problem(), &missing) && missing.Replaced }, 5*time.Second, 10*time.Millisecond)
	_, _, err := b.newPage("", "new.html", newPage)
	require.ErrorAs(t, err, &missing)
	assert.NoFileExists(t, filepath.Join(b.dir, "new.html"))
	require.NoError(t, os.RemoveAll(b.dir))
	require.NoError(t, os.Rename(b.dir+"-away", b.dir))
	require.Eventually(t, func() bool { return b.Problem() == nil }, 5*time.Second, 10*time.Millisecond)
	b.write("a.html", "<p><a href=none.html>")
	require.Eventually(t, func() bool { return b.View().Report.Counts.Broken == 1 }, 5*time.Second, 10*time.Millisecond, "it is watched again")
}

func TestAFolderThatVanishesIsToldAndMayComeBack(t *testing.T) {
	b := newBench(t, small)
	require.NoError(t, os.Rename(b.dir, b.dir+"-away"))
	t.Cleanup(func() { os.Rename(b.dir+"-away", b.dir) })
	err := b.Read(t.Context())
	assert.ErrorContains(t, err, "moved, renamed or deleted")
	assert.Error(t, b.Problem())
	assert.NotNil(t, b.View(), "what was read is still shown")
	require.NoError(t, os.Rename(b.dir+"-away", b.dir))
	require.NoError(t, b.Read(t.Context()))
	assert.NoError(t, b.Problem())
}
