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

// NoWayHome returns the pages that have links, to other pages or to other sites, but from which no chain of references leads back
// to the home page, as indexes of s.Files. What a frame or a refresh leads to counts as a link, and a page that is shown in
// another one's frame has that one's links, too.
func (s *Snapshot) NoWayHome() (pages []int32) {
	if !s.knowsAll() {
		return nil
	}
	home := s.Folders[""].Index
	// From where something leads to a file: backwards along the references.
	leads := make([]bool, len(s.Files))
	queue := []int32{home}
	leads[home] = true
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, from := range s.Referrers(at) {
			if !leads[from] {
				leads[from] = true
				queue = append(queue, from)
			}
		}
		for _, l := range s.Links(at) {
			if l.File >= 0 && l.Kind == AsFrame && !leads[l.File] {
				leads[l.File] = true
				queue = append(queue, l.File)
			}
		}
	}
	for i := range s.Files {
		if f := &s.Files[i]; f.Kind == Page && f.Same == "" && f.Doc != nil && !f.Doc.Empty && !leads[i] && s.HasWayOn(int32(i)) {
			pages = append(pages, int32(i))
		}
	}
	return pages
}

// HasWayOn reports whether a page has a link to another page or to another site.
func (s *Snapshot) HasWayOn(page int32) bool {
	for _, l := range s.Links(page) {
		if l.Outcome == Elsewhere || l.File >= 0 && l.File != page && s.Files[l.File].Kind == Page {
			return true
		}
	}
	return false
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
