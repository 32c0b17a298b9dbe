package markup

import (
	"bytes"
	"encoding/binary"
	"hash/maphash"
	"slices"
	"strings"
	"unicode/utf8"
)

// textLimit is how many bytes of a link's or heading's text are kept.
const textLimit = 240

// Scanner reads pages one after another and keeps each string that repeats only once. It is not safe for use
// by several goroutines; give each its own.
type Scanner struct {
	interned *[internSize]string
	utf8     bool // whatever a page declares

	// Of the page at hand:
	src   []byte
	cs    charset
	valid bool // src is valid UTF-8
	ascii bool // src is nothing but ASCII
	doc   *Document
	moved []uint32 // of a transcoded page, where each byte came from
	root  Element  // what the whole file is in: SVG, or Other
	tag   tag

	at       position // the furthest place whose line is known
	before   position // the furthest such place before the tag at hand
	template int      // templates that are open
	foreign  []Element

	references []Reference // scratch: a page's are copied once they are counted
	anchorList []Anchor
	squeezed   []byte
	foreignTo  int  // how far SVG's style and title were read, so that nested ones are not read again and again
	seen       bool // something on the page can be seen

	link    collector // text of the open a element
	linkRef int       // its reference, or -1
	linkEnd int       // where its start tag ends
	tagAt   int       // where the tag at hand begins
	heading collector
}

// position is a place in the file in lines and columns.
type position struct {
	offset int
	line   uint32
	column uint32
}

// collector gathers the text of an element until its end tag.
type collector struct {
	open bool
	text []byte
}

// internSize is how many strings a Scanner remembers.
const internSize = 1 << 14

var seed = maphash.MakeSeed()

// NewScanner returns a Scanner with nothing remembered.
func NewScanner() *Scanner { return &Scanner{interned: new([internSize]string)} }

// NewTextScanner returns a Scanner for text that is UTF-8 whatever encoding it declares, as text that is being edited is.
func NewTextScanner() *Scanner {
	s := NewScanner()
	s.utf8 = true
	return s
}

// Page reads a page. It never fails: whatever the bytes are, a browser would make something of them, and
// what it can't is named in the document's faults.
func (s *Scanner) Page(src []byte) *Document {
	s.begin(src)
	if len(s.doc.Faults) == 0 || s.doc.Faults[0] != Binary {
		s.scan()
	}
	return s.end()
}

// begin gets ready to read a file: its encoding, transcoded if need be, and nothing found yet.
func (s *Scanner) begin(src []byte) {
	s.doc = &Document{}
	if s.cs, s.valid = detect(src); s.utf8 {
		s.cs, s.valid = charset{name: "utf-8"}, utf8.Valid(src)
	}
	s.doc.Encoding = s.cs.name
	s.moved = nil
	switch {
	case s.cs.stateful:
		t := transcode(src, s.cs)
		s.cs.enc, s.cs.bom, s.moved = nil, 0, t.from
		src = t.text
	case bytes.IndexByte(src[:min(len(src), prescanLimit)], 0) >= 0:
		s.doc.Faults = append(s.doc.Faults, Binary)
	case s.cs.name == "utf-8" && !s.valid:
		s.doc.Faults = append(s.doc.Faults, BadBytes)
	}
	s.src, s.ascii = src, isASCII(src)
	s.at = position{offset: s.cs.bom, line: 1, column: 1}
	s.template, s.foreign = 0, s.foreign[:0]
	if s.root != Other {
		s.foreign = append(s.foreign, s.root)
	}
	s.tag.element = Other
	s.link, s.heading = collector{text: s.link.text[:0]}, collector{text: s.heading.text[:0]}
	s.linkRef = -1
	s.seen, s.foreignTo = false, 0
	s.references, s.anchorList = s.references[:0], s.anchorList[:0]
}

