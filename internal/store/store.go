// Package store keeps what has to outlast the program, in one SQLite file: the folders that were opened, what
// was read of each file by the hash of its bytes, and change sets with the bytes that they replaced.
package store

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"github.com/adrg/xdg"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver

	"arvel/core/change"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the open database. It is safe for use by several goroutines, and the file by several processes.
type Store struct {
	db *sql.DB
	// Dir is the data directory.
	Dir string
}

// DefaultDir is the data directory by the platform's convention.
func DefaultDir() string { return filepath.Join(xdg.DataHome, "arvel") }

// Open opens the database in the data directory, making both if need be. A dir of "" is kept in memory only.
func Open(dir string) (*Store, error) {
	const pragmas = "_pragma=foreign_keys(1)&_pragma=busy_timeout(5000)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_txlock=immediate"
	name := "file::memory:?" + pragmas
	if dir != "" {
		if err := os.MkdirAll(dir, 0o700); err != nil {
			return nil, fmt.Errorf("the data directory %s can't be made: %w", dir, err)
		}
		name = "file:" + (&sqlPath{filepath.Join(dir, "arvel.db")}).String() + "?" + pragmas
	}
	db, err := sql.Open("sqlite", name)
	if err != nil {
		return nil, err
	}
	if dir == "" {
		db.SetMaxOpenConns(1) // each connection would be a database of its own
	}
	s := &Store{db, dir}
	if err := s.migrate(); err != nil {
		db.Close()
		return nil, fmt.Errorf("the database in %s can't be opened: %w", dir, err)
	}
	return s, nil
}

// sqlPath writes a path as the part of a URI.
type sqlPath struct{ path string }

func (p *sqlPath) String() string {
	var out []byte
	for _, c := range []byte(filepath.ToSlash(p.path)) {
		if c == '?' || c == '#' || c == '%' {
			out = fmt.Appendf(out, "%%%02X", c)
		} else {
			out = append(out, c)
		}
	}
	return string(out)
}

