package damage

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
)

// Class is one way in which folders go wrong: small folders with a truth, and how much of it can be known.
type Class struct {
	Name string
	// Cold is what is expected where only the folder is there, Warm where its record is, too.
	Cold, Warm Expectation
	// Make makes one folder of the class; the names in it are drawn.
	Make func(w *Words) Scene
}

// Expectation is how sure the right repair is at least, and how sure any may be at most.
type Expectation struct{ Least, Most repair.Certainty }

// The expectations. A control is a folder of the same form in which a certain repair is right.
var (
	unknowable = Expectation{repair.Possible, repair.Possible}
	unproven   = Expectation{repair.Possible, repair.Likely}
	shown      = Expectation{repair.Likely, repair.Likely}
	control    = Expectation{repair.Certain, repair.Certain}
	mended     = Expectation{repair.Likely, repair.Certain}
	open       = Expectation{repair.Possible, repair.Certain} // the folder alone says something else than its record
)

// Scene is a folder before and after something happened to it, and what the references that are broken by it were to lead to.
type Scene struct {
	Before, After map[string]string
	// Meant is by page and by what is written: a path with a fragment, an address outside, or "" if nothing in the folder is meant.
	Meant map[[2]string]string
}

// Words draws names for a folder, none of them twice.
type Words struct {
	r    *rand.Rand
	left []string
}

var stock = strings.Fields("leek chard squash pollen drying sowing storing swapping visiting borrowing labels gardens orchard marrow lettuce parsnip turnip radish spinach fennel beetroot celery pumpkin sorrel chervil lovage borage mustard skirret salsify")

// NewWords returns words in an order that r draws.
func NewWords(r *rand.Rand) *Words {
	w := &Words{r, slices.Clone(stock)}
	r.Shuffle(len(w.left), func(i, k int) { w.left[i], w.left[k] = w.left[k], w.left[i] })
	return w
}

// One draws a word.
func (w *Words) One() string {
	word := w.left[0]
	w.left = w.left[1:]
	return word
}

// Some draws n words.
func (w *Words) Some(n int) (out []string) {
	for range n {
		out = append(out, w.One())
	}
	return out
}

// page is the source of a page with links to the values.
func page(title string, values ...string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "<!doctype html><title>%s</title><h1 id=\"top-of-%s\">About %[1]s</h1><p>All that we know of %[1]s.\n", title, strings.ReplaceAll(title, " ", "-"))
	for _, v := range values {
		if strings.HasPrefix(v, "<") {
			b.WriteString(v + "\n")
		} else {
			fmt.Fprintf(&b, "<a href=\"%s\">here</a>\n", v)
		}
	}
	return b.String()
}

// tree adds pages of the names to a folder, each with a link to the next.
func tree(files map[string]string, dir string, names ...string) {
	for i, n := range names {
		files[dir+n+".html"] = page(dir+n, names[(i+1)%len(names)]+".html")
	}
}

// scene is a scene in which the folder was always so, and no more is known of it.
func scene(files map[string]string, meant map[[2]string]string) Scene {
	return Scene{files, files, meant}
}

// Run judges and repairs one folder of a class, with its record if warm, and says what came of it.
func (c *Class) Run(w *Words, warm bool) (Tally, []string) {
	sc := c.Make(w)
	s := snapshotOf(sc.After)
	var past repair.Past
	if warm {
		past = recordOf(sc.Before, sc.After, []int64{second, day}[w.r.IntN(2)])
	}
	report := audit.Judge(s, rule.All, audit.Terms{Displaced: repair.Displaced(s, past)})
	planner := repair.NewPlanner(s, past)
	expected := c.Cold
	if warm {
		expected = c.Warm
	}
	var sum Tally
	var faults []string
	if expected == open {
		return sum, nil
	}
	for _, at := range slices.SortedFunc(maps.Keys(sc.Meant), func(a, b [2]string) int { return strings.Compare(a[0]+a[1], b[0]+b[1]) }) {
		file, there := s.Find(at[0])
		ref := -1
		if there {
			ref = slices.IndexFunc(s.Files[file].Doc.References, func(r markup.Reference) bool { return r.Written == at[1] })
		}
		if ref < 0 {
			faults = append(faults, fmt.Sprintf("%s has no %s", at[0], at[1]))
			continue
		}
		n := Tally{Done: 1}
		repairs := planner.Whole(report, file, ref)
		says := "no repair"
		best, right := repair.Possible, false
		if len(repairs) > 0 {
			best = repairs[0].Certainty
			right = leadsTo(s, file, ref, repairs[0].Written) == sc.Meant[at] && sc.Meant[at] != ""
			says = fmt.Sprintf("%s %s (%s)", best, repairs[0].Written, repairs[0].Why)
		}
		n.Restored, n.Wrong = one(best == repair.Certain && right), one(best == repair.Certain && !right)
		n.LikelyRestored, n.LikelyWrong = one(best == repair.Likely && right), one(best == repair.Likely && !right)
		n.Left = one(best == repair.Possible)
		if best > expected.Most || best < expected.Least || best > repair.Possible && !right {
			faults = append(faults, fmt.Sprintf("%s on %s: %s, where %q is meant", at[1], at[0], says, sc.Meant[at]))
		}
		sum.add(n)
	}
	return sum, faults
}

func snapshotOf(files map[string]string) *site.Snapshot {
	scanner := markup.NewScanner()
	var list []site.File
	for p, src := range files {
		f := site.File{Path: p, Kind: site.KindOf(p), Size: int64(len(src)), Hash: change.HashOf([]byte(src))}
		if site.IsRead(p) {
			f.Doc = site.Scan(scanner, p, []byte(src))
		}
		list = append(list, f)
	}
	return site.Build(list, site.Options{Place: address.Place{Mount: "/"}, Published: "seeds.example/"})
}

// A second, an hour and a day, in nanoseconds.
const (
	second = int64(1_000_000_000)
	hour   = 3600 * second
	day    = 24 * hour
)

// recordOf is the record of a folder that was read before something happened to it, and again so long after.
func recordOf(before, after map[string]string, later int64) repair.Past {
	past := repair.Past{Since: map[string]int64{}}
	for _, f := range snapshotOf(before).Files {
		src, stays := after[f.Path]
		if stays {
			past.Since[f.Path] = hour
			if src != before[f.Path] {
				past.Former = append(past.Former, repair.Former{Path: f.Path, Hash: f.Hash, ChangedAt: hour + later, Read: func() *markup.Document { return f.Doc }})
			}
			continue
		}
		past.Gone = append(past.Gone, repair.Gone{Path: f.Path, Size: f.Size, Hash: f.Hash, Doc: f.Doc, Since: hour, GoneAt: hour + later})
	}
	for p := range after {
		if _, was := before[p]; !was {
			past.Since[p] = hour + later
		}
	}
	return past
}

// leadsTo returns where a reference leads if that is written: a path with its fragment, or an address outside.
func leadsTo(s *site.Snapshot, file int32, ref int, written string) string {
	fresh := s.Files[file].Doc.References[ref]
	fresh.Written = written
	fresh.Flags |= markup.Escaped
	r := address.NewResolver(s.Place)
	r.At(s.Files[file].Path, s.Files[file].Doc.Base, s.Files[file].Doc.HasBase)
	t := r.Resolve(fresh.Value())
	l := s.Land(&t)
	if l.File < 0 {
		return t.URL
	}
	out := s.Files[l.File].Path
	if t.HasFragment {
		out += "#" + address.UnescapeFragment(t.Fragment)
	}
	return out
}
