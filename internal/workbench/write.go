package workbench

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"image"
	_ "image/gif"  // sizes of pictures
	_ "image/jpeg" // sizes of pictures
	_ "image/png"  // sizes of pictures
	"io"
	"log/slog"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync/atomic"

	"golang.org/x/sync/errgroup"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/internal/folder"
	"arvel/internal/store"
)

// Judged judges the text of a page as it is being edited: a view in which the page holds that.
func (w *Workbench) Judged(v *View, page string, text []byte) (*View, int32, error) {
	file, err := v.File(page)
	if err != nil {
		return nil, 0, err
	}
	f := v.Snapshot.Files[file]
	f.Doc = site.Scan(markup.NewTextScanner(), page, text)
	snapshot, touched := v.Snapshot.Renew([]site.File{f}, nil)
	own, _ := snapshot.Find(page)
	if touched != nil {
		// The pages that refer to it are judged when it is saved.
		touched = slices.DeleteFunc(touched, func(i int32) bool { return i != own })
	}
	return &View{Version: v.Version, Snapshot: snapshot, Report: v.Report.Renew(snapshot, touched)}, own, nil
}

// Save writes the text of a page, which was begun from the file that base is the hash of: only the bytes that differ, in
// the page's own encoding and with its own line ends. A file that is not as it was then gives a *folder.ConflictError.
func (w *Workbench) Save(page, text string, base change.Hash) (id int64, err error) {
	_, done, err := w.toChange()
	if err != nil {
		return 0, err
	}
	defer done()
	src, err := w.folder.Read(page)
	if err != nil || !base.Is(src) {
		return 0, &folder.ConflictError{Paths: []string{page}}
	}
	edits, err := textEdits(src, text)
	if err != nil {
		return 0, err
	}
	// What is saved is not to be kept as a draft of what was saved.
	if err := w.store.DropDraft(w.ID, page); err != nil {
		return 0, w.store.Explained(err)
	}
	if len(edits) > 0 {
		set := change.Set{Title: audit.Mono(page) + " edited", Files: []change.File{{Kind: change.Edited, Path: page, Before: base, Edits: edits}}}
		if id, err = w.carry(set, 0, nil); err != nil {
			return 0, errors.Join(err, w.store.KeepDraft(w.ID, store.Draft{Page: page, Text: text, Base: base}))
		}
	}
	return id, nil
}

// textEdits returns the edits that make a file hold a text, line by line.
func textEdits(src []byte, text string) ([]change.Edit, error) {
	m := markup.NewMapper(src)
	return compose.InBytes(src, m, change.Between(m.Text, text))
}

// WordsAt is where words stand on a page that a link can be made of.
type WordsAt struct {
	Page string
	// Line is 1-based.
	Line int
	// Written is the link as it is written there.
	Written string
}

// LinkWords makes links of words, of where they stand first on each page but those to be left alone, as one change. It
// is only told where that would be if it is not to be carried out.
func (w *Workbench) LinkWords(ctx context.Context, words, target string, leave []string, carry bool) (at []WordsAt, id int64, err error) {
	if words = strings.TrimSpace(words); words == "" {
		return nil, 0, &NameError{"Choose the words first."}
	}
	v, done, err := w.toPlan(carry)
	if err != nil {
		return nil, 0, err
	}
	defer done()
	ctx, told, end := w.working(ctx, "Links made of “"+words+"”")
	defer end()
	own, _, _ := strings.Cut(target, "#")
	type found struct {
		WordsAt
		change.File
	}
	list, err := ofPages(ctx, w, v, told, func(f *site.File, src []byte, m *markup.Mapper) (*found, error) {
		if f.Path == own || slices.Contains(leave, f.Path) || !strings.Contains(m.Text, words) {
			return nil, nil
		}
		page := compose.Open(v.Snapshot, f.Path, []byte(m.Text))
		from, edits := page.Words(words, target)
		if from < 0 {
			return nil, nil
		}
		fresh, err := compose.InBytes(src, m, edits)
		return &found{
			WordsAt{f.Path, 1 + strings.Count(m.Text[:from], "\n"), string(edits[0].New) + words + string(edits[1].New)},
			change.File{Kind: change.Edited, Path: f.Path, Before: change.HashOf(src), Edits: fresh},
		}, err
	})
	if err != nil {
		return nil, 0, err
	}
	set := change.Set{Title: "“" + words + "” made links to " + audit.Mono(target)}
	for _, f := range list {
		at, set.Files = append(at, f.WordsAt), append(set.Files, f.File)
	}
	if carry && len(set.Files) > 0 {
		id, err = w.carry(set, 0, nil)
	}
	return at, id, err
}

