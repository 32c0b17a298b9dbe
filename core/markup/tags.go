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

// TagAttribute is an attribute of a tag as it is in a text.
type TagAttribute struct {
	// Name is in lower case. Start and End are the byte span of all of it.
	Name       string
	Start, End int
	// ValueStart and ValueEnd are the byte span of the value between its quotes, Quote what quotes it: 0, '"' or '\''. Bare: it has
	// no value, not even an empty one.
	ValueStart, ValueEnd int
	Quote                byte
	Bare                 bool
}

// AttributesOf lists the attributes of the start tag at the offset, in order; of several of one name the first counts (HTML,
// 13.2.5.33).
func AttributesOf(src []byte, at int) []TagAttribute {
	var t tag
	end, ok := t.read(src, at)
	if !ok {
		return nil
	}
	var out []TagAttribute
	for i := t.nameEnd; i < end-1; {
		if src[i] == '/' || isSpace(src[i]) {
			i++
			continue
		}
		nameEnd, v, next := readAttribute(src, i)
		out = append(out, TagAttribute{string(bytes.ToLower(src[i:nameEnd])), i, next, v.start, v.end, v.quote, v.start == nameEnd})
		i = next
	}
	return out
}

// AttributeOf returns the attribute of that name, in lower case, of the start tag at the offset; false if it has none.
func AttributeOf(src []byte, at int, name string) (TagAttribute, bool) {
	for _, a := range AttributesOf(src, at) {
		if a.Name == name {
			return a, true
		}
	}
	return TagAttribute{}, false
}

// WithSpace returns the byte span of the attribute with the white space before it.
func (a *TagAttribute) WithSpace(src []byte) (start, end int) {
	start = a.Start
	for isSpace(src[start-1]) {
		start--
	}
	return start, a.End
}
