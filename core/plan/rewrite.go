package plan

import (
	"cmp"
	"maps"
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
)

// affected returns the files whose references may have to be rewritten: what moves, what refers to it, and what refers
// to a folder that gets another index page.
func (p *planner) affected() []int32 {
	set := map[int32]bool{}
	for from, to := range p.to {
		i, _ := p.snapshot.Find(from)
		set[i] = true
		for _, page := range p.snapshot.Referrers(i) {
			set[page] = true
		}
		dir, name := site.Cut(to)
		if f := p.snapshot.Folders[dir]; f != nil && f.Index >= 0 && slices.Contains(p.snapshot.IndexNames, name) {
			for _, page := range p.snapshot.Referrers(f.Index) {
				set[page] = true
			}
		}
	}
	return slices.Sorted(maps.Keys(set))
}

// place returns where a file will be.
func (p *planner) place(q string) string { return cmp.Or(p.to[q], q) }

// folderPlace returns where a folder will be: where it is moved, itself or with one above it.
func (p *planner) folderPlace(dir string) string {
	for at := dir; at != ""; at, _ = site.Cut(at) {
		if to, moved := p.folders[at]; moved {
			return to + strings.TrimPrefix(dir, at)
		}
	}
	return dir
}

// before returns what will be at a path, by where it is now; "" for nothing.
func (p *planner) before(q string) string {
	if from, ok := p.from[q]; ok {
		return from
	}
	if _, there := p.snapshot.Find(q); there && p.to[q] == "" {
		return q
	}
	return ""
}

// lands returns what a target will land on, by where it is now; "" for nothing.
func (p *planner) lands(t *address.Target) string {
	if t.Kind != address.Inside {
		return ""
	}
	q := t.Path
	if strings.Contains(q, "//") {
		q = strings.TrimPrefix(path.Clean("/"+q), "/")
	}
	q = p.snapshot.Through(q)
	if !t.Folder {
		if from := p.before(q); from != "" {
			return from
		}
	}
	for _, name := range p.snapshot.IndexNames {
		if from := p.before(path.Join(q, name)); from != "" {
			return from
		}
	}
	return ""
}

// file plans what becomes of one file.
func (p *planner) file(i int32) {
	f := &p.snapshot.Files[i]
	to, moves := p.to[f.Path]
	out := change.File{Kind: change.Edited, Path: f.Path, Before: f.Hash}
	if moves {
		out.Kind, out.Path, out.From = change.Moved, to, f.Path
	}
	if f.Doc != nil {
		out.Edits = p.edits(i, f, cmp.Or(to, f.Path))
	}
	if moves || len(out.Edits) > 0 {
		p.Set.Files = append(p.Set.Files, out)
	}
}

// edits rewrites the references of a file that will be at to.
func (p *planner) edits(i int32, f *site.File, to string) []change.Edit {
	doc := f.Doc
	var out []change.Edit
	base, baseEdit := p.base(f, to)
	if baseEdit != nil {
		out = append(out, *baseEdit)
	}
	p.now.At(f.Path, doc.Base, doc.HasBase)
	p.then.At(to, base, doc.HasBase)
	stays := f.Path == to && baseEdit == nil
	for k, l := range p.snapshot.Links(i) {
		ref := &doc.References[k]
		if ref.Flags&(markup.ByID|markup.ByMap|markup.NoValue) != 0 {
			continue
		}
		if stays && l.File >= 0 && !p.mayRetarget[l.File] && lands(p.snapshot, l) {
			continue // it lands where it did
		}
		value := ref.Value()
		if value == "" && !doc.HasBase || l.Outcome == site.Elsewhere || l.Outcome == site.Handed {
			continue
		}
		fresh, target := p.rewrite(f, ref, l, value, to)
		if fresh == value {
			continue
		}
		out = p.put(out, f, ref, fresh, target)
	}
	return out
}

