package compose

import (
	"arvel/core/change"
	"arvel/core/markup"
)

// menders is the table of what can be put right in a reference's tag, or beside it, by the rule that found it.
var menders = map[string]func(p *Page, e *Element) []change.Edit{
	"opener": func(p *Page, e *Element) []change.Edit {
		edits, _ := p.Rewrite(e, e.Attributes.WithOpener(e.Attributes.Without("target")), nil)
		return edits
	},
	"missing-alt": func(p *Page, e *Element) []change.Edit {
		edits, _ := p.Rewrite(e, e.Attributes.With("alt", ""), nil)
		return edits
	},
	"space-in-link-text": (*Page).spacesOut,
}

// Mends reports whether [Page.Mend] knows the rule.
func Mends(rule string) bool { return menders[rule] != nil }

// Mend returns the edits that put right what a rule found on a reference, by its number in the page's document: rel is given
// noopener, a picture is declared decoration, spaces at the edges of a link's words are moved outside. None where it can't.
func (p *Page) Mend(rule string, ref int) []change.Edit {
	mend := menders[rule]
	i := p.tagAt(int(p.Doc.References[ref].Start))
	if mend == nil || i < 0 {
		return nil
	}
	e := p.element(i)
	return mend(p, &e)
}

// spacesOut moves the spaces at the edges of a link's words outside of it, unless there is one already.
func (p *Page) spacesOut(e *Element) []change.Edit {
	if e.end == nil {
		return nil
	}
	from, to := e.open.End, e.stop
	before, after := markup.SpacesAround(p.Text[from:to])
	if before == to-from {
		return nil
	}
	var edits []change.Edit
	move := func(from, to, place int, there bool) {
		if from == to {
			return
		}
		edits = append(edits, change.Edit{Start: from, End: to})
		if !there {
			edits = append(edits, change.Edit{Start: place, End: place, New: p.Text[from:to]})
		}
	}
	move(from, from+before, e.open.Start, e.open.Start > 0 && isSpace(p.Text[e.open.Start-1]))
	move(to-after, to, e.end.End, e.end.End < len(p.Text) && isSpace(p.Text[e.end.End]))
	return edits
}
