package store

import (
	"encoding/json"
	"time"
)

// Settings are what the author set for a folder. The zero value is the defaults.
type Settings struct {
	// Places are where the folder is opened; the chosen one decides what is shown, the ticked ones what is fragile.
	Places []PlaceSetting `json:"places,omitempty"`
	// Published is the address at which the folder is published, "" to take what its home page says.
	Published string `json:"published,omitempty"`
	// Off are the names of the rules that are not asked.
	Off []string `json:"off,omitempty"`
	// IndexNames are the names of index pages, the preferred first; none for the default.
	IndexNames []string `json:"indexNames,omitempty"`
	// HistoryDays and HistoryMegabytes limit what the history keeps; 0 for the default size, and for any age.
	HistoryDays      int `json:"historyDays,omitempty"`
	HistoryMegabytes int `json:"historyMegabytes,omitempty"`
}

// DefaultHistoryMegabytes is how much of a folder's history is kept where nothing is set.
const DefaultHistoryMegabytes = 1000

// PlaceSetting is one place, as [address.ParsePlace] reads it, and what it is used for.
type PlaceSetting struct {
	Place      string `json:"place"`
	IgnoreCase bool   `json:"ignoreCase,omitempty"`
	Ticked     bool   `json:"ticked,omitempty"`
	Chosen     bool   `json:"chosen,omitempty"`
}

// DefaultPlaces are the places of a folder for which nothing is set.
var DefaultPlaces = []PlaceSetting{
	{Place: "root", Ticked: true, Chosen: true},
	{Place: "disk", IgnoreCase: true, Ticked: true},
	{Place: "/below/"},
}

// SetSettings keeps a folder's settings.
func (s *Store) SetSettings(id int64, settings Settings) error {
	b, err := json.Marshal(settings)
	if err != nil {
		return err
	}
	_, err = s.db.Exec(`UPDATE folders SET settings = ? WHERE id = ?`, string(b), id)
	return err
}

// Mark names a finding across readings of its page: by the rule and what it is about, as it is written.
type Mark struct{ Page, Rule, Written string }

// SetAside notes that a finding is set aside, and why.
func (s *Store) SetAside(folder int64, m Mark, reason string) error {
	_, err := s.db.Exec(`INSERT INTO aside (folder, page, rule, written, reason, made) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET reason = excluded.reason, made = excluded.made`,
		folder, []byte(m.Page), m.Rule, []byte(m.Written), reason, time.Now().UnixNano())
	return err
}

// BringBack forgets that a finding was set aside.
func (s *Store) BringBack(folder int64, m Mark) error {
	_, err := s.db.Exec(`DELETE FROM aside WHERE folder = ? AND page = ? AND rule = ? AND written = ?`,
		folder, []byte(m.Page), m.Rule, []byte(m.Written))
	return err
}

// Aside returns a folder's findings that are set aside, with the reasons.
func (s *Store) Aside(folder int64) (map[Mark]string, error) {
	rows, err := s.db.Query(`SELECT page, rule, written, reason FROM aside WHERE folder = ?`, folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[Mark]string{}
	for rows.Next() {
		var m Mark
		var page, written []byte
		var reason string
		if err := rows.Scan(&page, &m.Rule, &written, &reason); err != nil {
			return nil, err
		}
		m.Page, m.Written = string(page), string(written)
		out[m] = reason
	}
	return out, rows.Err()
}
