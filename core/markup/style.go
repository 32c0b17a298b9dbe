package markup

import (
	"strings"
	"unicode/utf8"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
)

// StyleSheet reads a style sheet. Like Page, it never fails.
func (s *Scanner) StyleSheet(src []byte) *Document {
	s.begin(src)
	s.sheet(s.src[s.cs.bom:], func(i int) int { return s.cs.bom + i }, NoAttribute, 0)
	return s.end()
}

// SVG reads an SVG file: a page that is foreign content from its first byte.
func (s *Scanner) SVG(src []byte) *Document {
	s.root = SVG
	defer func() { s.root = Other }()
	return s.Page(src)
}

// sheet keeps the references in CSS text. from says where in the page a byte of it is; attribute is Style's
// for a style attribute and quote is its quote.
func (s *Scanner) sheet(text []byte, from func(int) int, attribute Attribute, quote byte) {
	input := parse.NewInputBytes(text)
	defer input.Restore() // it ends the text by a NUL over the byte behind it
	lexer := css.NewLexer(input)
	at := 0
	imports := false     // behind @import, where a string is an address
	names := false       // in @namespace, whose url() is a name
	var functions []bool // for each open function or bracket: whether a string in it is an address
	for {
		kind, token := lexer.Next()
		if kind == css.ErrorToken {
			return
		}
		start := at
		at += len(token)
		switch kind {
		case css.AtKeywordToken:
			imports = strings.EqualFold(string(token), "@import")
			names = strings.EqualFold(string(token), "@namespace")
			continue
		case css.SemicolonToken:
			names = false
		case css.FunctionToken:
			name := strings.ToLower(strings.TrimSuffix(string(token), "("))
			functions = append(functions, name == "url" || name == "src" || strings.HasSuffix(name, "image-set"))
		case css.LeftParenthesisToken:
			functions = append(functions, false)
		case css.RightParenthesisToken:
			functions = functions[:max(0, len(functions)-1)]
		case css.URLToken:
			if names {
				break
			}
			first, last := insideURL(token)
			s.styled(text, start+first, start+last, from, attribute, quote, imports)
		case css.StringToken:
			if len(token) >= 2 && !names && (imports || len(functions) > 0 && functions[len(functions)-1]) {
				s.styled(text, start+1, start+len(token)-1, from, attribute, token[0], imports)
			}
		}
		if kind != css.WhitespaceToken && kind != css.CommentToken {
			imports = imports && kind == css.FunctionToken
		}
	}
}

// insideURL returns where in a url() token its address begins and ends.
func insideURL(token []byte) (start, end int) {
	start, end = len("url("), len(token)
	if token[end-1] == ')' {
		end--
	}
	for start < end && isSpace(token[start]) {
		start++
	}
	for end > start && isSpace(token[end-1]) {
		end--
	}
	if end-start >= 2 && (token[start] == '"' || token[start] == '\'') && token[end-1] == token[start] {
		start, end = start+1, end-1
	}
	return start, end
}

// styled keeps the address that is from start to end in CSS text.
func (s *Scanner) styled(text []byte, start, end int, from func(int) int, attribute Attribute, quote byte, imported bool) {
	p := s.lineOf(from(start))
	r := Reference{
		Written: s.string(s.src[from(start):from(end)]), Start: uint32(from(start)), End: uint32(from(end)), Line: p.line, Column: p.column,
		Element: s.tag.element, Attribute: attribute, Role: RoleImage, Quote: quote, Flags: InStyle | Escaped,
	}
	if imported {
		r.Role = RoleStyle
	}
	if attribute == NoAttribute && s.tag.element != Style {
		r.Element = Other
	}
	if r.Value() == r.Written {
		r.Flags &^= Escaped
	}
	if s.template > 0 {
		r.Flags |= Inert
	}
	s.references = append(s.references, r)
}

// styleAttribute keeps the references in a style attribute, whose character references are resolved before it is
// read as CSS.
func (s *Scanner) styleAttribute(v span) {
	raw := v.bytes(s.src)
	if !hasAddress(raw) {
		return
	}
	text, from := unescapeKeeping(string(raw))
	s.sheet([]byte(text), func(i int) int { return v.start + from[i] }, AttrStyle, v.quote)
}

// hasAddress reports whether CSS text can hold an address at all, which little of it does.
func hasAddress(text []byte) bool {
	for i, c := range text {
		if c == '(' && i >= 3 || c == '\\' || c == '&' {
			return true
		}
	}
	return false
}

// unescapeKeeping resolves the character references of an attribute's value and tells for each byte, and for the
// end, where it came from.
func unescapeKeeping(s string) (text string, from []int) {
	var b strings.Builder
	for i := 0; i < len(s); {
		n, piece := 1, s[i:i+1]
		if s[i] == '&' {
			n, piece = reference(s[i:])
		}
		for range len(piece) {
			from = append(from, i)
		}
		b.WriteString(piece)
		i += n
	}
	return b.String(), append(from, len(s))
}

// unescapeStyle resolves the escapes of a CSS string or url() (CSS Syntax, 4.3.7).
func unescapeStyle(s string) string {
	if strings.IndexByte(s, '\\') < 0 {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); {
		if s[i] != '\\' || i+1 == len(s) {
			b.WriteByte(s[i])
			i++
			continue
		}
		i++
		digits := i
		code := rune(0)
		for i < len(s) && i-digits < 6 && hexValue(s[i]) >= 0 {
			code = code<<4 | rune(hexValue(s[i]))
			i++
		}
		switch {
		case i > digits:
			if code == 0 || code > utf8.MaxRune || code >= 0xD800 && code < 0xE000 {
				code = utf8.RuneError
			}
			b.WriteRune(code)
			if strings.HasPrefix(s[i:], "\r\n") {
				i += 2
			} else if i < len(s) && isSpace(s[i]) {
				i++
			}
		case strings.HasPrefix(s[i:], "\r\n"):
			i += 2
		case s[i] == '\n' || s[i] == '\r' || s[i] == '\f':
			i++ // an escaped line end in a string is nothing
		default:
			_, n := utf8.DecodeRuneInString(s[i:])
			b.WriteString(s[i : i+n])
			i += n
		}
	}
	return b.String()
}

func hexValue(c byte) int {
	switch {
	case '0' <= c && c <= '9':
		return int(c - '0')
	case 'a' <= c|0x20 && c|0x20 <= 'f':
		return int(c|0x20-'a') + 10
	}
	return -1
}
