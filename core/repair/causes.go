package repair

import (
	"cmp"
	"fmt"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// Cause is what several findings have in common: one thing that happened, and that goes away with one decision.
type Cause struct {
	// Kind is a stable name: page-moved, links-copied, file-moved, file-deleted, folder-renamed, name, fragment or habit.
	Kind string
	// Message says what happened, Evidence why that is thought so; with letters as written in backticks.
	Message, Evidence string
	// Findings are all that it explains, page by page.
	Findings []Explained
	// Broken is how many of them are broken references.
	Broken int
	// Certainty is that of the least certain of the best repairs; "" where there are none.
	Certainty string
	// Repairable is how many of the findings have a repair at all, Certain how many have a certain one.
	Repairable, Certain int

	// Key names the cause across readings of the folder.
	Key Key
}

// Key names a cause by what it is about: paths and ids as they are, in fields of their own, whatever letters are in them.
// The zero Key is that of no cause.
type Key struct {
	Kind KeyKind
	// Subject is the file, folder, path or rule that it is about; Other what that is called instead, or the fragment.
	Subject, Other string
}

// KeyKind is what kind of thing a cause is about.
type KeyKind string

// The kinds.
const (
	moved        KeyKind = "moved"    // a file, by where it is now
	folderCalled KeyKind = "folder"   // a folder, by what it is called in references and in the folder
	departed     KeyKind = "gone"     // a file that was deleted
	missing      KeyKind = "name"     // a path at which nothing is
	indexless    KeyKind = "index"    // a folder without an index page
	otherCase    KeyKind = "case"     // a path, as it is written and as it is
	fragment     KeyKind = "fragment" // a page and a fragment that is not on it
	habit        KeyKind = "habit"    // a rule
)

// Explained is one finding of a cause, with its repairs, the best first.
type Explained struct {
	File    int32
	Finding audit.Finding
	Repairs []Repair
}

// Causes joins the findings of a report by what happened. Every finding belongs to just one cause. Those that explain
// most of what is broken come first.
func (p *Planner) Causes(r *audit.Report) []Cause {
	all := p.explain(r)
	byKey := map[Key]*Cause{}
	var order []*Cause
	for _, list := range all {
		for _, e := range list {
			key := p.keyOf(e)
			c := byKey[key]
			if c == nil {
				c = &Cause{Key: key}
				byKey[key] = c
				order = append(order, c)
			}
			c.add(e)
		}
	}
	out := make([]Cause, len(order))
	for i, c := range order {
		p.say(c)
		out[i] = *c
	}
	slices.SortStableFunc(out, func(a, b Cause) int {
		return cmp.Or(cmp.Compare(b.Broken, a.Broken), cmp.Compare(b.Worst(), a.Worst()), cmp.Compare(len(b.Findings), len(a.Findings)), cmp.Compare(a.Message, b.Message))
	})
	return out
}

func (c *Cause) add(e Explained) {
	c.Findings = append(c.Findings, e)
	if e.Finding.State == audit.Broken {
		c.Broken++
	}
	if len(e.Repairs) == 0 {
		return
	}
	certainty := e.Repairs[0].Certainty
	if c.Repairable == 0 || certaintyNames[certainty] != c.Certainty && certainty < parseCertainty(c.Certainty) {
		c.Certainty = certainty.String()
	}
	c.Repairable++
	c.Certain += boolean(certainty == Certain)
}

func parseCertainty(name string) Certainty {
	return Certainty(max(0, slices.Index(certaintyNames[:], name)))
}

// ParseCertainty returns the certainty of that name, and whether there is one.
func ParseCertainty(name string) (Certainty, bool) {
	return parseCertainty(name), slices.Contains(certaintyNames[:], name)
}

// Worst returns the worst state of the findings.
func (c *Cause) Worst() audit.State {
	worst := audit.Advice
	for _, e := range c.Findings {
		worst = max(worst, e.Finding.State)
	}
	return worst
}

// explain finds the repairs of all findings of a report, on all cores.
func (p *Planner) explain(r *audit.Report) [][]Explained {
	s := p.snapshot
	p.once.Do(p.findOrigins)
	all := make([][]Explained, len(s.Files))
	var next atomic.Int64
	var wait sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for {
				n := int(next.Add(1)) - 1
				if n >= len(all) {
					return
				}
				file := int32(n)
				for _, f := range r.Findings(file) {
					e := Explained{File: file, Finding: f}
					if f.Ref >= 0 && f.State >= audit.Fragile {
						e.Repairs = p.For(audit.NewCase(s, file, int(f.Ref)), []audit.Finding{f})
					}
					all[n] = append(all[n], e)
				}
			}
		})
	}
	wait.Wait()
	return all
}

