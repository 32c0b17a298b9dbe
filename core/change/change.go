// Package change holds the one value that every change to the author's files is made of: byte edits in files as they
// were read, and files that are moved, made and deleted along with them. It applies edits, inverts them and shows
// them as a diff. It does not read or write files.
package change

import (
	"bytes"
	"fmt"
	"slices"
)

// Edit replaces the bytes from Start up to End by New.
type Edit struct {
	Start, End int
	New        []byte
	// Old is what has to be there before, so that no edit is made in the wrong place; nil where that was not looked at.
	Old []byte
}

// Kind says what happens to a file.
type Kind string

// The kinds. The history keeps them, so they are stable.
const (
	Edited  Kind = "edited"
	Moved   Kind = "moved" // and perhaps edited on the way
	Made    Kind = "made"
	Deleted Kind = "deleted"
)

// File is what is to be done to one file.
type File struct {
	Kind Kind
	// Path is relative to the folder, with slashes: where the file is afterwards, or was if it is deleted.
	Path string
	// From is where a moved file was before.
	From string
	// Before is the hash of the file that was planned for; that of nothing for one that is made.
	Before Hash
	// After is the hash of what the file becomes, and Lines are the lines that the edits are in, one for each of them.
	// Both are known once the change is recorded.
	After Hash
	Lines []Line
	// Edits are made in an edited or moved file.
	Edits []Edit
	// Content is what a made file holds, and once recorded, what a deleted one held. Mode are its permissions; 0 for the
	// usual ones.
	Content []byte
	Mode    uint32
}

// Source returns where the file is before the change; "" for one that is made by it.
func (f *File) Source() string {
	switch f.Kind {
	case Moved:
		return f.From
	case Made:
		return ""
	}
	return f.Path
}

// Set is all that is carried out together, and undone together.
type Set struct {
	// Title says in a few words what the change is for.
	Title string
	Files []File
	// Folders are made, those that are to stay empty too; Emptied are taken away if nothing is left in them.
	Folders, Emptied []string
	// Followed are moves that somebody else made and that the edits let references follow: the new paths by the old ones.
	Followed map[string]string
}

// An EditError says which edit does not fit the bytes it is for.
type EditError struct {
	Edit Edit
	Size int // of the file, in bytes
	Why  string
}

func (e *EditError) Error() string {
	return fmt.Sprintf("edit of bytes %d to %d in %d: %s", e.Edit.Start, e.Edit.End, e.Size, e.Why)
}

// Sorted returns the edits in order, each place in one of them, or an [*EditError] if one lies outside a file of size bytes or over another.
func Sorted(edits []Edit, size int) ([]Edit, error) {
	edits = slices.Clone(edits)
	slices.SortStableFunc(edits, func(a, b Edit) int {
		if a.Start != b.Start {
			return a.Start - b.Start
		}
		return a.End - b.End
	})
	merged := edits[:0]
	for _, e := range edits {
		// What is put in where another edit begins becomes one with it.
		if n := len(merged); n > 0 && merged[n-1].Start == e.Start && merged[n-1].End == e.Start {
			merged[n-1].End, merged[n-1].New, merged[n-1].Old = e.End, append(slices.Clone(merged[n-1].New), e.New...), e.Old
			continue
		}
		merged = append(merged, e)
	}
	edits = merged
	last := 0
	for _, e := range edits {
		switch {
		case e.Start < 0 || e.Start > e.End || e.End > size:
			return nil, &EditError{e, size, "outside the file"}
		case e.Start < last:
			return nil, &EditError{e, size, "over another edit"}
		}
		last = e.End
	}
	return edits, nil
}

// Apply returns src with the edits made, or an [*EditError] if one does not fit. src itself is left alone.
func Apply(src []byte, edits []Edit) ([]byte, error) {
	edits, err := Sorted(edits, len(src))
	if err != nil {
		return nil, err
	}
	size := len(src)
	for _, e := range edits {
		if e.Old != nil && !bytes.Equal(src[e.Start:e.End], e.Old) {
			return nil, &EditError{e, len(src), "other bytes are there than those it replaces"}
		}
		size += len(e.New) - (e.End - e.Start)
	}
	out := make([]byte, 0, size)
	last := 0
	for _, e := range edits {
		out = append(out, src[last:e.Start]...)
		out = append(out, e.New...)
		last = e.End
	}
	return append(out, src[last:]...), nil
}

// Line is one line of a file that a change touches, before and after.
type Line struct {
	Number        int // from 1, in the file before
	Before, After string
}

// lineLimit is how many bytes around an edit are shown of a line that is longer, editLimit how many of what an edit replaces
// or puts in.
const (
	lineLimit = 160
	editLimit = 4000
)

// Lines returns the lines that edits touch. decode turns bytes of the file into text to be shown; unit is how
// many bytes its smallest character has.
func Lines(src []byte, edits []Edit, unit int, decode func([]byte) string) ([]Line, error) {
	return lines(src, edits, true, unit, decode)
}

// LineOfEach is [Lines] with a line for each edit, in order, as if it were the only one.
func LineOfEach(src []byte, edits []Edit, unit int, decode func([]byte) string) ([]Line, error) {
	return lines(src, edits, false, unit, decode)
}

func lines(src []byte, edits []Edit, together bool, unit int, decode func([]byte) string) ([]Line, error) {
	edits, err := Sorted(edits, len(src))
	if err != nil {
		return nil, err
	}
	out := make([]Line, 0, len(edits))
	number, counted := 1, 0
	for i := 0; i < len(edits); {
		end := lineEnd(src, edits[i].End)
		first := i
		for i++; together && i < len(edits) && edits[i].Start < end; i++ {
			end = lineEnd(src, edits[i].End)
		}
		at := edits[first].Start
		number += bytes.Count(src[min(counted, at):at], []byte("\n")) // it may be the same line again
		counted = at
		from, to := lineStart(src, at), end
		from += (at - from) % unit
		to -= (to - at) % unit
		var after []byte
		last := from
		for _, e := range edits[first:i] {
			after = append(append(after, src[last:e.Start]...), e.New...)
			last = e.End
		}
		after = append(after, src[last:to]...)
		out = append(out, Line{number, decode(short(src[from:to], unit)), decode(short(after, unit))})
	}
	return out, nil
}

// short cuts off what is too long to be shown.
func short(b []byte, unit int) []byte {
	most := 2*lineLimit + editLimit
	return b[:min(len(b), most-most%unit)]
}

// lineStart returns where the line at i begins, or what of it is shown; lineEnd where that ends.
func lineStart(src []byte, i int) int {
	least := max(0, i-lineLimit)
	for i > least && src[i-1] != '\n' && src[i-1] != '\r' {
		i--
	}
	return i
}

func lineEnd(src []byte, i int) int {
	most := min(len(src), i+lineLimit)
	for i < most && src[i] != '\n' && src[i] != '\r' {
		i++
	}
	return i
}
