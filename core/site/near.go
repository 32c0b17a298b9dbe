package site

import (
	"path"
	"slices"
	"strings"
	"sync"

	"arvel/core/distance"
	"arvel/core/markup"
)

// near keeps the indexes of names that were asked for: of folders and of pages; and the extensions of all files.
type near struct {
	indexes    sync.Map
	extensions sync.Map // by extension, whether a file has it
}

// HasExtension reports whether a file of the folder has the extension, with its dot, letter case aside.
func (s *Snapshot) HasExtension(ext string) bool {
	ext = strings.ToLower(ext)
	if known, ok := s.near.extensions.Load(ext); ok {
		return known.(bool)
	}
	has := slices.ContainsFunc(s.Files, func(f File) bool { return strings.EqualFold(path.Ext(f.Path), ext) })
	s.near.extensions.Store(ext, has)
	return has
}

// NamesIn returns an index of the names in a folder, as [Folder.Names] has them but without the slash of folders.
func (s *Snapshot) NamesIn(folder *Folder) *distance.Index {
	return s.near.of(folder, func() []string {
		names := make([]string, len(folder.Names))
		for i, n := range folder.Names {
			names[i] = strings.TrimSuffix(n, "/")
		}
		return names
	})
}

// FoldersIn returns an index of the names of the folders in a folder.
func (s *Snapshot) FoldersIn(folder *Folder) *distance.Index {
	return s.near.of(foldersOf{folder}, func() []string {
		var names []string
		for _, n := range folder.Names {
			if name, is := strings.CutSuffix(n, "/"); is {
				names = append(names, name)
			}
		}
		return names
	})
}

type foldersOf struct{ *Folder }

// IDsOn returns an index of the names on a page that a fragment can land on.
func (s *Snapshot) IDsOn(doc *markup.Document) *distance.Index {
	return s.near.of(doc, func() []string {
		if doc == nil {
			return nil
		}
		names := make([]string, 0, len(doc.Anchors))
		for i := range doc.Anchors {
			if a := &doc.Anchors[i]; !a.Inert {
				names = append(names, a.Name)
			}
		}
		return names
	})
}

func (n *near) of(key any, names func() []string) *distance.Index {
	if x, ok := n.indexes.Load(key); ok {
		return x.(*distance.Index)
	}
	x, _ := n.indexes.LoadOrStore(key, distance.NewIndex(names()))
	return x.(*distance.Index)
}
