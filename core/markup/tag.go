package markup

import "bytes"

// span is a half-open range of bytes, and the byte that quotes it.
type span struct {
	start, end int
	quote      byte
}

func (s span) bytes(src []byte) []byte { return src[s.start:s.end] }

// tag is one start or end tag as the tokenizer sees it. It keeps the spans of the known attributes only, in
// fixed room, so that a tag with a million attributes costs no more than its bytes.
type tag struct {
	element     Element
	closing     bool
	selfClosing bool
	nameEnd     int
	name        []byte
	seen        uint64
	values      [numAttributes]span
}

// value returns the span of the attribute's first occurrence; the HTML standard drops the later ones.
func (t *tag) value(a Attribute) (span, bool) { return t.values[a], t.seen&(1<<a) != 0 }

func isSpace(c byte) bool { return c == ' ' || c == '\n' || c == '\t' || c == '\r' || c == '\f' }

func isLetter(c byte) bool { return 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' }

// endsName tells the bytes that end a tag's name or an unquoted attribute name, besides '='.
var endsName = [256]bool{' ': true, '\n': true, '\t': true, '\r': true, '\f': true, '/': true, '>': true}

// endsValue tells the bytes that end an unquoted attribute value.
var endsValue = [256]bool{' ': true, '\n': true, '\t': true, '\r': true, '\f': true, '>': true}

// read reads the tag whose '<' is at i and returns the offset behind its '>'. It fails if no tag begins
// there or the bytes end within it, in which case a browser drops it.
func (t *tag) read(src []byte, i int) (end int, ok bool) {
	i++
	t.closing, t.selfClosing, t.seen = false, false, 0
	if i < len(src) && src[i] == '/' {
		t.closing = true
		i++
	}
	if i >= len(src) || !isLetter(src[i]) {
		return i, false
	}
	start := i
	for i < len(src) && !endsName[src[i]] {
		i++
	}
	t.name, t.nameEnd = src[start:i], i
	t.element = lookupElement(t.name)
	for i < len(src) {
		switch c := src[i]; {
		case c == '>':
			return i + 1, true
		case c == '/':
			i++
			t.selfClosing = i < len(src) && src[i] == '>'
		case isSpace(c):
			i++
		default:
			i = t.readAttribute(src, i)
		}
	}
	return i, false
}

// readAttribute reads the attribute whose name begins at i, keeps where a known one is, and returns the offset behind it.
func (t *tag) readAttribute(src []byte, i int) int {
	nameEnd, v, end := readAttribute(src, i)
	if a := lookupAttribute(src[i:nameEnd]); a != NoAttribute && t.seen&(1<<a) == 0 {
		t.seen |= 1 << a
		t.values[a] = v
	}
	return end
}

// readAttribute reads the attribute whose name begins at start. One without a value has an empty one where its name ends.
func readAttribute(src []byte, start int) (nameEnd int, v span, end int) {
	i := start + 1 // even a '=' begins a name (13.2.5.32)
	for i < len(src) && !endsName[src[i]] && src[i] != '=' {
		i++
	}
	nameEnd, end = i, i
	v = span{start: i, end: i}
	for i < len(src) && isSpace(src[i]) {
		i++
	}
	if i < len(src) && src[i] == '=' {
		i++
		for i < len(src) && isSpace(src[i]) {
			i++
		}
		v, end = readValue(src, i)
	}
	return nameEnd, v, end
}

// readValue reads an attribute's value that begins at i. Bytes that end within it end the tag too.
func readValue(src []byte, i int) (v span, end int) {
	if i >= len(src) {
		return span{start: i, end: i}, i
	}
	if q := src[i]; q == '"' || q == '\'' {
		i++
		n := bytes.IndexByte(src[i:], q)
		if n < 0 {
			return span{i, len(src), q}, len(src)
		}
		return span{i, i + n, q}, i + n + 1
	}
	start := i
	for i < len(src) && !endsValue[src[i]] {
		i++
	}
	return span{start: start, end: i}, i
}
