// Package store keeps what has to outlast the program, in one SQLite file: the folders that were opened, what
// was read of each file by the hash of its bytes, and change sets with the bytes that they replaced.
package store

import (
	"bytes"
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"arvel/core/change"

	"github.com/adrg/xdg"
	"github.com/pressly/goose/v3"
	"github.com/zeebo/blake3"
	"modernc.org/sqlite" // the driver
	sqlite3 "modernc.org/sqlite/lib"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the open database. It is safe for use by several goroutines, and the file by several processes.
type Store struct {
	db *sql.DB
	// Dir is the data directory.
	Dir string
	// PutAside is where a damaged database was put when this one was opened; "" if it was not.
	PutAside string
}

// DefaultDir is the data directory by the platform's convention.
func DefaultDir() string { return filepath.Join(xdg.DataHome, "arvel") }

// A NewerError says that a data directory was written by a newer program.
type NewerError struct{ Dir string }

func (e *NewerError) Error() string {
	return fmt.Sprintf("The data directory %s was written by a newer Arvel. Start that one, or this one with --data and another directory.", e.Dir)
}

// Open opens the database in the data directory, making both if need be, for the owner only. A dir of "" is kept in memory
// only. A database that is damaged is put aside under another name, and a new one begun; see [Store.PutAside]. One of a
// newer program gives a *NewerError.
func Open(dir string) (*Store, error) {
	if dir == "" {
		return open("")
	}
	if err := ownerOnly(dir); err != nil {
		return nil, err
	}
	s, err := open(dir)
	if !damaged(err) && !wasDamaged(dir) {
		return s, err
	}
	if err == nil {
		s.Close()
	}
	aside, err := putAside(dir)
	if err != nil {
		return nil, fmt.Errorf("the database in %s is damaged, and could not be put aside: %w", dir, err)
	}
	if s, err = open(dir); err == nil {
		s.PutAside = aside
	}
	return s, err
}

// ownerOnly makes a data directory, or one that exists, readable for nobody but its owner: it holds the author's pages.
func ownerOnly(dir string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return fmt.Errorf("the data directory %s can't be made: %w", dir, err)
	}
	if err := closeToOthers(dir, 0o700); err != nil {
		return fmt.Errorf("the data directory %s can't be closed to other accounts: %w", dir, err)
	}
	db := filepath.Join(dir, fileName)
	file, err := os.OpenFile(db, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return fmt.Errorf("the data directory %s can't be written: %w", dir, err)
	}
	file.Close()
	for _, name := range files(dir) {
		if err := closeToOthers(name, 0o600); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return fmt.Errorf("%s can't be closed to other accounts: %w", name, err)
		}
	}
	return nil
}

const (
	fileName = "arvel.db"
	// damageNote is a file that is made when the database was found to be damaged, so that the next start begins anew.
	damageNote = "arvel.damaged"
)

// files are those that the database is made of.
func files(dir string) []string {
	db := filepath.Join(dir, fileName)
	return []string{db, db + "-wal", db + "-shm"}
}

// damaged reports whether an error says that the database itself is damaged.
func damaged(err error) bool {
	var e *sqlite.Error
	if !errors.As(err, &e) {
		return false
	}
	code := e.Code() & 0xff
	return code == sqlite3.SQLITE_CORRUPT || code == sqlite3.SQLITE_NOTADB
}

func wasDamaged(dir string) bool {
	_, err := os.Stat(filepath.Join(dir, damageNote))
	return err == nil
}

// putAside renames a damaged database, and returns its new name.
func putAside(dir string) (string, error) {
	aside := filepath.Join(dir, fileName+".damaged-"+time.Now().Format("20060102-150405"))
	for _, name := range files(dir) {
		to := aside + strings.TrimPrefix(name, filepath.Join(dir, fileName))
		if err := os.Rename(name, to); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return "", err
		}
	}
	if err := os.Remove(filepath.Join(dir, damageNote)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", err
	}
	return aside, nil
}

// A DamagedError says that the database was found to be damaged while the program ran.
type DamagedError struct {
	Dir string
	Err error
}

func (e *DamagedError) Error() string {
	return fmt.Sprintf("Arvel's database in %s is damaged. Start Arvel again: it keeps a copy, and begins a new one from your files. The history of changes stays in the copy.", e.Dir)
}

