package workspace

import (
	"log/slog"
	"maps"
	"sync"
	"time"

	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
	"arvel/internal/store"
)

// record is what is known of a folder from earlier readings. It is immutable.
type record struct {
	gone   []store.Past
	former []store.Former
	since  map[string]int64
	past   func() repair.Past // made of it when it is first wanted
	// reads what a file held before it was changed then.
	read func(path string, changed int64) *markup.Document
}

func newRecord(r *record) *record {
	r.past = sync.OnceValue(func() repair.Past {
		out := repair.Past{Since: r.since}
		for _, p := range r.gone {
			g := repair.Gone{Path: p.Path, Size: p.Size, Hash: p.Hash, Since: p.Since, GoneAt: p.Gone, MovedTo: p.MovedTo}
			if p.Doc != nil {
				g.Doc, _ = markup.Unpack(p.Doc) // one of an older program says nothing
			}
			out.Gone = append(out.Gone, g)
		}
		for _, f := range r.former {
			out.Former = append(out.Former, repair.Former{Path: f.Path, Hash: f.Hash, ChangedAt: f.Changed, Read: sync.OnceValue(func() *markup.Document { return r.read(f.Path, f.Changed) })})
		}
		return out
	})
	return r
}

// displaced returns the references of a snapshot that land on another thing than they did.
func (r *record) displaced(s *site.Snapshot) audit.Displaced {
	if len(r.gone)+len(r.former) == 0 {
		return nil
	}
	return repair.Displaced(s, r.past())
}

// seen returns the record with files that were read for the first time now.
func (r *record) seen(readings []store.Reading) *record {
	if len(r.gone)+len(r.former) == 0 || len(readings) == 0 {
		return r // nobody asks since when the others are there
	}
	since, now := maps.Clone(r.since), time.Now().UnixNano()
	for i := range readings {
		if _, known := since[readings[i].Path]; !known {
			since[readings[i].Path] = now
		}
	}
	return newRecord(&record{gone: r.gone, former: r.former, since: since, read: r.read})
}

// recorded returns what the store has of the folder from earlier readings, which is read again once [Session.recordChanged]
// was called. What of it can't be read is as if it had not been kept.
func (s *Session) recorded() *record {
	if r := s.record.Load(); r != nil {
		return r
	}
	r := newRecord(&record{})
	if !s.forget {
		fresh, err := s.readRecord()
		if err == nil {
			r = newRecord(fresh)
		} else {
			slog.Warn("what was in a folder before can't be read", "folder", s.folder.Path, "error", err)
		}
	}
	s.record.Store(r)
	return r
}

// readRecord reads what the store has of earlier readings.
func (s *Session) readRecord() (r *record, err error) {
	r = &record{read: s.formerDoc}
	if r.gone, err = s.store.Past(s.ID); err != nil {
		return nil, err
	}
	if r.former, err = s.store.Former(s.ID); err != nil {
		return nil, err
	}
	if len(r.gone)+len(r.former) > 0 { // nobody asks otherwise
		r.since, err = s.store.Since(s.ID)
	}
	return r, err
}

// formerDoc returns what a file held before it was changed then; nil if that is not known.
func (s *Session) formerDoc(path string, changed int64) *markup.Document {
	packed, err := s.store.FormerDoc(s.ID, path, changed)
	if err != nil || packed == nil {
		return nil
	}
	doc, _ := markup.Unpack(packed) // one of an older program says nothing
	return doc
}

// recordChanged notes that the store has something else of earlier readings by now.
func (s *Session) recordChanged() { s.record.Store(nil) }
