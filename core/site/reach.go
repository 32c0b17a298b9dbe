package site

import "arvel/core/markup"

// knowsAll reports whether everything in the folder is known, so that it can be said of something that nothing leads
// there. Without a home page nothing can.
func (s *Snapshot) knowsAll() bool {
	if s.Folders[""].Index < 0 || len(s.Unknown) > 0 {
		return false
	}
	for i := range s.Files {
		if s.Files[i].Unread {
			return false
		}
	}
	return true
}

// Unreached returns the pages that no chain of references leads to from the home page, as indexes of s.Files. A page that
// takes its visitors to another one by itself (a refresh) is not among them: it was left for those who come from elsewhere.
func (s *Snapshot) Unreached() (pages []int32) {
	if !s.knowsAll() {
		return nil
	}
	seen := make([]bool, len(s.Files))
	var queue []int32
	visit := func(file int32) {
		if !seen[file] {
			seen[file] = true
			queue = append(queue, file)
		}
	}
	visit(s.Folders[""].Index)
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		if same, ok := s.Find(s.Real(at).Path); ok {
			visit(same)
		}
		for _, l := range s.Links(at) {
			if l.File >= 0 {
				visit(l.File)
			}
		}
	}
	for i := range s.Files {
		if s.Files[i].IsPage() && !seen[i] && !s.refreshes(int32(i)) {
			pages = append(pages, int32(i))
		}
	}
	return pages
}

// Unused returns the files other than pages that nothing refers to, as indexes of s.Files.
func (s *Snapshot) Unused() (files []int32) {
	if !s.knowsAll() {
		return nil
	}
	for i := range s.Files {
		if f := &s.Files[i]; f.Same == "" && f.Kind != Page && len(s.Referrers(int32(i))) == 0 && !wellKnown[f.Path] {
			files = append(files, int32(i))
		}
	}
	return files
}

// wellKnown are the files that programs ask for by their names, without a reference.
var wellKnown = map[string]bool{
	"favicon.ico": true, "robots.txt": true, "sitemap.xml": true, "humans.txt": true, "security.txt": true,
	"apple-touch-icon.png": true, "CNAME": true, "README.md": true, "LICENSE": true,
}

// refreshes reports whether a page takes its visitors to another file of the folder by itself.
func (s *Snapshot) refreshes(page int32) bool {
	doc := s.Files[page].Doc
	if doc == nil {
		return false
	}
	for i, l := range s.Links(page) {
		if r := &doc.References[i]; r.Element == markup.Meta && r.Role == markup.RoleLink && l.File >= 0 && l.File != page {
			return true
		}
	}
	return false
}
