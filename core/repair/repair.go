// Package repair finds, for what an audit found broken, what its author most likely meant, and how certain that
// is. Candidates come from tables of the folder's names, never from comparing all with all.
//
// A wrong repair is worse than none: a repair is certain only if it alone explains the mistake.
package repair

import (
	"slices"
	"strings"
	"sync"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
)

// Certainty is how sure it is that a repair is what was meant.
type Certainty uint8

// The certainties, from the weakest.
const (
	Possible Certainty = iota
	Likely
	Certain
)

var certaintyNames = [...]string{"possible", "likely", "certain"}

// String returns the certainty's name as it is in exports.
func (c Certainty) String() string { return certaintyNames[c] }

// Repair is a new value for a reference that makes its findings go away.
type Repair struct {
	// Written is the new value as it will be in the file, decoded to UTF-8, with its character references.
	Written   string
	Certainty Certainty
	// Why is the reason, as a clause.
	Why string
	// Target is the path that it then lands on; "" for addresses outside.
	Target string

	cause Key
}

// Planner finds the repairs of one snapshot. It is safe for use by several goroutines.
type Planner struct {
	snapshot   *site.Snapshot
	names      *nameTable
	departures []Departure
	departed   map[string]Departure // by where they were
	gone       map[string]*Gone     // by path
	former     map[string][]*Former // by path, the last first
	since      map[string]int64     // when files that exist were first seen, as [Past] has it
	renamed    map[string]string    // folders, by what they were called
	merged     map[string]string    // the pages that have what was on others, by where those were

	headingsOf sync.Map // by document: its headings by their plain text
	targetsOf  sync.Map // by file: the files that it refers to
	orphansIn  sync.Map // by folder: the files in it that nothing refers to, by kind
	pagesIn    sync.Map // by folder: the names of its pages
	parallels  sync.Map // by two folders: whether they are parallel
	neighbours sync.Map // by folder and file: how many files of the folder refer to it

	lacking sync.Map // by file: whether several of its own fragments are not on it

	pagesOnce sync.Once
	pageCount int

	evidenceOnce sync.Once
	said         *evidence

	once       sync.Once
	origins    map[int32]*origin // pages that were moved, or whose links were copied
	leftBehind map[string]int32  // the same, by where they seem to have been
	astray     map[int32]bool    // pages most of whose relative references lead to nothing
}

// NewPlanner returns a Planner for the snapshot.
func NewPlanner(s *site.Snapshot, past Past) *Planner {
	p := &Planner{snapshot: s, names: newNameTable(s), departures: Departures(s, past), departed: map[string]Departure{}, gone: map[string]*Gone{}, former: map[string][]*Former{}, since: past.Since}
	for i := range past.Gone {
		p.gone[past.Gone[i].Path] = &past.Gone[i]
	}
	for i := range past.Former {
		f := &past.Former[i]
		p.former[f.Path] = append(p.former[f.Path], f)
	}
	for _, d := range p.departures {
		p.departed[d.From] = d
	}
	p.findMerged(&past)
	p.findMovedFolders()
	return p
}

// Departures returns what became of the files that are gone.
func (p *Planner) Departures() []Departure { return p.departures }

// most is how many repairs are offered for one reference.
const most = 6

// For returns the repairs of a reference with the given findings, the best first; none if it needs none or
// none is known.
func (p *Planner) For(c *audit.Case, findings []audit.Finding) []Repair {
	var s suggestions
	for _, f := range findings {
		c.Was = f.Was
		if c.Was != "" && f.Rule.Name != "changed-place" {
			continue // what it lands on is not what it was written for
		}
		if find := finders[f.Rule.Name]; find != nil {
			find(p, c, &s)
		}
	}
	return s.ranked(c)
}

// finders is the table of who knows a repair for which rule.
var finders = map[string]func(*Planner, *audit.Case, *suggestions){
	"missing-file":     (*Planner).missingFile,
	"missing-index":    (*Planner).missingIndex,
	"case-mismatch":    (*Planner).otherName,
	"unicode-form":     (*Planner).otherName,
	"missing-fragment": (*Planner).missingFragment,
	"missing-scheme":   (*Planner).missingScheme,
	"mistyped-scheme":  (*Planner).mistypedScheme,
	"address-in-text":  (*Planner).addressInText,
	"stray-space":      (*Planner).encode,
	"unencoded":        (*Planner).encode,
	"malformed-email":  (*Planner).malformedEmail,
	"disk-path":        (*Planner).diskPath,
	"no-destination":   (*Planner).noDestination,
	"backslash":        (*Planner).backslash,
	"climbs-out":       (*Planner).climbsOut,
	"root-relative":    (*Planner).fromPage,
	"own-address":      (*Planner).fromPage,
	"changed-place":    (*Planner).changedPlace,
}

