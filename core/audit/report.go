package audit

import (
	"maps"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/site"
)

// Finding is one thing wrong with one reference, anchor, page or name.
type Finding struct {
	Rule *Rule
	// Ref is the index of the reference in its page's document, Anchor that of the anchor; -1 where it is not about
	// one.
	Ref, Anchor int32
	State       State
	// Place is where it is so, if the reference lands at the snapshot's place and fails at another one that the author
	// ticked; else nil.
	Place *address.Place
	// Was is where what the reference led to before is now, as [Case.Was] has it.
	Was string
}

// Displaced are references that land on another thing than they did: by page and by what is written, the path at which is now
// what they led to.
type Displaced map[string]map[string]string

// Terms are what, besides the snapshot, decides how it is judged.
type Terms struct {
	// Off are the names of the rules that are not asked.
	Off map[string]bool
	// Also are the other places at which everything has to land.
	Also []address.Place
	// Displaced are the references that land on another thing than they did.
	Displaced Displaced
	// Aside are the findings that the author set aside, with the reason.
	Aside map[Mark]string
}

// Mark names a finding across readings of its page: by what it is about as it is written, which is the same for all
// that are written the same on the page.
type Mark struct{ Page, Rule, Written string }

// MarkOf returns the mark of a finding.
func MarkOf(s *site.Snapshot, file int32, f Finding) Mark {
	m := Mark{Page: s.Files[file].Path, Rule: f.Rule.Name}
	switch {
	case f.Ref >= 0:
		m.Written = s.Files[file].Doc.References[f.Ref].Written
	case f.Anchor >= 0:
		m.Written = s.Files[file].Doc.Anchors[f.Anchor].Name
	}
	return m
}

// Say returns what a finding says of its case, and where that is so.
func (f *Finding) Say(c *Case) (headline, sentence string) {
	headline, sentence = f.Rule.Say(c)
	if f.Place != nil {
		sentence = "It works here, but not " + f.Place.Whole() + ". " + sentence
	}
	return headline, sentence
}

// Counts are a folder's, or one page's, numbers.
type Counts struct {
	Files, Pages, References                 int
	Sound, Broken, Fragile, Unchecked, Inert int
}

func (c *Counts) add(s State, n int) {
	c.References += n
	switch s {
	case Sound:
		c.Sound += n
	case Broken:
		c.Broken += n
	case Fragile:
		c.Fragile += n
	case Unchecked:
		c.Unchecked += n
	case Inert:
		c.Inert += n
	}
}

// Report is the judgement on a snapshot. Like it, it is immutable and shared.
type Report struct {
	Counts Counts

	rules     *Rules
	terms     Terms
	states    [][]State
	findings  [][]Finding
	aside     map[int32][]Finding
	tallies   [][NumStates]int32
	lost      map[int32]Finding // what no way leads to
	lostAside map[int32]Finding // the same, set aside
	mu        sync.Mutex        // held while aside is changed
}

// Judge judges every reference of a snapshot by the rules on the given terms, on all cores.
func Judge(s *site.Snapshot, rules *Rules, terms Terms) *Report {
	r := &Report{
		rules: rules, terms: terms, aside: map[int32][]Finding{},
		states: make([][]State, len(s.Files)), findings: make([][]Finding, len(s.Files)),
		tallies: make([][NumStates]int32, len(s.Files)),
	}
	all := make([]int32, len(s.Files))
	for i := range all {
		all[i] = int32(i)
	}
	r.judge(s, all)
	return r
}

// Renew judges the touched pages of a snapshot again, and those of which other references are displaced, and takes over the rest of r,
// which judged the snapshot that s was renewed from. A touched of nil means all.
func (r *Report) Renew(s *site.Snapshot, touched []int32, displaced Displaced) *Report {
	terms := r.terms
	terms.Displaced = displaced
	if touched == nil {
		return Judge(s, r.rules, terms)
	}
	touched = slices.Clone(touched)
	for _, pages := range []Displaced{r.terms.Displaced, displaced} {
		for page := range pages {
			if i, there := s.Find(page); there && !maps.Equal(r.terms.Displaced[page], displaced[page]) && !slices.Contains(touched, i) {
				touched = append(touched, i)
			}
		}
	}
	n := &Report{
		rules: r.rules, terms: terms, aside: maps.Clone(r.aside),
		states: slices.Clone(r.states), findings: slices.Clone(r.findings), tallies: slices.Clone(r.tallies),
	}
	n.judge(s, touched)
	return n
}

// Displaced returns the references that land on another thing than they did, as the report was told.
func (r *Report) Displaced() Displaced { return r.terms.Displaced }

