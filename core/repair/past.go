package repair

import (
	"cmp"
	"hash/maphash"
	"math"
	"path"
	"slices"
	"strings"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
)

// Past is what the record of a folder has of it.
type Past struct {
	Gone []Gone
	// Former are files that are there as they were before they were changed, of each the last first.
	Former []Former
	// Since is when the files that exist were first seen, in nanoseconds since 1970; one that is not in it is new.
	Since map[string]int64
}

// together is for how long, in nanoseconds, two files exist side by side at most if one is to be the other, copied
// before it was deleted.
const together = 3600 * 1_000_000_000

// became reports whether a file that exists can have come of one that is gone: it came after that, and not long before
// that went. Pages that were beside each other are alike because they are of one site.
func (p *Past) became(g *Gone, path string) bool {
	since, known := p.Since[path]
	return !known || since > g.Since && since >= g.GoneAt-together
}

// Former is a file that is there, as it was before it was changed.
type Former struct {
	Path string
	Hash change.Hash
	// ChangedAt is when it was found to be another one, in nanoseconds since 1970.
	ChangedAt int64
	// Read returns what was read of it; nil if that is not known.
	Read func() *markup.Document
}

// Gone is a file that was in the folder before and is not any more, as the record of the folder has it.
type Gone struct {
	Path string
	Size int64
	Hash change.Hash
	// Doc is what was read of it; nil for a file that held no references.
	Doc *markup.Document
	// Since is when it was first seen, Left when it was found to be gone, in nanoseconds since 1970.
	Since, GoneAt int64
	// MovedTo is where it is known to have gone: moved here, or followed already; "" if that is to be found out.
	MovedTo string
}

// Departure is what became of a file that is gone.
type Departure struct {
	From string
	// To is where it is now, "" if it was deleted, or if that is not known.
	To string
	// Same is set if it is the same to the byte; else it was edited a little as well.
	Same bool
	// Copies is how many files could be it.
	Copies int
	// Followed is set if it was moved here, or that references have followed it, so what is in it was put right.
	Followed bool
}

// enoughAlike is the least share of what two readings of a page have in common if they are of the same page.
const enoughAlike = 0.6

// common is on how many pages a piece is at most, if it is to say which page it is; of a small folder's pages, on a third.
func common(pages int) int { return min(24, max(2, pages/3)) }

// Departures finds out what became of the files that are gone, by what is in them. The order is that of gone.
func Departures(s *site.Snapshot, past Past) []Departure {
	out, of, tied := departuresByBytes(s, &past)
	untie(out, tied)
	departuresByPieces(s, &past, out, of)
	return out
}

// departuresByBytes finds those that are known, or that are elsewhere with the same bytes. of is which of the files that
// are gone each is of, tied what else it could be.
func departuresByBytes(s *site.Snapshot, past *Past) (out []Departure, of []*Gone, tied [][]string) {
	byHash := map[change.Hash][]string{}
	for i := range s.Files {
		if f := &s.Files[i]; f.Size > 0 && f.Hash != (change.Hash{}) && f.Same == "" {
			byHash[f.Hash] = append(byHash[f.Hash], f.Path)
		}
	}
	went := map[string]string{}
	for _, g := range past.Gone {
		if g.MovedTo != "" {
			went[g.Path] = g.MovedTo
		}
	}
	out = []Departure{}
	left := map[change.Hash]int{} // how many files of the same bytes are gone
	for i := range past.Gone {
		if _, back := s.Find(past.Gone[i].Path); !back && past.Gone[i].MovedTo == "" {
			left[past.Gone[i].Hash]++
		}
	}
	for i := range past.Gone {
		g := &past.Gone[i]
		if _, there := s.Find(g.Path); there {
			continue // it came back
		}
		d := Departure{From: g.Path}
		var could []string
		if to, known := followed(s, went, g.Path); known {
			d.To, d.Same, d.Copies, d.Followed = s.Files[to].Path, s.Files[to].Hash == g.Hash, 1, true
		} else if same := past.among(s, g, byHash[g.Hash]); g.Size > 0 && len(same) > 0 {
			d.To, d.Same, d.Copies = nearestPath(g.Path, same), true, max(len(same), left[g.Hash])
			if d.Copies > 1 {
				could = same
			}
		}
		out, of, tied = append(out, d), append(of, g), append(tied, could)
	}
	return out, of, tied
}

