package compose

import (
	"bytes"
	"slices"
	"strings"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// Attribute is an attribute of a tag, its value decoded.
type Attribute struct{ Name, Value string }

// Attributes are those of a tag, in order.
type Attributes []Attribute

// Get returns the value of an attribute; false if it is not among them.
func (as Attributes) Get(name string) (string, bool) {
	i := slices.IndexFunc(as, func(a Attribute) bool { return a.Name == name })
	if i < 0 {
		return "", false
	}
	return as[i].Value, true
}

// With returns them with the value for a name, at its place or at the end.
func (as Attributes) With(name, value string) Attributes {
	as = slices.Clone(as)
	if i := slices.IndexFunc(as, func(a Attribute) bool { return a.Name == name }); i >= 0 {
		as[i].Value = value
		return as
	}
	return append(as, Attribute{name, value})
}

// Without returns them without the one of a name.
func (as Attributes) Without(name string) Attributes {
	return slices.DeleteFunc(slices.Clone(as), func(a Attribute) bool { return a.Name == name })
}

// WithOpener returns them with the rel that goes with their target: a link that is let open a new tab gets noopener, unless it
// has it or noreferrer; one that no longer does loses noopener. before are those that the tag had. Other tokens of rel stay
// (HTML, 4.6.7).
func (as Attributes) WithOpener(before Attributes) Attributes {
	target, _ := as.Get("target")
	was, _ := before.Get("target")
	if strings.EqualFold(target, was) {
		return as
	}
	rel, _ := as.Get("rel")
	tokens := strings.Fields(rel)
	named := func(names ...string) func(string) bool {
		return func(token string) bool { return slices.Contains(names, strings.ToLower(token)) }
	}
	switch {
	case strings.EqualFold(target, "_blank") && !slices.ContainsFunc(tokens, named("noopener", "noreferrer")):
		return as.With("rel", strings.Join(append(tokens, "noopener"), " "))
	case strings.EqualFold(was, "_blank") && slices.ContainsFunc(tokens, named("noopener")):
		if tokens = slices.DeleteFunc(tokens, named("noopener")); len(tokens) == 0 {
			return as.Without("rel")
		}
		return as.With("rel", strings.Join(tokens, " "))
	}
	return as
}

// written returns them as they are in a start tag, each behind a space.
func (as Attributes) written() string {
	var b strings.Builder
	for _, a := range as {
		b.WriteString(" " + a.Name + `="` + attribute(a.Value) + `"`)
	}
	return b.String()
}

// Element is an element of the page as it is in its text.
type Element struct {
	// Name is in lower case.
	Name       string
	Attributes Attributes
	// Words are what it shows, decoded; empty for a void element.
	Words string
	// Holds is the first tag among the words, which new words would take away; empty if there is none.
	Holds string
	// Void elements have no end tag and no words.
	Void bool

	open *markup.Tag
	stop int // where its content ends
	end  *markup.Tag
}

// Start returns the byte offset of its start tag.
func (e *Element) Start() int { return e.open.Start }

// ElementAt returns the element that a selection or a caret is meant for: the one whose tag it is in or which it selects, or
// else the link around it; false if there is none.
func (p *Page) ElementAt(from, to int) (Element, bool) {
	for i := range p.tags {
		t := &p.tags[i]
		if t.Start > from {
			break
		}
		if within := t.Start < from && to < t.End; within || from < to && to == t.End && from == t.Start {
			if open := p.opener(i); open >= 0 {
				return p.element(open), true
			}
			return Element{}, false
		}
	}
	return p.linkAround(from)
}

// linkAround returns the link that is around a place; false if there is none.
func (p *Page) linkAround(at int) (Element, bool) {
	open, _ := p.Around(at)
	if open == nil {
		return Element{}, false
	}
	return p.element(slices.IndexFunc(p.tags, func(t markup.Tag) bool { return t.Start == open.Start })), true
}

// opener returns the number of the start tag that the i-th tag is or closes; -1 if it closes none.
func (p *Page) opener(i int) int {
	if !p.tags[i].Closing {
		return i
	}
	return slices.Index(p.closers(), i)
}

// element returns the element of the i-th tag.
func (p *Page) element(i int) Element {
	t := &p.tags[i]
	e := Element{Name: t.Name, open: t, stop: t.End, Void: void[t.Name]}
	for _, a := range markup.AttributesOf(p.Text, t.Start) {
		if _, repeated := e.Attributes.Get(a.Name); !repeated {
			e.Attributes = append(e.Attributes, Attribute{a.Name, p.value(&a)})
		}
	}
	if e.Void {
		return e
	}
	if t.Name == "a" {
		_, e.end = p.Around(t.Start + 1)
	} else if k := p.closers()[i]; k >= 0 {
		e.end = &p.tags[k]
	}
	e.stop = len(p.Text)
	if e.end != nil {
		e.stop = e.end.Start
	}
	e.Words = p.Visible(e.open.End, e.stop)
	if n := bytes.IndexByte(p.Text[e.open.End:e.stop], '<'); n >= 0 {
		tag, _, _ := strings.Cut(string(p.Text[e.open.End+n:e.stop]), ">")
		e.Holds = tag + ">"
	}
	return e
}

func (p *Page) value(a *markup.TagAttribute) string {
	ref := markup.Reference{Written: string(p.Text[a.ValueStart:a.ValueEnd]), Flags: markup.Escaped}
	return ref.Value()
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
		case t.End <= at:
			open = nil
		case open == nil:
			return nil, nil
		default:
			return open, t
		}
	}
	return open, nil
}

