package markup

import "bytes"

// Sitemap reads an XML file. Only a sitemap (https://www.sitemaps.org/protocol.html) holds references: the address
// in each loc element; other XML files have none.
func (s *Scanner) Sitemap(src []byte) *Document {
	s.begin(src)
	if len(s.doc.Faults) == 0 || s.doc.Faults[0] != Binary {
		s.locations()
	}
	s.seen = true
	return s.end()
}

// sitemapRoots are the elements that a sitemap, or an index of them, begins with.
var sitemapRoots = [][]byte{[]byte("urlset"), []byte("sitemapindex")}

// locations keeps the address of every loc element, if the first element is one that a sitemap begins with.
func (s *Scanner) locations() {
	src, i := s.src, s.cs.bom
	first := true
	for {
		lt := bytes.IndexByte(src[i:], '<')
		if lt < 0 {
			return
		}
		i += lt
		switch {
		case bytes.HasPrefix(src[i:], []byte("<!--")):
			i, _ = comment(src, i+4)
			continue
		case i+1 < len(src) && (src[i+1] == '!' || src[i+1] == '?'):
			i, _ = bogusComment(src, i+2)
			continue
		}
		end, ok := s.tag.read(src, i)
		if !ok {
			i = max(end, i+1)
			continue
		}
		name := s.tag.name[bytes.IndexByte(s.tag.name, ':')+1:]
		if first && !s.tag.closing {
			if !bytes.Equal(name, sitemapRoots[0]) && !bytes.Equal(name, sitemapRoots[1]) {
				return
			}
			first = false
		}
		i = end
		if !s.tag.closing && !s.tag.selfClosing && string(name) == "loc" {
			i = s.location(end)
		}
	}
}

// location keeps the address that is from i on up to the next tag, and returns the offset behind it.
func (s *Scanner) location(i int) int {
	n := bytes.IndexByte(s.src[i:], '<')
	if n < 0 {
		return len(s.src)
	}
	start, end := i, i+n
	for start < end && isSpace(s.src[start]) {
		start++
	}
	for end > start && isSpace(s.src[end-1]) {
		end--
	}
	if start == end {
		return i + n
	}
	s.tag.element, s.tag.seen = Loc, 0
	s.refer(holder{role: RoleMeta}, span{}, start, end)
	s.references[len(s.references)-1].Flags |= Whole
	return i + n
}
