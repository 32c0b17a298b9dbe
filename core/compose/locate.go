package compose

import (
	"bytes"
	"regexp"
	"strings"

	"arvel/core/markup"
)

// Begin returns where one begins to write on the page, as a byte offset: behind its first heading of the first level, or where
// its body begins; 0 if it has neither.
func (p *Page) Begin() int {
	at := 0
	for i := range p.tags {
		switch t := &p.tags[i]; {
		case t.Name == "h1" && t.Closing:
			return t.End
		case t.Name == "body" && !t.Closing:
			at = t.End
		}
	}
	return at
}

// Tag returns the byte span of the tag that holds the reference; false if there is none.
func (p *Page) Tag(ref *markup.Reference) (from, to int, ok bool) {
	for i := range p.tags {
		if t := &p.tags[i]; t.Start < int(ref.Start) && int(ref.Start) < t.End {
			return t.Start, t.End, true
		}
	}
	return 0, 0, false
}

// Find returns the byte span of words as a visitor sees them on the page: where they are for the n-th time, from 0, or for
// the last one. White space counts as one space, and tags among the words are looked through.
func (p *Page) Find(words string, n int) (from, to int, ok bool) {
	wanted := strings.Join(strings.Fields(words), " ")
	if wanted == "" {
		return 0, 0, false
	}
	text, places := p.visible()
	at := -1
	for ; n >= 0; n-- {
		next := strings.Index(text[at+1:], wanted)
		if next < 0 {
			break
		}
		at += 1 + next
	}
	if at < 0 {
		return 0, 0, false
	}
	return places[at], places[at+len(wanted)-1] + 1, true
}

// visible returns the text of the page without its tags, comments and what is not shown, white space collapsed, and for each of
// its bytes where that is in the page's text.
func (p *Page) visible() (string, []int) {
	var text []byte
	var places []int
	next := 0
	for next < len(p.tags) && p.tags[next].Name != "body" {
		next++
	}
	i := 0
	if next < len(p.tags) {
		i = p.tags[next].Start
	} else {
		next = 0
	}
	for i < len(p.Text) {
		for next < len(p.tags) && p.tags[next].Start < i {
			next++
		}
		switch {
		case next < len(p.tags) && p.tags[next].Start == i:
			t := &p.tags[next]
			i = t.End
			if raw[t.Name] && !t.Closing {
				i = max(i, p.endOf(next))
			}
			continue
		case bytes.HasPrefix(p.Text[i:], []byte("<!--")):
			end := bytes.Index(p.Text[i:], []byte("-->"))
			if end < 0 {
				return string(text), places
			}
			i += end + len("-->")
			continue
		}
		c := p.Text[i]
		if isSpace(c) {
			c = ' '
		}
		if c != ' ' || len(text) == 0 || text[len(text)-1] != ' ' {
			text, places = append(text, c), append(places, i)
		}
		i++
	}
	return string(text), places
}

// Typing is a reference that is being typed, and so need not be a whole one yet.
type Typing struct {
	// From is where its value begins, as a byte offset. Value is what is typed of it so far, as a browser reads it.
	From  int
	Value string
	// Element is the one in whose tag it is, in lower case; "" if that begins too far before.
	Element string
	// InStyle: it is in a url() of CSS, where no character references are read.
	InStyle bool
}

// typing matches the end of a text in which a reference is being typed.
var typing = regexp.MustCompile(`(?i)(?:\b(?:href|src|action|formaction|poster|cite|data|background|longdesc)\s*=\s*(?:"([^"<>]*)|'([^'<>]*))|url\(\s*["']?([^"')\s]*))$`)

// tagName matches the end of a text in which a tag is being typed.
var tagName = regexp.MustCompile(`<([A-Za-z][A-Za-z0-9]*)\s[^<>]*$`)

// typingLimit is how many bytes before the caret are looked at.
const typingLimit = 2000

// TypingAt returns the reference that is being typed at a place; false if none is.
func (p *Page) TypingAt(at int) (Typing, bool) {
	begin := max(bytes.LastIndexByte(p.Text[:at], '\n')+1, at-typingLimit)
	m := typing.FindSubmatchIndex(p.Text[begin:at])
	if m == nil {
		return Typing{}, false
	}
	for group := 1; group <= 3; group++ {
		if from := m[2*group]; from >= 0 {
			t := Typing{From: begin + from, Value: string(p.Text[begin+from : at]), InStyle: group == 3}
			if !t.InStyle {
				ref := markup.Reference{Written: t.Value, Flags: markup.Escaped}
				t.Value = ref.Value()
				if open := tagName.FindSubmatch(p.Text[max(0, at-typingLimit):at]); open != nil {
					t.Element = strings.ToLower(string(open[1]))
				}
			}
			return t, true
		}
	}
	return Typing{}, false
}

// Insert returns what is put in the place of what is typed so that the reference is the value.
func (t Typing) Insert(value string) string {
	if t.InStyle {
		return value
	}
	return attribute(value)
}
