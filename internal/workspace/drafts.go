package workspace

import (
	"log/slog"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/plan"
	"arvel/core/site"
	"arvel/internal/disk"
	"arvel/internal/store"
)

// Draft is text that was typed into a page and is not saved yet.
type Draft = store.Draft

// Drafts are the texts of a folder's pages that are not saved yet.
type Drafts struct {
	store  *store.Store
	folder *disk.Folder
	id     int64
}

// Keep keeps the text of a page that was begun from the file that base is the hash of.
func (d *Drafts) Keep(page, text string, base change.Hash) error {
	return d.store.KeepDraft(d.id, Draft{Page: page, Text: text, Base: base})
}

// Drop forgets the text of a page that is not saved.
func (d *Drafts) Drop(page string) error { return d.store.DropDraft(d.id, page) }

// drop is [Drafts.Drop] for what was saved; a page of "" stands for none.
func (d *Drafts) drop(page string) {
	if page == "" {
		return
	}
	if err := d.Drop(page); err != nil {
		slog.Warn("the text of a page that was saved could not be dropped", "page", page, "error", err)
	}
}

// Get returns the text of a page that is not saved yet; false if there is none.
func (d *Drafts) Get(page string) (Draft, bool, error) { return d.store.Draft(d.id, page) }

// Pages returns the pages that have text which is not saved.
func (d *Drafts) Pages() map[string]bool {
	pages, err := d.store.DraftPages(d.id)
	if err != nil {
		slog.Warn("which pages have text that is not saved can't be read", "folder", d.folder.Path, "error", err)
	}
	return pages
}

// openText is the unsaved text of a page while something is changed.
type openText struct {
	Draft
	before  string // the text of the file that it was begun from
	touched bool   // the change edits or moves the page
}

// of returns the unsaved texts of the folder before a change set is carried out, by the paths that their pages have before it: what
// is only in such a text may have to follow, too. One that was begun from another version of its file is left out: what becomes of
// it was up to its author before.
func (d *Drafts) of(set change.Set) map[string]openText {
	drafts, err := d.store.Drafts(d.id)
	if err != nil || len(drafts) == 0 {
		return nil
	}
	touched := map[string]bool{}
	for i := range set.Files {
		touched[set.Files[i].Source()] = true
	}
	out := map[string]openText{}
	for _, one := range drafts {
		if src, err := d.folder.Read(one.Page); err == nil && one.Base.Is(src) {
			out[one.Page] = openText{one, markup.NewMapper(src).Text, touched[one.Page]}
		}
	}
	return out
}

// follow keeps the texts with the files as a change left them: rebased, or with the same edits as the file where those don't
// touch what was typed. Where they do, the author is shown both.
func (d *Drafts) follow(set change.Set, texts map[string]openText, rebased map[string]string) {
	for i := range set.Files {
		f := &set.Files[i]
		one, ok := texts[f.Source()]
		if !ok || f.Kind == change.Deleted {
			continue
		}
		src, err := d.folder.Read(f.Path)
		if err != nil {
			continue
		}
		text, ok := rebased[f.Source()]
		if !ok {
			if text, ok = change.Merge(one.before, markup.NewMapper(src).Text, one.Text); !ok {
				continue
			}
		}
		if err := d.Keep(f.Path, text, change.HashOf(src)); err != nil {
			slog.Warn("text that is not saved could not follow its page", "page", f.Path, "error", err)
		}
	}
	for page, one := range texts {
		fresh, ok := rebased[page]
		if one.touched || !ok || fresh == one.Text {
			continue
		}
		if err := d.Keep(page, fresh, one.Base); err != nil {
			slog.Warn("text that is not saved could not follow a change", "page", page, "error", err)
		}
	}
}

// rebased returns what the texts become by a plan: it is made once more, on a snapshot in which the pages hold them.
func (s *Session) rebased(p *Plan, texts map[string]openText) map[string]string {
	if len(texts) == 0 || p.onTexts == nil {
		return nil
	}
	var held []site.File
	for page, one := range texts {
		i, ok := p.view.Snapshot.Find(page)
		if !ok {
			continue
		}
		f := p.view.Snapshot.Files[i]
		f.Doc, f.Hash = site.Scan(markup.NewTextScanner(), page, []byte(one.Text)), change.HashOf([]byte(one.Text))
		held = append(held, f)
	}
	snapshot, _ := p.view.Snapshot.Renew(held, nil)
	made := p.onTexts(snapshot, func(page string) ([]byte, error) {
		if one, ok := texts[page]; ok {
			return []byte(one.Text), nil
		}
		return s.folder.Read(page)
	})
	out := map[string]string{}
	for i := range made.Set.Files {
		f := &made.Set.Files[i]
		one, ok := texts[f.Source()]
		if !ok {
			continue
		}
		if fresh, err := change.Apply([]byte(one.Text), f.Edits); err == nil {
			out[f.Source()] = string(fresh)
		}
	}
	return out
}

// onTexts makes a plan of a snapshot and of the bytes of its pages.
type onTexts = func(s *site.Snapshot, read func(page string) ([]byte, error)) *plan.Plan
