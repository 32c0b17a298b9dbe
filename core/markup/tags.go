package markup

import "bytes"

// Tag is one start or end tag as it is in a text.
type Tag struct {
	// Name is in lower case. Start and End are the byte span from '<' to behind '>'.
	Name       string
	Start, End int
	Closing    bool
	// NameEnd is the offset behind the name, where an attribute would be written.
	NameEnd int
}

// Tags lists the tags of a text, in order, as a browser's tokenizer finds them: none in comments, scripts and other raw
// text. The text is UTF-8, or of another encoding that keeps ASCII.
func Tags(src []byte) []Tag {
	var out []Tag
	var t tag
	for i := 0; ; {
		lt := bytes.IndexByte(src[i:], '<')
		if lt < 0 {
			return out
		}
		i += lt
		rest := src[i:]
		switch {
		case bytes.HasPrefix(rest, []byte("<!--")):
			i, _ = comment(src, i+4)
			continue
		case len(rest) > 1 && (rest[1] == '!' || rest[1] == '?'):
			i, _ = bogusComment(src, i+2)
			continue
		}
		end, ok := t.read(src, i)
		if !ok {
			i = max(i+1, min(end, len(src)))
			continue
		}
		out = append(out, Tag{Name: string(bytes.ToLower(t.name)), Start: i, End: end, Closing: t.closing, NameEnd: t.nameEnd})
		i = end
		if t.closing {
			continue
		}
		stop := -1
		switch t.element {
		case Script:
			stop = scriptEnd(src, i)
		case Title, Textarea, Style, Xmp, Iframe, Noembed, Noframes:
			stop = rawEnd(src, i, t.element.String())
		default:
			continue
		}
		if stop < 0 {
			return out
		}
		i = stop
	}
}

// AttributeOf returns the byte span of an attribute's value in the start tag at the offset, and the byte that quotes it.
func AttributeOf(src []byte, at int, name string) (start, end int, quote byte, ok bool) {
	var t tag
	if _, read := t.read(src, at); !read {
		return 0, 0, 0, false
	}
	a := lookupAttribute([]byte(name))
	if a == NoAttribute {
		return 0, 0, 0, false
	}
	v, ok := t.value(a)
	return v.start, v.end, v.quote, ok
}

// AttributeSpan returns the byte span of a whole attribute in the start tag at the offset, with the white space before it.
func AttributeSpan(src []byte, at int, name string) (start, end int, ok bool) {
	from, to, quote, ok := AttributeOf(src, at, name)
	if !ok {
		return 0, 0, false
	}
	if quote != 0 {
		from, to = from-1, min(to+1, len(src))
	}
	// Back over "=" and the name to the white space before it.
	for from > at && (src[from-1] == '=' || isSpace(src[from-1])) && from > at+len(name) {
		from--
	}
	from -= len(name)
	for from > at && isSpace(src[from-1]) {
		from--
	}
	return from, to, true
}