// ofPages reads the pages of a view, some at a time, and returns what do makes of them, in order; nil is left out.
func ofPages[T any](ctx context.Context, w *Workbench, v *View, told func(done, total int), do func(f *site.File, src []byte, m *markup.Mapper) (*T, error)) ([]T, error) {
	pages := v.Pages()
	made := make([]*T, len(pages))
	g, stopped := errgroup.WithContext(ctx)
	g.SetLimit(runtime.GOMAXPROCS(0))
	var looked atomic.Int64
	for n, i := range pages {
		f := &v.Snapshot.Files[i]
		if f.Kind != site.Page || f.Doc == nil {
			continue
		}
		g.Go(func() (err error) {
			if stopped.Err() != nil {
				return nil
			}
			if src, gone := w.folder.Read(f.Path); gone == nil {
				made[n], err = do(f, src, markup.NewMapper(src))
			}
			told(int(looked.Add(1)), len(pages))
			return err
		})
	}
	err := cmp.Or(g.Wait(), ctx.Err())
	if errors.Is(err, context.Canceled) {
		err = folder.ErrStopped
	}
	var out []T
	for _, t := range made {
		if t != nil {
			out = append(out, *t)
		}
	}
	return out, err
}

// BroughtTo is what bringing a block of links to a page comes to.
type BroughtTo struct {
	Page, Title string
	compose.Brought
	// Difference is a unified diff of the page's text, without its head.
	Difference string
}

// Bringing is a block of links that is to be brought to other pages.
type Bringing struct {
	Page, Text string
	At         int // a place in the block, in bytes of the text
	// Block is which of the blocks around the place it is, -1 for the most likely one.
	Block int
	// Leave are pages to be left alone; Added puts it on those that have no such block, too.
	Leave []string
	Added bool
}

// Bring brings a block of links of a page to the others, as one change; it is only told where it goes if it is not to be
// carried out. block is which of the blocks it is.
func (w *Workbench) Bring(ctx context.Context, b Bringing, carry bool) (blocks []compose.Block, block int, to []BroughtTo, id int64, err error) {
	v, done, err := w.toPlan(carry)
	if err != nil {
		return nil, 0, nil, 0, err
	}
	defer done()
	ctx, told, end := w.working(ctx, "A menu for other pages")
	defer end()
	if _, err := v.File(b.Page); err != nil {
		return nil, 0, nil, 0, err
	}
	page := compose.Open(v.Snapshot, b.Page, []byte(b.Text))
	if blocks, block = page.Menu(b.At); len(blocks) == 0 {
		return nil, 0, nil, 0, &compose.PlaceError{Sentence: "There is no block with links here. Put the caret into the menu first."}
	}
	if b.Block >= 0 && b.Block < len(blocks) {
		block = b.Block
	}
	type found struct {
		BroughtTo
		change.File
	}
	list, err := ofPages(ctx, w, v, told, func(f *site.File, src []byte, m *markup.Mapper) (*found, error) {
		if f.Path == b.Page {
			return nil, nil
		}
		brought, err := page.Bring(blocks[block], compose.Open(v.Snapshot, f.Path, []byte(m.Text)))
		if err != nil {
			return nil, err
		}
		one := &found{BroughtTo{Page: f.Path, Title: f.Doc.Title, Brought: brought}, change.File{Kind: change.Edited, Path: f.Path}}
		if carry {
			one.Before = change.HashOf(src)
		}
		if one.File.Edits, err = compose.InBytes(src, m, brought.Edits); err != nil {
			one.Notes = append(one.Notes, "can't hold it: "+err.Error())
		}
		if text := (&change.File{Kind: change.Edited, Path: f.Path, Edits: brought.Edits}); len(brought.Edits) > 0 {
			all, err := text.Unified([]byte(m.Text))
			_, hunks, _ := strings.Cut(all, "\n@@")
			one.Difference = "@@" + hunks
			return one, err
		}
		return one, nil
	})
	if err != nil {
		return nil, 0, nil, 0, err
	}
	set := change.Set{Title: "The " + audit.Mono(blocks[block].Name) + " of " + audit.Mono(b.Page) + " brought to other pages"}
	for _, f := range list {
		to = append(to, f.BroughtTo)
		if len(f.File.Edits) > 0 && (f.Replaces || b.Added) && !slices.Contains(b.Leave, f.File.Path) {
			set.Files = append(set.Files, f.File)
		}
	}
	if carry && len(set.Files) > 0 {
		id, err = w.carry(set, 0, nil)
	}
	return blocks, block, to, id, err
}

