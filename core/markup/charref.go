package markup

import (
	"encoding/binary"
	"html"
	"strconv"
	"strings"
	"unicode/utf16"
)

// unescapeAttribute resolves the character references of an attribute's value. It differs from text in that
// a name without its semicolon stays as it is before '=' or a letter or digit, so that "?a=1&copy=2" keeps
// its "&copy" (HTML standard, 13.2.5.73).
func unescapeAttribute(s string) string {
	amp := strings.IndexByte(s, '&')
	if amp < 0 {
		return s
	}
	var b strings.Builder
	b.Grow(len(s))
	for amp >= 0 {
		b.WriteString(s[:amp])
		s = s[amp:]
		n, text := reference(s)
		b.WriteString(text)
		s = s[n:]
		amp = strings.IndexByte(s, '&')
	}
	b.WriteString(s)
	return b.String()
}

// reference resolves the character reference that s begins with and says how many bytes of s it took; "&"
// itself if there is none.
func reference(s string) (n int, text string) {
	if len(s) > 1 && s[1] == '#' {
		return numeric(s)
	}
	n = 1
	for n < len(s) && isAlnum(s[n]) {
		n++
	}
	name := s[1:n]
	if name == "" {
		return 1, "&"
	}
	closed := html.UnescapeString("&" + name + ";")
	if n < len(s) && s[n] == ';' {
		// What is left of an unknown name keeps its semicolon, but for the one that is a semicolon.
		if !strings.HasSuffix(closed, ";") || name == "semi" {
			return n + 1, closed
		}
		return n, s[:n]
	}
	open := html.UnescapeString("&" + name)
	if open != "&"+name && open == closed && (n == len(s) || s[n] != '=') {
		return n, open
	}
	return n, s[:n]
}

// numeric resolves "&#65;" and "&#x41;", with or without the semicolon.
func numeric(s string) (n int, text string) {
	n = 2
	isDigit := func(c byte) bool { return '0' <= c && c <= '9' }
	if n < len(s) && (s[n] == 'x' || s[n] == 'X') {
		n++
		isDigit = func(c byte) bool {
			return '0' <= c && c <= '9' || 'a' <= c && c <= 'f' || 'A' <= c && c <= 'F'
		}
	}
	first := n
	for n < len(s) && isDigit(s[n]) {
		n++
	}
	if n == first {
		return 1, "&"
	}
	digits := s[2:n]
	if n < len(s) && s[n] == ';' {
		n++
	}
	if significant := strings.TrimLeft(s[first:n], "0"); len(significant) > 9 {
		return n, "\uFFFD" // far beyond Unicode, and the library's counter would overflow
	}
	return n, html.UnescapeString("&#" + digits + ";")
}

func isAlnum(c byte) bool { return isLetter(c) || '0' <= c && c <= '9' }

// EscapeAttribute writes value so that it reads as itself inside an attribute quoted by quote ('"', '\” or 0
// for none). Ampersands become "&amp;" where fussy is set or where they would else begin a reference.
func EscapeAttribute(value string, quote byte, fussy bool) string {
	var b strings.Builder
	for i := 0; i < len(value); i++ {
		switch c := value[i]; {
		case c == '&':
			n, text := reference(value[i:])
			if fussy || text != value[i:i+n] {
				b.WriteString("&amp;")
			} else {
				b.WriteByte('&')
			}
		case c == '"' && quote != '\'':
			b.WriteString("&quot;")
		case c == '\'' && quote != '"':
			b.WriteString("&#39;")
		case quote == 0 && (endsValue[c] || c == '<' || c == '=' || c == '`'):
			b.WriteString("&#")
			b.WriteString(strconv.Itoa(int(c)))
			b.WriteByte(';')
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}

func encodeUTF16(s string, bigEndian bool) []byte {
	var order binary.AppendByteOrder = binary.LittleEndian
	if bigEndian {
		order = binary.BigEndian
	}
	var out []byte
	for _, u := range utf16.Encode([]rune(s)) {
		out = order.AppendUint16(out, u)
	}
	return out
}

// EscapeText writes text so that it reads as itself between tags.
func EscapeText(text string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(text)
}
