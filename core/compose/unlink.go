package compose

import (
	"bytes"
	"slices"
	"sort"

	"arvel/core/change"
	"arvel/core/markup"
)

// Unlinked is how one reference is taken away.
type Unlinked struct {
	// Ref is its number in the page's document.
	Ref   int
	Edits []change.Edit
	// Before and After are what a reader of the source sees of it.
	Before, After string
}

// RemoveAll takes references away, each by its number, so that what a visitor reads stays: a link leaves its words, a
// picture what it shows in words, an entry of a sitemap and what only the browser reads leave nothing. left are those that
// can't be taken away by themselves, since they are part of something larger: a player, a script, a set of pictures.
func (p *Page) RemoveAll(refs []int) (taken []Unlinked, left []int) {
	for _, k := range refs {
		ref := &p.Doc.References[k]
		i := p.tagAt(int(ref.Start))
		var edits []change.Edit
		if i >= 0 {
			edits = p.removal(i, ref)
		}
		if edits == nil {
			left = append(left, k)
			continue
		}
		u := Unlinked{Ref: k, Edits: edits}
		u.Before, u.After = p.visibleText(edits)
		taken = append(taken, u)
	}
	return taken, left
}

// tagAt returns the number of the last start tag that begins before a place; -1 if there is none.
func (p *Page) tagAt(at int) int {
	i := sort.Search(len(p.tags), func(i int) bool { return p.tags[i].Start >= at }) - 1
	for i >= 0 && p.tags[i].Closing {
		i--
	}
	return i
}

// linkOnly are the attributes that only an a element with an href may have (HTML standard, 4.5.1).
var linkOnly = []string{"href", "target", "rel", "hreflang", "download", "ping", "type"}

// removal returns the edits that take away a reference that is in the i-th tag; nil where that can't be done.
func (p *Page) removal(i int, ref *markup.Reference) []change.Edit {
	t := &p.tags[i]
	link := ref.Attribute == markup.AttrHref || ref.Attribute == markup.AttrXlinkHref
	has := func(name string) bool { _, ok := markup.AttributeOf(p.Text, t.Start, name); return ok }
	switch {
	case ref.Element == markup.A && link && (has("id") || has("name")):
		var edits []change.Edit
		for _, name := range linkOnly {
			if a, ok := markup.AttributeOf(p.Text, t.Start, name); ok {
				from, to := a.WithSpace(p.Text)
				edits = append(edits, change.Edit{Start: from, End: to})
			}
		}
		return edits
	case ref.Element == markup.A && link:
		e := p.element(i)
		return p.Unlink(&e)
	case ref.Element == markup.Area, ref.Element == markup.Link:
		return []change.Edit{p.without(t.Start, t.End, "")}
	case ref.Element == markup.Img && ref.Attribute == markup.AttrSrc && !has("srcset"):
		return []change.Edit{p.without(t.Start, t.End, markup.EscapeText(ref.Text))}
	case ref.Element == markup.Loc:
		for ; i >= 0; i-- {
			if u := &p.tags[i]; u.Name == "url" && !u.Closing {
				end := p.endOf(i)
				return []change.Edit{p.without(u.Start, min(len(p.Text), end+len("</url>")), "")}
			}
		}
	}
	return nil
}

// without puts words in the place of a stretch of the text; the whole line goes where nothing else is left on it.
func (p *Page) without(from, to int, words string) change.Edit {
	space, before, _ := p.line(from)
	if _, _, behind := p.line(to); words == "" && !before && !behind {
		from -= len(space)
		if n := bytes.IndexByte(p.Text[to:], '\n'); n >= 0 {
			to += n + 1
		}
	}
	return change.Edit{Start: from, End: to, New: []byte(words)}
}

// shownLimit is how many bytes of what is taken away are shown.
const shownLimit = 300

// visibleText returns the text that edits touch, before and after.
func (p *Page) visibleText(edits []change.Edit) (before, after string) {
	edits, err := change.Sorted(edits, len(p.Text))
	if err != nil || len(edits) == 0 {
		return "", ""
	}
	from, to := edits[0].Start, edits[len(edits)-1].End
	if to-from > shownLimit {
		edits, to = edits[:1], edits[0].End
	}
	shifted := slices.Clone(edits)
	for i := range shifted {
		shifted[i].Start, shifted[i].End = shifted[i].Start-from, shifted[i].End-from
	}
	fresh, err := change.Apply(p.Text[from:to], shifted)
	if err != nil {
		return "", ""
	}
	return string(bytes.TrimSpace(p.Text[from:to])), string(bytes.TrimSpace(fresh))
}