func (e *DamagedError) Unwrap() error { return e.Err }

// Explained returns what can be done about an error of the database, if it is one; else the error itself.
func (s *Store) Explained(err error) error {
	if !damaged(err) || s.Dir == "" {
		return err
	}
	_ = os.WriteFile(filepath.Join(s.Dir, damageNote), nil, 0o600) // without it, the next start finds out by itself
	return &DamagedError{s.Dir, err}
}

func open(dir string) (*Store, error) {
	const pragmas = "_pragma=foreign_keys(1)&_pragma=busy_timeout(5000)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_txlock=immediate"
	name := "file::memory:?" + pragmas
	if dir != "" {
		name = "file:" + (&sqlPath{filepath.Join(dir, fileName)}).String() + "?" + pragmas
	}
	db, err := sql.Open("sqlite", name)
	if err != nil {
		return nil, err
	}
	if dir == "" {
		db.SetMaxOpenConns(1) // each connection would be a database of its own
	}
	s := &Store{db: db, Dir: dir}
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
	if now, err := p.GetDBVersion(context.Background()); err == nil {
		if all := p.ListSources(); now > all[len(all)-1].Version {
			return &NewerError{s.Dir}
		}
	}
	// Two programs that start at once both want to migrate; the slower one finds it done.
	for try := 0; ; try++ {
		_, err = p.Up(context.Background())
		if err == nil || try == 5 || damaged(err) {
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
	// Pruned is how many change sets were taken out of the history, PrunedUntil when the last of them was made.
	Pruned      int
	PrunedUntil time.Time
	Settings
}

// ErrNotFound is returned for what the store does not have.
var ErrNotFound = errors.New("not found")

// OpenFolder notes that a folder is opened now and returns what is known of it.
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
	return s.folders(`ORDER BY opened DESC`)
}

func (s *Store) folders(which string, args ...any) ([]Folder, error) {
	rows, err := s.db.Query(`SELECT id, path, opened, exclude, settings, pruned, pruned_until FROM folders `+which, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Folder
	for rows.Next() {
		var f Folder
		var opened, until int64
		var exclude, settings sql.NullString
		if err := rows.Scan(&f.ID, &f.Path, &opened, &exclude, &settings, &f.Pruned, &until); err != nil {
			return nil, err
		}
		f.Opened, f.PrunedUntil = time.Unix(0, opened), time.Unix(0, until)
		if err := f.set(exclude, settings); err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, rows.Err()
}

// Folder returns what is known of a folder, or ErrNotFound.
func (s *Store) Folder(id int64) (Folder, error) {
	list, err := s.folders(`WHERE id = ?`, id)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Folder{}, err
	}
	return list[0], nil
}

// Knows reports whether a folder was opened before.
func (s *Store) Knows(path string) (bool, error) {
	list, err := s.folders(`WHERE path = ?`, path)
	return len(list) > 0, err
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

// sum is by which a damaged row is noticed: spans in it decide which bytes of a file are changed.
func (r *Reading) sum() []byte { return sumOf(r.Path, r.Size, r.Modified, r.Hash, r.Doc, r.Content) }

func sumOf(path string, size, modified int64, hash change.Hash, doc []byte, content string) []byte {
	h := blake3.New()
	fmt.Fprintf(h, "%d %d %d %d ", len(path), len(content), size, modified)
	io.WriteString(h, path)
	io.WriteString(h, content)
	h.Write(hash[:])
	h.Write(doc)
	return h.Sum(nil)[:16]
}

// Readings calls each for every file that was read of a folder.
func (s *Store) Readings(folder int64, each func(Reading)) error {
	rows, err := s.db.Query(`SELECT path, size, modified, hash, content, doc, sum FROM files WHERE folder = ?`, folder)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var r Reading
		var path, hash, sum []byte
		if err := rows.Scan(&path, &r.Size, &r.Modified, &hash, &r.Content, &r.Doc, &sum); err != nil {
			return err
		}
		r.Path, r.Hash = string(path), change.HashFrom(hash)
		if !bytes.Equal(sum, r.sum()) {
			r = Reading{Path: r.Path} // damaged, or kept by an older program: it is known that the file was there
		}
		each(r)
	}
	return rows.Err()
}

// formerKept is how many former readings of a file are kept.
const formerKept = 3

// Keep notes readings, all at once. What was known of files that are gone is kept as the folder's past; what was known of those
// that are others now, too, if former is set.
func (s *Store) Keep(folder int64, readings []Reading, gone []string, former bool) error {
	if len(readings)+len(gone) == 0 {
		return nil
	}
	tx, err := s.db.Begin()
	if err != nil {
		return err
	}
	defer tx.Rollback()
	now := time.Now().UnixNano()
	files, err := tx.Prepare(`INSERT INTO files (folder, path, size, modified, hash, content, doc, since, sum) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (folder, path) DO UPDATE SET size = excluded.size, modified = excluded.modified, hash = excluded.hash,
		content = excluded.content, doc = excluded.doc, sum = excluded.sum`)
	if err != nil {
		return err
	}
	for i := range readings {
		r := &readings[i]
		if former {
			if err := keepFormer(tx, folder, r, now); err != nil {
				return err
			}
		}
		if _, err := files.Exec(folder, []byte(r.Path), r.Size, r.Modified, r.Hash[:], r.Content, r.Doc, now, r.sum()); err != nil {
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

// keepFormer keeps what was known of a file that has other bytes now.
func keepFormer(tx *sql.Tx, folder int64, r *Reading, now int64) error {
	done, err := tx.Exec(`INSERT OR REPLACE INTO former (folder, path, changed, hash, doc) SELECT folder, path, ?, hash, doc FROM files
		WHERE folder = ? AND path = ? AND hash <> ? AND sum IS NOT NULL`, now, folder, []byte(r.Path), r.Hash[:])
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return err
	}
	_, err = tx.Exec(`DELETE FROM former WHERE folder = ?1 AND path = ?2 AND changed NOT IN
		(SELECT changed FROM former WHERE folder = ?1 AND path = ?2 ORDER BY changed DESC LIMIT ?3)`, folder, []byte(r.Path), formerKept)
	return err
}

// Former is a file as it was before it was changed.
type Former struct {
	Path string
	Hash change.Hash
	// Changed is when it was found to be another one, in nanoseconds since 1970.
	Changed int64
}

// Former returns what files of a folder were before they were changed, of each the last first.
func (s *Store) Former(folder int64) ([]Former, error) {
	rows, err := s.db.Query(`SELECT path, hash, changed FROM former WHERE folder = ? ORDER BY path, changed DESC`, folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Former
	for rows.Next() {
		var f Former
		var path, hash []byte
		if err := rows.Scan(&path, &hash, &f.Changed); err != nil {
			return nil, err
		}
		f.Path, f.Hash = string(path), change.HashFrom(hash)
		out = append(out, f)
	}
	return out, rows.Err()
}

// FormerDoc returns what was read of a file before it was changed then, as markup.Pack made it; nil if nothing was, or if it is not
// kept any more.
func (s *Store) FormerDoc(folder int64, path string, changed int64) (doc []byte, err error) {
	err = s.db.QueryRow(`SELECT doc FROM former WHERE folder = ? AND path = ? AND changed = ?`, folder, []byte(path), changed).Scan(&doc)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return doc, err
}

// ForgetReading forgets what was read of one file.
func (s *Store) ForgetReading(folder int64, path string) error {
	_, err := s.db.Exec(`UPDATE files SET sum = NULL WHERE folder = ? AND path = ?`, folder, []byte(path))
	return err
}

// Past is a file that was there before and is gone.
type Past struct {
	Path string
	Size int64
	Hash change.Hash
	Doc  []byte // as markup.Pack made it; nil for a file that held no references
	// Since is when it was first seen, Gone when it was found to be gone, in nanoseconds since 1970.
	Since, Gone int64
	MovedTo     string // where it is known to have gone, or ""
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
		p.Path, p.Hash, p.MovedTo = string(path), change.HashFrom(hash), string(went)
		out = append(out, p)
	}
	return out, rows.Err()
}

// ForgetPast forgets that a file, or all that a folder at the path held, was in a folder before.
func (s *Store) ForgetPast(folder int64, path string) error {
	for _, table := range []string{"past", "former"} {
		if _, err := s.db.Exec(`DELETE FROM `+table+` WHERE folder = ? AND (path = ? OR path >= ? AND path < ?)`, folder, []byte(path), []byte(path+"/"), []byte(path+"0")); err != nil {
			return err
		}
	}
	return nil
}