func (r *Report) judge(s *site.Snapshot, files []int32) {
	workers := min(runtime.GOMAXPROCS(0), len(files))
	var next atomic.Int64
	var wait sync.WaitGroup
	for range workers {
		wait.Go(func() {
			j := r.judgeOn(s)
			for {
				n := int(next.Add(1)) - 1
				if n >= len(files) {
					return
				}
				j.fileSafely(files[n])
			}
		})
	}
	wait.Wait()
	r.reach(s)
	r.Counts = Counts{Files: len(s.Files)}
	for i := range s.Files {
		if s.Files[i].IsPage() {
			r.Counts.Pages++
		}
		for state, n := range r.tallies[i] {
			r.Counts.add(State(state), int(n))
		}
	}
}

// judge is what one core judges with.
type judge struct {
	*Report
	snapshot *site.Snapshot
	resolver *address.Resolver
	also     []*address.Resolver // for the other places
	refs     []*Rule             // those of each table that are asked
	pages    []*Rule
	anyFile  []*Rule
}

func (r *Report) judgeOn(s *site.Snapshot) *judge {
	j := &judge{
		Report: r, snapshot: s, resolver: address.NewResolver(s.Place),
		refs: r.terms.asked(r.rules.references), pages: r.terms.asked(r.rules.pages), anyFile: r.terms.asked(r.rules.anyFile),
	}
	for _, p := range r.terms.Also {
		p.Published = s.Place.Published
		j.also = append(j.also, address.NewResolver(p))
	}
	return j
}

// asked returns those of the rules that are not switched off.
func (t *Terms) asked(rules []*Rule) []*Rule {
	if len(t.Off) == 0 {
		return rules
	}
	return slices.DeleteFunc(slices.Clone(rules), func(r *Rule) bool { return t.Off[r.Name] })
}

// fileSafely is file for whatever is in a file: where judging it fails, nothing is said of it.
func (j *judge) fileSafely(file int32) {
	defer func() {
		if recover() == nil {
			return
		}
		states := make([]State, len(j.snapshot.Links(file)))
		for i := range states {
			states[i] = Inert
		}
		j.states[file], j.findings[file], j.tallies[file] = states, nil, [NumStates]int32{Inert: int32(len(states))}
	}()
	j.file(file)
}

func (j *judge) file(file int32) {
	s := j.snapshot
	j.states[file], j.findings[file], j.tallies[file] = nil, nil, [NumStates]int32{}
	c := caseOf(s, j.resolver, file)
	doc := s.Files[file].Doc
	if s.Files[file].Same != "" {
		return // it is judged at its place
	}
	if doc == nil {
		j.wholeFile(c, file)
		j.setAside(file)
		return
	}
	links := s.Links(file)
	displaced := j.terms.Displaced[s.Files[file].Path]
	states := make([]State, len(links))
	var others []*Case
	for i, l := range links {
		was := displaced[doc.References[i].Written]
		if l.Outcome == site.Lands && !l.Unusual && was == "" && !advisable(&doc.References[i]) {
			continue
		}
		c.setReference(i, l)
		c.Was = was
		j.findings[file], states[i] = c.judge(j.refs, int32(i), j.findings[file])
		if len(j.also) > 0 && states[i] < Broken && states[i] != Inert && (l.Unusual || l.Outcome != site.Lands) {
			if others == nil {
				for _, r := range j.also {
					others = append(others, caseOf(s, r, file))
				}
			}
			j.elsewhere(others, file, i, &states[i])
		}
	}
	j.states[file] = states
	j.wholeFile(c, file)
	j.setAside(file)
	for _, st := range states {
		j.tallies[file][st]++
	}
}

// elsewhere judges a reference at the other places, and keeps what is worse there than here.
func (j *judge) elsewhere(others []*Case, file int32, ref int, state *State) {
	for k, c := range others {
		c.setReference(ref, site.Link{})
		c.Link = j.snapshot.LandAt(c.Target(), c.Place.IgnoreCase)
		there, bad := c.judge(j.refs, int32(ref), nil)
		if bad < Fragile || bad == *state {
			continue
		}
		for _, f := range there {
			if f.State < Fragile || slices.ContainsFunc(j.findings[file], func(g Finding) bool { return g.Ref == f.Ref && g.Rule == f.Rule }) {
				continue
			}
			place := j.terms.Also[k]
			f.State, f.Place = Fragile, &place
			j.findings[file] = append(j.findings[file], f)
			*state = max(*state, Fragile)
			break
		}
	}
}

