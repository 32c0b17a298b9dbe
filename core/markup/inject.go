package markup

import "bytes"

// ScriptPlace returns the offset at which an element can be put into a page so that a browser runs it before the rest
// of the page and reads the rest as it would have without it: behind the doctype and what is before that, or at
// the front where there is none; in an XHTML page behind the head's start tag.
func ScriptPlace(src []byte, xml bool) int {
	cs, _ := detect(src)
	if cs.stateful {
		t := transcode(src, cs)
		return int(t.from[placeIn(t.text, 0, xml)])
	}
	return placeIn(src, cs.bom, xml)
}

func placeIn(src []byte, begin int, xml bool) int {
	place := begin
	for i := begin; i < len(src); {
		switch rest := src[i:]; {
		case isSpace(src[i]):
			i++
		case bytes.HasPrefix(rest, []byte("<!--")):
			end, cut := comment(src, i+4)
			if cut {
				return place
			}
			i = end
		case bytes.HasPrefix(rest, []byte("<?")):
			end, cut := bogusComment(src, i+2)
			if cut {
				return place
			}
			i = end
		case len(rest) > 9 && bytes.EqualFold(rest[:9], []byte("<!doctype")):
			end, cut := bogusComment(src, i+2)
			if cut {
				return place
			}
			if !xml {
				return end
			}
			i = end
		case xml:
			return behindHead(src, i, place)
		default:
			return place
		}
	}
	return place
}

// behindHead returns the offset behind the head's start tag, or otherwise where there is none.
func behindHead(src []byte, i, otherwise int) int {
	var t tag
	for n := 0; n < 8 && i < len(src); n++ {
		lt := bytes.IndexByte(src[i:], '<')
		if lt < 0 {
			break
		}
		end, ok := t.read(src, i+lt)
		if ok && string(t.name) == "head" && !t.closing && !t.selfClosing {
			return end
		}
		i = max(end, i+lt+1)
	}
	return otherwise
}
