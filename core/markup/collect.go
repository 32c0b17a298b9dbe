package markup

import (
	"bytes"
	"html"
	"slices"
	"strings"
)

func unescapeText(s string) string { return html.UnescapeString(s) }

// PlainText returns text that holds no tags as a reader sees it: character references resolved, white space collapsed.
func PlainText(text string) string { return strings.Join(strings.Fields(unescapeText(text)), " ") }

// startTag takes what is to be kept from the start tag at hand, which ends at end.
func (s *Scanner) startTag(end int, foreign bool) {
	t := &s.tag
	element := t.element
	if element == SVGImage && !foreign {
		element = Img // "Don't ask." (13.2.6.4.7)
	}
	t.element = element
	switch element {
	case A:
		s.closeLink()
	case Template:
		if !foreign {
			s.template++
		}
	case H1, H2, H3, H4, H5, H6:
		if !foreign {
			s.openHeading(element)
		}
	case Img, Area:
		if alt, ok := t.value(AttrAlt); ok {
			s.text([]byte(" "))
			s.text(alt.bytes(s.src))
			s.text([]byte(" "))
		}
	}
	s.anchors(end)
	first := len(s.references)
	for _, h := range holders[element] {
		if v, ok := t.value(h.attribute); ok {
			s.hold(h, v, foreign)
		}
	}
	if v, ok := t.value(AttrStyle); ok {
		s.styleAttribute(v)
	}
	if t.seen&namesIDs != 0 {
		s.idReferences()
	}
	switch element {
	case A:
		if !foreign {
			s.openLink(first, end)
		}
	case Area:
		if _, ok := t.value(AttrHref); !ok {
			s.noValue()
		}
	case Base:
		s.base()
	case Meta:
		s.meta()
	case Map:
		for _, a := range []Attribute{AttrName, AttrID} {
			if v, ok := t.value(a); ok && v.start < v.end {
				s.doc.Maps = append(s.doc.Maps, s.decoded(v))
			}
		}
	}
	if added := s.references[first:]; len(added) > 1 {
		slices.SortStableFunc(added, func(a, b Reference) int { return int(a.Start) - int(b.Start) })
	}
}

// hold keeps the references in the value v, if the attribute means one where the tag is.
func (s *Scanner) hold(h holder, v span, foreign bool) {
	e := s.tag.element
	switch {
	case foreign && e != A && e != Script && e != SVGImage && e != SVGUse:
		return
	case !foreign && (h.attribute == AttrXlinkHref || e == Script && h.attribute == AttrHref):
		return
	case h.attribute == AttrXlinkHref && s.tag.seen&(1<<AttrHref) != 0:
		return // href wins (SVG 2, 16.1.6)
	}
	switch h.shape {
	case one:
		s.refer(h, v, v.start, v.end)
	case set:
		s.candidates(h, v)
	case spaced:
		s.list(h, v)
	}
}

// idReferences keeps what the tag at hand names of other elements by their ids.
func (s *Scanner) idReferences() {
	for _, h := range idHolders {
		v, ok := s.tag.value(h.attribute)
		if !ok || h.on != nil && !slices.Contains(h.on, s.tag.element) {
			continue
		}
		first := len(s.references)
		flag := ByID
		if h.shape == hashName {
			flag = ByMap
			s.refer(holder{h.attribute, RoleID, h.shape}, v, v.start, v.end)
		} else {
			s.list(holder{h.attribute, RoleID, h.shape}, v)
		}
		for i := first; i < len(s.references); i++ {
			s.references[i].Flags |= flag
		}
	}
}

// refer keeps the address that is from start to end within the value v.
func (s *Scanner) refer(h holder, v span, start, end int) {
	p := s.lineOf(start)
	raw := s.src[start:end]
	r := Reference{
		Written: s.string(raw), Start: uint32(start), End: uint32(end), Line: p.line, Column: p.column,
		Element: s.tag.element, Attribute: h.attribute, Role: h.role, Quote: v.quote,
	}
	if strings.IndexByte(r.Written, '&') >= 0 && unescapeAttribute(r.Written) != r.Written {
		r.Flags |= Escaped
	}
	if s.template > 0 {
		r.Flags |= Inert
	}
	if s.tag.seen&(1<<attrHandler|1<<AttrRole) != 0 {
		r.Flags |= Handled
	}
	if r.Role == RoleID {
		s.references = append(s.references, r)
		return
	}
	r.Flags |= s.linkFlags()
	r.Role, r.Text = s.meaning(r.Role)
	if s.tag.element == Link {
		r.Flags |= s.optional()
	}
	s.references = append(s.references, r)
}

