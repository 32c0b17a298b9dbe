package workspace

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
	"path"
	"runtime"
	"slices"
	"strings"
	"sync/atomic"

	"golang.org/x/sync/errgroup"

	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/markup"
	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/site"
	"arvel/internal/journal"
)

// Saving is the text of a page that is to be saved, and what goes with it on other pages.
type Saving struct {
	Page, Text string
	// Base is the hash of the file that the text was begun from.
	Base change.Hash
	// Gives is a heading of another page that is given an id; Words are those that become links on other pages. Nil for none.
	Gives *HeadingAt
	Words *LinkedWords
}

// SavePlan saves the text of a page.
type SavePlan struct {
	Plan
	// Text is what is saved: the text, with its list of contents renewed if it has one that is.
	Text string
}

// PlanSave plans to save the text of a page: only the bytes that differ, in the page's own encoding and with its own line ends.
// A file that is another one by now gives a *ConflictError.
func (s *Session) PlanSave(ctx context.Context, save Saving) (*SavePlan, error) {
	p := &SavePlan{Plan: Plan{saves: save.Page}}
	return p, s.plan(&p.Plan, func(v *View) error {
		src, err := s.folder.Read(save.Page)
		if err != nil || !save.Base.Is(src) {
			return &journal.ConflictError{Paths: []string{save.Page}}
		}
		m := markup.NewMapper(src)
		p.Text = save.Text
		if edits := compose.Open(v.Snapshot, save.Page, []byte(save.Text)).Renewed(); len(edits) > 0 {
			if edits, err = change.Sorted(edits, len(save.Text)); err != nil {
				return err
			}
			fresh, err := change.Apply([]byte(save.Text), edits)
			if err != nil {
				return err
			}
			p.Text = string(fresh)
		}
		p.Set = change.Set{Title: phrase.Mono(save.Page) + " edited"}
		edits, err := compose.InBytes(src, m, change.Between(m.Text, p.Text))
		if err != nil {
			return err
		}
		if len(edits) > 0 {
			p.Set.Files = append(p.Set.Files, change.File{Kind: change.Edited, Path: save.Page, Before: save.Base, Edits: edits})
		}
		return s.saveElsewhere(ctx, v, save, &p.Set)
	})
}

// saveElsewhere adds to a change set what goes with a page on other pages.
func (s *Session) saveElsewhere(ctx context.Context, v *View, save Saving, set *change.Set) error {
	if save.Words != nil {
		at, err := s.WordsElsewhere(ctx, v, *save.Words)
		if err != nil {
			return err
		}
		for _, one := range at {
			set.Files = append(set.Files, one.File)
		}
		if len(at) > 0 {
			set.Title += ", and “" + save.Words.Words + "” linked on " + phrase.Agree(len(at), "other page", "other pages")
		}
	}
	if save.Gives == nil {
		return nil
	}
	page := save.Gives.Page
	src, err := s.folder.Read(page)
	if err != nil {
		return gone(page)
	}
	m := markup.NewMapper(src)
	id, edits, err := compose.Open(v.Snapshot, page, []byte(m.Text)).GiveHeadingID(save.Gives.Heading)
	if err != nil || id == "" {
		return cmp.Or(err, error(&GoneError{"The heading “" + save.Gives.Heading + "” is no longer on " + page + ", or has an id by now."}))
	}
	fresh, err := compose.InBytes(src, m, edits)
	if err != nil {
		return err
	}
	set.Title += ", and a heading of " + phrase.Mono(page) + " given the id " + phrase.Mono(id)
	for i := range set.Files {
		if f := &set.Files[i]; f.Path == page {
			f.Edits, err = change.Sorted(append(f.Edits, fresh...), len(src))
			return err
		}
	}
	set.Files = append(set.Files, change.File{Kind: change.Edited, Path: page, Before: change.HashOf(src), Edits: fresh})
	return nil
}

// LinkedWords are words that become links on other pages.
type LinkedWords struct {
	// Target is a path in the folder with its fragment, or an address; Attributes are those of the links besides their href.
	Words, Target string
	Attributes    compose.Attributes
	// Leave are pages to be left alone.
	Leave []string
}

// WordsAt is where words are on a page that a link can be made of.
type WordsAt struct {
	change.File
	// Line is 1-based.
	Line int
	// Written is the link as it is written there.
	Written string
}

