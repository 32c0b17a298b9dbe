package workspace_test

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/change"
	"arvel/internal/journal"
	"arvel/internal/store"
	"arvel/internal/workspace"
	"arvel/test/drive"
)

// everyKind is a change set with files of every kind: edited, moved, moved and edited, swapped, made and deleted, and one that
// leaves a page behind.
func everyKind() change.Set {
	one := func(kind change.Kind, path, from, before string, edits ...change.Edit) change.File {
		return change.File{Kind: kind, Path: path, From: from, Before: change.HashOf([]byte(before)), Edits: edits}
	}
	e := func(at int, s string) change.Edit { return change.Edit{Start: at, End: at + 1, New: []byte(s)} }
	return change.Set{
		Title: "everything at once",
		Files: []change.File{
			one(change.Edited, "a.html", "", "<p>a", e(3, "A")),
			one(change.Moved, "deep/er/b.html", "b.html", "<p>b"),
			one(change.Moved, "deep/c.html", "c.html", "<p>c", e(3, "C")),
			one(change.Moved, "x.html", "y.html", "<p>y"),
			one(change.Moved, "y.html", "x.html", "<p>x", e(3, "X")),
			one(change.Moved, "old/2.html", "old/1.html", "<p>1"),
			one(change.Moved, "old/3.html", "old/2.html", "<p>2"),
			{Kind: change.Made, Path: "new/n.html", Content: []byte("<p>n")},
			one(change.Deleted, "gone/g.html", "", "<p>g"),
			one(change.Moved, "deep/left.html", "left.html", "<p>l", e(3, "L")),
			{Kind: change.Made, Path: "left.html", Content: []byte("<p>gone to deep")},
		},
		Emptied: []string{"gone"}, Folders: []string{"empty"},
	}
}

var (
	allOld = map[string]string{
		"a.html": "<p>a", "b.html": "<p>b", "c.html": "<p>c", "x.html": "<p>x", "y.html": "<p>y", "old/1.html": "<p>1", "old/2.html": "<p>2", "gone/g.html": "<p>g",
		"left.html": "<p>l",
	}
	allNew = map[string]string{
		"a.html": "<p>A", "deep/er/b.html": "<p>b", "deep/c.html": "<p>C", "x.html": "<p>y", "y.html": "<p>X", "old/2.html": "<p>1", "old/3.html": "<p>2", "new/n.html": "<p>n",
		"deep/left.html": "<p>L", "left.html": "<p>gone to deep",
	}
)

func lay(t *testing.T, dir string, files map[string]string) {
	t.Helper()
	for p, src := range files {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, p)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, p), []byte(src), 0o644))
	}
}

// sit opens a folder with what is kept in data, recovering what was cut short.
func sit(t *testing.T, dir, data string) acting {
	t.Helper()
	st, err := store.Open(data)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	w, err := workspace.Open(st, dir, workspace.Options{})
	require.NoError(t, err)
	t.Cleanup(w.Close)
	require.NoError(t, w.Recover())
	require.NoError(t, w.Read(context.Background()))
	return acting{w}
}

// TestCarriedUntilKilled carries a change set, or undoes it, in a process of its own and kills that at the step it is told.
func TestCarriedUntilKilled(t *testing.T) {
	at, err := strconv.Atoi(os.Getenv("ARVEL_KILL_AT"))
	if err != nil {
		return // it is started by TestKilledAtEveryStep
	}
	w := sit(t, os.Getenv("ARVEL_KILL_DIR"), os.Getenv("ARVEL_KILL_DATA"))
	var steps atomic.Int64
	journal.Step = func() {
		if steps.Add(1) == int64(at) {
			if self, err := os.FindProcess(os.Getpid()); err == nil {
				_ = self.Kill()
			}
			select {}
		}
	}
	if os.Getenv("ARVEL_KILL_UNDO") != "" {
		_, _, err = w.undo(1, false)
	} else {
		_, err = w.carry(everyKind())
	}
	require.NoError(t, err)
}