// meaning returns the reference's role and what a visitor sees of it, from the other attributes of its tag.
func (s *Scanner) meaning(role Role) (Role, string) {
	switch s.tag.element {
	case Img, Area, Input:
		return role, s.attribute(AttrAlt)
	case Iframe, Frame, Object, Embed:
		if title := s.attribute(AttrTitle); title != "" {
			return role, title
		}
		return role, s.attribute(AttrName)
	case Link:
		rel := strings.ToLower(s.attribute(AttrRel))
		for _, word := range strings.Fields(rel) {
			switch word {
			case "stylesheet":
				return RoleStyle, ""
			case "icon", "apple-touch-icon", "mask-icon":
				return RoleImage, rel
			}
		}
		return role, rel
	case A:
		return role, "" // known when it is closed
	}
	return role, ""
}

// linkFlags says how a link opens its page, and whether an image says what it shows.
func (s *Scanner) linkFlags() (f Flags) {
	switch s.tag.element {
	case A, Area:
		if s.tag.seen&(1<<AttrAriaLabel|1<<AttrTitle) != 0 {
			f |= Named
		}
		if target, ok := s.tag.value(AttrTarget); ok && strings.EqualFold(string(target.bytes(s.src)), "_blank") {
			f |= NewTab
			rel := strings.ToLower(s.attribute(AttrRel))
			if strings.Contains(rel, "noopener") || strings.Contains(rel, "noreferrer") {
				f |= Guarded
			}
		}
	case Img:
		if _, ok := s.tag.value(AttrAlt); !ok {
			f |= NoAlt
		}
	}
	return f
}

// optional returns the flag of whether a link element names something that the page does without.
func (s *Scanner) optional() Flags {
	rel := strings.ToLower(s.attribute(AttrRel))
	if strings.Contains(rel, "preconnect") || strings.Contains(rel, "dns-prefetch") || strings.Contains(rel, "profile") {
		return Optional
	}
	if strings.Contains(rel, "canonical") || strings.Contains(rel, "alternate") {
		return Whole
	}
	return 0
}

// attribute returns the attribute's text as a reader sees it.
func (s *Scanner) attribute(a Attribute) string {
	v, ok := s.tag.value(a)
	if !ok {
		return ""
	}
	return s.collapse(v.bytes(s.src))
}

// decoded returns the attribute's value as a browser reads it.
func (s *Scanner) decoded(v span) string {
	raw := s.string(v.bytes(s.src))
	if strings.IndexByte(raw, '&') < 0 {
		return raw
	}
	return s.intern([]byte(unescapeAttribute(raw)))
}

// noValue keeps a link that has no attribute to lead anywhere.
func (s *Scanner) noValue() {
	s.refer(holder{attribute: AttrHref, role: RoleLink}, span{}, s.tag.nameEnd, s.tag.nameEnd)
	s.references[len(s.references)-1].Flags |= NoValue
}

// openLink begins to gather the text of an a element, whose references were kept from index first on and whose start tag ends at
// end.
func (s *Scanner) openLink(first, end int) {
	t := &s.tag
	s.linkEnd = end
	named := t.seen&(1<<AttrName|1<<AttrID) != 0
	if len(s.references) == first && !named {
		s.noValue()
	}
	for i := first; i < len(s.references); i++ {
		if s.references[i].Role == RoleLink {
			s.linkRef = i
			s.link.open = true
			s.link.text = s.link.text[:0]
			return
		}
	}
}

func (s *Scanner) closeLink() {
	if s.link.open && s.linkRef >= 0 {
		ref := &s.references[s.linkRef]
		if ref.Text = s.collapse(s.link.text); ref.Text != "" && spacedWords(s.src[s.linkEnd:max(s.linkEnd, s.tagAt)]) {
			ref.Flags |= Spaced
		}
	}
	s.link.open, s.linkRef = false, -1
}

