package store_test

import (
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/internal/store"
)

func TestADatabaseOfANewerProgramIsLeftAlone(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, open(t, dir).Close())
	db, err := sql.Open("sqlite", filepath.Join(dir, "arvel.db"))
	require.NoError(t, err)
	_, err = db.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (9000, 1)`)
	require.NoError(t, err)
	db.Close()
	_, err = store.Open(dir)
	var newer *store.NewerError
	require.ErrorAs(t, err, &newer)
	assert.Contains(t, err.Error(), "written by a newer Arvel")
}

// A damaged database is kept as a copy, and a new one begun.
func TestADamagedDatabaseIsPutAside(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "arvel.db"), []byte(strings.Repeat("no database at all\n", 500)), 0o600))
	s := open(t, dir)
	require.NotEmpty(t, s.PutAside)
	kept, err := os.ReadFile(s.PutAside)
	require.NoError(t, err)
	assert.Contains(t, string(kept), "no database at all")
	_, err = s.OpenFolder("/seeds")
	require.NoError(t, err)
	require.NoError(t, s.Close())

	// One that is found to be damaged while the program runs is put aside at the next start.
	db, err := sql.Open("sqlite", filepath.Join(dir, "arvel.db"))
	require.NoError(t, err)
	_, err = db.Exec(`PRAGMA wal_checkpoint(TRUNCATE)`)
	require.NoError(t, err)
	db.Close()
	b, err := os.ReadFile(filepath.Join(dir, "arvel.db"))
	require.NoError(t, err)
	for i := 4096; i < len(b); i++ { // all but the first page, which holds the schema
		b[i] = 0xAA
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "arvel.db"), b, 0o600))
	s, err = store.Open(dir)
	if err == nil && s.PutAside == "" {
		_, err = s.Folders()
		err = s.Explained(err)
		var damaged *store.DamagedError
		require.ErrorAs(t, err, &damaged)
		assert.Contains(t, err.Error(), "Start Arvel again")
		require.NoError(t, s.Close())
		s, err = store.Open(dir)
	}
	require.NoError(t, err)
	defer s.Close()
	assert.NotEmpty(t, s.PutAside)
	list, err := s.Folders()
	require.NoError(t, err)
	assert.Empty(t, list)
}

// The lock is held as long as its holder says, whatever the collector of garbage does.
func TestTheLockOutlastsACollection(t *testing.T) {
	if dir := os.Getenv("ARVEL_LOCKED"); dir != "" {
		s, err := store.Open(dir)
		require.NoError(t, err)
		_, err = s.Lock()
		fmt.Println("locked:", err != nil)
		return
	}
	dir := t.TempDir()
	s := open(t, dir)
	lock, err := s.Lock()
	require.NoError(t, err)
	other := func() string {
		cmd := exec.Command(os.Args[0], "-test.run=^TestTheLockOutlastsACollection$", "-test.v")
		cmd.Env = append(os.Environ(), "ARVEL_LOCKED="+dir)
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", out)
		return string(out)
	}
	for range 3 {
		runtime.GC()
	}
	assert.Contains(t, other(), "locked: true")
	lock.Release()
	assert.Contains(t, other(), "locked: false")
}