// end returns what was found, and lets go of the file's bytes.
func (s *Scanner) end() *Document {
	s.closeLink()
	s.closeHeading()
	d := s.doc
	d.References, d.Anchors = slices.Clone(s.references), slices.Clone(s.anchorList)
	if s.moved != nil {
		d.mapSpans(s.moved)
	}
	d.Empty = !s.seen
	d.sortAnchors()
	s.src, s.doc, s.moved = nil, nil, nil
	return d
}

// mapSpans turns offsets in a transcoded page into offsets in the file.
func (d *Document) mapSpans(from []uint32) {
	for i := range d.References {
		r := &d.References[i]
		r.Start, r.End = from[r.Start], from[r.End]
	}
	for i := range d.Anchors {
		a := &d.Anchors[i]
		a.Start, a.End, a.After = from[a.Start], from[a.End], from[a.After]
	}
	d.BaseStart, d.BaseEnd = from[d.BaseStart], from[d.BaseEnd]
	for i := range d.Headings {
		d.Headings[i].NameEnd = from[d.Headings[i].NameEnd]
	}
}

// scan reads the page from its first byte to its last.
func (s *Scanner) scan() {
	src, i := s.src, s.cs.bom
	for {
		lt := bytes.IndexByte(src[i:], '<')
		if lt < 0 {
			s.seen = s.seen || len(bytes.TrimSpace(src[i:])) > 0
			s.text(src[i:])
			break
		}
		if lt > 0 {
			if !s.seen {
				s.seen = len(bytes.TrimSpace(src[i:i+lt])) > 0
			}
			s.text(src[i : i+lt])
			i += lt
		}
		end, cut := s.markup(i)
		if cut {
			s.doc.Faults = append(s.doc.Faults, CutOff)
		}
		i = end
	}
}

// markup reads what begins with the '<' at i and returns the offset behind it; cut tells that the page ended
// within.
func (s *Scanner) markup(i int) (end int, cut bool) {
	src := s.src
	if i+1 >= len(src) {
		return len(src), false
	}
	switch c := src[i+1]; {
	case isLetter(c):
		return s.element(i)
	case c == '/':
		if i+2 >= len(src) {
			return len(src), false
		}
		if isLetter(src[i+2]) {
			return s.element(i)
		}
		return bogusComment(src, i+2)
	case c == '!':
		return s.declaration(i)
	case c == '?' && s.root != Other:
		return s.instruction(i)
	case c == '?':
		return bogusComment(src, i+2)
	}
	s.text(src[i : i+1])
	return i + 1, false
}

// bogusComment ends at the next '>' (13.2.5.41).
func bogusComment(src []byte, i int) (end int, cut bool) {
	n := bytes.IndexByte(src[i:], '>')
	if n < 0 {
		return len(src), true
	}
	return i + n + 1, false
}

// declaration reads a comment, a doctype or a CDATA section.
func (s *Scanner) declaration(i int) (end int, cut bool) {
	rest := s.src[i:]
	switch {
	case bytes.HasPrefix(rest, []byte("<!--")):
		return comment(s.src, i+4)
	case len(s.foreign) > 0 && s.inForeign() && bytes.HasPrefix(rest, []byte("<![CDATA[")):
		n := bytes.Index(rest, []byte("]]>"))
		if n < 0 {
			return len(s.src), true
		}
		s.text(rest[9:n])
		return i + n + 3, false
	}
	return bogusComment(s.src, i+2)
}

// comment ends at "-->" or "--!>", or at once for "<!-->" and "<!--->" (13.2.5.43 to 52).
func comment(src []byte, i int) (end int, cut bool) {
	if i < len(src) && src[i] == '>' {
		return i + 1, false
	}
	if bytes.HasPrefix(src[i:], []byte("->")) {
		return i + 2, false
	}
	for {
		n := bytes.Index(src[i:], []byte("--"))
		if n < 0 {
			return len(src), true
		}
		i += n + 2
		if bytes.HasPrefix(src[i:], []byte("!>")) {
			return i + 2, false
		}
		for i < len(src) && src[i] == '-' {
			i++
		}
		if i < len(src) && src[i] == '>' {
			return i + 1, false
		}
	}
}

