package address

import (
	"strings"
	"unicode/utf8"
)

const hexDigits = "0123456789ABCDEF"

func unhex(c byte) int { return strings.IndexByte(hexDigits, upper(c)) }

func upper(c byte) byte {
	if 'a' <= c && c <= 'z' {
		return c - 32
	}
	return c
}

// percentAt tells whether a percent-encoded byte stands at i of s, and which.
func percentAt(s string, i int) (byte, bool) {
	if i+2 >= len(s) || s[i] != '%' {
		return 0, false
	}
	hi, lo := unhex(s[i+1]), unhex(s[i+2])
	if hi < 0 || lo < 0 {
		return 0, false
	}
	return byte(hi<<4 | lo), true
}

// Unescape percent-decodes a path. An encoded slash stays as it is, since it parts no folders, and so does an
// encoded NUL, which no name can hold.
func Unescape(s string) string {
	if strings.IndexByte(s, '%') < 0 {
		return s
	}
	return decode(s, func(c byte) bool { return c != '/' && c != 0 })
}

// UnescapeFragment percent-decodes a fragment (URL standard, 1.3).
func UnescapeFragment(s string) string {
	if strings.IndexByte(s, '%') < 0 {
		return s
	}
	return strings.ToValidUTF8(decode(s, func(byte) bool { return true }), "\uFFFD")
}

// EscapeFragment returns what is written behind "#" to land on an id: percent-encoded as the URL standard's fragment
// percent-encode set has it, and "%" itself.
func EscapeFragment(id string) string {
	return fragmentEscapes.Replace(id)
}

var fragmentEscapes = strings.NewReplacer("%", "%25", " ", "%20", `"`, "%22", "<", "%3C", ">", "%3E", "`", "%60", "\t", "%09", "\n", "%0A", "\r", "%0D", "\f", "%0C")

func decode(s string, wanted func(byte) bool) string {
	var b strings.Builder
	b.Grow(len(s))
	for i := 0; i < len(s); i++ {
		if c, ok := percentAt(s, i); ok && wanted(c) {
			b.WriteByte(c)
			i += 2
		} else {
			b.WriteByte(s[i])
		}
	}
	return b.String()
}

// mustEscape tells the bytes that can't stand for themselves in a path: those of the URL standard's path
// percent-encode set, and '%' itself, since a name that holds it would else be decoded.
var mustEscape = func() (t [256]bool) {
	for c := range t {
		t[c] = c <= ' ' || c == 0x7F || strings.IndexByte("\"#<>?`{}^%\\|", byte(c)) >= 0
	}
	return t
}()

// escapeName writes a name so that it reads as itself in a path. Letters beyond ASCII stay as they are.
func escapeName(name string) string {
	var b strings.Builder
	for i := 0; i < len(name); {
		r, n := utf8.DecodeRuneInString(name[i:])
		if r == utf8.RuneError && n == 1 || mustEscape[name[i]] {
			writeEscaped(&b, name[i])
			i++
			continue
		}
		b.WriteString(name[i : i+n])
		i += n
	}
	return b.String()
}

// Escaped returns the byte percent-encoded.
func Escaped(c byte) string { return "%" + string(hexDigits[c>>4]) + string(hexDigits[c&15]) }

func writeEscaped(b *strings.Builder, c byte) {
	b.WriteByte('%')
	b.WriteByte(hexDigits[c>>4])
	b.WriteByte(hexDigits[c&15])
}

// escapePath writes a path of names in ASCII, as the URL parser serializes it.
func escapePath(path string) string {
	var b strings.Builder
	for i := 0; i < len(path); i++ {
		if c := path[i]; c >= utf8.RuneSelf || mustEscape[c] {
			writeEscaped(&b, c)
		} else {
			b.WriteByte(c)
		}
	}
	return b.String()
}

// EscapeToASCII percent-encodes every byte beyond ASCII, for pages whose encoding lacks a letter.
func EscapeToASCII(value string) string {
	var b strings.Builder
	for i := 0; i < len(value); i++ {
		if c := value[i]; c >= utf8.RuneSelf {
			writeEscaped(&b, c)
		} else {
			b.WriteByte(c)
		}
	}
	return b.String()
}