// base returns the value of the base element of a page that will be at to, and the edit that writes it, if it has to
// change so that it leads to the same folder.
func (p *planner) base(f *site.File, to string) (string, *change.Edit) {
	doc := f.Doc
	if !doc.HasBase || doc.Base == "" || address.IsWhole(doc.Base) {
		return doc.Base, nil
	}
	p.now.At(f.Path, "", false)
	t := p.now.Resolve(doc.Base)
	if t.Kind != address.Inside {
		return doc.Base, nil
	}
	meant := p.folderPlace(t.Path)
	if !t.Folder {
		meant = p.place(t.Path)
	}
	p.then.At(to, "", false)
	if now := p.then.Resolve(doc.Base); now.Kind == address.Inside && now.Path == meant {
		return doc.Base, nil
	}
	if t.Folder && meant != "" {
		meant += "/"
	}
	ref := markup.Reference{Written: doc.Base, Start: doc.BaseStart, End: doc.BaseEnd, Quote: doc.BaseQuote}
	value := p.snapshot.Place.Rewrite(doc.Base, address.FolderOf(to), meant)
	written := repair.Written(doc.Encoding, &ref, value)
	edit, err := repair.Edit(doc.Encoding, &ref, written)
	if err != nil {
		return doc.Base, nil
	}
	p.Rewrites = append(p.Rewrites, Rewrite{f.Path, 0, -1, doc.Base, written, strings.TrimSuffix(meant, "/")})
	return value, &edit
}

// rewrite returns the value that leads to the same as before from where its page will be, and that; the same value
// where nothing has to change.
func (p *planner) rewrite(f *site.File, ref *markup.Reference, l site.Link, value, to string) (fresh, target string) {
	now := p.now.Resolve(value)
	then := p.then.Resolve(value)
	if !lands(p.snapshot, l) {
		return p.keepBroken(f, ref, &now, &then, value, to), ""
	}
	was := p.snapshot.Files[l.File].Path
	goal := p.place(was)
	if l.Outcome == site.NotJudged && now.Kind != address.Inside {
		return value, goal
	}
	aim, written := goal, was
	if dir, name := site.Cut(goal); now.Path != was && slices.Contains(p.snapshot.IndexNames, name) && p.lands(&address.Target{Path: dir, Folder: true}) == was {
		aim = dir // it is written as a folder
		if now.Folder {
			aim += "/"
		}
		aim = strings.TrimPrefix(aim, "/")
	}
	if now.Path != was {
		written = now.Path // by its folder
		if now.Folder {
			written = strings.TrimPrefix(written+"/", "/")
		}
	}
	before, after := p.now.Start(), p.then.Start()
	// What lands all the same is left alone, unless its page moves and another way is the shortest now, as this one was.
	if p.lands(&then) == was && then.Climbed <= now.Climbed && (f.Path == to || now.Own || !address.Shortest(value, before, written)) {
		return value, goal
	}
	if now.Own && (address.IsWhole(value) || strings.HasPrefix(value, "/")) {
		return p.snapshot.Place.Publish(value, aim), goal
	}
	if part, _, _ := address.Split(value); part == "" && was == f.Path {
		return value, goal // a fragment or a query of the page itself
	}
	return p.snapshot.Place.Follow(strings.TrimSpace(value), before, written, after, aim), goal
}

// keepBroken leaves a reference that lands nowhere as it is, unless it would land by chance where its page will be.
func (p *planner) keepBroken(f *site.File, ref *markup.Reference, now, then *address.Target, value, to string) string {
	if now.Kind != address.Inside || then.Kind != address.Inside {
		if now.Kind == address.Beyond && f.Path != to {
			p.noteBreak(f, ref, "leads out of the folder, so it can’t follow")
		}
		return value
	}
	switch chance := p.lands(then); {
	case chance == "":
		p.note(f, ref, "was broken before and is left as it is")
		return value
	case now.Path == then.Path:
		p.note(f, ref, "was broken before and will lead to what is moved there")
		return value
	}
	p.note(f, ref, "was broken before; it is written so that it doesn't work by chance")
	return p.snapshot.Place.Rewrite(strings.TrimSpace(value), p.then.Start(), now.Path)
}