// element reads the tag at i, takes from it what is to be kept, and passes over the raw text behind it.
func (s *Scanner) element(i int) (end int, cut bool) {
	t := &s.tag
	s.tagAt = i
	end, ok := t.read(s.src, i)
	if !ok {
		return len(s.src), true
	}
	if t.closing {
		if t.element != Other && t.element < Article {
			s.endTag()
		}
		return end, false
	}
	foreign := s.inForeign() && !s.breaksOut()
	s.seen = s.seen || shows[t.element]
	if t.seen != 0 || t.element != Other && t.element < Article {
		s.before = s.at
		s.startTag(end, foreign)
	}
	s.enterForeign(foreign)
	if foreign {
		s.foreignText(end)
		return end, false
	}
	if t.element == Other || t.element >= Article {
		return end, false
	}
	return s.rawText(end)
}

// shows tells the elements that are seen without any text in them.
var shows = [numElements]bool{
	Img: true, SVGImage: true, Iframe: true, Frame: true, Embed: true, Object: true, Video: true, Audio: true, SVG: true, MathML: true,
	Script: true, Input: true, Button: true, Textarea: true, Select: true,
}

// rawText passes over the content of the elements in which '<' begins nothing but their own end tag, and
// keeps the title's.
func (s *Scanner) rawText(i int) (end int, cut bool) {
	e := s.tag.element
	switch e {
	case Script:
		end = scriptEnd(s.src, i)
	case Title, Textarea, Style, Xmp, Iframe, Noembed, Noframes:
		end = rawEnd(s.src, i, e.String())
	case Plaintext:
		return len(s.src), false
	default:
		return i, false
	}
	if end < 0 {
		return len(s.src), true
	}
	if e == Style {
		text := s.src[i:end]
		s.sheet(text, func(k int) int { return i + k }, NoAttribute, 0)
	}
	if e == Title && s.doc.Title == "" {
		s.doc.Title = s.collapse(s.src[i:end])
	}
	return end, false
}

// rawEnd finds the end tag of the named raw text element from i on; -1 if there is none.
func rawEnd(src []byte, i int, name string) int {
	for {
		n := bytes.Index(src[i:], []byte("</"))
		if n < 0 {
			return -1
		}
		i += n
		if namedTag(src, i+2, name) {
			return i
		}
		i += 2
	}
}

// namedTag reports whether name, and then the end of a name, is at i.
func namedTag(src []byte, i int, name string) bool {
	end := i + len(name)
	return end < len(src) && endsName[src[end]] && strings.EqualFold(string(src[i:end]), name)
}

// scriptEnd finds a script's end tag from i on; -1 if there is none. Inside "<!--" a nested "<script" hides
// the next end tag (13.2.5.15 to 31).
func scriptEnd(src []byte, i int) int {
	const (
		plain = iota
		escaped
		doubly
	)
	state := plain
	for i < len(src) {
		n := bytes.IndexAny(src[i:], "<-")
		if state == plain {
			n = bytes.IndexByte(src[i:], '<')
		}
		if n < 0 {
			return -1
		}
		i += n
		rest := src[i:]
		switch {
		case state != plain && bytes.HasPrefix(rest, []byte("-->")):
			state = plain
			i += 3
		case state == plain && bytes.HasPrefix(rest, []byte("<!--")):
			state = escaped
			i += 2 // the dashes may end it too: "<!-->"
		case state == escaped && rest[0] == '<' && namedTag(src, i+1, "script"):
			state = doubly
			i += 7
		case bytes.HasPrefix(rest, []byte("</")) && namedTag(src, i+2, "script"):
			if state != doubly {
				return i
			}
			state = escaped
			i += 8
		default:
			i++
		}
	}
	return -1
}

