package relocate

import (
	"cmp"
	"path"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
)

// Noticed plans what has to follow moves that were made already, by somebody else: references that still lead to the old
// places, and those in what moved that lead elsewhere than they did. The snapshot has the files at their new places.
func Noticed(s *site.Snapshot, moves []Move) *Plan {
	n := noticed{
		Plan: &Plan{Moves: moves}, snapshot: s, to: map[string]string{}, from: map[string]string{},
		then: address.NewResolver(s.Place), now: address.NewResolver(s.Place),
	}
	for _, m := range moves {
		n.to[m.From], n.from[m.To] = m.To, m.From
		if _, there := s.Find(m.To); !there {
			n.Clashes = append(n.Clashes, "Nothing is at "+audit.Mono(m.To)+" any more.")
		}
	}
	if len(n.Clashes) > 0 {
		return n.Plan
	}
	for i := range s.Files {
		if f := &s.Files[i]; f.Doc != nil && (n.from[f.Path] != "" || fails(s, int32(i))) {
			if edits := n.edits(int32(i), f); len(edits) > 0 {
				n.Set.Files = append(n.Set.Files, change.File{Kind: change.Edited, Path: f.Path, Before: f.Hash, Edits: edits})
			}
		}
	}
	n.Set.Title = "References follow " + audit.Mono(moves[0].To)
	if len(moves) > 1 {
		n.Set.Title += " and what moved with it"
	}
	return n.Plan
}

func fails(s *site.Snapshot, file int32) bool {
	for _, l := range s.Links(file) {
		if l.Outcome == site.NoFile || l.Outcome == site.NoIndex {
			return true
		}
	}
	return false
}

type noticed struct {
	*Plan
	snapshot *site.Snapshot
	to, from map[string]string
	then     *address.Resolver // for where pages stood
	now      *address.Resolver // for where they stand
}

// landed returns what a target landed on before the moves, by where it stands now; "" for nothing.
func (n *noticed) landed(t *address.Target) string {
	if t.Kind != address.Inside {
		return ""
	}
	if !t.Folder {
		if to := n.to[t.Path]; to != "" {
			return to
		}
	}
	for _, name := range n.snapshot.IndexNames {
		if to := n.to[path.Join(t.Path, name)]; to != "" {
			return to
		}
	}
	if l := n.snapshot.Land(t); l.File >= 0 && (l.Outcome == site.Lands || l.Outcome == site.NoFragment) {
		// What came to stand there by the moves was not there before.
		if q := n.snapshot.Files[l.File].Path; n.from[q] == "" {
			return q
		}
	}
	return ""
}

func (n *noticed) edits(i int32, f *site.File) []change.Edit {
	var out []change.Edit
	stood := cmp.Or(n.from[f.Path], f.Path)
	n.then.At(stood, f.Doc.Base, f.Doc.HasBase)
	n.now.At(f.Path, f.Doc.Base, f.Doc.HasBase)
	for k, l := range n.snapshot.Links(i) {
		ref := &f.Doc.References[k]
		value := ref.Value()
		part, _, _ := address.Split(value)
		if part == "" || ref.Flags&(markup.ByID|markup.ByMap|markup.NoValue) != 0 || l.Outcome == site.Elsewhere || l.Outcome == site.Handed {
			continue
		}
		then, now := n.then.Resolve(value), n.now.Resolve(value)
		goal := n.landed(&then)
		if goal == "" {
			continue
		}
		if g, _ := n.snapshot.Find(goal); l.File == g && now.Climbed <= then.Climbed {
			continue
		}
		aim := goal
		if dir, name := site.Cut(goal); then.Folder && (name == "index.html" || name == "index.htm") {
			aim = strings.TrimPrefix(dir+"/", "/")
		}
		fresh := n.snapshot.Place.Follow(strings.TrimSpace(value), path.Join(n.then.Start(), "x"), then.Path, path.Join(n.now.Start(), "x"), aim)
		if fresh == value {
			continue
		}
		written := repair.Written(f.Doc.Encoding, ref, fresh)
		edit, err := repair.Edit(f.Doc.Encoding, ref, written)
		if err != nil {
			continue
		}
		out = append(out, edit)
		n.Rewrites = append(n.Rewrites, Rewrite{f.Path, int(ref.Line), ref.Written, written, goal})
	}
	return out
}