// A process that is killed at any step of carrying out a change set, or of undoing it, leaves every file wholly old or
// wholly new once it is started again, and the history says which. If one was edited before that, it stays as it is, and
// all others are as they were.
func TestKilledAtEveryStep(t *testing.T) {
	for _, c := range []struct {
		undo   string
		edited bool
		by     int // steps at a time
	}{{"", false, 1}, {"yes", false, 1}, {"", true, 3}, {"yes", true, 3}} {
		undo := c.undo
		n := 0
		for at := 1; ; at += c.by {
			dir, data := t.TempDir(), t.TempDir()
			lay(t, dir, allOld)
			if undo != "" {
				w := sit(t, dir, data)
				_, err := w.carry(everyKind())
				require.NoError(t, err)
				w.Close()
			}
			cmd := exec.Command(os.Args[0], "-test.run=^TestCarriedUntilKilled$")
			cmd.Env = append(os.Environ(), "ARVEL_KILL_AT="+strconv.Itoa(at), "ARVEL_KILL_DIR="+dir, "ARVEL_KILL_DATA="+data, "ARVEL_KILL_UNDO="+undo)
			out, err := cmd.CombinedOutput()
			killed := err != nil && strings.Contains(err.Error(), "killed")
			require.True(t, killed || err == nil, "%v: %s", err, out)
			place, placed := map[string]string{"": "c.html", "yes": "deep/c.html"}[undo], false
			if c.edited && killed {
				lay(t, dir, map[string]string{"a.html": "mine"})
				if _, stands := drive.Files(t, dir)[place]; !stands {
					lay(t, dir, map[string]string{place: "mine, too"})
					placed = true
				}
			}
			w := sit(t, dir, data)
			list, _, err := w.History.List("", 0, 10)
			require.NoError(t, err)
			got := drive.Files(t, dir)
			fresh := list[0].State == store.Done
			if undo != "" {
				fresh = len(list) < 2 || list[0].State != store.Done
			}
			if ended := fresh != (undo != ""); c.edited && killed && ended {
				// All was done but noting that: what was edited since is no reason to take the rest back.
				want := maps.Clone(map[string]map[string]string{"": allNew, "yes": allOld}[undo])
				want["a.html"] = "mine"
				if placed {
					want[place] = "mine, too"
				}
				assert.Equal(t, want, got, "killed at step %d", at)
				n++
				w.Close()
				continue
			} else if c.edited && killed {
				assert.Equal(t, "mine", got["a.html"])
				if placed {
					cameBackBeside(t, got, place, at)
					got[place] = map[string]string{"": "<p>c", "yes": "<p>C"}[undo]
				}
				got["a.html"] = map[bool]string{true: "<p>A", false: "<p>a"}[fresh]
				assert.Equal(t, undo != "", fresh, "what was begun is taken back, at step %d", at)
			}
			if fresh {
				assert.Equal(t, allNew, got, "killed at step %d", at)
				assert.DirExists(t, filepath.Join(dir, "empty"))
				assert.NoDirExists(t, filepath.Join(dir, "gone"))
			} else {
				assert.Equal(t, allOld, got, "killed at step %d", at)
				if !placed {
					assert.NoDirExists(t, filepath.Join(dir, "deep"))
				}
			}
			if t.Failed() {
				return
			}
			n++
			w.Close()
			if !killed {
				break
			}
		}
		t.Logf("killed %d times, undo %q, edited %t", n-1, undo, c.edited)
		assert.Greater(t, n*c.by, 15)
	}
}

// cameBackBeside reports whether the file c, whose place somebody else took, exists exactly once, under a name that is seen. It
// takes that out of the files.
func cameBackBeside(t *testing.T, got map[string]string, place string, at int) {
	t.Helper()
	assert.Equal(t, "mine, too", got[place], "at step %d", at)
	var stood []string
	for p, src := range got {
		if strings.EqualFold(src, "<p>c") {
			stood = append(stood, p)
			delete(got, p)
		}
	}
	if assert.Len(t, stood, 1, "at step %d", at) {
		assert.NotContains(t, stood[0], ".arvel", "at step %d", at)
	}
}

// What fails in the middle, since something comes to be where a file is to go, is taken back to the byte.
func TestWhatFailsAtAnyStepIsTakenBackToTheByte(t *testing.T) {
	t.Cleanup(func() { journal.Step = func() {} })
	for k, c := range []struct {
		undo bool
		at   string // where something gets in the way
		was  map[string]string
	}{
		{false, "deep/c.html", allOld},
		{false, "old/3.html", allOld},
		{true, "c.html", allNew},
		{true, "gone/g.html", allNew},
	} {
		failed := 0
		for at := int64(1 + k%2); ; at += 2 {
			dir := t.TempDir()
			lay(t, dir, allOld)
			w := sit(t, dir, t.TempDir())
			carry := func() error { _, err := w.carry(everyKind()); return err }
			if c.undo {
				require.NoError(t, carry())
				carry = func() error { _, _, err := w.undo(1, false); return err }
			}
			var steps atomic.Int64
			journal.Step = func() {
				if steps.Add(1) == at {
					_ = os.MkdirAll(filepath.Join(dir, c.at, "in the way"), 0o755)
				}
			}
			err := carry()
			journal.Step = func() {}
			if err == nil && steps.Load() < at {
				break
			} else if err == nil {
				continue // the file was there before
			}
			failed++
			require.NoError(t, os.RemoveAll(filepath.Join(dir, c.at)))
			require.Equal(t, c.was, drive.Files(t, dir), "%s in the way at step %d: %v", c.at, at, err)
			require.NoError(t, carry(), "and can be done then")
			w.Close()
		}
		assert.Greater(t, failed, 5, c.at)
	}
}