// WordsElsewhere finds where words are first on each page that a link can be made of them.
func (s *Session) WordsElsewhere(ctx context.Context, v *View, l LinkedWords) ([]WordsAt, error) {
	words := strings.TrimSpace(l.Words)
	if words == "" {
		return nil, &NameError{"Choose the words first."}
	}
	own, _, _ := strings.Cut(l.Target, "#")
	ctx, progress, end := s.beginWork(ctx, "Links made of “"+words+"”")
	defer end()
	return ofPages(ctx, s, v, progress, func(f *site.File, src []byte, m *markup.Mapper) (*WordsAt, error) {
		if f.Path == own || slices.Contains(l.Leave, f.Path) || !strings.Contains(m.Text, words) {
			return nil, nil
		}
		page := compose.Open(v.Snapshot, f.Path, []byte(m.Text))
		from, edits := page.Words(words, l.Target, l.Attributes)
		if from < 0 {
			return nil, nil
		}
		fresh, err := compose.InBytes(src, m, edits)
		return &WordsAt{
			change.File{Kind: change.Edited, Path: f.Path, Before: change.HashOf(src), Edits: fresh},
			1 + strings.Count(m.Text[:from], "\n"), string(edits[0].New) + words + string(edits[1].New),
		}, err
	})
}

// ofPages reads the pages of a view, several at a time, and returns what do makes of them, in order, without the nils.
func ofPages[T any](ctx context.Context, s *Session, v *View, progress func(done, total int), do func(f *site.File, src []byte, m *markup.Mapper) (*T, error)) ([]T, error) {
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
			if src, gone := s.folder.Read(f.Path); gone == nil {
				made[n], err = do(f, src, markup.NewMapper(src))
			}
			progress(int(looked.Add(1)), len(pages))
			return err
		})
	}
	err := cmp.Or(g.Wait(), ctx.Err())
	if errors.Is(err, context.Canceled) {
		err = journal.ErrStopped
	}
	var out []T
	for _, t := range made {
		if t != nil {
			out = append(out, *t)
		}
	}
	return out, err
}

// SyncedPage is what bringing a block of links to a page comes to.
type SyncedPage struct {
	Page, Title string
	compose.SyncedBlock
	// Difference is a unified diff of the page's text, without its head.
	Difference string
}

// Menu is a block of links that is to be brought to other pages.
type Menu struct {
	Page, Text string
	At         int // a place in the block, in bytes of the text
	// Block is which of the blocks around the place it is, -1 for the most likely one.
	Block int
	// Leave are pages to be left alone; Added puts it on those that have no such block, too.
	Leave []string
	Added bool
}

// MenuPlan brings a block of links to other pages.
type MenuPlan struct {
	Plan
	// Blocks are the blocks around the place, Block which of them it is.
	Blocks []compose.Block
	Block  int
	Pages  []SyncedPage
}

// PlanMenu plans to bring a block of links of a page to the others.
func (s *Session) PlanMenu(ctx context.Context, m Menu) (*MenuPlan, error) {
	p := &MenuPlan{}
	type found struct {
		SyncedPage
		change.File
	}
	return p, s.plan(&p.Plan, func(v *View) error {
		ctx, progress, end := s.beginWork(ctx, "A menu for other pages")
		defer end()
		if _, err := v.File(m.Page); err != nil {
			return err
		}
		page := compose.Open(v.Snapshot, m.Page, []byte(m.Text))
		if p.Blocks, p.Block = page.Menu(m.At); len(p.Blocks) == 0 {
			return &compose.PlaceError{Sentence: "There are no links here. Put the caret into the menu first."}
		}
		if m.Block >= 0 && m.Block < len(p.Blocks) {
			p.Block = m.Block
		}
		block := p.Blocks[p.Block]
		list, err := ofPages(ctx, s, v, progress, func(f *site.File, src []byte, mapper *markup.Mapper) (*found, error) {
			if f.Path == m.Page {
				return nil, nil
			}
			synced, err := page.SyncBlock(block, compose.Open(v.Snapshot, f.Path, []byte(mapper.Text)))
			if err != nil {
				return nil, err
			}
			one := &found{SyncedPage{Page: f.Path, Title: f.Doc.Title, SyncedBlock: synced}, change.File{Kind: change.Edited, Path: f.Path, Before: change.HashOf(src)}}
			if one.File.Edits, err = compose.InBytes(src, mapper, synced.Edits); err != nil {
				one.Notes = append(one.Notes, "can't hold it: "+err.Error())
			}
			if text := (&change.File{Kind: change.Edited, Path: f.Path, Edits: synced.Edits}); len(synced.Edits) > 0 {
				all, err := text.Unified([]byte(mapper.Text))
				_, hunks, _ := strings.Cut(all, "\n@@")
				one.Difference = "@@" + hunks
				return one, err
			}
			return one, nil
		})
		if err != nil {
			return err
		}
		p.Pages, p.Set = nil, change.Set{Title: "The " + phrase.Mono(block.Name) + " of " + phrase.Mono(m.Page) + " brought to other pages"}
		for _, f := range list {
			p.Pages = append(p.Pages, f.SyncedPage)
			if len(f.File.Edits) > 0 && (f.Replaces || m.Added) && !slices.Contains(m.Leave, f.File.Path) {
				p.Set.Files = append(p.Set.Files, f.File)
			}
		}
		return nil
	})
}