// spacedWords reports whether what is in a link begins or ends with a space before or behind words. One beside a tag or at the end
// of a line is not meant.
func spacedWords(content []byte) bool {
	before, after := SpacesAround(content)
	words := content[before : len(content)-after]
	if len(words) == 0 {
		return false
	}
	of := func(space []byte) bool { return len(space) > 0 && bytes.IndexByte(space, '\n') < 0 }
	return of(content[:before]) && words[0] != '<' || of(content[len(content)-after:]) && words[len(words)-1] != '>'
}

// SpacesAround returns how many bytes of white space, no-break spaces with it, text begins and ends with. They don't overlap.
func SpacesAround(text []byte) (before, after int) {
	for before < len(text) {
		n := spaceAt(text[before:])
		if n == 0 {
			break
		}
		before += n
	}
	for rest := text[before:]; len(rest) > 0; rest = rest[:len(rest)-1] {
		n := 1
		if !isSpace(rest[len(rest)-1]) {
			for _, s := range noBreakSpaces {
				if bytes.HasSuffix(rest, []byte(s)) {
					n = len(s)
				}
			}
			if n == 1 {
				break
			}
			rest = rest[:len(rest)-n+1]
		}
		after += n
	}
	return before, after
}

// noBreakSpaces are how a no-break space is written.
var noBreakSpaces = []string{"&nbsp;", "&#160;", "&#xa0;", "&#xA0;", "\u00a0"}

func spaceAt(text []byte) int {
	if isSpace(text[0]) {
		return 1
	}
	for _, s := range noBreakSpaces {
		if bytes.HasPrefix(text, []byte(s)) {
			return len(s)
		}
	}
	return 0
}

func (s *Scanner) openHeading(e Element) {
	s.closeHeading()
	h := Heading{Level: uint8(e-H1) + 1, NameEnd: uint32(s.tag.nameEnd), Line: s.lineOf(s.tag.nameEnd).line}
	if v, ok := s.tag.value(AttrID); ok {
		h.ID = s.decoded(v)
	}
	s.doc.Headings = append(s.doc.Headings, h)
	s.heading.open = true
	s.heading.text = s.heading.text[:0]
}

func (s *Scanner) closeHeading() {
	if s.heading.open {
		s.doc.Headings[len(s.doc.Headings)-1].Text = s.collapse(s.heading.text)
	}
	s.heading.open = false
}

// text gives text to whatever gathers it.
func (s *Scanner) text(b []byte) {
	if s.link.open && len(s.link.text) < 2*textLimit {
		s.link.text = append(s.link.text, b[:min(len(b), 2*textLimit)]...)
	}
	if s.heading.open && len(s.heading.text) < 2*textLimit {
		s.heading.text = append(s.heading.text, b[:min(len(b), 2*textLimit)]...)
	}
}

func (s *Scanner) endTag() {
	if s.leaveForeign() {
		return
	}
	switch s.tag.element {
	case A:
		s.closeLink()
	case H1, H2, H3, H4, H5, H6:
		s.closeHeading()
	case Template:
		if s.template > 0 {
			s.template--
		}
	}
}

// anchors keeps what of the tag at hand a fragment can land on.
func (s *Scanner) anchors(after int) {
	if v, ok := s.tag.value(AttrID); ok && v.start < v.end {
		s.anchor(v, after, false)
	}
	if v, ok := s.tag.value(AttrName); ok && s.tag.element == A && v.start < v.end {
		s.anchor(v, after, true)
	}
}

func (s *Scanner) anchor(v span, after int, byName bool) {
	p := s.lineOf(v.start)
	s.anchorList = append(s.anchorList, Anchor{
		Name: s.decoded(v), Start: uint32(v.start), End: uint32(v.end), After: uint32(after), Line: p.line, Column: p.column,
		ByName: byName, Inert: s.template > 0,
	})
}

