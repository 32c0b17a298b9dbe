package store

import "database/sql"

// ofPages are the tables that keep something of a page by its path.
var ofPages = []string{"drafts", "aside", "tried"}

// FollowMoves keeps what is kept of pages under their new paths, and of the old ones where they went. moves are paths by
// those they had before; swaps and chains among them are fine. It reports whether anything was kept of the pages.
func (s *Store) FollowMoves(folder int64, moves map[string]string) (kept bool, err error) {
	tx, err := s.db.Begin()
	if err != nil {
		return false, err
	}
	defer tx.Rollback()
	for _, table := range ofPages {
		pages, err := pagesIn(tx, table, folder)
		if err != nil {
			return false, err
		}
		for _, page := range pages {
			to, moved := moves[page]
			if !moved {
				continue
			}
			kept = true
			// A path has no NUL in it, so nothing is in the way while all are on theirs.
			if _, err := tx.Exec(`UPDATE `+table+` SET page = ? WHERE folder = ? AND page = ?`, []byte("\x00"+to), folder, []byte(page)); err != nil {
				return false, err
			}
		}
		if _, err := tx.Exec(`UPDATE OR REPLACE `+table+` SET page = substr(page, 2) WHERE folder = ? AND substr(page, 1, 1) = x'00'`, folder); err != nil {
			return false, err
		}
	}
	for from, to := range moves {
		if _, err := tx.Exec(`UPDATE past SET went = ? WHERE folder = ? AND path = ?`, []byte(to), folder, []byte(from)); err != nil {
			return false, err
		}
		if _, err := tx.Exec(`DELETE FROM former WHERE folder = ? AND path IN (?, ?)`, folder, []byte(from), []byte(to)); err != nil {
			return false, err
		}
	}
	return kept, tx.Commit()
}

func pagesIn(tx *sql.Tx, table string, folder int64) (out []string, err error) {
	rows, err := tx.Query(`SELECT DISTINCT page FROM `+table+` WHERE folder = ?`, folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var page []byte
		if err := rows.Scan(&page); err != nil {
			return nil, err
		}
		out = append(out, string(page))
	}
	return out, rows.Err()
}

// Unfollow forgets where files that are gone went, by their old paths.
func (s *Store) Unfollow(folder int64, moves map[string]string) error {
	for from := range moves {
		if _, err := s.db.Exec(`UPDATE past SET went = NULL WHERE folder = ? AND path = ?`, folder, []byte(from)); err != nil {
			return err
		}
	}
	return nil
}
