package compose

import (
	"path"
	"strings"

	"arvel/core/naming"
	"arvel/core/site"
)

// NameFor checks the path of a new page and returns it with an extension, and what is wrong with the name, if anything.
func NameFor(s *site.Snapshot, p string) (name, wrong string) {
	name = strings.Trim(path.Clean("/"+p), "/")
	if name != "" && path.Ext(name) == "" {
		name += ".html"
	}
	fault := naming.PathFault(name)
	switch {
	case name == "" || strings.HasSuffix(p, "/"):
		return name, "needs a name"
	case fault != "":
		return name, fault
	case s.Exists(name):
		return name, "is there already"
	case len(s.Folded(name)) > 0:
		return name, "is there already in other letter case"
	}
	return name, naming.FileFault(name)
}
