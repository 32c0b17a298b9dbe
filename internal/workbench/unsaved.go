package workbench

import (
	"log/slog"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/relocate"
	"arvel/core/site"
	"arvel/internal/store"
)

// unsaved is the text of a page that is not saved yet, while a change goes over the page.
type unsaved struct {
	store.Draft
	before string // the text of the file that it was begun from
}

// planOn makes a plan on a snapshot whose files are read by read.
type planOn func(s *site.Snapshot, read func(page string) ([]byte, error)) *relocate.Plan

// unsavedOf returns the texts that are not saved of the pages that a change set goes over, by where they are before it. One
// that was begun from another version of its file is left out: what becomes of it was up to its author before.
func (w *Workbench) unsavedOf(set change.Set) map[string]unsaved {
	drafts, err := w.store.Drafts(w.ID)
	if err != nil || len(drafts) == 0 {
		return nil
	}
	goes := map[string]bool{}
	for i := range set.Files {
		goes[set.Files[i].Standing()] = true
	}
	out := map[string]unsaved{}
	for _, d := range drafts {
		if !goes[d.Page] {
			continue
		}
		if src, err := w.folder.Read(d.Page); err == nil && d.Base.Is(src) {
			out[d.Page] = unsaved{d, markup.NewMapper(src).Text}
		}
	}
	return out
}

// ledAlong returns what the texts become by a plan: it is made once more, on a view in which the pages hold them.
func (w *Workbench) ledAlong(v *View, texts map[string]unsaved, plan planOn) map[string]string {
	if len(texts) == 0 || plan == nil {
		return nil
	}
	var held []site.File
	for page, u := range texts {
		i, ok := v.Snapshot.Find(page)
		if !ok {
			continue
		}
		f := v.Snapshot.Files[i]
		f.Doc, f.Hash = site.Scan(markup.NewTextScanner(), page, []byte(u.Text)), change.HashOf([]byte(u.Text))
		held = append(held, f)
	}
	s, _ := v.Snapshot.Renew(held, nil)
	p := plan(s, func(page string) ([]byte, error) {
		if u, ok := texts[page]; ok {
			return []byte(u.Text), nil
		}
		return w.folder.Read(page)
	})
	out := map[string]string{}
	for i := range p.Set.Files {
		f := &p.Set.Files[i]
		u, ok := texts[f.Standing()]
		if !ok {
			continue
		}
		if fresh, err := change.Apply([]byte(u.Text), f.Edits); err == nil {
			out[f.Standing()] = string(fresh)
		}
	}
	return out
}

// keepUnsaved keeps the texts with the files as a change left them: led along, or with the same edits as the file where
// they don't touch what was typed. Where they do, the author is shown both.
func (w *Workbench) keepUnsaved(set change.Set, texts map[string]unsaved, led map[string]string) {
	for i := range set.Files {
		f := &set.Files[i]
		u, ok := texts[f.Standing()]
		if !ok || f.Kind == change.Deleted {
			continue
		}
		src, err := w.folder.Read(f.Path)
		if err != nil {
			continue
		}
		text, ok := led[f.Standing()]
		if !ok {
			if text, ok = change.Merge(u.before, markup.NewMapper(src).Text, u.Text); !ok {
				continue
			}
		}
		if err := w.store.KeepDraft(w.ID, store.Draft{Page: f.Path, Base: change.HashOf(src), Text: text}); err != nil {
			slog.Warn("text that is not saved could not follow its page", "page", f.Path, "error", err)
		}
	}
}
