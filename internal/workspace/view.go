package workspace

import (
	"fmt"
	"hash/fnv"
	"slices"
	"strings"
	"sync"
	"time"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/explain"
	"arvel/core/markup"
	"arvel/core/plan"
	"arvel/core/repair"
	"arvel/core/site"
	"arvel/internal/disk"
)

// View is the folder as it was last read, with all that it answers from. It is immutable.
type View struct {
	// Version grows with every renewal.
	Version  uint64
	At       time.Time
	Snapshot *site.Snapshot
	Report   *audit.Report
	// Trouble says what could not be read, and which names lead elsewhere, a sentence each.
	Trouble []string
	// Unread are the pages and folders that could not be read, so that there may be findings in them that nobody knows of.
	Unread []string

	conditions *conditions
	listing    disk.Listing // of the last whole walk, without its entries
	record     *record

	// What is worked out when it is first wanted.
	planner     func() *repair.Planner
	causes      func() []repair.Cause
	pending     func() []plan.Pending
	pages       func() []int32
	survey      func() explain.Survey
	differences func() differences
}

// Survey returns the folder at a glance.
func (v *View) Survey() explain.Survey { return v.survey() }

// Planner returns the planner of the view's repairs.
func (v *View) Planner() *repair.Planner { return v.planner() }

// Causes returns what the findings have in common.
func (v *View) Causes() []repair.Cause { return v.causes() }

// PendingMoves returns the moves that were made elsewhere and that references have not followed.
func (v *View) PendingMoves() []plan.Pending { return v.pending() }

// newView makes a view of what was read and judged under the conditions, with what the record has of the folder.
func newView(version uint64, s *site.Snapshot, r *audit.Report, c *conditions, listing disk.Listing, rec *record) *View {
	v := &View{
		Version: version, At: time.Now(), Snapshot: s, Report: r, conditions: c, listing: listing, record: rec,
		Trouble: slices.Clone(listing.Trouble),
		Unread:  slices.Clone(listing.Unknown),
	}
	v.planner = sync.OnceValue(func() *repair.Planner { return repair.NewPlanner(s, rec.past()) })
	v.causes = sync.OnceValue(func() []repair.Cause { return v.Planner().Causes(r) })
	v.pending = sync.OnceValue(func() []plan.Pending { return plan.PendingMoves(s, v.Planner().Departures()) })
	v.survey = sync.OnceValue(func() explain.Survey { return explain.SurveyOf(r, s) })
	v.pages = sync.OnceValue(func() []int32 { return listed(s, r) })
	v.differences = sync.OnceValue(func() (d differences) {
		d.places = append([]address.Place{s.Place}, c.terms.Also...)
		d.list, d.counts = r.PlaceDifferences(s, d.places)
		return d
	})
	for i := range s.Files {
		f := &s.Files[i]
		if f.Trouble != "" {
			v.Trouble = append(v.Trouble, f.Path+" "+f.Trouble)
		}
		if f.Unread {
			v.Unread = append(v.Unread, f.Path)
		}
	}
	return v
}

// differences are those between the places that count for a view.
type differences struct {
	places []address.Place
	list   []audit.PlaceDifference
	counts []audit.Counts
}

// PlaceDifferences returns the places that count for the view, the chosen one first, the references whose state differs
// between them, and how many are in which state at each.
func (v *View) PlaceDifferences() ([]address.Place, []audit.PlaceDifference, []audit.Counts) {
	d := v.differences()
	return d.places, d.list, d.counts
}

// WithText returns a view in which a page holds the text, judged, as it is being edited, and the page's index in it.
func (v *View) WithText(page string, text []byte) (*View, int32, error) {
	file, err := v.File(page)
	if err != nil {
		return nil, 0, err
	}
	f := v.Snapshot.Files[file]
	f.Doc = site.Scan(markup.NewTextScanner(), page, text)
	snapshot, touched := v.Snapshot.Renew([]site.File{f}, nil)
	own, _ := snapshot.Find(page)
	if touched != nil {
		// The pages that refer to it are judged when it is saved.
		touched = slices.DeleteFunc(touched, func(i int32) bool { return i != own })
	}
	report := v.Report.Renew(snapshot, touched, v.Report.Displaced())
	return &View{Version: v.Version, Snapshot: snapshot, Report: report, planner: v.planner}, own, nil
}

// Pages returns the folder's pages, and the style sheets and pictures in which something is wrong, in the order in
// which they are listed: those of a folder before the folders in it, the index page first.
func (v *View) Pages() []int32 { return v.pages() }

// Files returns all files of the folder, by path.
func (v *View) Files() []int32 {
	out := make([]int32, len(v.Snapshot.Files))
	for i := range out {
		out[i] = int32(i)
	}
	return out
}