// keyOf names the cause that a finding belongs to.
func (p *Planner) keyOf(e Explained) Key {
	if len(e.Repairs) > 0 && e.Repairs[0].cause != (Key{}) {
		return e.Repairs[0].cause
	}
	if e.Finding.Ref < 0 {
		return Key{habit, e.Finding.Rule.Name, ""}
	}
	c := audit.NewCase(p.snapshot, e.File, int(e.Finding.Ref))
	switch e.Finding.Rule.Name {
	case "missing-file":
		if d, gone := p.departed[c.Target().Path]; gone && d.To == "" {
			return Key{departed, c.Target().Path, ""}
		}
		return Key{missing, c.Target().Path, ""}
	case "missing-index":
		return Key{indexless, c.Target().Path, ""}
	case "case-mismatch", "unicode-form":
		if e.Finding.Place == nil {
			a, b := differingPart(c.Target().Path, c.Landed().Path)
			return Key{otherCase, a, b}
		}
	case "missing-fragment":
		return Key{fragment, c.Landed().Path, c.Fragment()}
	}
	return Key{habit, e.Finding.Rule.Name, ""}
}

// differingPart returns the first part in which two paths differ that are the same but for letter case, both ways.
func differingPart(written, real string) (a, b string) {
	x, y := strings.Split(written, "/"), strings.Split(real, "/")
	for i := range min(len(x), len(y)) {
		if x[i] != y[i] {
			return path.Join(append(y[:i:i], x[i])...), y[i]
		}
	}
	return written, real
}

// say finds the words for a cause.
func (p *Planner) say(c *Cause) {
	rest, other := c.Key.Subject, c.Key.Other
	n := len(c.Findings)
	first := c.Findings[0]
	switch c.Key.Kind {
	case moved:
		p.sayMoved(c, rest)
	case folderCalled:
		c.Kind = "folder-renamed"
		if p.renamed[rest] == other {
			c.Message = "The folder " + phrase.Mono(rest) + " is " + phrase.Mono(other) + " now"
			c.Evidence = "The record of the folder has its files under the old name; " + times(n, "reference still leads", "references still lead") + " there."
			return
		}
		c.Message = "The folder " + phrase.Mono(other) + " is written " + phrase.Mono(rest)
		c.Evidence = "There is no folder " + phrase.Mono(rest) + "; what is looked for in it is in " + phrase.Mono(other+"/") + "." + p.confirmed(c)
	case departed:
		c.Kind, c.Message = "file-deleted", phrase.Mono(rest)+" was deleted"
		c.Evidence = "It was there when the folder was last read, and nothing like it is there now; " + times(n, "reference leads", "references lead") + " there."
	case missing:
		c.Kind = "name"
		c.Message = phrase.Mono(rest) + " does not exist, but " + times(n, "reference leads", "references lead") + " to it"
		if t := target(first); t != "" {
			c.Message = "What is written " + phrase.Mono(rest) + " is " + phrase.Mono(t)
			if site.Fold(path.Base(rest)) == site.Fold(path.Base(t)) {
				looked, name := site.Cut(rest)
				there, _ := site.Cut(t)
				c.Message = phrase.Mono(name) + " is not in " + place(looked) + ", but in " + place(there)
			}
		}
		c.Evidence = p.sentence(first) + p.confirmed(c)
	case indexless:
		c.Kind, c.Message = "name", "The folder "+phrase.Mono(rest+"/")+" has no index page"
		c.Evidence = "Visitors of it get an error or a bare list of files." + p.confirmed(c)
	case otherCase:
		c.Kind, c.Message = "name", phrase.Mono(path.Base(rest))+" is "+phrase.Mono(path.Base(other))+" on disk"
		c.Evidence = "The names differ in letter case or in how an accent is made up, which counts on most hosts." + p.confirmed(c)
	case fragment:
		c.Kind = "fragment"
		c.Message = phrase.Mono("#"+other) + " is looked for on " + phrase.Mono(rest) + ", which has no such id"
		if len(first.Repairs) > 0 {
			if _, meant, ok := strings.Cut(first.Repairs[0].Written, "#"); ok && target(first) == rest {
				c.Message = phrase.Mono("#"+other) + " is looked for on " + phrase.Mono(rest) + "; the id is " + phrase.Mono(meant)
			}
		}
		c.Evidence = p.sentence(first) + p.confirmed(c)
	default:
		c.Kind = "habit"
		headline, why := first.Finding.Say(audit.CaseOf(p.snapshot, first.Finding, first.File))
		c.Message, c.Evidence = headline, why
		if n > 1 {
			c.Message = habits[rest]
			if c.Message == "" {
				c.Message = headline + ", and " + times(n-1, "more like it", "more like it")
			}
			c.Evidence = "For example: " + why + p.confirmed(c)
		}
	}
}

