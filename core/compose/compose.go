// Package compose writes links and what they need: a link of words or of a picture, an id, a list of contents, an e-mail
// link, a new page after the pattern of another. The target is given and the way to it is worked out; what is written
// looks as its author would have written it. It works on the text of a page as it is being edited, in UTF-8, and answers
// with edits of that.
package compose

import (
	"bytes"
	"cmp"
	"fmt"
	"path"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/naming"
	"arvel/core/phrase"
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

// resolver resolves references on the page.
func (p *Page) resolver() *address.Resolver {
	r := address.NewResolver(p.Snapshot.Place)
	r.At(p.Path, p.Doc.Base, p.Doc.HasBase)
	return r
}

// start returns the folder that references on the page start from, as a page in it.
func (p *Page) start() string { return p.resolver().Start() }

// AddressOf returns what is written on the page for a target: a path in the folder, with its fragment, or an address outside.
// It is relative or root-relative as most of the page's references are, and names index pages or leaves them out as they
// do.
func (p *Page) AddressOf(target string) string {
	if address.SchemeOf(target) != "" || strings.HasPrefix(target, "//") {
		return target
	}
	file, fragment, has := strings.Cut(target, "#")
	if has {
		fragment = "#" + address.EscapeFragment(fragment)
	}
	if file == p.Path && has && !p.Doc.HasBase {
		return fragment
	}
	if dir, name := site.Cut(file); slices.Contains(p.Snapshot.IndexNames, name) && p.indexLeftOut() {
		file = strings.TrimPrefix(dir+"/", "/")
	}
	if p.rooted() {
		return p.Snapshot.Place.Mount + strings.TrimPrefix(address.Relative("", file), "./") + fragment
	}
	return address.Relative(p.start(), file) + fragment
}

// usesLeadingSlash tells whether most of the page's references into the folder begin with a slash.
func (p *Page) usesLeadingSlash() bool {
	rooted, all := 0, 0
	for i := range p.Doc.References {
		v := p.Doc.References[i].Value()
		if v == "" || v[0] == '#' || address.SchemeOf(v) != "" || strings.HasPrefix(v, "//") {
			continue
		}
		all++
		if v[0] == '/' {
			rooted++
		}
	}
	return rooted*2 > all
}

// omitsIndex tells whether the page, or else the folder, leaves out the names of index pages more often than not.
func (p *Page) omitsIndex() bool {
	out, in := 0, 0
	count := func(d *markup.Document) {
		for i := range d.References {
			part, _, _ := address.Split(d.References[i].Written)
			switch name := path.Base(part); {
			case address.SchemeOf(part) != "" || part == "":
			case strings.HasSuffix(part, "/"):
				out++
			case slices.Contains(p.Snapshot.IndexNames, name):
				in++
			}
		}
	}
	count(p.Doc)
	for i := 0; out+in == 0 && i < min(len(p.Snapshot.Files), 200); i++ {
		if d := p.Snapshot.Files[i].Doc; d != nil {
			count(d)
		}
	}
	return out > in
}

// attribute writes a value as it stands in a double-quoted attribute.
func attribute(value string) string { return markup.EscapeAttribute(value, '"', true) }

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

// Around returns the a element around a place of the text: its start tag and its end tag; none of them if it stands in
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
	if err := p.whole(from, to); err != nil {
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

// Words finds where words stand first on the page that a link to the target can be made of, and its edits, two; -1 where
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

// docOf returns what stands in a file, as it is being edited if it is the page.
func (p *Page) docOf(file int32) *markup.Document {
	if f := &p.Snapshot.Files[file]; f.Path != p.Path {
		return f.Doc
	}
	return p.Doc
}

func isSpace(c byte) bool { return c == ' ' || c == '\n' || c == '\t' || c == '\r' || c == '\f' }

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

// whole tells what is in the way of putting an element around a stretch of the text.
func (p *Page) whole(from, to int) error {
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

// Within tells why nothing that a visitor sees can be put at a place: it is outside of the page's body, in a tag, a comment
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
	nearest := -1
	for i := range p.tags {
		if k := &p.tags[i]; k.Start <= at && !k.Closing && !raw[k.Name] && k.Name != "html" && k.Name != "body" && k.Name != "a" {
			nearest = i
		}
	}
	if nearest < 0 {
		return "", nil, fault("There is no element here that could have an id.")
	}
	t := &p.tags[nearest]
	if start, end, _, ok := markup.AttributeOf(p.Text, t.Start, "id"); ok && end > start {
		return string(p.Text[start:end]), nil, nil
	}
	if words == "" {
		words = p.Excerpt(t.End, p.endOf(nearest))
		if f := strings.Fields(words); len(f) > 6 {
			words = strings.Join(f[:6], " ")
		}
	}
	id = p.IDFor(words)
	return id, []change.Edit{{Start: t.NameEnd, End: t.NameEnd, New: []byte(` id="` + attribute(id) + `"`)}}, nil
}

// line returns the white space that the line at a place begins with, and whether anything else stands on it before and
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

// block writes lines at a place, each indented as the one there, on lines of their own.
func (p *Page) block(at int, lines []string) change.Edit {
	space, before, behind := p.line(at)
	text := strings.Join(lines, "\n"+space)
	if before {
		text = "\n" + space + text
	}
	if behind {
		text += "\n" + space
	}
	return change.Edit{Start: at, End: at, New: []byte(text)}
}

// entry is one of a list of contents.
type entry struct {
	level    int
	id, text string
}

// contentsLines writes a list of contents, what stands under a heading in a list of its own.
func contentsLines(list []entry, start string) []string {
	out := []string{start}
	for i := 0; i < len(list); {
		e := list[i]
		under := i + 1
		for under < len(list) && list[under].level > e.level {
			under++
		}
		item := `  <li><a href="#` + attribute(address.EscapeFragment(e.id)) + `">` + markup.EscapeText(e.text) + "</a>"
		if under == i+1 {
			out = append(out, item+"</li>")
		} else {
			out = append(out, item)
			for _, line := range contentsLines(list[i+1:under], "<ul>") {
				out = append(out, "    "+line)
			}
			out = append(out, "  </li>")
		}
		i = under
	}
	return append(out, "</ul>")
}

// Contents writes a list of contents from the page's headings of the given levels at a place, giving each the id that it
// needs; or renews the one that the page has, which is the list with the id "contents".
func (p *Page) Contents(at, from, to int) ([]change.Edit, error) {
	var edits []change.Edit
	var list []entry
	given, next := map[string]bool{}, map[string]int{}
	for i := range p.Doc.Headings {
		h := &p.Doc.Headings[i]
		if int(h.Level) < from || int(h.Level) > to || h.Text == "" {
			continue
		}
		id := h.ID
		if id == "" {
			id = p.stem(h.Text)
			id = p.free(id, next, func(id string) bool { return given[id] || p.Doc.Anchor(id) != nil })
			given[id] = true
			edits = append(edits, change.Edit{Start: int(h.NameEnd), End: int(h.NameEnd), New: []byte(` id="` + attribute(id) + `"`)})
		}
		list = append(list, entry{int(h.Level), id, h.Text})
	}
	if len(list) == 0 {
		return nil, fault("There is no heading of that level on the page with words in it. Write the headings first.")
	}
	start, stop := at, at
	for i := range p.tags {
		if t := &p.tags[i]; !t.Closing && (t.Name == "ul" || t.Name == "ol") {
			if a, b, _, ok := markup.AttributeOf(p.Text, t.Start, "id"); ok && string(p.Text[a:b]) == "contents" {
				start, stop = t.Start, p.endOf(i)
				stop = min(len(p.Text), stop+len("</ul>"))
			}
		}
	}
	lines := contentsLines(list, `<ul id="contents">`)
	if start == stop {
		return append(edits, p.block(start, lines)), nil
	}
	space, _, _ := p.line(start)
	text := strings.Join(lines, "\n"+space)
	if string(p.Text[start:stop]) == text && len(edits) == 0 {
		return nil, fault("The list of contents is as the headings are.")
	}
	return append(edits, change.Edit{Start: start, End: stop, New: []byte(text)}), nil
}

// BackToTop writes a way back to the top before each heading of the second level but the first, and at the page's end,
// unless one stands there.
func (p *Page) BackToTop(words string) ([]change.Edit, error) {
	var edits []change.Edit
	line := `<p><a href="#top">` + markup.EscapeText(words) + "</a></p>"
	put := func(at int) {
		before := p.Text[:at]
		if bytes.HasSuffix(bytes.TrimSpace(before), []byte(line)) {
			return
		}
		space, _, _ := p.line(at)
		edits = append(edits, change.Edit{Start: at, End: at, New: []byte(line + "\n" + space)})
	}
	first := true
	for i := range p.tags {
		t := &p.tags[i]
		if t.Name == "h2" && !t.Closing {
			if !first {
				put(t.Start)
			}
			first = false
		}
	}
	if first {
		return nil, fault("The page has no headings of the second level. Choose a place, and make a link to the top there.")
	}
	if end := p.contentEnd(); end > 0 {
		put(end)
	}
	if len(edits) == 0 {
		return nil, fault("There is a way back to the top after each section already.")
	}
	return edits, nil
}

// contentEnd returns where a page's own content ends: before its foot, or before the end of its body.
func (p *Page) contentEnd() int {
	end := len(p.Text)
	for i := range p.tags {
		t := &p.tags[i]
		foot := false
		if !t.Closing {
			a, b, _, ok := markup.AttributeOf(p.Text, t.Start, "class")
			foot = t.Name == "footer" || ok && strings.Contains(string(p.Text[a:b]), "foot")
		}
		if foot || t.Closing && (t.Name == "main" || t.Name == "body" || t.Name == "html") {
			return t.Start
		}
	}
	return end
}

// Picture writes a picture of the folder, with what it shows in words, or declared as decoration by "", and its size in
// pixels where that is known.
func (p *Page) Picture(at int, target, alt string, width, height int) []change.Edit {
	var b strings.Builder
	fmt.Fprintf(&b, `<img src="%s" alt="%s"`, attribute(p.AddressOf(target)), attribute(alt))
	if width > 0 && height > 0 {
		fmt.Fprintf(&b, ` width="%d" height="%d"`, width, height)
	}
	b.WriteString(">")
	return []change.Edit{{Start: at, End: at, New: []byte(b.String())}}
}

// Frame embeds a page or an outside player.
func (p *Page) Frame(at int, target, title string) []change.Edit {
	return []change.Edit{{Start: at, End: at, New: fmt.Appendf(nil, `<iframe src="%s" title="%s"></iframe>`, attribute(p.AddressOf(target)), attribute(title))}}
}

// List writes a list of links to pages, by their titles.
func (p *Page) List(at int, targets []string) []change.Edit {
	lines := []string{"<ul>"}
	for _, t := range targets {
		lines = append(lines, fmt.Sprintf(`  <li><a href="%s">%s</a></li>`, attribute(p.AddressOf(t)), markup.EscapeText(p.titleOf(t))))
	}
	return []change.Edit{p.block(at, append(lines, "</ul>"))}
}

// NameFor checks the path of a new page and returns it with an extension, and what is wrong with the name, if anything.
func NameFor(s *site.Snapshot, p string) (name, wrong string) {
	name = strings.Trim(path.Clean("/"+p), "/")
	if name != "" && path.Ext(name) == "" {
		name += ".html"
	}
	fault := naming.PathFault(name)
	switch {
	case name == "" || strings.HasSuffix(p, "/"):
		return name, "needs a name"
	case fault != "":
		return name, fault
	case s.Exists(name):
		return name, "is there already"
	case len(s.Folded(name)) > 0:
		return name, "is there already in other letter case"
	}
	return name, naming.FileFault(name)
}