// departuresByPieces finds pages that were edited as well among those that are of no other one's bytes. Of several that are
// like the same one, it is the one that is most so.
func departuresByPieces(s *site.Snapshot, past *Past, out []Departure, of []*Gone) {
	taken := map[string]bool{}
	for _, d := range out {
		taken[d.To] = d.Copies == 1 || taken[d.To]
	}
	var pieces *pieceTable
	best := map[string]int{} // by where they are, the departure
	shares := make([]float64, len(out))
	for i := range out {
		d, g := &out[i], of[i]
		if d.To != "" || g.Doc == nil {
			continue
		}
		if pieces == nil {
			pieces = newPieceTable(s, past.Gone)
		}
		d.To, d.Copies, shares[i] = pieces.like(g, func(path string) bool { return !taken[path] && past.became(g, path) })
		if d.To == "" {
			continue
		}
		if other, both := best[d.To]; both {
			if shares[other] >= shares[i] {
				if shares[other] == shares[i] { // nothing says which of them it is
					out[other].To, out[other].Copies = "", 0
				}
				d.To, d.Copies = "", 0
				continue
			}
			out[other].To, out[other].Copies = "", 0
		}
		best[d.To] = i
	}
}

// among returns those of the files with the same bytes that a file can have become. What holds no references leads no worse by
// another copy of it, if none of them is new.
func (p *Past) among(s *site.Snapshot, g *Gone, same []string) []string {
	fresh := slices.DeleteFunc(slices.Clone(same), func(path string) bool { return !p.became(g, path) || p.isCopy(s, g, path) })
	if len(fresh) > 0 || g.Doc != nil {
		return fresh
	}
	return same
}

// isCopy reports whether a file with the bytes of one that is gone was copied with others of its folder before that went: a file
// beside it equals one that is still beside where that was.
func (p *Past) isCopy(s *site.Snapshot, g *Gone, copied string) bool {
	if since, known := p.Since[copied]; !known || since >= g.GoneAt {
		return false // it came when that went
	}
	there, _ := site.Cut(copied)
	here, _ := site.Cut(g.Path)
	if there == here || s.Folders[there] == nil {
		return false
	}
	for _, n := range s.Folders[there].Names {
		a, isFile := s.Find(path.Join(there, n))
		b, stays := s.Find(path.Join(here, n))
		if isFile && stays && s.Files[a].Hash == s.Files[b].Hash && s.Files[a].Size > 0 {
			return true
		}
	}
	return false
}

// followed returns the file that one which is gone is known to have become, by all the ways that it went.
func followed(s *site.Snapshot, went map[string]string, p string) (file int32, known bool) {
	for range len(went) {
		to, moved := went[p]
		if !moved {
			return -1, false
		}
		if i, there := s.Find(to); there {
			return i, true
		}
		p = to
	}
	return -1, false // round in a circle
}

// untie decides between several files that a departed one could be by where the others of its folder went.
func untie(departures []Departure, tied [][]string) {
	ways := map[string]map[string]int{} // how many went from a folder to another one
	for _, d := range departures {
		if d.Copies != 1 || path.Base(d.From) != path.Base(d.To) {
			continue
		}
		from := path.Dir(d.From)
		if ways[from] == nil {
			ways[from] = map[string]int{}
		}
		ways[from][path.Dir(d.To)]++
	}
	for i, could := range tied {
		d := &departures[i]
		best, tied, goal := 0, false, ""
		for dir, n := range ways[path.Dir(d.From)] {
			to := path.Join(dir, path.Base(d.From))
			switch {
			case n < best || !slices.Contains(could, to):
			case n > best:
				best, goal, tied = n, to, false
			default:
				tied = true
			}
		}
		if best > 0 && !tied {
			d.To, d.Copies = goal, 1
		}
	}
}

// nearestPath returns that of the paths which has most in common with p: the name first, then the folders.
func nearestPath(p string, paths []string) string {
	return slices.MaxFunc(paths, func(a, b string) int {
		return cmp.Or(boolean(path.Base(a) == path.Base(p))-boolean(path.Base(b) == path.Base(p)), sharedFolders(a, p)-sharedFolders(b, p), strings.Compare(b, a))
	})
}

func boolean(b bool) int {
	if b {
		return 1
	}
	return 0
}

func sharedFolders(a, b string) int {
	x, y := strings.Split(path.Dir(a), "/"), strings.Split(path.Dir(b), "/")
	n := 0
	for n < len(x) && n < len(y) && x[n] == y[n] {
		n++
	}
	return n
}

// pieceTable finds pages by what is on them: their title, their headings, what they refer to and in which words.
type pieceTable struct {
	snapshot *site.Snapshot
	seed     maphash.Seed
	common   int                // on how many pages a piece is at most that says which page it is
	files    map[uint64][]int32 // the files that hold a piece, of the pieces that are looked for
	pieces   map[int32][]uint64 // of files, once they were wanted
}