// PagePlan makes a page.
type PagePlan struct {
	Plan
	Path string
}

// PlanPage plans to make a page after the pattern of another one, or a bare one where pattern is "".
func (s *Session) PlanPage(pattern, path string, n compose.New) (*PagePlan, error) {
	p := &PagePlan{}
	return p, s.plan(&p.Plan, func(v *View) error {
		checked := compose.NameFor(v.Snapshot, path, n.Title, pattern)
		name := checked.Path
		if checked.Refused {
			return &NameError{phrase.Mono(name) + " " + strings.Join(checked.Faults, ", and ") + "."}
		}
		content := n.Bare(v.Snapshot, name)
		if pattern != "" {
			src, err := s.folder.Read(pattern)
			if err != nil {
				return gone(pattern)
			}
			if content, err = n.After(v.Snapshot, pattern, name, src); err != nil {
				return err
			}
		}
		p.Path = name
		p.Set = change.Set{Title: "Page " + phrase.Mono(name) + " made", Files: []change.File{{Kind: change.Made, Path: name, Content: content}}}
		return nil
	})
}

// PictureLimit is the size in bytes above which a picture is not taken in.
const PictureLimit = 40 << 20

// PicturePlan takes a picture into the folder.
type PicturePlan struct {
	Plan
	Path          string
	Width, Height int // in pixels; 0 where they are not known
}

// PlanPicture plans to put a picture into the folder's picture folder, under a name that keeps the naming rules.
func (s *Session) PlanPicture(name string, b []byte) (*PicturePlan, error) {
	ext := site.ContentOf(b[:min(len(b), site.HeadSize)])
	switch {
	case len(b) > PictureLimit:
		return nil, &NameError{fmt.Sprintf("%s has %d MB. A picture that large makes visitors wait; make it smaller first, to less than 40 MB.", phrase.Mono(name), len(b)>>20)}
	case site.KindOf("x"+ext) != site.Image && !strings.EqualFold(path.Ext(name), ".svg"):
		return nil, &NameError{phrase.Mono(name) + " is not a picture: its first bytes are not those of one."}
	}
	better := naming.BetterFile(name)
	if better == "" {
		better = "picture" + ext
	}
	p := &PicturePlan{}
	return p, s.plan(&p.Plan, func(v *View) error {
		dir := pictureFolder(v.Snapshot)
		p.Path = path.Join(dir, better)
		for n := 2; v.Snapshot.Exists(p.Path) || len(v.Snapshot.Folded(p.Path)) > 0; n++ {
			stem := strings.TrimSuffix(better, path.Ext(better))
			p.Path = path.Join(dir, fmt.Sprintf("%s-%d%s", stem, n, path.Ext(better)))
		}
		if config, _, err := image.DecodeConfig(bytes.NewReader(b)); err == nil {
			p.Width, p.Height = config.Width, config.Height
		}
		p.Set = change.Set{Title: "Picture " + phrase.Mono(p.Path) + " added", Files: []change.File{{Kind: change.Made, Path: p.Path, Content: b}}}
		return nil
	})
}

// headerLimit is how much of a picture is read at most to learn its size.
const headerLimit = 1 << 20

// PictureSize returns the size in pixels of a picture of the folder, of which no more than its beginning is read; 0 where
// that does not tell.
func (s *Session) PictureSize(p string) (width, height int) {
	file, err := s.folder.OpenFile(p)
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