// KeepDraft keeps text that is not saved yet.
func (w *Workbench) KeepDraft(page, text string, base change.Hash) error {
	return w.store.KeepDraft(w.ID, store.Draft{Page: page, Text: text, Base: base})
}

// DropDraft forgets text that is not saved.
func (w *Workbench) DropDraft(page string) error { return w.store.DropDraft(w.ID, page) }

// Unsaved returns the pages that have text which is not saved.
func (w *Workbench) Unsaved() map[string]bool {
	pages, err := w.store.DraftPages(w.ID)
	if err != nil {
		slog.Warn("which pages have text that is not saved can't be read", "folder", w.folder.Path, "error", err)
	}
	return pages
}

// Draft returns the text of a page that is not saved yet; false if there is none.
func (w *Workbench) Draft(page string) (store.Draft, bool, error) { return w.store.Draft(w.ID, page) }

// A NameError says why a file can't be made under a name.
type NameError struct{ Sentence string }

func (e *NameError) Error() string { return e.Sentence }

// NewPage makes a page after the pattern of another one, or a bare one where pattern is "". It returns its path.
func (w *Workbench) NewPage(pattern, p string, n compose.New) (string, int64, error) {
	v, done, err := w.toChange()
	if err != nil {
		return "", 0, err
	}
	defer done()
	name, wrong := compose.NameFor(v.Snapshot, p)
	if wrong != "" {
		return "", 0, &NameError{audit.Mono(name) + " " + wrong + "."}
	}
	content := n.Bare(v.Snapshot, name)
	if pattern != "" {
		src, err := w.folder.Read(pattern)
		if err != nil {
			return "", 0, gone(pattern)
		}
		if content, err = n.After(v.Snapshot, pattern, name, src); err != nil {
			return "", 0, err
		}
	}
	id, err := w.carry(change.Set{Title: "Page " + audit.Mono(name) + " made", Files: []change.File{{Kind: change.Made, Path: name, Content: content}}}, 0, nil)
	return name, id, err
}

// PictureLimit is the size in bytes above which a picture is not taken in.
const PictureLimit = 40 << 20

// AddPicture puts a picture into the folder's picture folder, under a name that keeps the naming rules, and returns its
// path and its size in pixels.
func (w *Workbench) AddPicture(name string, b []byte) (p string, width, height int, err error) {
	ext := site.ContentOf(b[:min(len(b), site.HeadSize)])
	switch {
	case len(b) > PictureLimit:
		return "", 0, 0, &NameError{fmt.Sprintf("%s has %d MB. A picture that large makes visitors wait; make it smaller first, to less than 40 MB.", audit.Mono(name), len(b)>>20)}
	case site.KindOf("x"+ext) != site.Image && !strings.EqualFold(path.Ext(name), ".svg"):
		return "", 0, 0, &NameError{audit.Mono(name) + " is no picture: its first bytes are not those of one."}
	}
	v, done, err := w.toChange()
	if err != nil {
		return "", 0, 0, err
	}
	defer done()
	better := audit.BetterName(name)
	if better == "" {
		better = "picture" + ext
	}
	dir := pictureFolder(v.Snapshot)
	p = path.Join(dir, better)
	for n := 2; v.Snapshot.Stands(p) || len(v.Snapshot.Folded(p)) > 0; n++ {
		stem := strings.TrimSuffix(better, path.Ext(better))
		p = path.Join(dir, fmt.Sprintf("%s-%d%s", stem, n, path.Ext(better)))
	}
	if config, _, err := image.DecodeConfig(bytes.NewReader(b)); err == nil {
		width, height = config.Width, config.Height
	}
	_, err = w.carry(change.Set{Title: "Picture " + audit.Mono(p) + " added", Files: []change.File{{Kind: change.Made, Path: p, Content: b}}}, 0, nil)
	return p, width, height, err
}