// base keeps the first base element's address, which moves every other one on the page.
func (s *Scanner) base() {
	v, ok := s.tag.value(AttrHref)
	if !ok || s.doc.HasBase || s.template > 0 {
		return
	}
	s.doc.Base, s.doc.HasBase = s.decoded(v), true
	s.doc.BaseStart, s.doc.BaseEnd, s.doc.BaseQuote = uint32(v.start), uint32(v.end), v.quote
}

// cardProperties are the meta properties whose content is an address.
var cardProperties = map[string]Role{
	"og:image": RoleImage, "og:image:url": RoleImage, "og:image:secure_url": RoleImage, "og:url": RoleMeta,
	"og:video": RoleMedia, "og:audio": RoleMedia, "twitter:image": RoleImage, "twitter:image:src": RoleImage,
	"twitter:url": RoleMeta, "msapplication-tileimage": RoleImage,
}

// meta keeps the address that a page is refreshed to, and those that it shows to other sites.
func (s *Scanner) meta() {
	v, ok := s.tag.value(AttrContent)
	if !ok {
		return
	}
	if strings.EqualFold(s.attribute(AttrHTTPEquiv), "refresh") {
		if start, end := refreshAddress(s.src[v.start:v.end]); end > start {
			s.refer(holder{attribute: AttrContent, role: RoleLink}, v, v.start+start, v.start+end)
		}
		return
	}
	property := s.attribute(AttrProperty)
	if property == "" {
		property = s.attribute(AttrName)
	}
	if role, ok := cardProperties[strings.ToLower(property)]; ok {
		s.refer(holder{attribute: AttrContent, role: role}, v, v.start, v.end)
		s.references[len(s.references)-1].Flags |= Whole
	}
}

// refreshAddress finds the address in "5; url='page.html'" (HTML standard, 4.2.5.3). Without one, start
// equals end.
func refreshAddress(b []byte) (start, end int) {
	i := skip(b, 0, isSpace)
	digits := skip(b, i, func(c byte) bool { return '0' <= c && c <= '9' || c == '.' })
	if digits == i {
		return 0, 0
	}
	i = digits
	if i < len(b) && b[i] != ';' && b[i] != ',' && !isSpace(b[i]) {
		return 0, 0
	}
	i = skip(b, i, isSpace)
	if i < len(b) && (b[i] == ';' || b[i] == ',') {
		i++
	}
	i = skip(b, i, isSpace)
	if i+3 <= len(b) && strings.EqualFold(string(b[i:i+3]), "url") {
		j := skip(b, i+3, isSpace)
		if j < len(b) && b[j] == '=' {
			i = skip(b, j+1, isSpace)
		}
	}
	if i < len(b) && (b[i] == '"' || b[i] == '\'') {
		q := b[i]
		i++
		return i, skip(b, i, func(c byte) bool { return c != q })
	}
	return i, len(b)
}

// skip returns the offset of the first byte from i on that is not in the class.
func skip(b []byte, i int, class func(byte) bool) int {
	for i < len(b) && class(b[i]) {
		i++
	}
	return i
}

// candidates keeps each address of a srcset (HTML standard, 4.8.4.3.10).
func (s *Scanner) candidates(h holder, v span) {
	b := s.src[v.start:v.end]
	for i := 0; ; {
		i = skip(b, i, func(c byte) bool { return isSpace(c) || c == ',' })
		if i >= len(b) {
			return
		}
		start := i
		i = skip(b, i, func(c byte) bool { return !isSpace(c) })
		end := i
		for end > start && b[end-1] == ',' {
			end--
		}
		s.refer(h, v, v.start+start, v.start+end)
		if end < i {
			continue
		}
		for depth := 0; i < len(b) && (b[i] != ',' || depth > 0); i++ {
			switch b[i] {
			case '(':
				depth++
			case ')':
				depth--
			}
		}
	}
}

// list keeps each address of a list parted by white space.
func (s *Scanner) list(h holder, v span) {
	b := s.src[v.start:v.end]
	for i := skip(b, 0, isSpace); i < len(b); i = skip(b, i, isSpace) {
		start := i
		i = skip(b, i, func(c byte) bool { return !isSpace(c) })
		s.refer(h, v, v.start+start, v.start+i)
	}
}
