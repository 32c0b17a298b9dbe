package compose

import (
	"cmp"
	"fmt"
	"strings"
	"unicode"

	"arvel/core/change"
	"arvel/core/markup"

	"golang.org/x/text/unicode/norm"
)

// IDFor makes an id of words, by the folder's habit, that is not on the page yet: small letters, joined by "-" or "_".
func (p *Page) IDFor(words string) string {
	return p.free(p.stem(words), map[string]int{}, func(id string) bool { return p.Doc.Anchor(id) != nil })
}

// stem makes an id of words, whether it is on the page already or not.
func (p *Page) stem(words string) string {
	sep := p.separator()
	var b strings.Builder
	gap := false
	for _, r := range norm.NFC.String(strings.ToLower(words)) {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if gap && b.Len() > 0 {
				b.WriteString(sep)
			}
			gap = false
			b.WriteRune(r)
		case r == '\'' || r == '’':
		default:
			gap = true
		}
	}
	id := b.String()
	return cmp.Or(id, "part")
}

// free returns a name that is not taken: the stem itself, or with the first number after it that makes it one. next are the
// numbers to go on from, by stem.
func (p *Page) free(stem string, next map[string]int, taken func(id string) bool) string {
	id := stem
	for n := max(2, next[stem]); taken(id); n++ {
		id = fmt.Sprintf("%s%s%d", stem, p.separator(), n)
		next[stem] = n + 1
	}
	return id
}

// separatorOf returns what most ids of the page, or else of the folder, have between their words.
func (p *Page) separatorOf() string {
	hyphens, lines := 0, 0
	count := func(d *markup.Document) {
		for i := range d.Anchors {
			hyphens += strings.Count(d.Anchors[i].Name, "-")
			lines += strings.Count(d.Anchors[i].Name, "_")
		}
	}
	count(p.Doc)
	for i := 0; hyphens+lines == 0 && i < len(p.Snapshot.Files); i++ {
		if d := p.Snapshot.Files[i].Doc; d != nil {
			count(d)
		}
	}
	if lines > hyphens {
		return "_"
	}
	return "-"
}

// GiveHeadingID gives the first heading of that text that has no id one, and returns it; "" if there is no such heading.
func (p *Page) GiveHeadingID(text string) (id string, edits []change.Edit, err error) {
	for i := range p.Doc.Headings {
		if h := &p.Doc.Headings[i]; h.Text == text && h.ID == "" {
			return p.GiveID(int(h.NameEnd), text)
		}
	}
	return "", nil, nil
}

// GiveID gives the element whose start tag is around or before a place an id made of words, and returns it. An element
// that has one keeps it.
func (p *Page) GiveID(at int, words string) (id string, edits []change.Edit, err error) {
	i := p.idHolder(at)
	if i < 0 {
		return "", nil, fault("There is no element here that can have an id.")
	}
	t := &p.tags[i]
	if id := p.attribute(t, "id"); id != "" {
		return id, nil, nil
	}
	id = p.IDFor(cmp.Or(words, p.wordsOf(i)))
	return id, []change.Edit{{Start: t.NameEnd, End: t.NameEnd, New: []byte(` id="` + attribute(id) + `"`)}}, nil
}

// idHolder returns the number of the start tag around or before a place whose element can have an id; -1 if there is none.
func (p *Page) idHolder(at int) int {
	nearest := -1
	for i := range p.tags {
		if k := &p.tags[i]; k.Start <= at && !k.Closing && !raw[k.Name] && k.Name != "html" && k.Name != "body" && k.Name != "a" && k.Name != "br" {
			nearest = i
		}
	}
	return nearest
}

// wordsOf returns what the element of the i-th tag shows, its first words.
func (p *Page) wordsOf(i int) string {
	words := p.Excerpt(p.tags[i].End, p.endOf(i))
	if f := strings.Fields(words); len(f) > 6 {
		words = strings.Join(f[:6], " ")
	}
	return words
}

// IDElement returns the element around or before a place that can have an id, and the id that it has or that is made for it of
// its words; false if there is none.
func (p *Page) IDElement(at int) (Element, string, bool) {
	i := p.idHolder(at)
	if i < 0 {
		return Element{}, "", false
	}
	e := p.element(i)
	id, has := e.Attributes.Get("id")
	if !has || id == "" {
		id = p.IDFor(p.wordsOf(i))
	}
	return e, id, true
}
