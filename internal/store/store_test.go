package store_test

import (
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"sync"
	"testing"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/change"
	"arvel/internal/store"
)

func open(t *testing.T, dir string) *store.Store {
	t.Helper()
	s, err := store.Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

func TestTwoProgramsOnOneDataDirectory(t *testing.T) {
	name := "a #?% b"
	if runtime.GOOS == "windows" {
		name = "a #% b"
	}
	dir := filepath.Join(t.TempDir(), name)
	var wait sync.WaitGroup
	stores := make([]*store.Store, 4)
	for i := range stores {
		wait.Go(func() {
			s, err := store.Open(dir)
			if assert.NoError(t, err) {
				stores[i] = s
			}
		})
	}
	wait.Wait()
	for i, s := range stores {
		wait.Go(func() {
			for n := range 20 {
				f, err := s.OpenFolder(fmt.Sprintf("/seeds/%d", n))
				if assert.NoError(t, err) {
					assert.NoError(t, s.Keep(f.ID, []store.Reading{{Path: fmt.Sprint(i), Doc: []byte("x")}}, nil, true))
				}
			}
			assert.NoError(t, s.Close())
		})
	}
	wait.Wait()
	list, err := open(t, dir).Folders()
	require.NoError(t, err)
	assert.Len(t, list, 20)
}

func TestTheLockSaysWhoHasIt(t *testing.T) {
	dir := t.TempDir()
	a, b := open(t, dir), open(t, dir)
	lock, err := a.Lock()
	require.NoError(t, err)
	require.NoError(t, lock.Say("http://127.0.0.1:4178/"))
	_, err = b.Lock()
	var locked *store.LockedError
	require.ErrorAs(t, err, &locked)
	assert.Contains(t, err.Error(), "at http://127.0.0.1:4178/")
	lock.Release()
	lock, err = b.Lock()
	require.NoError(t, err)
	lock.Release()
}

func TestReadingsAreKeptByContent(t *testing.T) {
	s := open(t, t.TempDir())
	f, err := s.OpenFolder("/seeds")
	require.NoError(t, err)
	hash := change.HashOf([]byte("x"))
	require.NoError(t, s.Keep(f.ID, []store.Reading{
		{Path: "a.html", Size: 1, Modified: 2, Hash: hash, Doc: []byte("doc")},
		{Path: "caf\xe9.html", Size: 1, Modified: 3, Hash: hash, Doc: []byte("doc")},
	}, nil, true))
	require.NoError(t, s.Keep(f.ID, nil, []string{"a.html"}, true))
	var got []store.Reading
	require.NoError(t, s.Readings(f.ID, func(r store.Reading) { got = append(got, r) }))
	assert.Equal(t, []store.Reading{{Path: "caf\xe9.html", Size: 1, Modified: 3, Hash: hash, Doc: []byte("doc")}}, got)
}

func TestFormerReadingsAreKeptUntilTheyAreTooMany(t *testing.T) {
	s := open(t, t.TempDir())
	f, err := s.OpenFolder("/seeds")
	require.NoError(t, err)
	keep := func(path, text string, former bool) {
		require.NoError(t, s.Keep(f.ID, []store.Reading{{Path: path, Hash: change.HashOf([]byte(text)), Doc: []byte(text)}}, nil, former))
	}
	for _, text := range []string{"0", "1", "1", "2", "3", "4"} {
		keep("a.html", text, true)
	}
	keep("b.html", "0", true)
	keep("b.html", "1", false)
	former, err := s.Former(f.ID)
	require.NoError(t, err)
	require.Len(t, former, 3, "the last three, of what was kept")
	for i, text := range []string{"3", "2", "1"} {
		assert.Equal(t, change.HashOf([]byte(text)), former[i].Hash)
		doc, err := s.FormerDoc(f.ID, "a.html", former[i].Changed)
		require.NoError(t, err)
		assert.Equal(t, text, string(doc))
	}
	doc, err := s.FormerDoc(f.ID, "b.html", 1)
	require.NoError(t, err)
	assert.Nil(t, doc)
	_, err = s.FollowMoves(f.ID, map[string]string{"x.html": "a.html"})
	require.NoError(t, err)
	former, err = s.Former(f.ID)
	require.NoError(t, err)
	assert.Empty(t, former, "what was moved over it took its place knowingly")
}

func TestForgettingAFolderTakesItsHistoryAlong(t *testing.T) {
	s := open(t, t.TempDir())
	f, err := s.OpenFolder("/seeds")
	require.NoError(t, err)
	require.NoError(t, s.SetExclude(f.ID, []string{"old"}))
	id, err := s.Begin(f.ID, 0, &change.Record{Set: change.Set{Title: "x", Files: []change.File{{Path: "a", Edits: []change.Edit{{Start: 1, End: 1, New: []byte("n")}}, Lines: make([]change.Line, 1)}}}})
	require.NoError(t, err)
	c, err := s.Change(f.ID, id)
	require.NoError(t, err)
	assert.Equal(t, store.Writing, c.State)
	assert.Equal(t, []byte("n"), c.Files[0].Edits[0].New)
	known, err := s.Folder(f.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"old"}, known.Exclude)
	require.NoError(t, s.Forget(f.ID))
	_, err = s.Change(f.ID, id)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.Folder(f.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// What an older program kept of change sets is all there after the tables are made anew.
func TestTheHistoryOfAnOlderProgramIsTakenOver(t *testing.T) {
	dir := t.TempDir()
	db, err := sql.Open("sqlite", filepath.Join(dir, "arvel.db"))
	require.NoError(t, err)
	old, err := goose.NewProvider(goose.DialectSQLite3, db, os.DirFS("migrations"))
	require.NoError(t, err)
	_, err = old.UpTo(t.Context(), 5)
	require.NoError(t, err)
	for _, row := range []string{
		`INSERT INTO folders (id, path, opened) VALUES (1, '/seeds', 1)`,
		`INSERT INTO changes (id, folder, title, made, state) VALUES (7, 1, 'Tidied', 1, 'done')`,
		`INSERT INTO changed_files (change, path, before, after, kind, origin) VALUES (7, CAST('b.html' AS BLOB), x'', x'', 'moved', CAST('a.html' AS BLOB))`,
		`INSERT INTO changed_files (change, path, before, after, kind, whole, mode) VALUES (7, CAST('c.html' AS BLOB), x'', x'', 'deleted', CAST('all of it' AS BLOB), 384)`,
		`INSERT INTO changed_bytes VALUES (7, CAST('b.html' AS BLOB), 3, x'78', x'7979', 2, '["x","yy"]'), (7, CAST('b.html' AS BLOB), 9, x'78', x'7a', 4, '["x","z"]')`,
	} {
		_, err := db.Exec(row)
		require.NoError(t, err, row)
	}
	require.NoError(t, db.Close())
	c, err := open(t, dir).Change(1, 7)
	require.NoError(t, err)
	assert.Equal(t, []change.File{
		{
			Kind: change.Moved, Path: "b.html", From: "a.html", Mode: 420,
			Edits: []change.Edit{{Start: 3, End: 4, Old: []byte("x"), New: []byte("yy")}, {Start: 9, End: 10, Old: []byte("x"), New: []byte("z")}},
			Lines: []change.Line{{Number: 2, Before: "x", After: "yy"}, {Number: 4, Before: "x", After: "z"}},
		},
		{Kind: change.Deleted, Path: "c.html", Content: []byte("all of it"), Mode: 384},
	}, c.Files)
}