// lineOf returns the line and column of an offset at or behind the last one asked for, or in the tag at hand.
func (s *Scanner) lineOf(offset int) position {
	p := s.at
	if offset < p.offset {
		p = s.before
	}
	seg := s.src[p.offset:offset]
	if n := bytes.IndexByte(seg, '\n'); n >= 0 {
		for ; n >= 0; n = bytes.IndexByte(seg, '\n') { // few lines lie between two references
			p.line++
			seg = seg[n+1:]
		}
		p.column = 1
	} else if bytes.IndexByte(seg, '\r') >= 0 {
		seg = p.returns(s.src, offset-len(seg), seg)
	}
	p.column += s.characters(seg)
	p.offset = offset
	s.at = p
	return p
}

// returns counts the lone carriage returns that end lines in seg, which is at offset and holds no line
// feed, and returns what follows the last.
func (p *position) returns(src []byte, offset int, seg []byte) []byte {
	for {
		n := bytes.IndexByte(seg, '\r')
		if n < 0 || offset+n+1 < len(src) && src[offset+n+1] == '\n' {
			return seg
		}
		p.line++
		p.column = 1
		seg = seg[n+1:]
		offset += n + 1
	}
}

// characters counts the characters in b.
func (s *Scanner) characters(b []byte) uint32 {
	switch {
	case s.ascii:
		return uint32(len(b))
	case s.cs.enc == nil:
		return uint32(utf8.RuneCount(b))
	case isASCII(b):
		return uint32(len(b))
	}
	return uint32(utf8.RuneCountInString(s.decode(b)))
}

func isASCII(b []byte) bool {
	for len(b) >= 8 {
		if binary.LittleEndian.Uint64(b)&0x8080808080808080 != 0 {
			return false
		}
		b = b[8:]
	}
	for _, c := range b {
		if c >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// decode turns bytes of the page into UTF-8.
func (s *Scanner) decode(b []byte) string {
	if s.cs.enc != nil {
		out, err := s.cs.enc.NewDecoder().Bytes(b)
		if err == nil {
			return string(out)
		}
	}
	return strings.ToValidUTF8(string(b), "\uFFFD")
}

// string returns b as UTF-8, the same string for the same bytes.
func (s *Scanner) string(b []byte) string {
	if len(b) == 0 {
		return ""
	}
	if !s.valid && !isASCII(b) {
		return s.intern([]byte(s.decode(b)))
	}
	return s.intern(b)
}

// intern returns b as a string, mostly the same one for the same bytes: of those that fall on one place in the
// table the last one is remembered, which costs a tenth of remembering all.
func (s *Scanner) intern(b []byte) string {
	at := &s.interned[maphash.Bytes(seed, b)%internSize]
	if *at != string(b) {
		*at = string(b)
	}
	return *at
}

// collapse turns bytes of text into a short string as a reader sees it: white space collapsed, character
// references resolved.
func (s *Scanner) collapse(b []byte) string {
	b = bytes.TrimSpace(b)
	if len(b) == 0 {
		return ""
	}
	if len(b) > textLimit*4 {
		b = b[:textLimit*4]
	}
	if isASCII(b) && bytes.IndexByte(b, '&') < 0 && len(b) <= textLimit {
		return s.intern(s.squeeze(b))
	}
	text := string(b)
	if !s.valid {
		text = s.decode(b)
	}
	return s.intern([]byte(clip(strings.Join(strings.Fields(unescapeText(text)), " "))))
}

// squeeze collapses the white space of ASCII text without any at its ends, in room that the next call uses again.
func (s *Scanner) squeeze(b []byte) []byte {
	s.squeezed = s.squeezed[:0]
	for i, c := range b {
		if isSpace(c) {
			if isSpace(b[i-1]) {
				continue
			}
			c = ' '
		}
		s.squeezed = append(s.squeezed, c)
	}
	return s.squeezed
}

// clip shortens a string to textLimit bytes at a character's edge.
func clip(s string) string {
	if len(s) <= textLimit {
		return s
	}
	end := textLimit - len("…")
	for end > 0 && !utf8.RuneStart(s[end]) {
		end--
	}
	return s[:end] + "…"
}