// Rewrite returns the edits that give an element other attributes, and other words unless they are nil. What stays the same
// stays as it is written; new attributes come behind the others, an id before them. Words that hold markup are not replaced,
// since it would be lost: a *PlaceError says so.
func (p *Page) Rewrite(e *Element, as Attributes, words *string) ([]change.Edit, error) {
	var edits []change.Edit
	now := markup.AttributesOf(p.Text, e.open.Start)
	last := e.open.NameEnd
	seen := map[string]bool{}
	for i := range now {
		a := &now[i]
		first := !seen[a.Name]
		seen[a.Name] = true
		value, kept := as.Get(a.Name)
		if !kept {
			from, to := a.WithSpace(p.Text)
			edits = append(edits, change.Edit{Start: from, End: to})
			continue
		}
		last = max(last, a.End)
		if first && value != p.value(a) {
			edits = append(edits, change.Edit{Start: a.ValueStart, End: a.ValueEnd, New: []byte(rewritten(a, value))})
		}
	}
	for _, a := range as {
		if _, has := e.Attributes.Get(a.Name); has {
			continue
		}
		at := last
		if a.Name == "id" {
			at = e.open.NameEnd
		}
		edits = append(edits, change.Edit{Start: at, End: at, New: []byte(Attributes{a}.written())})
	}
	if words == nil || e.Void || *words == e.Words {
		return edits, nil
	}
	if e.Holds != "" {
		return nil, fault("The words of this link hold %s, which new words would take away. Change them in the source.", phrase.Mono(e.Holds))
	}
	return append(edits, change.Edit{Start: e.open.End, End: e.stop, New: []byte(markup.EscapeText(*words))}), nil
}

// rewritten returns what is put in the place of an attribute's value.
func rewritten(a *markup.TagAttribute, value string) string {
	switch {
	case a.Bare:
		return `="` + attribute(value) + `"`
	case a.Quote == 0 && (value == "" || a.ValueStart == a.ValueEnd || strings.ContainsAny(value, " \t\n\r\f\"'=<>`") || strings.HasSuffix(value, "/")):
		return `"` + attribute(value) + `"`
	}
	return markup.EscapeAttribute(value, a.Quote, true)
}

// Unlink returns the edits that take the tags of an element away and keep what it shows.
func (p *Page) Unlink(e *Element) []change.Edit {
	out := []change.Edit{{Start: e.open.Start, End: e.open.End}}
	if e.end != nil {
		out = append(out, change.Edit{Start: e.end.Start, End: e.end.End})
	}
	return out
}

// Enclose returns the edits that put an element around what is selected, or write one with words where nothing is. White
// space at the edges of the selection stays outside of it. Words other than nil take the place of the selection. A
// *PlaceError says why that can't be done there.
func (p *Page) Enclose(from, to int, name string, as Attributes, words *string) ([]change.Edit, error) {
	from, to = p.trimmed(from, to)
	if err := p.crossesTags(from, to, name); err != nil {
		return nil, err
	}
	open, end := "<"+name+as.written()+">", "</"+name+">"
	switch {
	case void[name]:
		return []change.Edit{{Start: from, End: from, New: []byte(open)}}, nil
	case words != nil && (from == to || *words != p.Visible(from, to)):
		return []change.Edit{{Start: from, End: to, New: []byte(open + markup.EscapeText(*words) + end)}}, nil
	}
	return []change.Edit{{Start: from, End: from, New: []byte(open)}, {Start: to, End: to, New: []byte(end)}}, nil
}
