package plan

import (
	"slices"

	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// Mend plans to put right in the tags of references, by the indexes of their files, what a rule found on them; see
// [compose.Page.Mend]. What can't be is noted.
func Mend(s *site.Snapshot, rule string, refs map[int32][]int, source func(string) ([]byte, error)) *Plan {
	p := &Plan{}
	for i := range s.Files {
		own := refs[int32(i)]
		f := &s.Files[i]
		if len(own) == 0 {
			continue
		}
		src, err := source(f.Path)
		if err != nil || !f.Hash.Is(src) {
			p.Clashes = append(p.Clashes, phrase.Mono(f.Path)+" was just changed by another program. Try again.")
			continue
		}
		m := markup.NewMapper(src)
		page := compose.Open(s, f.Path, []byte(m.Text))
		if len(page.Doc.References) != len(f.Doc.References) {
			own = nil // its text reads differently from its bytes; nothing is changed by guessing
		}
		var edits []change.Edit
		slices.Sort(own)
		for _, k := range slices.Compact(own) {
			fresh, err := compose.InBytes(src, m, page.Mend(rule, k))
			if err != nil || len(fresh) == 0 || overlap(edits, fresh) {
				p.noteBreak(f, &f.Doc.References[k], "can't be changed by itself, so it is left")
				continue
			}
			edits = append(edits, fresh...)
			p.Rewrites = append(p.Rewrites, Rewrite{Page: f.Path, Line: int(f.Doc.References[k].Line), Ref: int32(k)})
		}
		if edits, err = change.Sorted(edits, len(src)); err == nil && len(edits) > 0 {
			p.Set.Files = append(p.Set.Files, change.File{Kind: change.Edited, Path: f.Path, Before: f.Hash, Edits: edits})
		}
	}
	return p
}
