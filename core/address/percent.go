package address

import (
	"strings"
	"unicode/utf8"
)

// This file is the one codec for percent-encoding (URL Standard, 1.3). Which bytes are encoded or decoded depends on the
// part of the address; how, is the same for all.

const hexDigits = "0123456789ABCDEF"

func unhex(c byte) int { return strings.IndexByte(hexDigits, upper(c)) }

func upper(c byte) byte {
	if 'a' <= c && c <= 'z' {
		return c - 32
	}
	return c
}

// percentAt returns the byte that is percent-encoded at s[i:], if one is.
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

// HasStrayPercent reports whether s has a "%" that encodes nothing.
func HasStrayPercent(s string) bool {
	for i := 0; i < len(s); i++ {
		if _, ok := percentAt(s, i); s[i] == '%' && !ok {
			return true
		}
	}
	return false
}

// PercentDecode decodes every percent-encoded byte of s. A "+" stays as it is, unlike in a form.
func PercentDecode(s string) string {
	if strings.IndexByte(s, '%') < 0 {
		return s
	}
	return decode(s, func(byte) bool { return true })
}

// PercentEncode encodes the bytes of s for which keep is false.
func PercentEncode(s string, keep func(c byte) bool) string {
	var b strings.Builder
	for i := range len(s) {
		if c := s[i]; keep(c) {
			b.WriteByte(c)
		} else {
			writeEscaped(&b, c)
		}
	}
	return b.String()
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
	return strings.ToValidUTF8(PercentDecode(s), "\uFFFD")
}

// EscapeFragment returns what is written behind "#" to land on an id: percent-encoded as the URL standard's fragment
// percent-encode set has it, and "%" itself.
func EscapeFragment(id string) string {
	return PercentEncode(id, func(c byte) bool { return strings.IndexByte("% \"<>`\t\n\r\f", c) < 0 })
}

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
	return PercentEncode(path, func(c byte) bool { return c < utf8.RuneSelf && !mustEscape[c] })
}

// EscapeToASCII percent-encodes every byte beyond ASCII, for pages whose encoding lacks a letter.
func EscapeToASCII(value string) string {
	return PercentEncode(value, func(c byte) bool { return c < utf8.RuneSelf })
}
