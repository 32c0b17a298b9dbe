package change

import (
	"maps"
	"slices"
)

// Record is a change set as it was looked up in the files, with all that it takes to carry it out, to complete it after a
// crash, to take it back and to show it: each of its files has After, and each edit its Old and its line.
type Record struct {
	Set
	// Token names what is written beside the files until it takes their place.
	Token string
}

// Moves returns the new paths, by the old ones, of what the set moves and of what it follows.
func (s *Set) Moves() map[string]string {
	to := map[string]string{}
	maps.Copy(to, s.Followed)
	for i := range s.Files {
		if f := &s.Files[i]; f.Kind == Moved {
			to[f.From] = f.Path
		}
	}
	return to
}

// Paths returns the paths of the set's files, those that moved files leave among them.
func (s *Set) Paths() (paths []string) {
	for i := range s.Files {
		f := &s.Files[i]
		paths = append(paths, f.Path)
		if f.From != "" {
			paths = append(paths, f.From)
		}
	}
	return paths
}

// Inverse returns the set that takes the recorded one back. Its title is left to the caller.
func (r *Record) Inverse() Set {
	set := Set{Folders: r.Emptied, Emptied: r.Folders}
	for i := range r.Files {
		set.Files = append(set.Files, r.Files[i].Inverse())
	}
	return set
}

// Inverse returns what takes a recorded file back.
func (f *File) Inverse() File {
	back := File{Kind: f.Kind, Path: f.Path, Before: f.After, Edits: Inverse(f.Edits)}
	switch f.Kind {
	case Moved:
		back.Path, back.From = f.From, f.Path
	case Made:
		back.Kind = Deleted
	case Deleted:
		back.Kind, back.Content, back.Mode = Made, f.Content, f.Mode
	}
	return back
}

// Recorded returns the edits as they are made in src: in order, each with its Old. It gives an [*EditError] if one does not
// fit.
func Recorded(src []byte, edits []Edit) ([]Edit, error) {
	edits, err := Sorted(edits, len(src))
	for i := range edits {
		edits[i].Old = append([]byte{}, src[edits[i].Start:edits[i].End]...)
	}
	return edits, err
}

// Inverse returns the edits that take recorded ones back.
func Inverse(edits []Edit) []Edit {
	var inverse []Edit
	shift := 0
	for _, e := range edits {
		start := e.Start + shift
		inverse = append(inverse, Edit{Start: start, End: start + len(e.New), New: e.Old, Old: slices.Clone(e.New)})
		shift += len(e.New) - (e.End - e.Start)
	}
	return inverse
}
