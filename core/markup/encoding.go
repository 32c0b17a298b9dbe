package markup

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/transform"
)

// prescanLimit is how many bytes are searched for a meta element that declares the encoding
// (HTML standard, 13.2.3.2).
const prescanLimit = 1024

// charset is how a page's bytes are to be read.
type charset struct {
	name string
	enc  encoding.Encoding // nil for UTF-8
	bom  int               // bytes of byte order mark
	// stateful: a byte's meaning depends on others, so the page is transcoded before it is scanned.
	stateful bool
}

// detect finds a page's encoding: byte order mark, then meta, then valid UTF-8, then windows-1252.
// valid reports whether the bytes are valid UTF-8, which is worth knowing later.
func detect(src []byte) (cs charset, valid bool) {
	switch {
	case bytes.HasPrefix(src, []byte("\xEF\xBB\xBF")):
		return charset{name: "utf-8", bom: 3}, utf8.Valid(src[3:])
	case bytes.HasPrefix(src, []byte("\xFE\xFF")):
		return charset{name: "utf-16be", enc: encodingOf("utf-16be"), bom: 2, stateful: true}, false
	case bytes.HasPrefix(src, []byte("\xFF\xFE")):
		return charset{name: "utf-16le", enc: encodingOf("utf-16le"), bom: 2, stateful: true}, false
	}
	valid = utf8.Valid(src)
	name := declared(src[:min(len(src), prescanLimit)])
	if name == "" {
		if name = "windows-1252"; valid {
			name = "utf-8"
		}
	}
	if name == "utf-8" {
		return charset{name: name}, valid
	}
	return charset{name: name, enc: encodingOf(name), stateful: name == "iso-2022-jp"}, valid
}

func encodingOf(name string) encoding.Encoding {
	e, err := htmlindex.Get(name)
	if err != nil {
		return nil
	}
	return e
}

// declared returns the standard's name of the encoding that a meta element in head declares, or "".
func declared(head []byte) string {
	for i := 0; i < len(head); {
		lt := bytes.IndexByte(head[i:], '<')
		if lt < 0 {
			return ""
		}
		i += lt
		rest := head[i:]
		if bytes.HasPrefix(rest, []byte("<!--")) {
			end := bytes.Index(rest[2:], []byte("-->"))
			if end < 0 {
				return ""
			}
			i += end + 5
			continue
		}
		var t tag
		end, ok := t.read(head, i)
		if !ok {
			i++
			continue
		}
		i = end
		if t.closing || t.element != Meta {
			continue
		}
		label := ""
		if v, ok := t.value(AttrCharset); ok {
			label = string(v.bytes(head))
		} else if v, ok := t.value(AttrContent); ok {
			if h, ok := t.value(AttrHTTPEquiv); ok && strings.EqualFold(string(h.bytes(head)), "content-type") {
				label = charsetIn(string(v.bytes(head)))
			}
		}
		enc, err := htmlindex.Get(strings.TrimSpace(label))
		if err != nil {
			continue
		}
		name, _ := htmlindex.Name(enc)
		switch name {
		case "utf-16be", "utf-16le":
			return "utf-8"
		case "x-user-defined":
			return "windows-1252"
		}
		return name
	}
	return ""
}

// charsetIn extracts the encoding from a meta element's content (HTML standard, 2.5.4).
func charsetIn(content string) string {
	low := strings.ToLower(content)
	for {
		i := strings.Index(low, "charset")
		if i < 0 {
			return ""
		}
		low = strings.TrimLeft(low[i+len("charset"):], " \t\n\f\r")
		if !strings.HasPrefix(low, "=") {
			continue
		}
		low = strings.TrimLeft(low[1:], " \t\n\f\r")
		if low == "" {
			return ""
		}
		if q := low[0]; q == '"' || q == '\'' {
			end := strings.IndexByte(low[1:], q)
			if end < 0 {
				return ""
			}
			return low[1 : end+1]
		}
		if end := strings.IndexAny(low, " \t\n\f\r;"); end >= 0 {
			low = low[:end]
		}
		return low
	}
}

// transcoded is a page turned into UTF-8 together with where each of its bytes came from.
type transcoded struct {
	text []byte
	from []uint32 // from[i] is the offset in the file of what became text[i]; one more than text
}

