package audit

import (
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

	states   [][]State
	findings [][]Finding
	tallies  [][numStates]int32
	lost     map[int32]Finding // what no way leads to
}

// Judge judges every reference of a snapshot, on all cores.
func Judge(s *site.Snapshot) *Report {
	r := &Report{
		states: make([][]State, len(s.Files)), findings: make([][]Finding, len(s.Files)),
		tallies: make([][numStates]int32, len(s.Files)),
	}
	all := make([]int32, len(s.Files))
	for i := range all {
		all[i] = int32(i)
	}
	r.judge(s, all)
	return r
}

// Renew judges the touched pages of a snapshot again and takes over the rest of r, which judged the snapshot
// that s was renewed from. A touched of nil stands for all.
func (r *Report) Renew(s *site.Snapshot, touched []int32) *Report {
	if touched == nil {
		return Judge(s)
	}
	n := &Report{
		states: slices.Clone(r.states), findings: slices.Clone(r.findings), tallies: slices.Clone(r.tallies),
	}
	n.judge(s, touched)
	return n
}

func (r *Report) judge(s *site.Snapshot, files []int32) {
	workers := min(runtime.GOMAXPROCS(0), len(files))
	var next atomic.Int64
	var wait sync.WaitGroup
	for range workers {
		wait.Go(func() {
			resolver := address.NewResolver(s.Place)
			for {
				n := int(next.Add(1)) - 1
				if n >= len(files) {
					return
				}
				r.judgeFile(s, resolver, files[n])
			}
		})
	}
	wait.Wait()
	r.reach(s)
	r.Counts = Counts{Files: len(s.Files)}
	for i := range s.Files {
		if s.Files[i].Kind == site.Page {
			r.Counts.Pages++
		}
		for state, n := range r.tallies[i] {
			r.Counts.add(State(state), int(n))
		}
	}
}

func (r *Report) judgeFile(s *site.Snapshot, resolver *address.Resolver, file int32) {
	r.states[file], r.findings[file], r.tallies[file] = nil, nil, [numStates]int32{}
	if s.Files[file].Doc == nil {
		r.judgeWhole(caseOf(s, resolver, file), file)
		return
	}
	links := s.Links(file)
	c := caseOf(s, resolver, file)
	states := make([]State, len(links))
	for i, l := range links {
		if l.Outcome != site.Lands || l.Odd || advisable(&s.Files[file].Doc.References[i]) {
			c.turn(i, l)
			r.findings[file], states[i] = judgeCase(c, int32(i), r.findings[file])
		}
		r.tallies[file][states[i]]++
	}
	r.states[file] = states
	r.judgeWhole(c, file)
}

// judgeWhole asks the rules about a file as a whole. Their findings stand behind those of its references.
func (r *Report) judgeWhole(c *Case, file int32) {
	rules := ofPages
	if c.File.Doc == nil {
		rules = ofNames
	}
	for _, rule := range rules {
		rule.Page(c, func(anchor int) {
			r.findings[file] = append(r.findings[file], Finding{rule, none, int32(anchor), rule.State})
		})
	}
}

// advisable tells whether a rule of advice may have something to say of a reference that lands plainly.
func advisable(r *markup.Reference) bool {
	return r.Element == markup.A && r.Text == "" || r.Flags&(markup.NoAlt|markup.NewTab) != 0
}

// unjudged is the state of a reference that no rule has anything to say of, by what looking it up gave.
var unjudged = map[site.Outcome]State{
	site.Elsewhere: Unchecked, site.NotJudged: Inert,
}

// judgeCase asks the rules about a case, appends what they find to findings, and returns the case's state.
func judgeCase(c *Case, ref int32, findings []Finding) ([]Finding, State) {
	state := unjudged[c.Link.Outcome]
	if state == Inert {
		return findings, state
	}
	broken := false
	for _, rule := range ofReferences {
		bad, applies := rule.Applies(c)
		if !applies || bad == Broken && broken {
			continue
		}
		findings = append(findings, Finding{rule, ref, none, bad})
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

// JudgeCase judges a single case.
func JudgeCase(c *Case) ([]Finding, State) { return judgeCase(c, 0, nil) }

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
	r.lost = map[int32]Finding{}
	pages, files := reach(s)
	for _, i := range pages {
		r.lost[i] = Finding{unreached, none, none, Advice}
	}
	for _, i := range files {
		r.lost[i] = Finding{unusedFile, none, none, Advice}
	}
}

// Of returns the findings of one reference.
func (r *Report) Of(file int32, ref int) []Finding {
	all := r.findings[file]
	from, _ := slices.BinarySearchFunc(all, uint32(ref), func(f Finding, n uint32) int {
		return int(int64(uint32(f.Ref)) - int64(n)) // findings about no reference stand last
	})
	to := from
	for to < len(all) && all[to].Ref == int32(ref) {
		to++
	}
	return all[from:to]
}
