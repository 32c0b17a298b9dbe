package markup

import "bytes"

// Inside SVG and MathML other rules hold: style and title are ordinary elements, CDATA is text, and some
// HTML elements end the foreign part (HTML standard, 13.2.6.5). The scanner keeps just the stack of elements
// that switch between the two.

// inForeign reports whether the next start tag is read by the rules for foreign content.
func (s *Scanner) inForeign() bool {
	if len(s.foreign) == 0 {
		return false
	}
	switch s.foreign[len(s.foreign)-1] {
	case ForeignObject, Desc, Title:
		return false // HTML integration points
	}
	return true
}

// breakouts are the elements whose start tag ends foreign content.
var breakouts = func() map[string]bool {
	m := map[string]bool{}
	for _, n := range []string{
		"b", "big", "blockquote", "body", "br", "center", "code", "dd", "div", "dl", "dt", "em", "embed", "h1", "h2",
		"h3", "h4", "h5", "h6", "head", "hr", "i", "img", "li", "listing", "menu", "meta", "nobr", "ol", "p", "pre",
		"ruby", "s", "small", "span", "strong", "strike", "sub", "sup", "table", "tt", "u", "ul", "var",
	} {
		m[n] = true
	}
	return m
}()

// breaksOut ends foreign content if the start tag at hand does so, and reports whether it did.
func (s *Scanner) breaksOut() bool {
	if !breakouts[string(bytes.ToLower(s.tag.name))] {
		return false
	}
	for s.inForeign() {
		s.foreign = s.foreign[:len(s.foreign)-1]
	}
	return true
}

// enterForeign notes a start tag that changes which rules hold for what follows.
func (s *Scanner) enterForeign(foreign bool) {
	if s.tag.selfClosing {
		return
	}
	switch e := s.tag.element; e {
	case SVG, MathML:
		s.foreign = append(s.foreign, e)
	case ForeignObject, Desc, Title:
		if foreign && len(s.foreign) > 0 && s.foreign[len(s.foreign)-1] == SVG {
			s.foreign = append(s.foreign, e)
		}
	}
}

// leaveForeign closes what the end tag at hand closes of the stack, and reports whether it was of it.
func (s *Scanner) leaveForeign() bool {
	if s.tag.element == Other {
		return false
	}
	for i := len(s.foreign) - 1; i >= 0; i-- {
		if s.foreign[i] == s.tag.element {
			s.foreign = s.foreign[:i]
			return true
		}
	}
	return false
}

// foreignText reads what SVG's style and title hold, which is markup to the tokenizer all the same.
func (s *Scanner) foreignText(i int) {
	e := s.tag.element
	if e != Style && e != Title || s.tag.selfClosing || i < s.foreignTo {
		return
	}
	n := rawEnd(s.src, i, e.String())
	if n < 0 {
		s.foreignTo = len(s.src) // nor does a later one end
		return
	}
	s.foreignTo = n
	text := s.src[i:n]
	if e == Title {
		if s.root == SVG && s.doc.Title == "" {
			s.doc.Title = s.collapse(text)
		}
		return
	}
	if cdata, ok := bytes.CutPrefix(bytes.TrimLeft(text, " \t\r\n"), []byte("<![CDATA[")); ok {
		i, text = n-len(cdata), cdata
	}
	start := i
	s.sheet(text, func(k int) int { return start + k }, NoAttribute, 0)
}

// instruction reads a processing instruction of an XML file. An xml-stylesheet refers to a style sheet (Associating Style Sheets with
// XML documents, 3).
func (s *Scanner) instruction(i int) (end int, cut bool) {
	n := bytes.Index(s.src[i:], []byte("?>"))
	if n < 0 {
		return bogusComment(s.src, i+2)
	}
	end = i + n + len("?>")
	text := s.src[i+2 : i+n]
	if !bytes.HasPrefix(text, []byte("xml-stylesheet")) {
		return end, false
	}
	for at := len("xml-stylesheet"); at < len(text); {
		name, value, next := pseudoAttribute(text, at)
		if string(name) == "href" {
			at := i + 2 + value.start
			p := s.lineOf(at)
			r := Reference{
				Written: s.string(s.src[at : i+2+value.end]), Start: uint32(at), End: uint32(i + 2 + value.end), Line: p.line, Column: p.column,
				Element: Other, Attribute: AttrHref, Role: RoleStyle, Quote: text[value.end], Flags: Escaped,
			}
			if r.Value() == r.Written {
				r.Flags &^= Escaped
			}
			s.references = append(s.references, r)
		}
		at = next
	}
	return end, false
}

// pseudoAttribute reads the next name="value" in an instruction, from a place in it, and returns where to read on.
func pseudoAttribute(text []byte, at int) (name []byte, value span, next int) {
	for at < len(text) && isSpace(text[at]) {
		at++
	}
	from := at
	for at < len(text) && text[at] != '=' && !isSpace(text[at]) {
		at++
	}
	name = text[from:at]
	for at < len(text) && (isSpace(text[at]) || text[at] == '=') {
		at++
	}
	if at >= len(text) || text[at] != '"' && text[at] != '\'' {
		return nil, span{}, at + 1
	}
	end := bytes.IndexByte(text[at+1:], text[at])
	if end < 0 {
		return nil, span{}, len(text)
	}
	return name, span{start: at + 1, end: at + 1 + end}, at + end + 2
}
