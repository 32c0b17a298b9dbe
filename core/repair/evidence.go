package repair

import (
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
)

// evidence is what the whole folder says of the paths that are asked for and are not there.
type evidence struct {
	// asked is on how many files each such path is written.
	asked map[string]int
	// named are such paths by their name, a few of each, but for those of index pages: a page of that name may have been there.
	named map[string][]string
	// askedIn is the same for the files of one folder.
	askedIn map[inFolder]int
	// written is on how many files each such value is written, and at how many paths nothing is by it.
	written map[string]spread
	// series are how many paths that are not there begin and end alike, as those of a series do.
	series map[string]int
	// folders are the folders that are not there, by path: of those within each other, only the topmost.
	folders map[string]*missingFolder
}

// spread is on how many files a value is written, and to how many paths it leads.
type spread struct{ files, paths int }

// missingFolder is a folder that is not there, though references lead into it.
type missingFolder struct {
	path string
	// rests are the paths below it that are asked for.
	rests map[string]bool
	// files is how many files lead into it, at most: one that does in several ways counts for each.
	files int
	// became is the folder that has what is looked for in it, or ""; agree is how many of the rests it has.
	became string
	agree  int
	// holds are folders that have some of it, those that have most first.
	holds []string
	// alone: nothing outside of that folder refers to what is in it, as if its new name were not known yet.
	alone bool
}

// few is on how many pages at most a slip is made that is no habit yet.
const few = 2

// evidence returns what the folder says, worked out when it is first wanted.
func (p *Planner) evidence() *evidence {
	p.evidenceOnce.Do(func() {
		e := &evidence{asked: map[string]int{}, askedIn: map[inFolder]int{}, named: map[string][]string{}, written: map[string]spread{}, series: map[string]int{}, folders: map[string]*missingFolder{}}
		p.said = e
		s := p.snapshot
		r := address.NewResolver(s.Place)
		for i := range s.Files {
			f := &s.Files[i]
			if f.Doc == nil {
				continue
			}
			r.At(f.Path, f.Doc.Base, f.Doc.HasBase)
			here := map[string]bool{}
			dir, _ := site.Cut(f.Path)
			for k, l := range s.Links(int32(i)) {
				if ref := &f.Doc.References[k]; (l.Outcome == site.NoFile || l.Outcome == site.NoIndex) && ref.Flags&(markup.ByID|markup.ByMap) == 0 {
					value := ref.Value()
					if other, _ := rule.ForOther(s, value); other != "" {
						continue
					}
					t := r.Resolve(value)
					if wanted := cleaned(t.Path); t.Kind == address.Inside && !here[wanted] {
						here[wanted] = true
						w := e.written[value]
						e.written[value] = spread{w.files + 1, w.paths + boolean(e.asked[wanted] == 0)}
						if e.asked[wanted] == 0 {
							e.series[seriesOf(wanted)]++
						}
						e.asked[wanted]++
						if name := path.Base(wanted); e.asked[wanted] == 1 && !p.isIndex(name) && len(e.named[name]) < most {
							e.named[name] = append(e.named[name], wanted)
						}
						e.askedIn[inFolder{dir, wanted}]++
					}
				}
			}
		}
		delete(e.series, "")
		p.findMissingFolders(e)
	})
	return p.said
}

// findMissingFolders joins the paths that are asked for by the topmost folder on the way that is not there, and looks for the
// folder that has what is looked for in it.
func (p *Planner) findMissingFolders(e *evidence) {
	for wanted := range e.asked {
		if _, recorded := p.departed[wanted]; recorded {
			continue // what the record explains is no evidence for a guess
		}
		dir, rest := p.missingFolder(wanted)
		if dir == "" {
			continue
		}
		m := e.folders[dir]
		if m == nil {
			m = &missingFolder{path: dir, rests: map[string]bool{}}
			e.folders[dir] = m
		}
		m.rests[rest] = true
		m.files += e.asked[wanted]
	}
	for _, m := range e.folders {
		votes := map[string]int{}
		for rest := range m.rests {
			named := p.names.byName[site.Fold(path.Base(rest))]
			if len(named) > many {
				continue
			}
			for _, q := range named {
				if base, ends := strings.CutSuffix("/"+q, "/"+rest); ends && p.snapshot.Folders[strings.TrimPrefix(base, "/")] != nil {
					votes[strings.TrimPrefix(base, "/")]++
				}
			}
		}
		best := mostVoted(votes, most)
		m.holds = best
		if len(best) == 0 || votes[best[0]] < fewest || len(best) > 1 && votes[best[1]] == votes[best[0]] {
			continue
		}
		m.became, m.agree = best[0], votes[best[0]]
		m.alone = p.unknownOutside(m.became)
	}
}

// missingFolder returns the topmost folder on the way to a path that is not there, and what of the path is below it; "" if only
// the last name of the path is missing.
func (p *Planner) missingFolder(wanted string) (dir, rest string) {
	at, missing, _ := p.snapshot.FirstMissing(wanted)
	if missing == "" {
		return "", ""
	}
	dir = path.Join(at, missing)
	rest, below := strings.CutPrefix(wanted, dir+"/")
	if !below || rest == "" {
		return "", ""
	}
	return dir, rest
}

