package audit

import (
	"strings"

	"arvel/core/site"
)

// duplicateID: an id that stands on the page more than once; a fragment lands on the first.
var duplicateID = &Rule{
	Name: "duplicate-id",
	Page: func(c *Case, found func(anchor int)) {
		if len(c.File.Doc.Anchors) < 2 {
			return
		}
		for i := range c.File.Doc.Anchors {
			a := &c.File.Doc.Anchors[i]
			if first := c.File.Doc.Anchor(a.Name); first != nil && first != a && !a.ByName && !first.ByName && !a.Inert {
				found(i)
			}
		}
	},
	State: Fragile,
	Say: func(c *Case) (headline, sentence string) {
		return "The id " + Mono(c.Anchor.Name) + " stands there twice", "A link to " + Mono("#"+c.Anchor.Name) +
			" lands on the first element with that id, never on this one."
	},
}

// spaceInID: an id with white space in it, which HTML does not allow and which links seldom get right.
var spaceInID = &Rule{
	Name:  "space-in-id",
	State: Fragile,
	Page: func(c *Case, found func(anchor int)) {
		for i := range c.File.Doc.Anchors {
			if a := &c.File.Doc.Anchors[i]; !a.Inert && strings.ContainsAny(a.Name, " \t\n\r\f") {
				found(i)
			}
		}
	},
	Say: func(c *Case) (headline, sentence string) {
		return "There is a space in the id " + Mono(c.Anchor.Name), "An id may not hold white space; not all browsers and programs find " + Mono(c.Anchor.Name) + "."
	},
}

// hashInID: an id that begins with the "#" that belongs into the link.
var hashInID = &Rule{
	Name:  "hash-in-id",
	State: Fragile,
	Page: func(c *Case, found func(anchor int)) {
		for i := range c.File.Doc.Anchors {
			if a := &c.File.Doc.Anchors[i]; !a.Inert && strings.HasPrefix(a.Name, "#") {
				found(i)
			}
		}
	},
	Say: func(c *Case) (headline, sentence string) {
		return "The id begins with " + Mono("#"), "The " + Mono("#") + " belongs into the link, not into the id: a link to " + Mono(c.Anchor.Name) +
			" looks for " + Mono(strings.TrimPrefix(c.Anchor.Name, "#")) + " and never lands here."
	},
}

// missingTitle: a page without a title, which tabs, bookmarks and search results show.
var missingTitle = &Rule{
	Name:  "missing-title",
	State: Advice,
	Page: func(c *Case, found func(anchor int)) {
		if c.File.Kind == site.Page && c.File.Doc.Title == "" && !c.File.Doc.Empty && len(c.File.Doc.Faults) == 0 {
			found(none)
		}
	},
	Say: func(*Case) (headline, sentence string) {
		return "The page has no title", "Tabs, bookmarks and search results show the title; without one they show the address."
	},
}

// emptyPage: a page with nothing on it.
var emptyPage = &Rule{
	Name:  "empty-page",
	State: Advice,
	Page: func(c *Case, found func(anchor int)) {
		if c.File.Kind == site.Page && c.File.Doc.Empty {
			found(none)
		}
	},
	Say: func(*Case) (headline, sentence string) {
		return "There is nothing on this page", "A visitor who comes here sees an empty window."
	},
}

// deadEnd: a page from which no link leads to another one.
var deadEnd = &Rule{
	Name:  "dead-end",
	State: Advice,
	Page: func(c *Case, found func(anchor int)) {
		if c.File.Kind != site.Page || c.File.Doc.Empty {
			return
		}
		self, _ := c.Snapshot.Find(c.File.Path)
		for _, l := range c.Snapshot.Links(self) {
			if l.Outcome == site.Elsewhere || l.File >= 0 && l.File != self && c.Snapshot.Files[l.File].Kind == site.Page {
				return
			}
		}
		found(none)
	},
	Say: func(*Case) (headline, sentence string) {
		return "No way leads on from this page", "A visitor who comes here has no link to go on by, not even one home."
	},
}

// fileName: a name that breaks the rules by which names work on every host.
var fileName = &Rule{
	Name:  "file-name",
	State: Advice,
	Page: func(c *Case, found func(anchor int)) {
		if NameFault(c.File.Path) != "" {
			found(none)
		}
	},
	Say: func(c *Case) (headline, sentence string) {
		_, name := site.Cut(c.File.Path)
		return "The name " + Mono(name) + " may not work everywhere", "It " + NameFault(c.File.Path) + ". Lower-case letters, digits, " + Mono("-") + " and " + Mono("_") + " work on every host."
	},
}

// NameFault says, as the end of a sentence that begins with the name, what in the last name of a path breaks the
// naming rules: lower case, no spaces or special characters, no digit at its start. "" for a good name.
func NameFault(path string) string {
	_, name := site.Cut(path)
	for i := range len(name) {
		switch c := name[i]; {
		case 'A' <= c && c <= 'Z':
			return "has capital letters"
		case c <= ' ':
			return "has a space in it"
		case c >= 0x7F:
			return "has letters beyond a to z"
		case strings.IndexByte("-_.", c) < 0 && (c < '0' || c > '9') && (c < 'a' || c > 'z'):
			return "has " + Mono(string(c)) + " in it"
		}
	}
	if name[0] >= '0' && name[0] <= '9' {
		return "begins with a digit"
	}
	return ""
}

// unreached: a page that no way leads to from the home page.
var unreached = &Rule{
	Name:  "unreached",
	State: Advice,
	Say: func(*Case) (headline, sentence string) {
		return "No way leads here from the home page", "Following links from the home page, a visitor never comes to this page."
	},
}

// unusedFile: a file that nothing refers to.
var unusedFile = &Rule{
	Name:  "unused-file",
	State: Advice,
	Say: func(*Case) (headline, sentence string) {
		return "Nothing refers to this file", "No page, style sheet or picture in the folder uses it."
	},
}

// reach finds what no way leads to: pages that can't be reached from the home page, and other files that nothing
// refers to. Without a home page nothing is said.
func reach(s *site.Snapshot) (pages, files []int32) {
	home := s.Folders[""].Index
	if home < 0 {
		return nil, nil
	}
	seen := make([]bool, len(s.Files))
	seen[home] = true
	queue := []int32{home}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, l := range s.Links(at) {
			if l.File >= 0 && !seen[l.File] {
				seen[l.File] = true
				queue = append(queue, l.File)
			}
		}
	}
	for i := range s.Files {
		switch f := &s.Files[i]; {
		case f.Kind == site.Page:
			if !seen[i] {
				pages = append(pages, int32(i))
			}
		case len(s.From(int32(i))) == 0 && !askedByName(f.Path):
			files = append(files, int32(i))
		}
	}
	return pages, files
}

// askedByName tells whether a file is one that programs ask for by its name, without a reference.
func askedByName(path string) bool {
	switch path {
	case "favicon.ico", "robots.txt", "sitemap.xml", "humans.txt", "security.txt", "apple-touch-icon.png", "CNAME", "README.md", "LICENSE":
		return true
	}
	return false
}
