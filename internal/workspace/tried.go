package workspace

import "arvel/internal/store"

// MarkTried notes that a link was followed in the live page.
func (s *Session) MarkTried(page, key string) error {
	v := s.View()
	if v == nil {
		return ErrNotReady
	}
	file, ref, err := v.Find(page, key)
	if err != nil {
		return err
	}
	t := store.Tried{Page: page, Written: v.Snapshot.Files[file].Doc.References[ref].Written, PageHash: v.Snapshot.Files[file].Hash}
	if to := v.Snapshot.Links(file)[ref].File; to >= 0 {
		t.TargetHash = v.Snapshot.Files[to].Hash
	}
	if err := s.store.KeepTried(s.ID, t); err != nil {
		return err
	}
	s.tried.Store(nil)
	return nil
}

// triedLinks are the links that were followed, by page and what is written.
type triedLinks map[[2]string]store.Tried

// Tried says which references of a file were followed since it and their targets last changed.
func (s *Session) Tried(v *View, file int32) []bool {
	known := s.tried.Load()
	if known == nil {
		list, err := s.store.Tried(s.ID)
		if err != nil {
			return nil
		}
		known = &triedLinks{}
		for _, t := range list {
			(*known)[[2]string{t.Page, t.Written}] = t
		}
		s.tried.Store(known)
	}
	f := &v.Snapshot.Files[file]
	if f.Doc == nil || len(*known) == 0 {
		return nil
	}
	out := make([]bool, len(f.Doc.References))
	for i, l := range v.Snapshot.Links(file) {
		t, ok := (*known)[[2]string{f.Path, f.Doc.References[i].Written}]
		if !ok || t.PageHash != f.Hash {
			continue
		}
		out[i] = l.File < 0 || v.Snapshot.Files[l.File].Hash == t.TargetHash
	}
	return out
}
