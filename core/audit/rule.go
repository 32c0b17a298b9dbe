// Package audit judges a folder: each reference gets a state, and each thing that is wrong with one becomes a
// finding by a rule, with a sentence that says why.
//
// A rule is a file of its own and a line in the table [Rules]. The rules are asked in the table's order, and
// only about references that did not land plainly, which most do.
package audit

import (
	"strings"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/site"
)

// State is what a reference was judged to be.
type State uint8

// The states, from the one that needs nothing to the one that needs most.
const (
	Sound     State = iota // lands
	Advice                 // lands, but could be better
	Inert                  // not judged: a script's address, data, or in a template
	Unchecked              // outside, not asked yet
	Fragile                // lands here, not everywhere
	Broken                 // lands nowhere
	NumStates
)

var stateNames = [NumStates]string{"sound", "advice", "inert", "unchecked", "fragile", "broken"}

// String returns the state's name as it is in exports.
func (s State) String() string { return stateNames[s] }

// ParseState returns the state of that name.
func ParseState(name string) (State, bool) {
	for i, n := range stateNames {
		if n == name {
			return State(i), true
		}
	}
	return Sound, false
}

// Rule is one way in which a reference can be wrong.
type Rule struct {
	// Name is stable: exports, settings and the docs name the rule by it.
	Name string
	// Exact: what the rule says is the whole mistake, so that no later rule is asked about the reference.
	Exact bool
	// ByID: the rule is also asked about references that name an element by its id and so are no addresses.
	ByID bool
	// Applies reports whether the reference has this mistake, and how bad that is; nil for a rule that is not about
	// references.
	Applies func(c *Case) (State, bool)
	// Page finds the mistake on a page as a whole: it calls found with the index of the anchor that has it, or [None].
	// AnyFile: it is asked about files that hold no references, too.
	Page    func(c *Case, found func(anchor int))
	AnyFile bool
	// Folder finds the files that have the mistake in the folder as a whole, as indexes of the snapshot's files.
	Folder func(s *site.Snapshot) []int32
	// State is how bad what Page and Folder find is.
	State State
	// Say says what is wrong, as a headline and as a sentence of why, with letters as written in backticks.
	Say func(c *Case) (headline, sentence string)
}

// None is the index of no anchor, and of no reference.
const None = -1

// Rules is a table of rules, in the order in which they are asked: the more exact ones first. It is immutable.
type Rules struct {
	list                                []*Rule
	references, pages, anyFile, folders []*Rule // those that are asked about each
}

// NewRules returns the table of the rules in the list.
func NewRules(list ...*Rule) *Rules {
	r := &Rules{list: list}
	for _, one := range list {
		if one.Applies != nil {
			r.references = append(r.references, one)
		}
		if one.Page != nil {
			r.pages = append(r.pages, one)
		}
		if one.Page != nil && one.AnyFile {
			r.anyFile = append(r.anyFile, one)
		}
		if one.Folder != nil {
			r.folders = append(r.folders, one)
		}
	}
	return r
}

// List returns the rules in their order. The slice is not to be changed.
func (r *Rules) List() []*Rule { return r.list }

// Named returns the rule of that name, or nil.
func (r *Rules) Named(name string) *Rule {
	for _, one := range r.list {
		if one.Name == name {
			return one
		}
	}
	return nil
}

// Judge judges a single case by all rules: what is wrong, and the state that gives.
func (r *Rules) Judge(c *Case) ([]Finding, State) { return c.judge(r.references, 0, nil) }

// Case is one reference, anchor or page with all that a rule may want to know of it. It is not safe for use by several
// goroutines.
type Case struct {
	Snapshot *site.Snapshot
	File     *site.File
	// Ref is the reference, Anchor the anchor that it is about; both are nil where it is about the file as a whole.
	Ref    *markup.Reference
	Anchor *markup.Anchor
	Link   site.Link
	// Place is where the reference is judged: the snapshot's, or another one that the author ticked.
	Place address.Place
	// Value is the reference as a browser reads it.
	Value string
	// Was is the path at which is now what the reference led to before, if that is elsewhere and something else is where it lands.
	Was string

	resolver *address.Resolver
	target   *address.Target
}

// NewCase returns the case of reference ref on the given file.
func NewCase(s *site.Snapshot, file int32, ref int) *Case {
	c := caseOf(s, address.NewResolver(s.Place), file)
	c.setReference(ref, s.Links(file)[ref])
	return c
}

