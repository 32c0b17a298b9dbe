package compose

import (
	"bytes"
	"slices"
	"unicode/utf8"

	"arvel/core/markup"
	"arvel/core/phrase"
)

// trimmed returns a selection without the white space at its edges, at the bounds of characters.
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
func (p *Page) crossesTags(from, to int, name string) error {
	for _, at := range []int{from, to} {
		if err := p.Within(at); err != nil {
			return err
		}
	}
	if open, _ := p.Around(from); open != nil && name == "a" {
		return fault("There is a link here already. A link can't be in a link: change this one.")
	}
	depth := 0
	for i := range p.tags {
		t := &p.tags[i]
		switch {
		case t.End <= from || t.Start >= to:
			continue
		case t.Name == "a" && name == "a":
			return fault("There is a link in the selection already. A link can't be in a link: select less, or change that one.")
		case void[t.Name]:
		case t.Closing:
			if depth--; depth < 0 {
				return fault("The selection has %s without its start tag. Select within one element.", phrase.Mono("</"+t.Name+">"))
			}
		default:
			depth++
		}
	}
	if depth > 0 {
		return fault("The selection has a start tag without its end tag. Select the whole element, or within it.")
	}
	return nil
}

// Within says why nothing that a visitor sees can be put at a place: it is outside of the page's body, in a tag, a comment
// or in raw text.
func (p *Page) Within(at int) error {
	begin, end := 0, len(p.Text) // of what is shown
	for i := range p.tags {
		switch t := &p.tags[i]; {
		case t.Start < at && at < t.End:
			return fault("The caret is inside %s. Click into the words it shows.", phrase.Mono(p.tagAsShown(t)))
		case t.Name == "head" && !t.Closing && at > t.Start && at < p.endOf(i):
			begin = len(p.Text)
		case t.Name == "body" && !t.Closing && begin == 0: // those behind the first are ignored (HTML, 13.2.6.4.7)
			begin = t.End
		case t.Name == "body" && t.Closing:
			end = t.Start
		}
	}
	if at < begin || at > end {
		return fault("Visitors see nothing of this part of the page. Click between `<body>` and `</body>`.")
	}
	probe := slices.Concat(p.Text[:at], []byte("<a>"), p.Text[at:])
	if !slices.ContainsFunc(markup.Tags(probe), func(t markup.Tag) bool { return t.Start == at && t.End == at+3 }) {
		return fault("The caret is in a comment, a script or a style, where a browser looks for no links. Click outside of it.")
	}
	return nil
}

// tagAsShown returns a tag with its attributes left out.
func (p *Page) tagAsShown(t *markup.Tag) string {
	if t.NameEnd == t.End-1 {
		return string(p.Text[t.Start:t.End])
	}
	return string(p.Text[t.Start:t.NameEnd]) + " …>"
}

// line returns the white space that the line at a place begins with, and whether anything else is on it before and
// behind the place.
func (p *Page) line(at int) (space string, before, behind bool) {
	start := bytes.LastIndexByte(p.Text[:at], '\n') + 1
	stop := start
	for stop < len(p.Text) && (p.Text[stop] == ' ' || p.Text[stop] == '\t') {
		stop++
	}
	rest, _, _ := bytes.Cut(p.Text[at:], []byte("\n"))
	return string(p.Text[start:min(stop, at)]), stop < at, len(bytes.TrimSpace(rest)) > 0
}

// inner are the elements that hold words, and no lists or paragraphs.
var inner = map[string]bool{"p": true, "h1": true, "h2": true, "h3": true, "h4": true, "h5": true, "h6": true, "pre": true, "dt": true}

// takesBlocks reports whether a list or a paragraph can be put at a place: it is in no element that holds words only.
func (p *Page) takesBlocks(at int) bool {
	for i := len(p.tags) - 1; i >= 0; i-- {
		t := &p.tags[i]
		if t.Start >= at || t.Closing {
			continue
		}
		if blocks[t.Name] && t.Name != "p" || t.Name == "body" {
			if p.endOf(i) >= at {
				return true
			}
			continue
		}
		if inner[t.Name] && p.endOf(i) >= at && p.closers()[i] >= 0 {
			return false
		}
	}
	return true
}
