package workspace

import (
	"log/slog"
	"maps"
	"sync"
	"time"

	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/internal/store"
)

// record is what is known of a folder from earlier readings. It is immutable.
type record struct {
	gone  []store.Past
	since map[string]int64
	past  func() repair.Past // made of it when it is first wanted
}

func newRecord(gone []store.Past, since map[string]int64) *record {
	r := &record{gone: gone, since: since}
	r.past = sync.OnceValue(func() repair.Past {
		out := repair.Past{Since: r.since}
		for _, p := range r.gone {
			g := repair.Gone{Path: p.Path, Size: p.Size, Hash: p.Hash, Since: p.Since, GoneAt: p.Gone, MovedTo: p.MovedTo}
			if p.Doc != nil {
				g.Doc, _ = markup.Unpack(p.Doc) // one of an older program says nothing
			}
			out.Gone = append(out.Gone, g)
		}
		return out
	})
	return r
}

// seen returns the record with files that were read for the first time now.
func (r *record) seen(readings []store.Reading) *record {
	if len(r.gone) == 0 || len(readings) == 0 {
		return r // nobody asks since when the others are there
	}
	since, now := maps.Clone(r.since), time.Now().UnixNano()
	for i := range readings {
		if _, known := since[readings[i].Path]; !known {
			since[readings[i].Path] = now
		}
	}
	return newRecord(r.gone, since)
}

// recorded returns what the store has of the folder from earlier readings, which is read again once [Session.recordChanged]
// was called. What of it can't be read is as if it had not been kept.
func (s *Session) recorded() *record {
	if r := s.record.Load(); r != nil {
		return r
	}
	r := newRecord(nil, nil)
	if !s.forget {
		gone, err := s.store.Past(s.ID)
		var since map[string]int64
		if err == nil && len(gone) > 0 {
			since, err = s.store.Since(s.ID)
		}
		if err == nil {
			r = newRecord(gone, since)
		} else {
			slog.Warn("what was in a folder before can't be read", "folder", s.folder.Path, "error", err)
		}
	}
	s.record.Store(r)
	return r
}

// recordChanged notes that the store has something else of earlier readings by now.
func (s *Session) recordChanged() { s.record.Store(nil) }