func (s *Store) migrate() error {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, s.db, sub)
	if err != nil {
		return err
	}
	// Two programs that start at once both want to migrate; the slower one finds it done.
	for try := 0; ; try++ {
		_, err = p.Up(context.Background())
		if err == nil || try == 5 {
			return err
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// Close closes the database.
func (s *Store) Close() error { return s.db.Close() }

// Folder is a folder that was opened.
type Folder struct {
	ID      int64
	Path    string
	Opened  time.Time
	Exclude []string // nil for the default
	Settings
}

// ErrNotFound is returned for what the store does not have.
var ErrNotFound = errors.New("not found")

// Open notes that a folder is opened now and returns what is known of it.
func (s *Store) OpenFolder(path string) (Folder, error) {
	f := Folder{Path: path, Opened: time.Now()}
	var exclude, settings sql.NullString
	err := s.db.QueryRow(`INSERT INTO folders (path, opened) VALUES (?, ?)
		ON CONFLICT (path) DO UPDATE SET opened = excluded.opened RETURNING id, exclude, settings`,
		path, f.Opened.UnixNano()).Scan(&f.ID, &exclude, &settings)
	if err != nil {
		return f, err
	}
	return f, f.set(exclude, settings)
}

// set takes over what is kept as JSON.
func (f *Folder) set(exclude, settings sql.NullString) error {
	var err error
	if exclude.Valid {
		err = json.Unmarshal([]byte(exclude.String), &f.Exclude)
	}
	if settings.Valid {
		err = errors.Join(err, json.Unmarshal([]byte(settings.String), &f.Settings))
	}
	return err
}

// Folders returns the folders that were opened, the last one first.
func (s *Store) Folders() ([]Folder, error) {
	rows, err := s.db.Query(`SELECT id, path, opened, exclude, settings FROM folders ORDER BY opened DESC`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Folder
	for rows.Next() {
		var f Folder
		var opened int64
		var exclude, settings sql.NullString
		if err := rows.Scan(&f.ID, &f.Path, &opened, &exclude, &settings); err != nil {
			return nil, err
		}
		f.Opened = time.Unix(0, opened)
		if err := f.set(exclude, settings); err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, rows.Err()
}

// Folder returns what is known of a folder, or ErrNotFound.
func (s *Store) Folder(id int64) (Folder, error) {
	all, err := s.Folders()
	for _, f := range all {
		if f.ID == id {
			return f, nil
		}
	}
	return Folder{}, errors.Join(err, ErrNotFound)
}

// SetExclude keeps the patterns of what is left out of a folder.
func (s *Store) SetExclude(id int64, exclude []string) error {
	b, err := json.Marshal(exclude)
	if err != nil {
		return err
	}
	_, err = s.db.Exec(`UPDATE folders SET exclude = ? WHERE id = ?`, string(b), id)
	return err
}

// Forget takes a folder out of the store, with its history.
func (s *Store) Forget(id int64) error {
	_, err := s.db.Exec(`DELETE FROM folders WHERE id = ?`, id)
	return err
}

// Reading is what was known of one file when it was last read.
type Reading struct {
	Path           string
	Size, Modified int64
	Hash           change.Hash
	// Content is as [site.File] has it, Doc as markup.Pack made it; nil for a file that holds no references.
	Content string
	Doc     []byte
}

// Readings calls each for every file that was read of a folder.
func (s *Store) Readings(folder int64, each func(Reading)) error {
	rows, err := s.db.Query(`SELECT path, size, modified, hash, content, doc FROM files WHERE folder = ?`, folder)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var r Reading
		var path, hash []byte
		if err := rows.Scan(&path, &r.Size, &r.Modified, &hash, &r.Content, &r.Doc); err != nil {
			return err
		}
		r.Path, r.Hash = string(path), change.HashFrom(hash)
		each(r)
	}
	return rows.Err()
}

// Keep notes readings, all at once. What was known of files that are gone is kept as the folder's past.
func (s *Store) Keep(folder int64, readings []Reading, gone []string) error {
	if len(readings)+len(gone) == 0 {
		return nil
	}
	tx, err := s.db.Begin()
	if err != nil {
		return err
	}
	defer tx.Rollback()
	now := time.Now().UnixNano()
	files, err := tx.Prepare(`INSERT INTO files (folder, path, size, modified, hash, content, doc, since) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (folder, path) DO UPDATE SET size = excluded.size, modified = excluded.modified, hash = excluded.hash,
		content = excluded.content, doc = excluded.doc`)
	if err != nil {
		return err
	}
	for i := range readings {
		r := &readings[i]
		if _, err := files.Exec(folder, []byte(r.Path), r.Size, r.Modified, r.Hash[:], r.Content, r.Doc, now); err != nil {
			return err
		}
	}
	for _, p := range gone {
		_, err := tx.Exec(`INSERT INTO past (folder, path, size, hash, doc, since, gone) SELECT folder, path, size, hash, doc, since, ? FROM files
			WHERE folder = ? AND path = ? ON CONFLICT DO UPDATE SET size = excluded.size, hash = excluded.hash, doc = excluded.doc,
			since = excluded.since, gone = excluded.gone, went = NULL`,
			now, folder, []byte(p))
		if err != nil {
			return err
		}
		if _, err := tx.Exec(`DELETE FROM files WHERE folder = ? AND path = ?`, folder, []byte(p)); err != nil {
			return err
		}
	}
	return tx.Commit()
}

// Past is a file that was there before and is gone.
type Past struct {
	Path string
	Size int64
	Hash change.Hash
	Doc  []byte // as markup.Pack made it; nil for a file that held no references
	// Since is when it was first seen, Gone when it was found to be gone, in nanoseconds since 1970.
	Since, Gone int64
	Went        string // where it is known to have gone, or ""
}

// Since returns when each file of a folder was first seen, in nanoseconds since 1970.
func (s *Store) Since(folder int64) (map[string]int64, error) {
	rows, err := s.db.Query(`SELECT path, since FROM files WHERE folder = ?`, folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]int64{}
	for rows.Next() {
		var path []byte
		var since int64
		if err := rows.Scan(&path, &since); err != nil {
			return nil, err
		}
		out[string(path)] = since
	}
	return out, rows.Err()
}

// Past returns the files that were in a folder before and are gone, the last to go first.
func (s *Store) Past(folder int64) ([]Past, error) {
	rows, err := s.db.Query(`SELECT path, size, hash, doc, since, gone, went FROM past WHERE folder = ? ORDER BY gone DESC, path`, folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Past
	for rows.Next() {
		var p Past
		var path, hash, went []byte
		if err := rows.Scan(&path, &p.Size, &hash, &p.Doc, &p.Since, &p.Gone, &went); err != nil {
			return nil, err
		}
		p.Path, p.Hash, p.Went = string(path), change.HashFrom(hash), string(went)
		out = append(out, p)
	}
	return out, rows.Err()
}

// ForgetPast forgets that a file, or all that a folder at the path held, was in a folder before.
func (s *Store) ForgetPast(folder int64, path string) error {
	_, err := s.db.Exec(`DELETE FROM past WHERE folder = ? AND (path = ? OR path >= ? AND path < ?)`, folder, []byte(path), []byte(path+"/"), []byte(path+"0"))
	return err
}