// habits are what one does again and again.
var habits = map[string]string{
	"missing-scheme": "Other sites’ and e-mail addresses are written without their scheme", "mistyped-scheme": "Schemes are mistyped",
	"backslash": "Backslashes are written for slashes", "unencoded": "Characters are not encoded that have to be", "stray-space": "There is white space in addresses",
	"root-relative": "Paths begin with a slash where the folder is not at the root", "climbs-out": "Paths climb out of the folder",
	"disk-path": "Addresses name one person’s disk", "malformed-email": "E-mail links would not be read as meant", "malformed-url": "No address can be made of what is written",
	"no-destination": "Links have no destination", "own-address": "The folder’s own address is written out in full", "nothing-to-click": "Links have nothing to click on",
	"opener": "New tabs are opened without `rel`", "missing-alt": "Pictures have no alternative text", "address-in-text": "Words show another address than the link leads to",
	"duplicate-id": "Ids are on a page twice", "space-in-id": "Ids have spaces in them", "hash-in-id": "Ids begin with `#`", "file-name": "Names may not work everywhere",
	"empty-page": "Pages have nothing on them", "missing-title": "Pages have no title", "unreached": "Some pages can’t be reached from the home page",
	"dead-end": "No way leads on from some pages", "unused-file": "Nothing refers to some files",
}

func (p *Planner) sayMoved(c *Cause, page string) {
	inside, to := 0, 0
	for _, e := range c.Findings {
		if p.snapshot.Files[e.File].Path == page {
			inside++
		} else {
			to++
		}
	}
	file, _ := p.snapshot.Find(page)
	o := p.origins[file]
	old := ""
	for _, d := range p.departures {
		if d.To == page && d.Copies == 1 {
			old = d.From
		}
	}
	switch {
	case old != "":
		c.Kind = "file-moved"
		if inside > 0 {
			c.Kind = "page-moved"
		}
		verb := "was moved here from"
		if path.Dir(old) == path.Dir(page) {
			verb = "was called"
		}
		c.Message = phrase.Mono(page) + " " + verb + " " + phrase.Mono(old)
		c.Evidence = "The record of the folder has it at " + phrase.Mono(old) + ". " + counted(to, "reference still leads", "references still lead", " to the old place") +
			counted(inside, "of its own is off", "of its own are off", "")
	case o != nil && o.sibling != "":
		c.Kind, c.Message = "links-copied", "The links on "+phrase.Mono(page)+" were copied from a page in "+place(o.dir)
		c.Evidence = fmt.Sprintf("%d of its %d failing references land when read from there, and %s has the same ones.", o.lands, o.of, phrase.Mono(o.sibling))
	case o != nil:
		c.Kind, c.Message = "page-moved", phrase.Mono(page)+" seems to have been moved here from "+place(o.dir)
		c.Evidence = fmt.Sprintf("%d of its %d failing references land when read from there.", o.lands, o.of)
		if to > 0 {
			c.Evidence += " " + counted(to, "reference still leads", "references still lead", " to where it stood then")
		}
	default:
		c.Kind, c.Message = "file-moved", phrase.Mono(page)+" seems to have been moved"
		c.Evidence = times(len(c.Findings), "reference leads", "references lead") + " to where it seems to have stood."
	}
	c.Evidence = strings.TrimSpace(c.Evidence)
}

