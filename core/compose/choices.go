package compose

import (
	"fmt"
	"slices"
	"strings"

	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// What can be written; the API has the same names.
const (
	Tag      = "tag"      // the tag at the selection, with other attributes
	Tags     = "tags"     // the tags of the links in the selection
	Unlink   = "unlink"   // the words of a link without it
	Link     = "link"     // a link of what is selected, or a new one
	EMail    = "e-mail"   // a link that opens a message
	Picture  = "picture"  // a picture
	Frame    = "frame"    // a page in a frame
	ID       = "id"       // an id
	List     = "list"     // a list of links to pages
	Contents = "contents" // a list of the page's headings
	Top      = "top"      // links back to the top
	Menu     = "menu"     // a block of links on other pages
	NewPage  = "page"     // a new page
)

// Choice is something that can be written at a place.
type Choice struct {
	What string
	// Label is what it is called, in lower case.
	Label string
	// From and To are what it is written in, in bytes of the text.
	From, To int
}

// Choices returns what can be written at a selection, what is most likely wanted first. A new page can be made from anywhere.
func (p *Page) Choices(from, to int) []Choice {
	from, to = p.trimmed(from, to)
	var out []Choice
	add := func(what, label string, from, to int) { out = append(out, Choice{what, label, from, to}) }
	e, has := p.ElementAt(from, to)
	if has {
		add(Tag, e.called(), from, to)
	}
	link, linked := p.linkAround(from)
	if linked {
		if e.open == nil || e.Start() != link.Start() {
			add(Tag, link.called(), link.Start()+1, link.Start()+1)
		}
		add(Unlink, "its words without the link", link.Start()+1, link.Start()+1)
	}
	if n := len(p.linksIn(from, to)); n > 1 {
		add(Tags, fmt.Sprintf("these %d links", n), from, to)
	}
	if has && !linked && e.Name == "img" {
		from, to = e.open.Start, e.open.End
	}
	if from == to {
		if begin, end := p.mailboxAround(from); begin < end && !linked {
			from, to = begin, end
		}
	}
	if p.crossesTags(from, to, "a") == nil {
		out = append(out, p.newLinks(from, to)...)
	}
	if from == to && p.Within(from) == nil {
		add(Picture, "a picture", from, to)
		add(Frame, "a page in a frame", from, to)
		if p.takesBlocks(from) && !linked {
			add(List, "a list of links", from, to)
			if len(p.Doc.Headings) > 0 {
				add(Contents, "the contents of this page", from, to)
			}
		}
	}
	if i := p.idHolder(from); i >= 0 && p.endOf(i) >= from {
		if holder := p.element(i); !has || holder.open.Start != e.open.Start {
			add(ID, "the id of "+holder.called(), holder.open.Start+1, holder.open.Start+1)
		}
	}
	if blocks := p.Blocks(from); len(blocks) > 0 {
		add(Menu, fmt.Sprintf("these %d links on other pages", blocks[0].Links), from, from)
	} else if all, _ := p.Menu(from); len(all) > 0 {
		add(Menu, "the menu on other pages", from, from)
	}
	if p.hasSections() {
		add(Top, "links back to the top", from, from)
	}
	add(NewPage, "a new page", from, to)
	return out
}

// newLinks are the links that can be made of a selection in which there is none.
func (p *Page) newLinks(from, to int) []Choice {
	what := "a link"
	switch words := string(p.Text[from:to]); {
	case from == to:
	case strings.HasPrefix(words, "<img"):
		what = "a link of this picture"
	default:
		what = "a link of these words"
	}
	out := []Choice{{Link, what, from, to}, {EMail, "an e-mail link", from, to}}
	if mailbox.IsAddress(p.Visible(from, to)) {
		slices.Reverse(out)
	}
	return out
}

// called names an element as one would point at it.
func (e *Element) called() string {
	switch e.Name {
	case "a", "area":
		return "this link"
	case "img":
		return "this picture"
	case "iframe", "frame":
		return "this frame"
	case "h1", "h2", "h3", "h4", "h5", "h6":
		return "this heading"
	case "p":
		return "this paragraph"
	}
	return "this " + phrase.Mono("<"+e.Name+">")
}

// linksIn returns the numbers of the start tags of the links in a selection.
func (p *Page) linksIn(from, to int) (out []int) {
	for i := range p.tags {
		if t := &p.tags[i]; t.Name == "a" && !t.Closing && t.End > from && t.Start < to {
			if _, ok := markup.AttributeOf(p.Text, t.Start, "href"); ok {
				out = append(out, i)
			}
		}
	}
	return out
}

// LinksIn returns the links in a selection.
func (p *Page) LinksIn(from, to int) (out []Element) {
	for _, i := range p.linksIn(from, to) {
		out = append(out, p.element(i))
	}
	return out
}

// mailboxAround returns the bytes of the mailbox that a place is in.
func (p *Page) mailboxAround(at int) (from, to int) {
	part := func(c byte) bool { return !isSpace(c) && !strings.ContainsRune("<>()\",;:", rune(c)) }
	from, to = at, at
	for from > 0 && part(p.Text[from-1]) {
		from--
	}
	for to < len(p.Text) && part(p.Text[to]) {
		to++
	}
	for to > from && p.Text[to-1] == '.' {
		to--
	}
	if !mailbox.IsAddress(string(p.Text[from:to])) {
		return at, at
	}
	return from, to
}

// hasSections reports whether the page has headings of the second level.
func (p *Page) hasSections() bool {
	return slices.ContainsFunc(p.Doc.Headings, func(h markup.Heading) bool { return h.Level == 2 })
}
