package compose

import (
	"bytes"
	"slices"
	"strings"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// Changes are how a link is to be changed; what is nil or "" stays as it is.
type Changes struct {
	// Target is as [Link] has it, Text what the link is to show.
	Target, Text string
	Title        *string // the tooltip; "" for none
	NewTab       *bool
}

// Change changes the link around a place of the text, and nothing that was not asked for: target only between none and
// _blank, rel as a set of tokens (HTML, 4.6.1 and 4.6.7). A *PlaceError says why something can't be changed.
func (p *Page) Change(at int, l Changes) ([]change.Edit, error) {
	open, end := p.Around(at)
	if open == nil {
		return nil, fault("There is no link here.")
	}
	t := tagEdits{page: p, open: open}
	if l.Target != "" {
		t.set("href", p.AddressOf(l.Target))
	}
	if l.Title != nil {
		t.set("title", *l.Title)
	}
	if l.NewTab != nil {
		if err := t.newTab(*l.NewTab); err != nil {
			return nil, err
		}
	}
	if l.Text != "" {
		edit, err := p.words(open, end, l.Text)
		if err != nil {
			return nil, err
		}
		t.edits = append(t.edits, edit...)
	}
	return t.edits, nil
}

// words returns the edit that gives a link other words. Words that hold markup are not replaced, since it would be lost.
func (p *Page) words(open, end *markup.Tag, text string) ([]change.Edit, error) {
	stop := len(p.Text)
	if end != nil {
		stop = end.Start
	}
	fresh, now := markup.EscapeText(text), p.Text[open.End:stop]
	if string(now) == fresh || text == p.Excerpt(open.End, stop) {
		return nil, nil
	}
	if i := bytes.IndexByte(now, '<'); i >= 0 {
		tag, _, _ := strings.Cut(string(now[i:]), ">")
		return nil, fault("The words of this link hold markup, %s, which new words would take away. Change them in the source.", phrase.Mono(tag+">"))
	}
	return []change.Edit{{Start: open.End, End: stop, New: []byte(fresh)}}, nil
}

// tagEdits gathers the edits of one start tag.
type tagEdits struct {
	page  *Page
	open  *markup.Tag
	edits []change.Edit
}

// value returns what an attribute says, decoded, and whether the tag has it.
func (t *tagEdits) value(name string) (string, bool) {
	start, stop, _, has := markup.AttributeOf(t.page.Text, t.open.Start, name)
	if !has {
		return "", false
	}
	ref := markup.Reference{Written: string(t.page.Text[start:stop]), Flags: markup.Escaped}
	return ref.Value(), true
}

// set lets an attribute say a value; "" takes it away. One that says it already is left as it is written.
func (t *tagEdits) set(name, value string) {
	text := t.page.Text
	start, stop, quote, has := markup.AttributeOf(text, t.open.Start, name)
	now, _ := t.value(name)
	switch {
	case has && value == now && (value != "" || name == "href"), !has && value == "":
	case value == "":
		if from, to, ok := markup.AttributeSpan(text, t.open.Start, name); ok {
			t.edits = append(t.edits, change.Edit{Start: from, End: to})
		}
	case has:
		fresh := markup.EscapeAttribute(value, quote, true)
		if quote == 0 && (start == stop || strings.ContainsAny(value, " \t\"'=<>`")) {
			fresh = `"` + attribute(value) + `"`
		}
		if start == stop && quote == 0 && text[start-1] != '=' {
			fresh = "=" + fresh // the attribute was written without a value
		}
		t.edits = append(t.edits, change.Edit{Start: start, End: stop, New: []byte(fresh)})
	default:
		at := t.open.NameEnd
		if _, hrefEnd, q, ok := markup.AttributeOf(text, t.open.Start, "href"); ok && name != "href" {
			at = hrefEnd
			if q != 0 {
				at++
			}
		}
		t.edits = append(t.edits, change.Edit{Start: at, End: at, New: []byte(" " + name + `="` + attribute(value) + `"`)})
	}
}

// newTab lets the link open in a new tab, or not. A link that opens in a frame or a window with a name keeps that.
func (t *tagEdits) newTab(on bool) error {
	target, _ := t.value("target")
	is := strings.EqualFold(target, "_blank")
	if is == on {
		return nil
	}
	if on && target != "" {
		return fault("This link opens in the frame or window %s. Take its `target` away in the source first, if it is to open in a new tab.", phrase.Mono(target))
	}
	rel, _ := t.value("rel")
	tokens := strings.Fields(rel)
	named := func(names ...string) func(string) bool {
		return func(token string) bool { return slices.Contains(names, strings.ToLower(token)) }
	}
	if on {
		t.set("target", "_blank")
		if !slices.ContainsFunc(tokens, named("noopener", "noreferrer")) {
			t.set("rel", strings.Join(append(tokens, "noopener"), " "))
		}
		return nil
	}
	t.set("target", "")
	if kept := slices.DeleteFunc(slices.Clone(tokens), named("noopener")); len(kept) < len(tokens) {
		t.set("rel", strings.Join(kept, " "))
	}
	return nil
}
