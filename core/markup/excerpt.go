package markup

import (
	"bytes"
	"strings"
)

// excerptScan is how many bytes are looked through for an excerpt.
const excerptScan = 4096

// Excerpt returns the text that a reader of the page sees from the byte offset on, shortened. It is for showing
// what is at an anchor.
func Excerpt(src []byte, offset int) string {
	if offset < 0 || offset > len(src) || Unit(src) > 1 {
		return ""
	}
	part := src[offset:min(len(src), offset+excerptScan)]
	var text []byte
	for i := 0; i < len(part) && len(text) < textLimit; {
		lt := bytes.IndexByte(part[i:], '<')
		if lt < 0 {
			text = append(text, part[i:]...)
			break
		}
		text = append(text, part[i:i+lt]...)
		i += lt
		var t tag
		end, ok := t.read(part, i)
		switch {
		case ok:
			i = end
			if e := t.element; !t.closing && (e == Script || e == Style) {
				if n := rawEnd(part, i, e.String()); n >= 0 {
					i = n
				}
			}
		case bytes.HasPrefix(part[i:], []byte("<!--")):
			i, _ = comment(part, i+4)
		default:
			i = max(end, i+1)
		}
		text = append(text, ' ')
	}
	return clip(strings.Join(strings.Fields(unescapeText(Decode(text, src))), " "))
}
