package site

import (
	"strings"
	"sync"

	"arvel/core/distance"
	"arvel/core/markup"
)

// near keeps the indexes of names that were asked for: of folders and of pages.
type near struct{ indexes sync.Map }

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