// newPieceTable makes a table of where in the snapshot the pieces of the gone files are.
func newPieceTable(s *site.Snapshot, gone []Gone) *pieceTable {
	t := &pieceTable{snapshot: s, seed: maphash.MakeSeed(), files: map[uint64][]int32{}, pieces: map[int32][]uint64{}}
	pages := 0
	for i := range gone {
		for _, p := range t.piecesOf(gone[i].Doc) {
			t.files[p] = nil
		}
	}
	for i := range s.Files {
		pages += boolean(s.Files[i].Doc != nil)
		for _, p := range t.piecesOf(s.Files[i].Doc) {
			if all, wanted := t.files[p]; wanted && len(all) <= common(math.MaxInt) {
				t.files[p] = append(all, int32(i))
			}
		}
	}
	t.common = common(pages)
	return t
}

// telling returns those of the pieces that are not on so many pages that they say nothing, as those of a menu are.
func (t *pieceTable) telling(pieces []uint64) []uint64 {
	return slices.DeleteFunc(pieces, func(p uint64) bool { return len(t.files[p]) > t.common })
}

// piecesOf returns what tells a page from others, each piece once, in order.
func (t *pieceTable) piecesOf(d *markup.Document) []uint64 {
	if d == nil {
		return nil
	}
	out := make([]uint64, 0, 1+len(d.Headings)+len(d.References)+len(d.Anchors))
	var h maphash.Hash
	h.SetSeed(t.seed)
	piece := func(kind byte, a, b string) {
		h.Reset()
		h.WriteByte(kind)
		h.WriteString(a)
		h.WriteByte(' ')
		h.WriteString(b)
		out = append(out, h.Sum64())
	}
	if d.Title != "" {
		piece('t', d.Title, "")
	}
	for i := range d.Headings {
		piece('h', d.Headings[i].Text, "")
	}
	for i := range d.References {
		r := &d.References[i]
		// The way to it changes when a page is moved; its name and its words do not.
		piece('r', path.Base(r.Written), r.Text)
	}
	for i := range d.Anchors {
		piece('a', d.Anchors[i].Name, "")
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// like returns the page that has most in common with one that is gone, of those that fit, if that is enough; how many
// others have as much, and the share of what they have in common.
func (t *pieceTable) like(g *Gone, fits func(path string) bool) (to string, copies int, best float64) {
	pieces := t.telling(t.piecesOf(g.Doc))
	if len(pieces) < 3 {
		return "", 0, 0
	}
	candidates := map[int32]bool{}
	for _, p := range pieces {
		for _, f := range t.files[p] {
			candidates[f] = true
		}
	}
	for f := range candidates {
		if !fits(t.snapshot.Files[f].Path) {
			continue
		}
		theirs, known := t.pieces[f]
		if !known {
			theirs = t.telling(t.piecesOf(t.snapshot.Files[f].Doc))
			t.pieces[f] = theirs
		}
		both := inBoth(pieces, theirs)
		share := float64(both) / float64(len(pieces)+len(theirs)-both)
		switch {
		case share < enoughAlike:
		case share > best:
			best, to, copies = share, t.snapshot.Files[f].Path, 1
		case share == best:
			copies++
			to = min(to, t.snapshot.Files[f].Path)
		}
	}
	return to, copies, best
}

// mergedInto returns the page that has nearly all of what was on a page that is gone, besides what is its own, and had not before;
// "" if there is none, or more than one.
func (t *pieceTable) mergedInto(g *Gone, grew func(path string) bool) (to string) {
	pieces := t.telling(t.piecesOf(g.Doc))
	if len(pieces) < 3 {
		return ""
	}
	both := map[int32]int{}
	for _, p := range pieces {
		for _, f := range t.files[p] {
			both[f]++
		}
	}
	for f, n := range both {
		if q := t.snapshot.Files[f].Path; float64(n) >= mostlyIn*float64(len(pieces)) && grew(q) {
			if to != "" {
				return ""
			}
			to = q
		}
	}
	return to
}

// mostlyIn is the least share of a page's pieces that another one has if it was merged into that.
const mostlyIn = 0.7

// findMerged finds the pages into which others were merged that are gone.
func (p *Planner) findMerged(past *Past) {
	p.merged = map[string]string{}
	var pieces *pieceTable
	for i := range past.Gone {
		g := &past.Gone[i]
		if d, gone := p.departed[g.Path]; !gone || d.To != "" || g.Doc == nil || len(past.Former) == 0 {
			continue
		}
		if pieces == nil {
			pieces = newPieceTable(p.snapshot, past.Gone)
		}
		p.merged[g.Path] = pieces.mergedInto(g, func(path string) bool {
			return slices.ContainsFunc(p.former[path], func(f *Former) bool { return f.ChangedAt >= g.GoneAt-together })
		})
	}
}

// inBoth counts what two lists in order have in common.
func inBoth(a, b []uint64) (n int) {
	for len(a) > 0 && len(b) > 0 {
		switch {
		case a[0] < b[0]:
			a = a[1:]
		case a[0] > b[0]:
			b = b[1:]
		default:
			n++
			a, b = a[1:], b[1:]
		}
	}
	return n
}