func listed(s *site.Snapshot, r *audit.Report) []int32 {
	var out []int32
	for i := range s.Files {
		if s.Files[i].IsPage() || r.Tally(int32(i), audit.Broken)+r.Tally(int32(i), audit.Fragile) > 0 {
			out = append(out, int32(i))
		}
	}
	slices.SortFunc(out, func(a, b int32) int {
		dirA, nameA := site.Cut(s.Files[a].Path)
		dirB, nameB := site.Cut(s.Files[b].Path)
		if dirA != dirB {
			return strings.Compare(dirA, dirB)
		}
		index := s.Folders[dirA].Index
		if a == index || b == index {
			return map[bool]int{true: -1, false: 1}[a == index]
		}
		return strings.Compare(nameA, nameB)
	})
	return out
}

// File returns the index of the file at the path, or a *GoneError.
func (v *View) File(path string) (int32, error) {
	file, ok := v.Snapshot.Find(path)
	if !ok {
		return 0, gone(path)
	}
	return file, nil
}

// Find returns the page at the path and the reference on it with the key.
func (v *View) Find(page, wanted string) (file int32, ref int, err error) {
	file, err = v.File(page)
	if err != nil || v.Snapshot.Files[file].Doc == nil {
		return 0, 0, gone(page)
	}
	ref = slices.Index(Keys(v.Snapshot.Files[file].Doc), wanted)
	if ref < 0 {
		return 0, 0, &GoneError{fmt.Sprintf("The reference is no longer on %s: the page was edited in the meantime.", page)}
	}
	return file, ref, nil
}

// Key names a reference on its page so that it is found again after the page was edited elsewhere: by what is
// written, and which one of those that are written the same.
func Key(d *markup.Document, ref int) string {
	nth := 0
	for i := range ref {
		if d.References[i].Written == d.References[ref].Written {
			nth++
		}
	}
	return key(d.References[ref].Written, nth)
}

func key(written string, nth int) string {
	h := fnv.New32a()
	h.Write([]byte(written))
	return fmt.Sprintf("%08x.%d", h.Sum32(), nth)
}

// Keys returns the keys of all references of a document, in their order.
func Keys(d *markup.Document) []string {
	nth := map[string]int{}
	out := make([]string, len(d.References))
	for i := range d.References {
		w := d.References[i].Written
		out[i] = key(w, nth[w])
		nth[w]++
	}
	return out
}

// NextBroken returns the next broken reference behind one of a page, or behind all of it where key is "": on the page, and then
// on the pages behind it in the order of [View.Pages], around to the first again. With back it goes the other way. False if no
// other one is broken.
func (v *View) NextBroken(page, key string, back bool) (nextPage, nextKey string, ok bool) {
	pages := slices.Clone(v.Pages())
	file, found := v.Snapshot.Find(page)
	if !found || len(pages) == 0 {
		return "", "", false
	}
	if back {
		slices.Reverse(pages)
	}
	begin := max(0, slices.Index(pages, file))
	for n := range len(pages) + 1 {
		at := pages[(begin+n)%len(pages)]
		doc := v.Snapshot.Files[at].Doc
		if doc == nil || v.Report.Tally(at, audit.Broken) == 0 {
			continue
		}
		keys, states := Keys(doc), v.Report.States(at)
		own := slices.Index(keys, key)
		for k := range states {
			i := k
			if back {
				i = len(states) - 1 - k
			}
			// On the page itself first what is behind the reference, and in the end what is before it.
			behind := key == "" || own < 0 || i > own != back && i != own
			if states[i] != audit.Broken || at == file && (n == 0 && !behind || n > 0 && behind) {
				continue
			}
			return v.Snapshot.Files[at].Path, keys[i], true
		}
	}
	return "", "", false
}

// Repairs returns the repairs of a reference, the best first.
func (v *View) Repairs(file int32, ref int) []repair.Repair {
	findings := v.Report.Of(file, ref)
	if len(findings) == 0 {
		return nil
	}
	return v.Planner().For(audit.NewCase(v.Snapshot, file, ref), findings)
}

// FileAt reports whether the file is one that the view has.
func (v *View) FileAt(path string) (*site.File, bool) {
	i, ok := v.Snapshot.Find(path)
	if !ok {
		return nil, false
	}
	return &v.Snapshot.Files[i], true
}

// severalNames reports whether a file of the view has several names.
func (v *View) severalNames() bool {
	return len(v.listing.Same) > 0 || slices.ContainsFunc(v.Snapshot.Files, func(f site.File) bool { return f.Same != "" })
}

// gone says that a page is not in the folder any more.
func gone(page string) error {
	return &GoneError{page + " is no longer in the folder."}
}