// NewCaseAt returns the case of reference ref on the given file at another place than the snapshot's.
func NewCaseAt(s *site.Snapshot, file int32, ref int, p address.Place) *Case {
	p.Published = s.Place.Published
	c := caseOf(s, address.NewResolver(p), file)
	c.setReference(ref, site.Link{})
	c.Link = s.LandAt(c.Target(), p.IgnoreCase)
	return c
}

// At returns the case of the same reference at the place where the finding is so.
func (c *Case) At(f Finding) *Case {
	file, ok := c.Snapshot.Find(c.File.Path)
	if f.Place == nil || !ok {
		return c
	}
	there := caseOf(c.Snapshot, address.NewResolver(*f.Place), file)
	there.Ref, there.Value = c.Ref, c.Value
	there.Link = c.Snapshot.LandAt(there.Target(), f.Place.IgnoreCase)
	return there
}

// CaseOf returns the case that a finding is about.
func CaseOf(s *site.Snapshot, f Finding, file int32) *Case {
	if f.Ref >= 0 {
		c := NewCase(s, file, int(f.Ref)).At(f)
		c.Was = f.Was
		return c
	}
	c := caseOf(s, address.NewResolver(s.Place), file)
	if f.Anchor >= 0 {
		c.Anchor = &c.File.Doc.Anchors[f.Anchor]
	}
	return c
}

// Imagine returns the case of a link that is not on the given page, as if it were.
func Imagine(s *site.Snapshot, file int32, value string) *Case {
	c := caseOf(s, address.NewResolver(s.Place), file)
	c.Ref = &markup.Reference{Written: value, Element: markup.A, Attribute: markup.AttrHref, Role: markup.RoleLink, Quote: '"'}
	c.Value = value
	c.Link = s.Land(c.Target())
	return c
}

func caseOf(s *site.Snapshot, r *address.Resolver, file int32) *Case {
	f := &s.Files[file]
	if f.Doc != nil {
		r.At(f.Path, f.Doc.Base, f.Doc.HasBase)
	}
	return &Case{Snapshot: s, File: f, Place: r.Place(), resolver: r}
}

// setReference makes c the case of another reference on the same page.
func (c *Case) setReference(ref int, l site.Link) {
	c.Ref, c.Link, c.target = &c.File.Doc.References[ref], l, nil
	c.Value = c.Ref.Value()
}

// Target returns where the reference leads.
func (c *Case) Target() *address.Target {
	if c.target == nil {
		t := c.resolve()
		c.target = &t
	}
	return c.target
}

func (c *Case) resolve() address.Target {
	if c.Ref == nil || c.Ref.Flags&(markup.ByID|markup.ByMap) == 0 {
		return c.resolver.Resolve(c.Value)
	}
	name := c.Value
	if c.Ref.Flags&markup.ByMap != 0 {
		_, name, _ = strings.Cut(name, "#")
	}
	return address.Target{Path: c.File.Path, HasFragment: true, Fragment: strings.ReplaceAll(name, "%", "%25")}
}

// Landed returns the file that the reference lands on, or would if its letters were right; nil if there is none.
func (c *Case) Landed() *site.File {
	if c.Link.File < 0 {
		return nil
	}
	return &c.Snapshot.Files[c.Link.File]
}

// Fragment returns the reference's fragment, decoded.
func (c *Case) Fragment() string { return address.UnescapeFragment(c.Target().Fragment) }

// Start returns the folder that the reference starts from, as [address.Resolver.Start] does.
func (c *Case) Start() string { return c.resolver.Start() }

// Steps returns the steps of the reference's address; of one that names an element by its id, which is no address, the one
// step to that.
func (c *Case) Steps() []address.Step {
	if c.Ref.Flags&(markup.ByID|markup.ByMap) == 0 {
		return c.resolver.Steps(c.Value)
	}
	depth := strings.Count(c.File.Path, "/")
	return []address.Step{{Kind: address.Fragment, Written: c.Ref.Written, Depth: depth, Path: c.File.Path}}
}

// Climbs returns how many ".." the reference is written with.
func (c *Case) Climbs() int {
	n := 0
	for _, st := range c.resolver.Steps(c.Value) {
		if st.Kind == address.Climb {
			n++
		}
	}
	return n
}