// transcode turns the bytes of a stateful encoding into UTF-8, one character at a time so that every
// character's offset is known.
func transcode(src []byte, cs charset) transcoded {
	dec := cs.enc.NewDecoder()
	out := transcoded{text: make([]byte, 0, len(src)), from: make([]uint32, 0, len(src)+1)}
	var dst [8]byte
	for i := cs.bom; i < len(src); {
		took, wrote := 0, 0
		for n := 1; n <= 12 && i+n <= len(src) && took == 0; n++ {
			atEOF := i+n == len(src)
			var err error
			wrote, took, err = dec.Transformer.Transform(dst[:], src[i:i+n], atEOF)
			if err != nil && err != transform.ErrShortSrc {
				took = max(took, 1)
			}
		}
		if took == 0 {
			took = 1
		}
		for range wrote {
			out.from = append(out.from, uint32(i))
		}
		out.text = append(out.text, dst[:wrote]...)
		i += took
	}
	out.from = append(out.from, uint32(len(src)))
	return out
}

// Text decodes a page's bytes to UTF-8 as a browser would and tells the encoding's name.
func Text(src []byte) (text, encoding string) {
	cs, valid := detect(src)
	body := src[cs.bom:]
	if cs.enc == nil {
		if valid {
			return string(body), cs.name
		}
		return strings.ToValidUTF8(string(body), "\uFFFD"), cs.name
	}
	out, err := cs.enc.NewDecoder().Bytes(body)
	if err != nil {
		return strings.ToValidUTF8(string(body), "\uFFFD"), cs.name
	}
	return string(out), cs.name
}

// An EncodeError says that a value can't be written in a page's encoding.
type EncodeError struct{ Value, Encoding string }

func (e *EncodeError) Error() string {
	return fmt.Sprintf("%q has letters that %s cannot hold", e.Value, e.Encoding)
}

// Encode turns value into the bytes that encode it in a page of the named encoding (a name that
// [Document.Encoding] has). Letters that the encoding lacks give an [*EncodeError].
func Encode(value, name string) ([]byte, error) {
	enc := encodingOf(name)
	if enc == nil || name == "utf-8" {
		return []byte(value), nil
	}
	if name == "utf-16le" || name == "utf-16be" {
		// The index's UTF-16 encoders are UTF-8 ones, as the Encoding Standard has it for forms.
		return encodeUTF16(value, name == "utf-16be"), nil
	}
	out, err := enc.NewEncoder().Bytes([]byte(value))
	if err != nil {
		return nil, &EncodeError{value, name}
	}
	return out, nil
}

// EncodeExactly returns the bytes that value was read from in a page of the named encoding, or nil where several ways of
// writing it are read the same, so that nobody can tell.
func EncodeExactly(value, name string) []byte {
	ascii := true
	for i := range len(value) {
		ascii = ascii && value[i] < 0x80
	}
	if name == "iso-2022-jp" || !ascii && name != "utf-8" && name != "" || strings.Contains(value, "\uFFFD") {
		return nil
	}
	b, err := Encode(value, name)
	if err != nil {
		return nil
	}
	return append([]byte{}, b...)
}

// Decode turns some bytes of the page whose whole bytes are src into UTF-8.
func Decode(some, src []byte) string {
	cs, _ := detect(src)
	if cs.enc != nil {
		if out, err := cs.enc.NewDecoder().Bytes(some); err == nil {
			return string(out)
		}
	}
	return strings.ToValidUTF8(string(some), "\uFFFD")
}

// Unit returns how many bytes the smallest character of the page has: 2 in UTF-16, else 1.
func Unit(src []byte) int {
	if cs, _ := detect(src); strings.HasPrefix(cs.name, "utf-16") {
		return 2
	}
	return 1
}

// first decodes the first character of b and says how many bytes it took.
func first(dec *encoding.Decoder, b []byte) (text string, n int) {
	var dst [16]byte
	for n = 1; n <= 4 && n <= len(b); n++ {
		dec.Reset()
		wrote, took, err := dec.Transformer.Transform(dst[:], b[:n], n == len(b))
		if took > 0 && err == nil {
			return string(dst[:wrote]), took
		}
		if err != nil && err != transform.ErrShortSrc {
			break
		}
	}
	return "\uFFFD", 1
}