// seriesOf returns a path with all of its last name left open but the first word and the extension, by which the paths of a series
// are the same: "images/form….png"; "" if there is no more to the name.
func seriesOf(p string) string {
	dir, name := site.Cut(p)
	ext := path.Ext(name)
	stem := strings.TrimSuffix(name, ext)
	first := tokens(stem)
	if len(first) == 0 || len(first) == 1 && !digit(first[0][0]) || digit(first[0][0]) && len(first) > 1 {
		return ""
	}
	if digit(first[0][0]) {
		first[0] = ""
	}
	return path.Join(dir, first[0]+"…"+ext)
}

// unknownOutside reports whether no reference from outside a folder leads into it.
func (p *Planner) unknownOutside(dir string) bool {
	if dir == "" {
		return false
	}
	s := p.snapshot
	for i := range s.Files {
		if !strings.HasPrefix(s.Files[i].Path, dir+"/") {
			continue
		}
		for _, from := range s.Referrers(int32(i)) {
			if !strings.HasPrefix(s.Files[from].Path, dir+"/") {
				return false
			}
		}
	}
	return true
}

// parallel reports whether two folders have the same things in them in two or more ways, as languages, versions, years,
// printable copies and backups do: two names in common, index pages aside, or a file of the same bytes. What lands when read
// from one then lands when read from the other, which says nothing of which is meant.
func (p *Planner) parallel(a, b string) bool {
	if a == b {
		return false
	}
	if a > b {
		a, b = b, a
	}
	key := [2]string{a, b}
	if known, ok := p.parallels.Load(key); ok {
		return known.(bool)
	}
	out := p.share(a, b)
	for x, y := a, b; !out && x != "" && y != ""; {
		above, name := site.Cut(x)
		beside, other := site.Cut(y)
		if name != other || above == beside {
			break
		}
		x, y = above, beside
		out = p.share(x, y)
	}
	p.parallels.Store(key, out)
	return out
}

// share reports whether two folders have two names in common, index pages aside, or a file of the same bytes.
func (p *Planner) share(a, b string) bool {
	x, y := p.snapshot.Folders[a], p.snapshot.Folders[b]
	if x == nil || y == nil {
		return false
	}
	both := 0
	for _, n := range x.Names {
		if _, there := slices.BinarySearch(y.Names, n); there && !p.isIndex(n) {
			if both++; both == 2 {
				return true
			}
		}
	}
	in := map[change.Hash]bool{}
	for _, n := range x.Names {
		if i, ok := p.snapshot.Find(path.Join(a, n)); ok && p.tells(i) {
			in[p.snapshot.Files[i].Hash] = true
		}
	}
	return slices.ContainsFunc(y.Names, func(n string) bool {
		i, ok := p.snapshot.Find(path.Join(b, n))
		return ok && p.tells(i) && in[p.snapshot.Files[i].Hash]
	})
}

// tells reports whether a file has bytes that say something when they are met with again.
func (p *Planner) tells(file int32) bool {
	f := &p.snapshot.Files[file]
	return f.Size > 0 && f.Hash != (change.Hash{}) && f.Same == ""
}

// sideBySide reports whether a file was at the path that is asked for while target existed as well, so that target is another
// thing: the record decides.
func (p *Planner) sideBySide(wanted, target string) bool {
	g := p.gone[wanted]
	if g == nil || p.departed[wanted].To == target || p.merged[wanted] == target {
		return false
	}
	since, known := p.since[target]
	return known && since < g.GoneAt
}

// had reports whether the record has an id on the file at the path: before it was changed, or before it went.
func (p *Planner) had(file, id string) bool {
	if g := p.gone[file]; g != nil && g.Doc != nil && g.Doc.Anchor(id) != nil {
		return true
	}
	return slices.ContainsFunc(p.former[file], func(f *Former) bool {
		doc := f.Read()
		return doc != nil && doc.Anchor(id) != nil
	})
}

// reworded returns the id that a heading has now which had another one before, by the record of the page: the one that took its
// place between the headings that stayed. It is "" if that is not known.
func (p *Planner) reworded(page *site.File, id string) string {
	for _, f := range p.former[page.Path] {
		before := f.Read()
		if before == nil || page.Doc == nil {
			continue
		}
		at := slices.IndexFunc(before.Headings, func(h markup.Heading) bool { return h.ID == id })
		if at < 0 {
			continue
		}
		now := page.Doc.Headings
		stays := func(h markup.Heading) bool {
			return slices.ContainsFunc(now, func(n markup.Heading) bool { return sameHeadingAs(n, h) })
		}
		from, to := at, at
		for from > 0 && !stays(before.Headings[from-1]) {
			from--
		}
		for to+1 < len(before.Headings) && !stays(before.Headings[to+1]) {
			to++
		}
		start, end := 0, len(now)
		if from > 0 {
			start = 1 + slices.IndexFunc(now, func(n markup.Heading) bool { return sameHeadingAs(n, before.Headings[from-1]) })
		}
		if to+1 < len(before.Headings) {
			end = slices.IndexFunc(now, func(n markup.Heading) bool { return sameHeadingAs(n, before.Headings[to+1]) })
		}
		if end-start != to-from+1 {
			continue // some were put in or taken out
		}
		if h := now[start+at-from]; h.Level == before.Headings[at].Level {
			return h.ID
		}
	}
	return ""
}

func sameHeadingAs(a, b markup.Heading) bool { return a.ID == b.ID && a.ID != "" || a.Text == b.Text }
