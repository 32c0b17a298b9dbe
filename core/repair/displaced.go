package repair

import (
	"hash/maphash"
	"path"
	"slices"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// Displaced finds the references that land on another thing than they did, by the record of the folder: where two files changed
// places, where another file came under an old name, where a moved page's references land by chance.
func Displaced(s *site.Snapshot, past Past) audit.Displaced {
	if len(past.Gone)+len(past.Former) == 0 {
		return nil
	}
	d := displacer{snapshot: s, past: &past, out: audit.Displaced{}, former: map[string][]*Former{}, byHash: map[change.Hash][]string{}, was: map[change.Hash]bool{}}
	for i := range s.Files {
		if f := &s.Files[i]; f.Size > 0 && f.Same == "" {
			d.byHash[f.Hash] = append(d.byHash[f.Hash], f.Path)
		}
	}
	for i := range past.Former {
		f := &past.Former[i]
		d.former[f.Path] = append(d.former[f.Path], f)
		d.was[f.Hash] = true
	}
	for i := range past.Gone {
		d.was[past.Gone[i].Hash] = true
	}
	for at := range d.former {
		d.replaced(at)
	}
	for i := range past.Gone {
		d.moved(&past.Gone[i])
	}
	return d.out
}

type displacer struct {
	snapshot *site.Snapshot
	past     *Past
	out      audit.Displaced
	former   map[string][]*Former
	byHash   map[change.Hash][]string
	was      map[change.Hash]bool // the bytes that files had which are gone or others now
}

// replaced finds the references to a path that were written for what is elsewhere now.
func (d *displacer) replaced(at string) {
	file, there := d.snapshot.Find(at)
	if !there {
		return
	}
	before := d.former[at][0] // the last one
	to := d.byHash[before.Hash]
	if len(to) != 1 || to[0] == at || !d.came(to[0], d.past.Since[at], before.ChangedAt) || !d.isOther(file, before) {
		return
	}
	for _, from := range d.snapshot.Referrers(file) {
		page := &d.snapshot.Files[from]
		for i, l := range d.snapshot.Links(from) {
			if ref := &page.Doc.References[i]; l.File == file && l.OnFile() && ref.Flags&(markup.ByID|markup.ByMap) == 0 && ref.Written != "" && ref.Written[0] != '#' && d.wrote(page, i, before.ChangedAt) {
				d.note(page.Path, ref.Written, to[0])
			}
		}
	}
}

func (d *displacer) note(page, written, was string) {
	if d.out[page] == nil {
		d.out[page] = map[string]string{}
	}
	d.out[page][written] = was
}

// came reports whether a file came to have its bytes not long before a time: it is new since what is compared was first seen, or it was
// another one until then.
func (d *displacer) came(path string, first, at int64) bool {
	if since, known := d.past.Since[path]; !known || since > first && since >= at-together {
		return true
	}
	return slices.ContainsFunc(d.former[path], func(f *Former) bool { return f.ChangedAt >= at-together })
}

// isOther reports whether a file is not just what was there, edited: its bytes were those of another file, or hardly anything on
// the page is as it was.
func (d *displacer) isOther(file int32, before *Former) bool {
	f := &d.snapshot.Files[file]
	if d.was[f.Hash] {
		return true
	}
	old := before.Read()
	if old == nil || f.Doc == nil {
		return false
	}
	t := &pieceTable{snapshot: d.snapshot, seed: maphash.MakeSeed()}
	a, b := t.piecesOf(old), t.piecesOf(f.Doc)
	both := inBoth(a, b)
	return len(a) > 0 && float64(both) < hardlyAlike*float64(len(a)+len(b)-both)
}

// hardlyAlike is below which share of what two readings have in common they are of different pages.
const hardlyAlike = 0.2

// wrote reports whether a reference was on a page already when what it leads to became another thing.
func (d *displacer) wrote(page *site.File, ref int, at int64) bool {
	since, known := d.past.Since[page.Path]
	changed := slices.ContainsFunc(d.former[page.Path], func(f *Former) bool { return f.ChangedAt >= at })
	if known && since < at && !changed || d.was[page.Hash] {
		return true
	}
	for _, f := range d.former[page.Path] {
		if f.ChangedAt < at {
			continue
		}
		if doc := f.Read(); doc != nil && hasAsIs(doc.References, page.Doc.References, ref) {
			return true
		}
	}
	return false
}

// hasAsIs reports whether a reference of now was there before as it is: the same in number where none came or went, else with the same
// words.
func hasAsIs(before, now []markup.Reference, ref int) bool {
	if len(before) == len(now) {
		return before[ref].Written == now[ref].Written
	}
	return slices.ContainsFunc(before, func(r markup.Reference) bool {
		return r.Written == now[ref].Written && r.Text == now[ref].Text && r.Element == now[ref].Element
	})
}

// moved finds the references of a page that was moved that land by chance: when read from where it was they lead to another file.
func (d *displacer) moved(g *Gone) {
	to := d.byHash[g.Hash]
	if g.MovedTo != "" || g.Size == 0 || len(to) != 1 || !d.came(to[0], g.Since, g.GoneAt) {
		return
	}
	file, _ := d.snapshot.Find(to[0])
	page := &d.snapshot.Files[file]
	if page.Doc == nil || page.Doc.HasBase || path.Dir(g.Path) == path.Dir(page.Path) {
		return
	}
	if _, back := d.snapshot.Find(g.Path); back {
		return
	}
	r := address.NewResolver(d.snapshot.Place)
	r.At(g.Path, "", false)
	for i, l := range d.snapshot.Links(file) {
		ref := &page.Doc.References[i]
		value := ref.Value()
		if !l.OnFile() || l.File == file || !isRelative(value) || ref.Flags&(markup.ByID|markup.ByMap) != 0 {
			continue
		}
		t := r.Resolve(value)
		if was := d.snapshot.Land(&t); was.OnFile() && was.File != l.File && t.Climbed == 0 {
			d.note(page.Path, ref.Written, d.snapshot.Files[was.File].Path)
		}
	}
}

// changedPlace leads a reference to where what it led to before is now.
func (p *Planner) changedPlace(c *audit.Case, s *suggestions) {
	p.suggest(c, s, c.Was, Likely, ofMovedFile, "what it led to before is at "+phrase.Mono(c.Was)+" now")
}
