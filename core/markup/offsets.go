package markup

import (
	"sort"
	"strings"
	"unicode/utf16"
	"unicode/utf8"
)

// Mapper says where the characters of a file's text, as a browser decodes it, are in the file's bytes, and the
// other way round. Places in the text are counted in UTF-16 code units, as scripts in a browser count them, and every
// line end is one "\n", whatever it is in the file.
type Mapper struct {
	// Text is the file's text, Encoding its encoding's name.
	Text, Encoding string
	// units and bytes are the places at which the same stretches begin in both, ascending; in those that are even, one
	// byte is one unit.
	units, bytes []int
	even         []bool
}

// NewMapper returns the Mapper of a file's bytes.
func NewMapper(src []byte) *Mapper {
	cs, valid := detect(src)
	m := &Mapper{Encoding: cs.name}
	body, at := src, func(i int) int { return i }
	decode := func(b []byte) (string, int) {
		_, n := utf8.DecodeRune(b)
		if valid || cs.stateful {
			return string(b[:n]), n
		}
		return strings.ToValidUTF8(string(b[:n]), "\uFFFD"), n
	}
	begin := cs.bom
	switch {
	case cs.stateful:
		t := transcode(src, cs)
		body, begin, at = t.text, 0, func(i int) int { return int(t.from[i]) }
	case cs.enc != nil:
		dec := cs.enc.NewDecoder()
		decode = func(b []byte) (string, int) { return first(dec, b) }
	}
	run := len(body)
	if cs.stateful {
		run = 1 // each character may have its own number of bytes
	}
	var text strings.Builder
	unit := 0
	for i := begin; i < len(body); {
		piece, n := step(body[i:], run, decode)
		units := 0
		for _, r := range piece {
			units += max(1, utf16.RuneLen(r))
		}
		m.stretch(unit, at(i), units == at(i+n)-at(i))
		text.WriteString(piece)
		unit += units
		i += n
	}
	m.stretch(unit, len(src), false)
	m.Text = text.String()
	return m
}

// step returns the text of what b begins with, a run of ASCII of at most run bytes, a line end or one other character,
// and how many bytes that has.
func step(b []byte, run int, decode func([]byte) (string, int)) (text string, n int) {
	for n < min(len(b), run) && b[n] < utf8.RuneSelf && b[n] != '\r' {
		n++
	}
	switch {
	case n > 0:
		return string(b[:n]), n
	case b[0] == '\r' && len(b) > 1 && b[1] == '\n':
		return "\n", 2
	case b[0] == '\r':
		return "\n", 1
	}
	return decode(b)
}

// stretch notes that from here on the text and the file go on from these places.
func (m *Mapper) stretch(unit, at int, same bool) {
	if n := len(m.units); n > 0 && same && m.even[n-1] && unit-m.units[n-1] == at-m.bytes[n-1] {
		return
	}
	m.units, m.bytes, m.even = append(m.units, unit), append(m.bytes, at), append(m.even, same)
}

// Unit returns where in the text the byte at the offset is; inside of a character, where that begins.
func (m *Mapper) Unit(offset int) int {
	i := max(0, sort.Search(len(m.bytes), func(i int) bool { return m.bytes[i] > offset })-1)
	if m.even[i] {
		return m.units[i] + max(0, offset-m.bytes[i])
	}
	return m.units[i]
}

// Offset returns where in the file the unit of the text is; inside of a character, where that begins.
func (m *Mapper) Offset(unit int) int {
	i := max(0, sort.Search(len(m.units), func(i int) bool { return m.units[i] > unit })-1)
	if m.even[i] {
		return m.bytes[i] + unit - m.units[i]
	}
	return m.bytes[i]
}

// Units counts the UTF-16 code units of a text.
func Units(text string) int {
	n := 0
	for _, r := range text {
		n += max(1, utf16.RuneLen(r))
	}
	return n
}

// ByteOf returns where in a text, in bytes, the UTF-16 code unit is.
func ByteOf(text string, unit int) int {
	n := 0
	for i, r := range text {
		if n >= unit {
			return i
		}
		n += max(1, utf16.RuneLen(r))
	}
	return len(text)
}
