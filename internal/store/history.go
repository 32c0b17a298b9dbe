package store

import (
	"cmp"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"arvel/core/change"
)

// ChangeState is how far a change set got.
type ChangeState string

// The states of a change set. One that is still Writing when the program starts was cut short.
const (
	Writing   ChangeState = "writing"
	Done      ChangeState = "done"
	TakenBack ChangeState = "taken back"
)

// Change is one change set of a folder's history.
type Change struct {
	ID    int64
	Title string
	Made  time.Time
	State ChangeState
	// Undoes is the change set that this one took back, UndoneBy the one that took this one back; 0 for none.
	Undoes, UndoneBy int64
	Files            []ChangedFile
	Layout
}

// Layout is what a change set needs besides its files.
type Layout struct {
	// Token names what is written beside the files while the change set is carried out.
	Token string `json:"token"`
	// Folders are made by the change set, Emptied taken away.
	Folders []string `json:"folders,omitempty"`
	Emptied []string `json:"emptied,omitempty"`
	// Followed are moves made elsewhere that it let references follow: the new paths by the old ones.
	Followed map[string]string `json:"followed,omitempty"`
}

// ChangedFile is what a change set did to one file.
type ChangedFile struct {
	Kind change.Kind
	// Path is where it stands afterwards, From where a moved one stood before.
	Path, From    string
	Before, After change.Hash
	Edits         []ChangedBytes
	// Content and Mode are those of a file that was made or deleted.
	Content []byte
	Mode    uint32
}

// ChangedBytes is one edit with what it replaced, and the line it stands in.
type ChangedBytes struct {
	Start    int // in the file before, in bytes
	Old, New []byte
	Line     change.Line
}

// Begin notes a change set before its first byte is written. It is on disk when Begin returns.
func (s *Store) Begin(folder int64, c Change) (id int64, err error) {
	tx, err := s.db.Begin()
	if err != nil {
		return 0, err
	}
	defer tx.Rollback()
	var undoes any
	if c.Undoes != 0 {
		undoes = c.Undoes
	}
	layout, err := json.Marshal(c.Layout)
	if err != nil {
		return 0, err
	}
	err = tx.QueryRow(`INSERT INTO changes (folder, title, made, state, undoes, folders) VALUES (?, ?, ?, ?, ?, ?) RETURNING id`,
		folder, c.Title, time.Now().UnixNano(), Writing, undoes, string(layout)).Scan(&id)
	if err != nil {
		return 0, err
	}
	for i := range c.Files {
		f := &c.Files[i]
		_, err := tx.Exec(`INSERT INTO changed_files (change, path, before, after, kind, origin, whole, mode) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
			id, []byte(f.Path), f.Before[:], f.After[:], cmp.Or(f.Kind, change.Edited), []byte(f.From), f.Content, f.Mode)
		if err != nil {
			return 0, err
		}
		for _, e := range f.Edits {
			around, err := json.Marshal([2]string{e.Line.Before, e.Line.After})
			if err != nil {
				return 0, err
			}
			_, err = tx.Exec(`INSERT INTO changed_bytes (change, path, start, old, new, line, around) VALUES (?, ?, ?, ?, ?, ?, ?)`,
				id, []byte(f.Path), e.Start, notNil(e.Old), notNil(e.New), e.Line.Number, string(around))
			if err != nil {
				return 0, err
			}
		}
	}
	return id, tx.Commit()
}

// notNil keeps an empty blob from being stored as NULL.
func notNil(b []byte) []byte {
	if b == nil {
		return []byte{}
	}
	return b
}

// SetState notes how far a change set got.
func (s *Store) SetState(id int64, state ChangeState) error {
	_, err := s.db.Exec(`UPDATE changes SET state = ? WHERE id = ?`, state, id)
	return err
}

const selectChanges = `SELECT c.id, c.title, c.made, c.state, coalesce(c.undoes, 0),
	coalesce((SELECT max(u.id) FROM changes u WHERE u.undoes = c.id AND u.state = 'done'), 0), coalesce(c.folders, '{}') FROM changes c `

func scanChange(row interface{ Scan(...any) error }) (c Change, err error) {
	var made int64
	var layout string
	if err = row.Scan(&c.ID, &c.Title, &made, &c.State, &c.Undoes, &c.UndoneBy, &layout); err != nil {
		return c, err
	}
	c.Made = time.Unix(0, made)
	return c, json.Unmarshal([]byte(layout), &c.Layout)
}

// Changes returns a stretch of a folder's history, the last change set first, and how many there are in all.
func (s *Store) Changes(folder int64, offset, limit int) (list []Change, total int, err error) {
	if err := s.db.QueryRow(`SELECT count(*) FROM changes WHERE folder = ?`, folder).Scan(&total); err != nil {
		return nil, 0, err
	}
	list, err = s.changes(selectChanges+`WHERE c.folder = ? ORDER BY c.id DESC LIMIT ? OFFSET ?`, folder, limit, offset)
	return list, total, err
}

// Unfinished returns a folder's change sets that were cut short, the first one first.
func (s *Store) Unfinished(folder int64) ([]Change, error) {
	return s.changes(selectChanges+`WHERE c.folder = ? AND c.state = 'writing' ORDER BY c.id`, folder)
}

// Change returns one change set of a folder, or ErrNotFound.
func (s *Store) Change(folder, id int64) (Change, error) {
	list, err := s.changes(selectChanges+`WHERE c.folder = ? AND c.id = ?`, folder, id)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Change{}, err
	}
	return list[0], nil
}

func (s *Store) changes(query string, args ...any) ([]Change, error) {
	rows, err := s.db.Query(query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []Change
	for rows.Next() {
		c, err := scanChange(rows)
		if err != nil {
			return nil, err
		}
		list = append(list, c)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	rows.Close()
	for i := range list {
		if list[i].Files, err = s.changedFiles(list[i].ID); err != nil {
			return nil, err
		}
	}
	return list, nil
}

func (s *Store) changedFiles(id int64) ([]ChangedFile, error) {
	rows, err := s.db.Query(`SELECT f.path, f.before, f.after, f.kind, coalesce(f.origin, ''), f.whole, f.mode, b.start, b.old, b.new, b.line, b.around
		FROM changed_files f LEFT JOIN changed_bytes b ON b.change = f.change AND b.path = f.path AND f.kind IN ('edited', 'moved')
		WHERE f.change = ? ORDER BY f.path, f.kind, b.start`, id)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var files []ChangedFile
	for rows.Next() {
		var path, before, after, origin, whole, old, fresh []byte
		var kind change.Kind
		var mode uint32
		var start, line sql.NullInt64
		var around sql.NullString
		if err := rows.Scan(&path, &before, &after, &kind, &origin, &whole, &mode, &start, &old, &fresh, &line, &around); err != nil {
			return nil, err
		}
		if n := len(files); n == 0 || files[n-1].Path != string(path) || files[n-1].Kind != kind {
			files = append(files, ChangedFile{
				Kind: kind, Path: string(path), From: string(origin), Content: whole, Mode: mode,
				Before: change.HashFrom(before), After: change.HashFrom(after),
			})
		}
		if !start.Valid {
			continue
		}
		e := ChangedBytes{Start: int(start.Int64), Old: old, New: fresh}
		var lines [2]string
		if err := json.Unmarshal([]byte(around.String), &lines); err != nil {
			return nil, errors.Join(errors.New("the history holds a line that can't be read"), err)
		}
		e.Line = change.Line{Number: int(line.Int64), Before: lines[0], After: lines[1]}
		f := &files[len(files)-1]
		f.Edits = append(f.Edits, e)
	}
	return files, rows.Err()
}
