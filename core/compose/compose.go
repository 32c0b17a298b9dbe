// Package compose writes links and what they need: a link of words or of a picture, an id, a list of contents, an e-mail
// link, a new page after the pattern of another. The target is given and the way to it is worked out; what is written
// looks as its author would have written it. It works on the text of a page as it is being edited, in UTF-8, and answers
// with edits of that.
package compose

import (
	"bytes"
	"fmt"
	"path"
	"slices"
	"strings"
	"sync"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/site"
)

// Page is a page as it is being edited.
type Page struct {
	Snapshot *site.Snapshot
	Path     string
	Text     []byte
	Doc      *markup.Document
	tags     []markup.Tag
	// The habits of the page, found out once.
	rooted, indexLeftOut func() bool
	separator            func() string
	// closers are the numbers of the end tags that close the start tags, found out once.
	closers func() []int
}

// Open reads the text of a page.
func Open(s *site.Snapshot, p string, text []byte) *Page {
	return read(s, p, text, scan(p, text), markup.Tags(text))
}

func scan(p string, text []byte) *markup.Document {
	scanner := scanners.Get().(*markup.Scanner)
	defer scanners.Put(scanner)
	return site.Scan(scanner, p, text)
}

// scanners are kept, since what one remembers is larger than most pages.
var scanners = sync.Pool{New: func() any { return markup.NewTextScanner() }}

// Known is a page as the snapshot has it, without its text: enough to ask it the [Page.AddressOf] to something.
func Known(s *site.Snapshot, p string, doc *markup.Document) *Page { return read(s, p, nil, doc, nil) }

func read(s *site.Snapshot, p string, text []byte, doc *markup.Document, tags []markup.Tag) *Page {
	page := &Page{Snapshot: s, Path: p, Text: text, Doc: doc, tags: tags}
	page.rooted, page.indexLeftOut = sync.OnceValue(page.usesLeadingSlash), sync.OnceValue(page.omitsIndex)
	page.separator = sync.OnceValue(page.separatorOf)
	page.closers = sync.OnceValue(page.matchTags)
	return page
}

// A PlaceError says why something can't be written where it was wanted, and what now.
type PlaceError struct{ Sentence string }

func (e *PlaceError) Error() string { return e.Sentence }

func fault(format string, args ...any) error { return &PlaceError{fmt.Sprintf(format, args...)} }

// Excerpt returns the words between two places of the text, shortened. The text is UTF-8, whatever encoding it declares.
func (p *Page) Excerpt(from, to int) string {
	return markup.Excerpt(slices.Concat([]byte("\xEF\xBB\xBF"), p.Text[from:max(from, to)]), 3)
}

// Visible returns the words between two places of the text as a visitor sees them; where there are tags among them, shortened.
func (p *Page) Visible(from, to int) string {
	if part := p.Text[from:max(from, to)]; bytes.IndexByte(part, '<') < 0 {
		return markup.PlainText(string(part))
	}
	return p.Excerpt(from, to)
}

// resolver resolves references on the page.
func (p *Page) resolver() *address.Resolver {
	r := address.NewResolver(p.Snapshot.Place)
	r.At(p.Path, p.Doc.Base, p.Doc.HasBase)
	return r
}

// start returns the folder that references on the page start from, as a page in it.
func (p *Page) start() string { return p.resolver().Start() }

// titleOf returns what a target is called: its title, its heading, or its address.
func (p *Page) titleOf(target string) string {
	file, fragment, _ := strings.Cut(target, "#")
	i, ok := p.Snapshot.Find(file)
	if !ok || p.Snapshot.Files[i].Doc == nil {
		return target
	}
	doc := p.docOf(i)
	for k := range doc.Headings {
		if fragment != "" && doc.Headings[k].ID == fragment {
			return doc.Headings[k].Text
		}
	}
	if doc.Title != "" {
		return doc.Title
	}
	return path.Base(file)
}

// docOf returns what is in a file, as it is being edited if it is the page.
func (p *Page) docOf(file int32) *markup.Document {
	if f := &p.Snapshot.Files[file]; f.Path != p.Path {
		return f.Doc
	}
	return p.Doc
}

func isSpace(c byte) bool { return c == ' ' || c == '\n' || c == '\t' || c == '\r' || c == '\f' }

// void are the elements that have no end tag.
var void = map[string]bool{
	"area": true, "base": true, "br": true, "col": true, "embed": true, "hr": true, "img": true, "input": true, "link": true, "meta": true, "param": true,
	"source": true, "track": true, "wbr": true,
}

// raw are the elements that have no id to lead to.
var raw = map[string]bool{"title": true, "script": true, "style": true, "textarea": true, "head": true}

// endOf returns where the element of the i-th tag ends.
func (p *Page) endOf(i int) int {
	if k := p.closers()[i]; k >= 0 {
		return p.tags[k].Start
	}
	return len(p.Text)
}

// matchTags returns, for each start tag, the number of the end tag that closes it; -1 where there is none.
func (p *Page) matchTags() []int {
	out := make([]int, len(p.tags))
	open := map[string][]int{}
	for i := range p.tags {
		out[i] = -1
		name := p.tags[i].Name
		if !p.tags[i].Closing {
			open[name] = append(open[name], i)
		} else if n := len(open[name]); n > 0 {
			out[open[name][n-1]] = i
			open[name] = open[name][:n-1]
		}
	}
	return out
}
