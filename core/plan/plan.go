// Package plan works out what changes with a change of the folder: moves of files and folders, any number at once, swaps and
// chains included; deletions, with what becomes of the references to what is gone; references that are led elsewhere; ids that
// are renamed; and what has to follow moves that somebody else made. Only what has to change does. A reference that led nowhere
// before is left as it is, and noted.
package plan

import (
	"cmp"
	"slices"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
)

// Rewrite is one reference that a plan changes.
type Rewrite struct {
	// Page is where the file is that holds it before the moves, Line where in it, from 1.
	Page string
	Line int
	// Ref is the index of the reference in its page's document; -1 for what is none.
	Ref int32
	// Before and After are what is written, Target what it leads to after the moves; "" if it is no reference then.
	Before, After, Target string
}

// Note is a reference that a plan does not change and that the author should know of.
type Note struct {
	Page    string
	Line    int
	Written string
	// Why says what becomes of it, as the end of a sentence that begins with what is written.
	Why string
	// Breaks says that it leads elsewhere, or nowhere, by the plan, since it can't follow.
	Breaks bool
}

// Plan is what follows from moves, or from leading references elsewhere.
type Plan struct {
	Set change.Set
	// Moves are the files that move, by where they are now.
	Moves    []Move
	Rewrites []Rewrite
	Notes    []Note
	// Deleted are the files that are deleted, and Lonely those that nothing refers to any more then.
	Deleted      []Deleted
	Unreferenced []string
	// Clashes say, a sentence each, why the moves can't be made; a plan that has any is not to be carried out.
	Clashes []string
}

// put adds the edit that writes a new value for a reference; a value that the file's encoding can't hold is noted.
func (p *Plan) put(edits []change.Edit, f *site.File, ref *markup.Reference, value, target string) []change.Edit {
	written := repair.Written(f.Doc.Encoding, ref, value)
	edit, err := repair.Edit(f.Doc.Encoding, ref, written)
	if err != nil {
		p.noteBreak(f, ref, "needs letters that the page’s encoding doesn't have, so it is left")
		return edits
	}
	p.Rewrites = append(p.Rewrites, Rewrite{f.Path, int(ref.Line), indexOf(f.Doc, ref), ref.Written, written, target})
	return append(edits, edit)
}

// indexOf returns the index of a reference of a document; -1 for one that is not in it.
func indexOf(doc *markup.Document, ref *markup.Reference) int32 {
	i, ok := slices.BinarySearchFunc(doc.References, ref.Start, func(r markup.Reference, start uint32) int { return cmp.Compare(r.Start, start) })
	for ; ok && i < len(doc.References) && doc.References[i].Start == ref.Start; i++ {
		if &doc.References[i] == ref {
			return int32(i)
		}
	}
	return -1
}

func (p *Plan) note(f *site.File, ref *markup.Reference, why string) {
	p.Notes = append(p.Notes, Note{Page: f.Path, Line: int(ref.Line), Written: ref.Written, Why: why})
}

// noteBreak notes a reference that can't follow.
func (p *Plan) noteBreak(f *site.File, ref *markup.Reference, why string) {
	p.note(f, ref, why)
	p.Notes[len(p.Notes)-1].Breaks = true
}
