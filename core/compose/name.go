package compose

import (
	"fmt"
	"path"
	"strings"

	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/site"
)

// PageName is the name of a new page, checked.
type PageName struct {
	// Path is the page's path in the folder, with an extension.
	Path string
	// Faults say what is wrong with it, each as the end of a sentence that begins with the path; none for a good name.
	Faults []string
	// Refused: a page can't be made by this name; else the faults are only told.
	Refused bool
	// Better is a path without faults; "" if there is none, or none is needed.
	Better string
}

// NameFor checks the path of a new page. A path of "" is made of the page's title, in the folder of the page that it is begun
// from.
func NameFor(s *site.Snapshot, p, title, from string) PageName {
	if p == "" && title != "" {
		dir, _ := site.Cut(from)
		better := naming.BetterFolder(strings.ReplaceAll(strings.ReplaceAll(title, "/", " "), ".", " "))
		if better != "" && better[0] >= '0' && better[0] <= '9' {
			better = "page-" + better
		}
		if better != "" {
			p = free(s, path.Join(dir, better)+".html")
		}
	}
	n := PageName{Path: strings.TrimLeft(p, "/")}
	refuse := func(fault string) { n.Faults, n.Refused = append(n.Faults, fault), true }
	if n.Path == "" || strings.HasSuffix(n.Path, "/") {
		refuse("needs a name")
		return n
	}
	if path.Ext(n.Path) == "" {
		n.Path += ".html"
	}
	if fault := naming.PathFault(n.Path); fault != "" {
		refuse(fault)
	}
	dir, _ := site.Cut(n.Path)
	if dir != "" {
		for part := range strings.SplitSeq(dir, "/") {
			if part == ".." || s.Folders[dir] != nil {
				continue
			}
			for _, fault := range naming.FolderFaults(part) {
				n.Faults = append(n.Faults, "is in a folder that "+fault)
			}
		}
	}
	n.Faults = append(n.Faults, naming.FileFaults(n.Path)...)
	if meant := naming.WithoutSecondExtension(n.Path); meant != "" {
		refuse("ends in " + phrase.Mono(path.Ext(n.Path)) + ", which hides that it is a page")
	} else if site.KindOf(n.Path) != site.Page {
		refuse("doesn't end in `.html`, so browsers don't take it for a page")
	}
	switch {
	case s.Exists(n.Path):
		refuse("exists already")
	case len(s.Folded(n.Path)) > 0:
		refuse("exists already in other letter case")
	}
	if len(n.Faults) > 0 {
		n.Better = better(s, n.Path)
	}
	return n
}

// better returns a path for a new page that keeps the naming rules and is not taken; "" if nothing of the name is left.
func better(s *site.Snapshot, p string) string {
	if meant := naming.WithoutSecondExtension(p); meant != "" {
		p = meant
	}
	if site.KindOf(p) != site.Page {
		p += ".html"
	}
	var parts []string
	dir, _ := site.Cut(path.Clean(p))
	for part := range strings.SplitSeq(dir, "/") {
		if part == ".." || part == "" {
			continue
		}
		if s.Folders[dir] == nil {
			part = naming.BetterFolder(part)
		}
		parts = append(parts, part)
	}
	name := naming.BetterFile(p)
	if name == "" {
		return ""
	}
	return free(s, path.Join(path.Join(parts...), name))
}

// free returns a path that is not taken: the one given, or with the first number behind its name that makes it one.
func free(s *site.Snapshot, p string) string {
	taken := func(p string) bool { return s.Exists(p) || len(s.Folded(p)) > 0 }
	ext := path.Ext(p)
	out := p
	for n := 2; taken(out); n++ {
		out = fmt.Sprintf("%s-%d%s", strings.TrimSuffix(p, ext), n, ext)
	}
	return out
}
