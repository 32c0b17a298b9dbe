package site

import "strings"

// FirstMissing finds where a path that leads to nothing breaks off: the deepest folder on it that is there, the name
// that is missing in that folder, and the names that are there.
func (s *Snapshot) FirstMissing(path string) (folder, missing string, names []string) {
	rest := path
	for {
		name, more, deeper := strings.Cut(rest, "/")
		here := join(folder, name)
		if f := s.Folders[here]; f == nil || !deeper {
			return folder, name, s.Folders[folder].Names
		}
		folder, rest = here, more
	}
}

func join(folder, name string) string {
	if folder == "" {
		return name
	}
	return folder + "/" + name
}

// Exists reports whether a file or folder is at the path.
func (s *Snapshot) Exists(path string) bool {
	path = s.Through(path)
	_, file := s.byPath[path]
	return file || s.Folders[path] != nil
}
