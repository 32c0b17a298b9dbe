package plan

import (
	"cmp"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"arvel/core/naming"
	"arvel/core/site"
)

// BetterNames returns the moves that give a better name to each file and folder whose name breaks the naming rules, as one
// plan: no two get the same name, nor that of another one, and what is in a folder goes along with it.
func BetterNames(s *site.Snapshot) (moves []Move) {
	fresh := map[string]string{"": ""} // where folders will be
	used := map[string]map[string]bool{}
	use := func(dir, name string) {
		if used[dir] == nil {
			used[dir] = map[string]bool{}
		}
		used[dir][site.Fold(name)] = true
	}
	rename := func(p, better string) string {
		dir, name := site.Cut(p)
		if better == "" {
			return path.Join(fresh[dir], name)
		}
		ext := path.Ext(better)
		stem := strings.TrimSuffix(better, ext)
		for n := 2; used[dir][site.Fold(better)]; n++ {
			better = fmt.Sprintf("%s-%d%s", stem, n, ext)
		}
		use(dir, better)
		to := path.Join(fresh[dir], better)
		moves = append(moves, Move{p, to})
		return to
	}
	dirs := slices.Sorted(maps.Keys(s.Folders)) // those above come before those in them
	better := map[string]string{}
	for _, dir := range dirs {
		if naming.FolderFault(dir) != "" {
			better[dir] = naming.BetterFolder(dir)
		}
	}
	for i := range s.Files {
		p := s.Files[i].Path
		meant := naming.WithoutSecondExtension(p)
		if meant != "" && s.Exists(meant) {
			meant = ""
		}
		if meant != "" || naming.FileFault(p) != "" {
			better[p] = naming.BetterFile(cmp.Or(meant, p))
		}
	}
	for _, dir := range dirs {
		for _, name := range s.Folders[dir].Names {
			if name = strings.TrimSuffix(name, "/"); better[path.Join(dir, name)] == "" {
				use(dir, name)
			}
		}
	}
	for _, dir := range dirs {
		if dir != "" {
			fresh[dir] = rename(dir, better[dir])
		}
	}
	for i := range s.Files {
		rename(s.Files[i].Path, better[s.Files[i].Path])
	}
	return moves
}