// suggestion is a repair in the making: a value before it is written for the file.
type suggestion struct {
	value     string
	target    string
	certainty Certainty
	// weight orders suggestions of the same certainty, the greatest first.
	weight int
	why    string
	// cause is the key of what happened, if the suggestion says; see [Planner.Causes].
	cause Key
}

type suggestions struct {
	all   []suggestion
	cause Key // of those that are added now
}

func (s *suggestions) add(g suggestion) {
	if g.cause == (Key{}) {
		g.cause = s.cause
	}
	for i := range s.all {
		if s.all[i].value == g.value {
			if g.certainty > s.all[i].certainty || g.certainty == s.all[i].certainty && g.weight > s.all[i].weight {
				s.all[i] = g
			}
			return
		}
	}
	s.all = append(s.all, g)
}

// atMost lowers what is more certain than that.
func (s *suggestions) atMost(most Certainty) {
	for i := range s.all {
		s.all[i].certainty = min(s.all[i].certainty, most)
	}
}

// ranked turns the suggestions into repairs, the best first. Two that are as certain contradict each other, so that then neither
// is; two within a hair of each other are both possible.
func (s *suggestions) ranked(c *audit.Case) []Repair {
	slices.SortStableFunc(s.all, func(a, b suggestion) int {
		if a.certainty != b.certainty {
			return int(b.certainty) - int(a.certainty)
		}
		return b.weight - a.weight
	})
	if len(s.all) > 1 && s.all[1].certainty >= Likely {
		// Two answers that are as good contradict each other.
		most := Likely
		if best, next := s.all[0], s.all[1]; best.certainty == next.certainty {
			if best.weight-next.weight <= hair {
				most = Possible
			}
			s.all[0].certainty = min(best.certainty, most)
		}
		for i := range s.all[1:] {
			s.all[1+i].certainty = min(s.all[1+i].certainty, most)
		}
	}
	if len(c.Snapshot.Unknown) > 0 && c.Link.Outcome == site.NoFile {
		s.atMost(Likely) // what is meant could be where nobody could look
	}
	if other, _ := rule.ForOther(c.Snapshot, c.Value); other != "" {
		s.atMost(Possible)
	}
	var out []Repair
	for _, g := range s.all[:min(len(s.all), most)] {
		written := Written(c.File.Doc.Encoding, c.Ref, g.value)
		if written == c.Ref.Written {
			continue
		}
		out = append(out, Repair{written, g.certainty, g.why, g.target, g.cause})
	}
	return out
}

// Written turns a new value for a reference into what encodes it in the file: character references as the
// old value had them, letters that the file's encoding lacks percent-encoded.
func Written(encoding string, ref *markup.Reference, value string) string {
	if _, err := markup.Encode(value, encoding); err != nil {
		value = address.EscapeToASCII(value)
	}
	if ref.Flags&markup.InStyle != 0 {
		if ref.Element == markup.Other && ref.Attribute == markup.NoAttribute {
			value = inASCII(value, ref.Value())
		}
		return address.PercentEncode(value, func(c byte) bool { return strings.IndexByte(endsStyle, c) < 0 })
	}
	return markup.EscapeAttribute(value, ref.Quote, ref.Flags&markup.Escaped != 0 && strings.Contains(ref.Written, "&amp;"))
}

// inASCII encodes what is not ASCII in an address in a style sheet, since the encoding of that depends on what refers to it (CSS Syntax,
// 3.2); the parts that were in the old one so are left. A style element or attribute has the encoding of its page.
func inASCII(value, old string) string {
	parts, were := strings.Split(value, "/"), strings.Split(old, "/")
	for i, part := range parts {
		if !slices.Contains(were, part) {
			parts[i] = address.EscapeToASCII(part)
		}
	}
	return strings.Join(parts, "/")
}

// endsStyle are the bytes that would end an address in CSS, quoted or not, or an attribute around it.
const endsStyle = `"'() \&`

// Edit returns the edit that writes a repair into the file.
func Edit(encoding string, ref *markup.Reference, written string) (change.Edit, error) {
	if ref.Flags&markup.NoValue != 0 {
		written = ` ` + ref.Attribute.String() + `="` + written + `"`
	} else if ref.Quote == 0 && ref.Start == ref.End && ref.Flags&markup.InStyle == 0 {
		written = `"` + written + `"`
	}
	b, err := markup.Encode(written, encoding)
	return change.Edit{Start: int(ref.Start), End: int(ref.End), New: b, Old: markup.EncodeExactly(ref.Written, encoding)}, err
}