func counted(n int, one, many, rest string) string {
	if n == 0 {
		return ""
	}
	return times(n, one, many) + rest + ". "
}

func times(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// confirmed says how often a cause is met with, and in how many files, if it is more than once.
func (p *Planner) confirmed(c *Cause) string {
	if len(c.Findings) == 1 {
		return ""
	}
	files, noun := map[int32]bool{}, "page"
	for _, e := range c.Findings {
		files[e.File] = true
		if !p.snapshot.Files[e.File].IsPage() {
			noun = "file"
		}
	}
	on := map[string]string{"page": " on ", "file": " in "}[noun]
	return fmt.Sprintf(" Found %d times,%s%s.", len(c.Findings), on, times(len(files), noun, noun+"s"))
}

func target(e Explained) string {
	if len(e.Repairs) == 0 {
		return ""
	}
	return e.Repairs[0].Target
}

// sentence says why the best repair is meant; where there is none, what the finding itself says of its letters.
func (p *Planner) sentence(e Explained) string {
	if len(e.Repairs) == 0 {
		_, why := e.Finding.Say(audit.CaseOf(p.snapshot, e.Finding, e.File))
		return why
	}
	why := e.Repairs[0].Why
	if why[0] >= 'a' && why[0] <= 'z' {
		why = strings.ToUpper(why[:1]) + why[1:]
	}
	return why + "."
}

// Pick is a repair that was chosen for a reference.
type Pick struct {
	File    int32
	Ref     int32
	Written string
}

// Set returns the change set that writes the picks. Of several for one reference the first counts. Letters that a page's
// encoding lacks give a *markup.EncodeError.
func (p *Planner) Set(title string, picks []Pick) (change.Set, error) {
	set := change.Set{Title: title}
	at := map[int32]int{}
	done := map[[2]int32]bool{}
	for _, k := range picks {
		if done[[2]int32{k.File, k.Ref}] {
			continue
		}
		done[[2]int32{k.File, k.Ref}] = true
		f := &p.snapshot.Files[k.File]
		edit, err := Edit(f.Doc.Encoding, &f.Doc.References[k.Ref], k.Written)
		if err != nil {
			return set, err
		}
		i, known := at[k.File]
		if !known {
			i = len(set.Files)
			at[k.File] = i
			set.Files = append(set.Files, change.File{Kind: change.Edited, Path: f.Path, Before: f.Hash})
		}
		set.Files[i].Edits = append(set.Files[i].Edits, edit)
	}
	return set, nil
}

// Best returns the best repair of each finding of the causes that is at least so certain, each reference once.
func Best(causes []Cause, least Certainty) []Pick {
	var out []Pick
	seen := map[[2]int32]bool{}
	for i := range causes {
		for _, e := range causes[i].Findings {
			at := [2]int32{e.File, e.Finding.Ref}
			if len(e.Repairs) > 0 && e.Repairs[0].Certainty >= least && e.Finding.State >= audit.Fragile && !seen[at] {
				seen[at] = true
				out = append(out, Pick{e.File, e.Finding.Ref, e.Repairs[0].Written})
			}
		}
	}
	return out
}

// Whole returns the repairs of a reference with all that was found of it, as [Planner.For] does for its findings.
func (p *Planner) Whole(r *audit.Report, file int32, ref int) []Repair {
	findings := r.Of(file, ref)
	if len(findings) == 0 || p.snapshot.Files[file].Doc.References[ref].Flags&markup.Inert != 0 {
		return nil
	}
	return p.For(audit.NewCase(p.snapshot, file, ref), findings)
}