func TestEveryKindOfChangeIsUndoneAndRedone(t *testing.T) {
	dir := t.TempDir()
	lay(t, dir, allOld)
	require.NoError(t, os.Chmod(filepath.Join(dir, "gone/g.html"), 0o600))
	w := sit(t, dir, t.TempDir())
	id, err := w.carry(everyKind())
	require.NoError(t, err)
	assert.Equal(t, allNew, drive.Files(t, dir))
	diff, err := w.History.Diff(id)
	require.NoError(t, err)
	undone, _, err := w.undo(id, false)
	require.NoError(t, err)
	assert.Equal(t, allOld, drive.Files(t, dir))
	info, err := os.Stat(filepath.Join(dir, "gone/g.html"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	// What is exported is what "git apply" takes. (It knows of no swaps, so the other files are enough.)
	other := t.TempDir()
	lay(t, other, allOld)
	var parts []string
	for _, part := range strings.SplitAfter(diff, "\ndiff --git ") {
		parts = append(parts, strings.TrimSuffix(part, "diff --git "))
	}
	for _, part := range parts {
		if strings.Contains(part, "x.html") || strings.Contains(part, "old/") {
			continue
		}
		apply := exec.Command("git", "apply", "-")
		apply.Dir = other
		apply.Stdin = strings.NewReader("diff --git " + strings.TrimPrefix(part, "diff --git "))
		out, err := apply.CombinedOutput()
		require.NoError(t, err, "%s\n%s", out, part)
	}
	got := drive.Files(t, other)
	assert.Equal(t, []string{"<p>A", "<p>C", "<p>n", "<p>b"}, []string{got["a.html"], got["deep/c.html"], got["new/n.html"], got["deep/er/b.html"]})
	assert.NotContains(t, got, "gone/g.html")

	_, _, err = w.undo(undone, false)
	require.NoError(t, err)
	assert.Equal(t, allNew, drive.Files(t, dir))
}

func TestUndoLeavesAloneWhatWasEditedSince(t *testing.T) {
	dir := t.TempDir()
	lay(t, dir, allOld)
	w := sit(t, dir, t.TempDir())
	id, err := w.carry(everyKind())
	require.NoError(t, err)
	lay(t, dir, map[string]string{"deep/c.html": "mine"})
	_, _, err = w.undo(id, false)
	var conflict *journal.ConflictError
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, []string{"deep/c.html"}, conflict.Paths)
	_, left, err := w.undo(id, true)
	require.NoError(t, err)
	assert.Equal(t, []string{"deep/c.html"}, left)
	want := map[string]string{"deep/c.html": "mine"}
	for p, src := range allOld {
		want[p] = src
	}
	delete(want, "c.html")
	assert.Equal(t, want, drive.Files(t, dir))
}

func TestUndoBackToAPoint(t *testing.T) {
	dir := t.TempDir()
	lay(t, dir, map[string]string{"a.html": "0"})
	w := sit(t, dir, t.TempDir())
	var ids []int64
	for i := range 4 {
		now := strconv.Itoa(i)
		id, err := w.carry(change.Set{Title: now, Files: []change.File{{
			Path: "a.html", Before: change.HashOf([]byte(now)), Edits: []change.Edit{{Start: 0, End: 1, New: []byte(strconv.Itoa(i + 1))}},
		}}})
		require.NoError(t, err)
		ids = append(ids, id)
	}
	n, _, err := w.UndoBackTo(t.Context(), ids[1])
	require.NoError(t, err)
	assert.Equal(t, 3, n)
	assert.Equal(t, "1", drive.Files(t, dir)["a.html"])
	n, _, err = w.UndoBackTo(t.Context(), ids[0])
	require.NoError(t, err)
	assert.Equal(t, 1, n, "what was undone already is left alone")
	assert.Equal(t, "0", drive.Files(t, dir)["a.html"])
}

// Going back takes back each file that is as it was left, also where another one was edited since.
func TestUndoBackToLeavesAloneWhatWasEditedSince(t *testing.T) {
	dir := t.TempDir()
	lay(t, dir, map[string]string{"a.html": "0", "b.html": "0"})
	w := sit(t, dir, t.TempDir())
	edit := func(path, before, now string) change.File {
		return change.File{Path: path, Before: change.HashOf([]byte(before)), Edits: []change.Edit{{Start: 0, End: 1, New: []byte(now)}}}
	}
	first, err := w.carry(change.Set{Title: "both", Files: []change.File{edit("a.html", "0", "1"), edit("b.html", "0", "1")}})
	require.NoError(t, err)
	_, err = w.carry(change.Set{Title: "one", Files: []change.File{edit("a.html", "1", "2")}})
	require.NoError(t, err)
	lay(t, dir, map[string]string{"a.html": "mine"})
	n, left, err := w.UndoBackTo(t.Context(), first)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	assert.Equal(t, []string{"a.html"}, left)
	assert.Equal(t, map[string]string{"a.html": "mine", "b.html": "0"}, drive.Files(t, dir))
}

func TestWhatStandsInTheWayIsNamed(t *testing.T) {
	dir := t.TempDir()
	lay(t, dir, allOld)
	w := sit(t, dir, t.TempDir())
	for path, f := range map[string]change.File{
		"a.html":     {Kind: change.Moved, Path: "a.html", From: "b.html", Before: change.HashOf([]byte("<p>b"))},
		"x.html":     {Kind: change.Made, Path: "x.html"},
		"../out.txt": {Kind: change.Made, Path: "../out.txt"},
	} {
		_, err := w.carry(change.Set{Files: []change.File{f}})
		assert.ErrorContains(t, err, path)
		assert.ErrorContains(t, err, "nothing was changed")
	}
	assert.Equal(t, allOld, drive.Files(t, dir))
}

// age turns the hashes in a data directory into those that older programs kept, of the contents that are given.
func age(t *testing.T, data string, contents ...map[string]string) {
	t.Helper()
	db, err := sql.Open("sqlite", filepath.Join(data, "arvel.db"))
	require.NoError(t, err)
	defer db.Close()
	aged := 0
	for _, files := range contents {
		for _, src := range files {
			now, before := change.HashOf([]byte(src)), sha256.Sum256([]byte(src))
			for _, column := range []string{"files.hash", "changed_files.before", "changed_files.after", "drafts.base"} {
				table, name, _ := strings.Cut(column, ".")
				done, err := db.Exec(`UPDATE `+table+` SET `+name+` = ? WHERE `+name+` = ?`, before[:], now[:])
				require.NoError(t, err)
				n, err := done.RowsAffected()
				require.NoError(t, err)
				aged += int(n)
			}
		}
	}
	require.Greater(t, aged, 20)
}

func TestWhatAnOlderProgramKeptIsUndoneAndCompleted(t *testing.T) {
	b := newBench(t, allOld)
	id, err := b.carry(everyKind())
	require.NoError(t, err)
	require.NoError(t, b.Drafts.Keep("a.html", "<p>mine", change.HashOf([]byte("<p>A"))))
	b.stop()
	age(t, b.data, allOld, allNew)
	b.start()
	draft, ok, err := b.Drafts.Get("a.html")
	require.NoError(t, err)
	require.True(t, ok)
	_, err = b.save("a.html", draft.Text, draft.Base)
	require.NoError(t, err, "a draft is of the file that it was begun from")
	list, _, err := b.History.List("", 0, 1)
	require.NoError(t, err)
	_, _, err = b.undo(list[0].ID, false)
	require.NoError(t, err)
	back, _, err := b.undo(id, false)
	require.NoError(t, err)
	assert.Equal(t, allOld, drive.Files(t, b.dir))
	_, _, err = b.undo(back, false)
	require.NoError(t, err)
	assert.Equal(t, allNew, drive.Files(t, b.dir))

	b.stop()
	age(t, b.data, allOld, allNew)
	st, err := store.Open(b.data)
	require.NoError(t, err)
	require.NoError(t, st.SetState(id, store.Writing)) // as if the older program had been killed behind its first file
	st.Close()
	for p := range allNew {
		require.NoError(t, os.Remove(filepath.Join(b.dir, p)))
	}
	lay(t, b.dir, allOld)
	lay(t, b.dir, map[string]string{"a.html": allNew["a.html"]})
	b.start()
	assert.Equal(t, allNew, drive.Files(t, b.dir))
}
