package compose

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"arvel/core/change"
	"arvel/core/markup"
)

// Link is a link to be written, or how one is to be changed.
type Link struct {
	// Target is a path in the folder with its fragment, an outside address, or a mailto: or tel: address.
	Target string
	// Text is what a link shows that is made of nothing; left alone where words are selected.
	Text string
	// Title is the tooltip; NewTab opens a new tab, with the rel that goes with it; Language is the target's, if it differs.
	Title    string
	NewTab   bool
	Language string
}

// attributes writes those of a link, href first.
func (l *Link) attributes(href string) string {
	var b strings.Builder
	fmt.Fprintf(&b, ` href="%s"`, attribute(href))
	if l.Title != "" {
		fmt.Fprintf(&b, ` title="%s"`, attribute(l.Title))
	}
	if l.Language != "" {
		fmt.Fprintf(&b, ` hreflang="%s"`, attribute(l.Language))
	}
	if l.NewTab {
		b.WriteString(` target="_blank" rel="noopener"`)
	}
	return b.String()
}

// Around returns the a element around a place of the text: its start tag and its end tag; none of them if it is in
// no link. An element that is never closed ends where the text does.
func (p *Page) Around(at int) (open, end *markup.Tag) {
	for i := range p.tags {
		switch t := &p.tags[i]; {
		case t.Name != "a":
		case !t.Closing && t.Start < at:
			open = t
		case !t.Closing:
			return open, nil // the next one closes it
		case t.Start < at:
			open = nil
		case open == nil:
			return nil, nil
		default:
			return open, t
		}
	}
	return open, nil
}

// Make makes a link of what is selected, or puts one where nothing is. In a link, that one is changed instead. White
// space at the edges of the selection stays outside of it.
func (p *Page) Make(from, to int, l Link) ([]change.Edit, error) {
	from, to = p.trimmed(from, to)
	if open, _ := p.Around(from); open != nil {
		return p.Change(from, Changes{Target: l.Target, Text: l.Text, Title: &l.Title, NewTab: &l.NewTab})
	}
	if err := p.crossesTags(from, to); err != nil {
		return nil, err
	}
	href := p.AddressOf(l.Target)
	if from == to {
		text := l.Text
		if text == "" {
			text = p.titleOf(l.Target)
		}
		return []change.Edit{{Start: from, End: to, New: []byte("<a" + l.attributes(href) + ">" + markup.EscapeText(text) + "</a>")}}, nil
	}
	return []change.Edit{
		{Start: from, End: from, New: []byte("<a" + l.attributes(href) + ">")},
		{Start: to, End: to, New: []byte("</a>")},
	}, nil
}

// Words finds where words are first on the page that a link to the target can be made of, and its edits, two; -1 where
// they don't, but within a link, a tag, or another word.
func (p *Page) Words(words, target string) (from int, edits []change.Edit) {
	letter := func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }
	for at := 0; ; {
		n := bytes.Index(p.Text[at:], []byte(words))
		if n < 0 {
			return -1, nil
		}
		from, to := at+n, at+n+len(words)
		at = to
		before, _ := utf8.DecodeLastRune(p.Text[:from])
		behind, _ := utf8.DecodeRune(p.Text[to:])
		if open, _ := p.Around(from); open != nil || letter(before) || letter(behind) {
			continue
		}
		if edits, err := p.Make(from, to, Link{Target: target}); err == nil {
			return from, edits
		}
	}
}

func (p *Page) trimmed(from, to int) (int, int) {
	from, to = max(0, min(from, len(p.Text))), max(0, min(to, len(p.Text)))
	if from > to {
		from, to = to, from
	}
	for from > 0 && from < len(p.Text) && !utf8.RuneStart(p.Text[from]) {
		from--
	}
	for to < len(p.Text) && !utf8.RuneStart(p.Text[to]) {
		to++
	}
	for from < to && isSpace(p.Text[from]) {
		from++
	}
	for to > from && isSpace(p.Text[to-1]) {
		to--
	}
	return from, to
}

// crossesTags says what is in the way of putting an element around a stretch of the text.
func (p *Page) crossesTags(from, to int) error {
	for _, at := range []int{from, to} {
		if err := p.Within(at); err != nil {
			return err
		}
	}
	depth := 0
	for i := range p.tags {
		t := &p.tags[i]
		switch {
		case t.End <= from || t.Start >= to:
			continue
		case t.Name == "a":
			return fault("There is a link in the selection already, and a link can't stand in a link. Select less, or change that one.")
		case void[t.Name]:
		case t.Closing:
			if depth--; depth < 0 {
				return fault("The selection reaches out of an element: it has an end tag whose start it leaves out. Select within one element.")
			}
		default:
			depth++
		}
	}
	if depth > 0 {
		return fault("The selection reaches into an element: it has a start tag whose end it leaves out. Select the whole element, or within it.")
	}
	return nil
}

// Within says why nothing that a visitor sees can be put at a place: it is outside of the page's body, in a tag, a comment
// or in raw text.
func (p *Page) Within(at int) error {
	for i := range p.tags {
		t := &p.tags[i]
		switch {
		case t.Start < at && at < t.End:
			return fault("This is within a tag. Choose a place between two tags.")
		case t.Name == "body" && !t.Closing && at < t.End, t.Name == "head" && !t.Closing && at > t.Start && at < p.endOf(i),
			t.Name == "body" && t.Closing && at > t.Start:
			return fault("This is outside of what the page shows. Choose a place between the body's tags.")
		}
	}
	probe := slices.Concat(p.Text[:at], []byte("<a>"), p.Text[at:])
	if !slices.ContainsFunc(markup.Tags(probe), func(t markup.Tag) bool { return t.Start == at && t.End == at+3 }) {
		return fault("This is in a comment, or in text that a browser takes as it stands. Choose a place outside of it.")
	}
	return nil
}
