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
	Made  time.Time
	State ChangeState
	// Undoes is the change set that this one took back, UndoneBy the one that took this one back; 0 for none.
	Undoes, UndoneBy int64
	// Of is the change that this one took back or did once more, in the end: its own id if it did neither.
	Of int64
	// Depth is how often it was taken back and done again: odd for an undoing, 0 for a change of its own.
	Depth int
	// Size is how many bytes are kept of it, Count how many files it changed.
	Size  int64
	Count int
	// Record is what was changed; in a list, without its files.
	change.Record
}

// layout is what is kept of a record besides its title and its files, in one column.
type layout struct {
	Token    string            `json:"token"`
	Folders  []string          `json:"folders,omitempty"`
	Emptied  []string          `json:"emptied,omitempty"`
	Followed map[string]string `json:"followed,omitempty"`
}

// Begin keeps a record before the first byte of the folder is changed, as one that undoes another change or, with 0, none. It
// is on disk when Begin returns.
func (s *Store) Begin(folder, undoing int64, r *change.Record) (id int64, err error) {
	tx, err := s.db.Begin()
	if err != nil {
		return 0, err
	}
	defer tx.Rollback()
	var undoes any
	if undoing != 0 {
		undoes = undoing
	}
	rest, err := json.Marshal(layout{r.Token, r.Folders, r.Emptied, r.Followed})
	if err != nil {
		return 0, err
	}
	err = tx.QueryRow(`INSERT INTO changes (folder, title, made, state, undoes, folders, size) VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING id`,
		folder, r.Title, time.Now().UnixNano(), Writing, undoes, string(rest), size(r)).Scan(&id)
	if err != nil {
		return 0, err
	}
	for i := range r.Files {
		f := &r.Files[i]
		_, err := tx.Exec(`INSERT INTO changed_files (change, path, before, after, kind, origin, whole, mode) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
			id, []byte(f.Path), f.Before[:], f.After[:], cmp.Or(f.Kind, change.Edited), []byte(f.From), f.Content, f.Mode)
		if err != nil {
			return 0, err
		}
		for k, e := range f.Edits {
			line := f.Lines[k]
			around, err := json.Marshal([2]string{line.Before, line.After})
			if err != nil {
				return 0, err
			}
			_, err = tx.Exec(`INSERT INTO changed_bytes (change, path, start, old, new, line, around) VALUES (?, ?, ?, ?, ?, ?, ?)`,
				id, []byte(f.Path), e.Start, notNil(e.Old), notNil(e.New), line.Number, string(around))
			if err != nil {
				return 0, err
			}
		}
	}
	return id, tx.Commit()
}

// size counts the bytes that are kept of a record.
func size(r *change.Record) (n int64) {
	for i := range r.Files {
		f := &r.Files[i]
		n += int64(len(f.Content))
		for k, e := range f.Edits {
			n += int64(len(e.Old) + len(e.New) + len(f.Lines[k].Before) + len(f.Lines[k].After))
		}
	}
	return n
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
	coalesce((SELECT max(u.id) FROM changes u WHERE u.undoes = c.id AND u.state = 'done'), 0), coalesce(c.folders, '{}'), c.size,
	(SELECT count(*) FROM changed_files f WHERE f.change = c.id) FROM changes c `

func scanChange(row interface{ Scan(...any) error }) (c Change, err error) {
	var made int64
	var rest string
	if err = row.Scan(&c.ID, &c.Title, &made, &c.State, &c.Undoes, &c.UndoneBy, &rest, &c.Size, &c.Count); err != nil {
		return c, err
	}
	c.Made = time.Unix(0, made)
	var l layout
	err = json.Unmarshal([]byte(rest), &l)
	c.Token, c.Folders, c.Emptied, c.Followed = l.Token, l.Folders, l.Emptied, l.Followed
	return c, err
}

// Changes returns a stretch of a folder's history without the files, the last change set first, and how many there are in
// all.
func (s *Store) Changes(folder int64, find string, offset, limit int) (list []Change, total int, err error) {
	if err := s.db.QueryRow(`SELECT count(*) FROM changes WHERE folder = ? AND instr(lower(title), lower(?)) > 0`, folder, find).Scan(&total); err != nil {
		return nil, 0, err
	}
	list, err = s.changes(selectChanges+`WHERE c.folder = ? AND instr(lower(c.title), lower(?)) > 0 ORDER BY c.id DESC LIMIT ? OFFSET ?`, folder, find, limit, offset)
	return list, total, err
}

// ChangesSince returns a folder's change sets from that of the id on, without the files, the last one first.
func (s *Store) ChangesSince(folder, id int64) ([]Change, error) {
	return s.changes(selectChanges+`WHERE c.folder = ? AND c.id >= ? ORDER BY c.id DESC`, folder, id)
}

// Unfinished returns a folder's change sets that were cut short, the first one first, with their files.
func (s *Store) Unfinished(folder int64) ([]Change, error) {
	list, err := s.changes(selectChanges+`WHERE c.folder = ? AND c.state = 'writing' ORDER BY c.id`, folder)
	for i := range list {
		if list[i].Files, err = s.changedFiles(list[i].ID); err != nil {
			return nil, err
		}
	}
	return list, err
}

// Change returns one change set of a folder with its files, or ErrNotFound.
func (s *Store) Change(folder, id int64) (Change, error) {
	c, err := s.Summary(folder, id)
	if err == nil {
		c.Files, err = s.changedFiles(id)
	}
	return c, err
}

// Summary returns one change set of a folder without its files, or ErrNotFound.
func (s *Store) Summary(folder, id int64) (Change, error) {
	list, err := s.changes(selectChanges+`WHERE c.folder = ? AND c.id = ?`, folder, id)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Change{}, err
	}
	return list[0], nil
}

// MovedTo returns the ids of the done change sets that moved a file from one path to another and were not taken back, the
// last one first.
func (s *Store) MovedTo(folder int64, from, to string) (ids []int64, err error) {
	rows, err := s.db.Query(`SELECT c.id FROM changed_files f JOIN changes c ON c.id = f.change
		WHERE f.path = ? AND f.kind = 'moved' AND f.origin = ? AND c.folder = ? AND c.state = 'done'
		AND NOT EXISTS (SELECT 1 FROM changes u WHERE u.undoes = c.id AND u.state = 'done') ORDER BY c.id DESC LIMIT 8`,
		[]byte(to), []byte(from), folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var id int64
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		ids = append(ids, id)
	}
	return ids, rows.Err()
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
		if err := s.chain(&list[i]); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// chain finds out which change a change set took back or did once more.
func (s *Store) chain(c *Change) error {
	c.Of = c.ID
	if c.Undoes == 0 {
		return nil
	}
	return s.db.QueryRow(`WITH RECURSIVE up (id, undoes, depth) AS (
			SELECT id, undoes, 0 FROM changes WHERE id = ?
			UNION ALL SELECT c.id, c.undoes, up.depth + 1 FROM changes c JOIN up ON c.id = up.undoes)
		SELECT id, depth FROM up ORDER BY depth DESC LIMIT 1`, c.ID).Scan(&c.Of, &c.Depth)
}

// LastUndoable returns the last change set of a folder that U takes back: one that is in effect, whether for the first time
// or done again; ErrNotFound if there is none.
func (s *Store) LastUndoable(folder int64) (Change, error) {
	return s.last(folder, func(c *Change) (found, end bool) { return c.Depth%2 == 0, false })
}

// LastUndone returns the last undoing that can be taken back, if nothing else was changed since; ErrNotFound if there is
// none.
func (s *Store) LastUndone(folder int64) (Change, error) {
	return s.last(folder, func(c *Change) (found, end bool) { return c.Depth%2 == 1, c.Depth == 0 })
}

func (s *Store) last(folder int64, is func(*Change) (found, end bool)) (Change, error) {
	const stretch = 50
	for offset := 0; ; offset += stretch {
		list, err := s.changes(selectChanges+`WHERE c.folder = ? AND c.state = 'done' ORDER BY c.id DESC LIMIT ? OFFSET ?`, folder, stretch, offset)
		if err != nil {
			return Change{}, err
		}
		for i := range list {
			found, end := is(&list[i])
			if found && list[i].UndoneBy == 0 {
				return list[i], nil
			}
			if end && list[i].UndoneBy == 0 {
				return Change{}, ErrNotFound
			}
		}
		if len(list) < stretch {
			return Change{}, ErrNotFound
		}
	}
}

// Drop takes a change set out of the history.
func (s *Store) Drop(id int64) error {
	_, err := s.db.Exec(`DELETE FROM changes WHERE id = ? AND NOT EXISTS (SELECT 1 FROM changes u WHERE u.undoes = changes.id)`, id)
	return err
}

// SafeFor is for how long a change set is never taken out of the history, whatever limits are set.
const SafeFor = 24 * time.Hour

// Prune takes the oldest change sets out of a folder's history until it holds no more than the bytes, and none older than
// the days; 0 means no limit. What was made within the last 24 hours stays. How many were taken out is noted.
func (s *Store) Prune(folder int64, bytes int64, days int) (pruned int, err error) {
	tx, err := s.db.Begin()
	if err != nil {
		return 0, err
	}
	defer tx.Rollback()
	now := time.Now()
	before := int64(0)
	if days > 0 {
		before = now.Add(-time.Duration(days) * 24 * time.Hour).UnixNano()
	}
	if bytes <= 0 {
		bytes = 1<<63 - 1
	}
	// From the last one back: what is over the limit goes, with all that is older, so that nothing is left whose files
	// only an older change set explains.
	var last sql.NullInt64
	err = tx.QueryRow(`SELECT max(id) FROM (SELECT id, made, sum(size) OVER (ORDER BY id DESC) AS kept FROM changes WHERE folder = ? AND state <> 'writing')
		WHERE (kept > ? OR made < ?) AND made < ?`, folder, bytes, before, now.Add(-SafeFor).UnixNano()).Scan(&last)
	if err != nil || !last.Valid {
		return 0, err
	}
	var until int64
	if err := tx.QueryRow(`SELECT count(*), coalesce(max(made), 0) FROM changes WHERE folder = ? AND id <= ? AND state <> 'writing'`, folder, last.Int64).Scan(&pruned, &until); err != nil {
		return 0, err
	}
	for _, statement := range []string{
		`UPDATE changes SET undoes = NULL WHERE folder = ?1 AND undoes <= ?2`,
		`DELETE FROM changes WHERE folder = ?1 AND id <= ?2 AND state <> 'writing'`,
	} {
		if _, err := tx.Exec(statement, folder, last.Int64); err != nil {
			return 0, err
		}
	}
	if _, err := tx.Exec(`UPDATE folders SET pruned = pruned + ?, pruned_until = ? WHERE id = ?`, pruned, until, folder); err != nil {
		return 0, err
	}
	return pruned, tx.Commit()
}

func (s *Store) changedFiles(id int64) ([]change.File, error) {
	rows, err := s.db.Query(`SELECT f.path, f.before, f.after, f.kind, coalesce(f.origin, ''), f.whole, f.mode, b.start, b.old, b.new, b.line, b.around
		FROM changed_files f LEFT JOIN changed_bytes b ON b.change = f.change AND b.path = f.path AND f.kind IN ('edited', 'moved')
		WHERE f.change = ? ORDER BY f.path, f.kind, b.start`, id)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var files []change.File
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
			files = append(files, change.File{
				Kind: kind, Path: string(path), From: string(origin), Content: whole, Mode: mode,
				Before: change.HashFrom(before), After: change.HashFrom(after),
			})
			if f := &files[len(files)-1]; kind == change.Made || kind == change.Deleted {
				f.Content = notNil(f.Content)
			}
		}
		if !start.Valid {
			continue
		}
		from := int(start.Int64)
		var lines [2]string
		if err := json.Unmarshal([]byte(around.String), &lines); err != nil {
			return nil, errors.Join(errors.New("the history holds a line that can't be read"), err)
		}
		f := &files[len(files)-1]
		f.Edits = append(f.Edits, change.Edit{Start: from, End: from + len(old), Old: notNil(old), New: fresh})
		f.Lines = append(f.Lines, change.Line{Number: int(line.Int64), Before: lines[0], After: lines[1]})
	}
	return files, rows.Err()
}
