package audit

import (
	"arvel/core/markup"
	"arvel/core/site"
)

// unreached: a page that no way leads to from the home page. One that leads its visitors on by itself was left for those
// who come from elsewhere.
var unreached = &Rule{
	Name:  "unreached",
	State: Advice,
	Say: func(*Case) (headline, sentence string) {
		return "No way leads here from the home page", "Following links from the home page, a visitor never comes to this page."
	},
}

// reach finds what no way leads to: pages that can't be reached from the home page, and other files that nothing
// refers to. Without a home page nothing is said.
func reach(s *site.Snapshot) (pages, files []int32) {
	home := s.Folders[""].Index
	if home < 0 || len(s.Unknown) > 0 {
		return nil, nil
	}
	for i := range s.Files {
		if s.Files[i].Unread {
			return nil, nil // nobody knows where it leads
		}
	}
	seen := make([]bool, len(s.Files))
	var queue []int32
	visit := func(file int32) {
		if !seen[file] {
			seen[file] = true
			queue = append(queue, file)
		}
	}
	visit(home)
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
		switch f := &s.Files[i]; {
		case f.Same != "":
		case f.Kind == site.Page:
			if !seen[i] && !leadsOn(s, int32(i)) {
				pages = append(pages, int32(i))
			}
		case len(s.From(int32(i))) == 0 && !askedByName(f.Path):
			files = append(files, int32(i))
		}
	}
	return pages, files
}

// leadsOn tells whether a page takes its visitors to another file of the folder by itself.
func leadsOn(s *site.Snapshot, page int32) bool {
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