// setAside takes what the author set aside out of a file's findings. A reference that keeps no other is then not
// judged.
func (j *judge) setAside(file int32) {
	all := j.findings[file]
	var kept, aside []Finding
	if len(j.terms.Aside) > 0 {
		for _, f := range all {
			if _, is := j.terms.Aside[MarkOf(j.snapshot, file, f)]; is {
				aside = append(aside, f)
			}
		}
	}
	if len(aside) > 0 {
		kept = slices.DeleteFunc(slices.Clone(all), func(f Finding) bool { return slices.Contains(aside, f) })
		for _, f := range aside {
			if f.Ref < 0 || f.State == Advice {
				continue
			}
			worst := Inert
			for _, g := range kept {
				if g.Ref == f.Ref {
					worst = max(worst, g.State)
				}
			}
			j.states[file][f.Ref] = worst
		}
		j.findings[file] = kept
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	if len(aside) > 0 {
		j.aside[file] = aside
	} else {
		delete(j.aside, file)
	}
}

// Aside returns the findings of a file that the author set aside.
func (r *Report) Aside(file int32) []Finding {
	all := r.aside[file]
	if f, lost := r.lostAside[file]; lost {
		return append(all[:len(all):len(all)], f)
	}
	return all
}

// Reason returns why a finding was set aside.
func (r *Report) Reason(m Mark) string { return r.terms.Aside[m] }

// wholeFile asks the rules about a file as a whole. Their findings come after those of its references.
func (j *judge) wholeFile(c *Case, file int32) {
	rules := j.pages
	if c.File.Doc == nil {
		rules = j.anyFile
	}
	for _, rule := range rules {
		rule.Page(c, func(anchor int) {
			j.findings[file] = append(j.findings[file], Finding{Rule: rule, Ref: None, Anchor: int32(anchor), State: rule.State})
		})
	}
}

// advisable reports whether a rule of advice may have something to say of a reference that lands plainly.
func advisable(r *markup.Reference) bool {
	return r.Element == markup.A && r.Text == "" || r.Flags&(markup.NoAlt|markup.NewTab|markup.Spaced) != 0
}

// unjudged is the state of a reference that no rule has anything to say of, by what looking it up gave.
var unjudged = map[site.Outcome]State{
	site.Elsewhere: Unchecked, site.NotJudged: Inert, site.NotKnown: Unchecked,
}

// judge asks the rules about a case, appends what they find to findings, and returns the case's state.
func (c *Case) judge(rules []*Rule, ref int32, findings []Finding) ([]Finding, State) {
	state := unjudged[c.Link.Outcome]
	if state == Inert {
		return findings, state
	}
	between := c.Ref.Flags&(markup.ByID|markup.ByMap) != 0
	broken := false
	for _, rule := range rules {
		if between && !rule.ByID {
			continue // an id is no address
		}
		bad, applies := rule.Applies(c)
		if !applies || bad == Broken && broken {
			continue
		}
		findings = append(findings, Finding{Rule: rule, Ref: ref, Anchor: None, State: bad, Was: c.Was})
		if bad != Advice { // which says nothing of where it lands
			state = max(state, bad)
		}
		broken = broken || bad == Broken
		if rule.Exact {
			break
		}
	}
	return findings, state
}

// States returns the states of a file's references, in their order. The slice is not to be changed.
func (r *Report) States(file int32) []State { return r.states[file] }

// Findings returns what is wrong with a file: with its references in their order, then with its anchors and as a
// whole.
func (r *Report) Findings(file int32) []Finding {
	all := r.findings[file]
	if f, lost := r.lost[file]; lost {
		return append(all[:len(all):len(all)], f)
	}
	return all
}

// Tally returns how many of a file's references have the state.
func (r *Report) Tally(file int32, s State) int { return int(r.tallies[file][s]) }

// reach notes what no way leads to, which any change anywhere may have changed.
func (r *Report) reach(s *site.Snapshot) {
	r.lost, r.lostAside = map[int32]Finding{}, map[int32]Finding{}
	for _, rule := range r.terms.asked(r.rules.folders) {
		for _, i := range rule.Folder(s) {
			to := r.lost
			if _, aside := r.terms.Aside[Mark{Page: s.Files[i].Path, Rule: rule.Name}]; aside {
				to = r.lostAside
			}
			to[i] = Finding{Rule: rule, Ref: None, Anchor: None, State: Advice}
		}
	}
}

// Of returns the findings of one reference.
func (r *Report) Of(file int32, ref int) []Finding {
	all := r.findings[file]
	from, _ := slices.BinarySearchFunc(all, uint32(ref), func(f Finding, n uint32) int {
		return int(int64(uint32(f.Ref)) - int64(n)) // findings about no reference come last
	})
	to := from
	for to < len(all) && all[to].Ref == int32(ref) {
		to++
	}
	return all[from:to]
}
