package naming

import (
	"path"
	"slices"
	"strings"

	"arvel/core/site"
)

// WithoutSecondExtension returns the path of a file without an extension that hides another one ("page.html.txt", "photo.png.jpg",
// "news.html.html"); "" if it has none such. An extension that says more of the one before it (".css.map", ".js.html") hides none.
func WithoutSecondExtension(p string) string {
	outer := strings.ToLower(path.Ext(p))
	inner := strings.TrimSuffix(p, path.Ext(p))
	switch kind := site.KindOf(inner); {
	case path.Ext(inner) == path.Base(inner):
		return "" // nothing but an extension
	case kind == site.Page || kind == site.Image:
		if outer == ".txt" || site.KindOf(p) == kind {
			return inner
		}
	case kind == site.Style || kind == site.Script:
		if outer == ".txt" || outer == strings.ToLower(path.Ext(inner)) {
			return inner
		}
	case kind == site.Paper && outer == strings.ToLower(path.Ext(inner)):
		return inner
	}
	return ""
}

// Hidden returns the path of the file that is meant by a path at which nothing is, and that a second extension hides; "" if there is
// none.
func Hidden(s *site.Snapshot, wanted string) string {
	dir, name := site.Cut(wanted)
	f := s.Folders[dir]
	if f == nil || name == "" {
		return ""
	}
	at, _ := slices.BinarySearch(f.Names, name+".")
	for _, n := range f.Names[at:] {
		if !strings.HasPrefix(n, name+".") {
			break
		}
		if p := path.Join(dir, n); WithoutSecondExtension(p) == wanted {
			return p
		}
	}
	return ""
}
