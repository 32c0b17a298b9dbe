package compose

import (
	"bytes"
	"strings"
	"unicode"
	"unicode/utf8"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/mailbox"
)

// Words finds where words are first on the page that a link to the target can be made of, and its edits, two; -1 where
// they don't, but within a link, a tag, or another word. more are the link's attributes besides its href.
func (p *Page) Words(words, target string, more Attributes) (from int, edits []change.Edit) {
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
		if letter(before) || letter(behind) {
			continue
		}
		as := append(Attributes{{"href", p.AddressOf(target)}}, more...)
		if edits, err := p.Enclose(from, to, "a", as, nil); err == nil {
			return from, edits
		}
	}
}

// WordsFor returns what a link with an address shows if its author says nothing: the title of the page or the heading that it
// leads to, the mailbox, or the address itself.
func (p *Page) WordsFor(href string) string {
	t := p.resolver().Resolve(href)
	switch l := p.Snapshot.Land(&t); {
	case t.Kind == address.Mail:
		return strings.Join(mailbox.Parse(href).To, ", ")
	case t.Own, l.File >= 0:
		file := p.Path
		if l.File >= 0 {
			file = p.Snapshot.Files[l.File].Path
		}
		if t.HasFragment {
			file += "#" + address.UnescapeFragment(t.Fragment)
		}
		return p.titleOf(file)
	}
	_, bare, ok := strings.Cut(href, "://")
	if !ok {
		return href
	}
	return strings.TrimSuffix(bare, "/")
}
