package store

import (
	"database/sql"
	"errors"
	"time"

	"arvel/core/change"
)

// Draft is text that was typed into a page and is not saved yet.
type Draft struct {
	Page string
	// Base is the hash of the file that it was begun from.
	Base change.Hash
	Text string
	Made time.Time
}

// KeepDraft keeps a draft in place of an earlier one of the page.
func (s *Store) KeepDraft(folder int64, d Draft) error {
	_, err := s.db.Exec(`INSERT INTO drafts (folder, page, base, text, made) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET base = excluded.base, text = excluded.text, made = excluded.made`,
		folder, []byte(d.Page), d.Base[:], d.Text, time.Now().UnixNano())
	return err
}

// DropDraft forgets the draft of a page.
func (s *Store) DropDraft(folder int64, page string) error {
	_, err := s.db.Exec(`DELETE FROM drafts WHERE folder = ? AND page = ?`, folder, []byte(page))
	return err
}

// Draft returns the draft of a page; false if there is none.
func (s *Store) Draft(folder int64, page string) (d Draft, ok bool, err error) {
	var base []byte
	var made int64
	err = s.db.QueryRow(`SELECT base, text, made FROM drafts WHERE folder = ? AND page = ?`, folder, []byte(page)).Scan(&base, &d.Text, &made)
	if errors.Is(err, sql.ErrNoRows) {
		return d, false, nil
	}
	d.Page, d.Base, d.Made = page, change.HashFrom(base), time.Unix(0, made)
	return d, err == nil, err
}

// Drafts returns the drafts of a folder's pages, by page.
func (s *Store) Drafts(folder int64) ([]Draft, error) {
	rows, err := s.db.Query(`SELECT page, base, text, made FROM drafts WHERE folder = ? ORDER BY page`, folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Draft
	for rows.Next() {
		var page, base []byte
		var d Draft
		var made int64
		if err := rows.Scan(&page, &base, &d.Text, &made); err != nil {
			return nil, err
		}
		d.Page, d.Base, d.Made = string(page), change.HashFrom(base), time.Unix(0, made)
		out = append(out, d)
	}
	return out, rows.Err()
}

// DraftPages returns the paths of the pages that have a draft.
func (s *Store) DraftPages(folder int64) (map[string]bool, error) {
	rows, err := s.db.Query(`SELECT page FROM drafts WHERE folder = ?`, folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]bool{}
	for rows.Next() {
		var page []byte
		if err := rows.Scan(&page); err != nil {
			return nil, err
		}
		out[string(page)] = true
	}
	return out, rows.Err()
}

// Tried is a link that was followed, with what its page and its target held then.
type Tried struct {
	Page, Written        string
	PageHash, TargetHash change.Hash
}

// KeepTried notes that a link was followed.
func (s *Store) KeepTried(folder int64, t Tried) error {
	_, err := s.db.Exec(`INSERT INTO tried (folder, page, written, stood, landed) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET stood = excluded.stood, landed = excluded.landed`,
		folder, []byte(t.Page), []byte(t.Written), t.PageHash[:], t.TargetHash[:])
	return err
}

// Tried returns the links of a folder that were followed.
func (s *Store) Tried(folder int64) ([]Tried, error) {
	rows, err := s.db.Query(`SELECT page, written, stood, landed FROM tried WHERE folder = ?`, folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Tried
	for rows.Next() {
		var t Tried
		var page, written, stood, landed []byte
		if err := rows.Scan(&page, &written, &stood, &landed); err != nil {
			return nil, err
		}
		t.Page, t.Written = string(page), string(written)
		t.PageHash, t.TargetHash = change.HashFrom(stood), change.HashFrom(landed)
		out = append(out, t)
	}
	return out, rows.Err()
}
