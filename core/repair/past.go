package repair

import (
	"cmp"
	"path"
	"slices"
	"strings"

	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
)

// Gone is a file that was in the folder before and is not any more, as the record of the folder has it.
type Gone struct {
	Path string
	Size int64
	Hash change.Hash
	// Doc is what was read of it; nil for a file that held no references.
	Doc *markup.Document
}

// Departure is what became of a file that is gone.
type Departure struct {
	From string
	// To is where it stands now, "" if it was deleted, or if that can't be told.
	To string
	// Same tells that it is the same to the byte; else it was edited a little as well.
	Same bool
	// Copies is how many files could be it.
	Copies int
}

// alike is the least share of what two readings of a page have in common if they are of the same page.
const alike = 0.6

// common is in how many pages a piece stands that tells no page from another.
const common = 24

// Departures finds out what became of the files that are gone, by what is in them. The order is that of gone.
func Departures(s *site.Snapshot, gone []Gone) []Departure {
	byHash := map[change.Hash][]string{}
	for i := range s.Files {
		if f := &s.Files[i]; f.Size > 0 && f.Hash != (change.Hash{}) {
			byHash[f.Hash] = append(byHash[f.Hash], f.Path)
		}
	}
	var pieces *pieceTable
	out := []Departure{}
	for i := range gone {
		g := &gone[i]
		if _, there := s.Find(g.Path); there {
			continue // it came back
		}
		d := Departure{From: g.Path}
		if same := byHash[g.Hash]; g.Size > 0 && len(same) > 0 {
			d.To, d.Same, d.Copies = nearestPath(g.Path, same), true, len(same)
		} else if g.Doc != nil {
			if pieces == nil {
				pieces = newPieceTable(s)
			}
			d.To, d.Copies = pieces.like(g.Doc)
		}
		out = append(out, d)
	}
	return out
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

// pieceTable finds pages by what stands on them: their title, their headings, what they refer to and in which words.
type pieceTable struct {
	snapshot *site.Snapshot
	files    map[string][]int32
}

func newPieceTable(s *site.Snapshot) *pieceTable {
	t := &pieceTable{s, map[string][]int32{}}
	for i := range s.Files {
		for _, p := range piecesOf(s.Files[i].Doc) {
			if all := t.files[p]; len(all) <= common {
				t.files[p] = append(all, int32(i))
			}
		}
	}
	return t
}

func piecesOf(d *markup.Document) []string {
	if d == nil {
		return nil
	}
	seen := map[string]bool{}
	if d.Title != "" {
		seen["t "+d.Title] = true
	}
	for i := range d.Headings {
		seen["h "+d.Headings[i].Text] = true
	}
	for i := range d.References {
		r := &d.References[i]
		// The way to it changes when a page is moved; its name and its words do not.
		seen["r "+path.Base(r.Written)+" "+r.Text] = true
	}
	for i := range d.Anchors {
		seen["a "+d.Anchors[i].Name] = true
	}
	out := make([]string, 0, len(seen))
	for p := range seen {
		out = append(out, p)
	}
	return out
}

// like returns the page that has most in common with a document, if that is enough, and how many others have as much.
func (t *pieceTable) like(d *markup.Document) (to string, copies int) {
	pieces := piecesOf(d)
	shared := map[int32]int{}
	for _, p := range pieces {
		if files := t.files[p]; len(files) <= common {
			for _, f := range files {
				shared[f]++
			}
		}
	}
	best := 0.0
	for f := range shared {
		theirs := piecesOf(t.snapshot.Files[f].Doc)
		both := 0
		for _, p := range pieces {
			if slices.Contains(theirs, p) {
				both++
			}
		}
		share := float64(both) / float64(len(pieces)+len(theirs)-both)
		switch {
		case share < alike || len(pieces) < 3:
		case share > best:
			best, to, copies = share, t.snapshot.Files[f].Path, 1
		case share == best:
			copies++
			to = min(to, t.snapshot.Files[f].Path)
		}
	}
	return to, copies
}