// headerLimit is how much of a picture is read at most to learn its size.
const headerLimit = 1 << 20

// PictureSize returns the size in pixels of a picture of the folder, of which no more than its beginning is read; 0 where
// that does not tell.
func (w *Workbench) PictureSize(p string) (width, height int) {
	file, err := w.folder.OpenFile(p)
	if err != nil {
		return 0, 0
	}
	defer file.Close()
	config, _, err := image.DecodeConfig(io.LimitReader(file, headerLimit))
	if err != nil {
		return 0, 0
	}
	return config.Width, config.Height
}

// pictureFolder returns the folder that holds most pictures; "images" where there are none.
func pictureFolder(s *site.Snapshot) string {
	n := map[string]int{}
	best := "images"
	for i := range s.Files {
		if s.Files[i].Kind == site.Image {
			dir, _ := site.Cut(s.Files[i].Path)
			if n[dir]++; n[dir] > n[best] {
				best = dir
			}
		}
	}
	return best
}

// Carried carries out edits of the text of one other page that composing needs: an id that a heading is given. A page whose
// text is another one by now gives a *folder.ConflictError.
func (w *Workbench) Carried(title, page string, text []byte, edits []change.Edit) error {
	src, err := w.Source(page)
	if err != nil {
		return err
	}
	m := markup.NewMapper(src)
	if m.Text != string(text) {
		return &folder.ConflictError{Paths: []string{page}}
	}
	fresh, err := compose.InBytes(src, m, edits)
	if err != nil {
		return err
	}
	_, err = w.Carry(change.Set{Title: title, Files: []change.File{{Kind: change.Edited, Path: page, Before: change.HashOf(src), Edits: fresh}}})
	return err
}

// Try notes that a link was followed in the live page.
func (w *Workbench) Try(page, key string) error {
	v := w.View()
	if v == nil {
		return ErrNotReady
	}
	file, ref, err := v.Find(page, key)
	if err != nil {
		return err
	}
	t := store.Tried{Page: page, Written: v.Snapshot.Files[file].Doc.References[ref].Written, Stood: v.Snapshot.Files[file].Hash}
	if to := v.Snapshot.Links(file)[ref].File; to >= 0 {
		t.Landed = v.Snapshot.Files[to].Hash
	}
	if err := w.store.KeepTried(w.ID, t); err != nil {
		return err
	}
	w.tried.Store(nil)
	return nil
}

// triedLinks are the links that were followed, by page and what is written.
type triedLinks map[[2]string]store.Tried

// Tried tells which references of a file were followed since it and their targets last changed.
func (w *Workbench) Tried(v *View, file int32) []bool {
	known := w.tried.Load()
	if known == nil {
		list, err := w.store.Tried(w.ID)
		if err != nil {
			return nil
		}
		known = &triedLinks{}
		for _, t := range list {
			(*known)[[2]string{t.Page, t.Written}] = t
		}
		w.tried.Store(known)
	}
	f := &v.Snapshot.Files[file]
	if f.Doc == nil || len(*known) == 0 {
		return nil
	}
	out := make([]bool, len(f.Doc.References))
	for i, l := range v.Snapshot.Links(file) {
		t, ok := (*known)[[2]string{f.Path, f.Doc.References[i].Written}]
		if !ok || t.Stood != f.Hash {
			continue
		}
		out[i] = l.File < 0 || v.Snapshot.Files[l.File].Hash == t.Landed
	}
	return out
}
