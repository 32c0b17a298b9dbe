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
	// Kind is a stable name: page-moved, links-copied, file-moved, file-deleted, folder-renamed, folder-missing, template, series, name,
	// fragment or habit.
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
	absent       KeyKind = "absent"   // a folder that is not there
	template     KeyKind = "template" // a value that is wrong on nearly every page, wherever it leads
	numbered     KeyKind = "series"   // paths that begin and end alike, with what is between left open
	fragments    KeyKind = "ids"      // a page on which several fragments are not
	copied       KeyKind = "copied"   // a folder from which links were copied
	kindAll      KeyKind = "kind"     // all causes of a kind
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
	if certainty < c.Key.Least() {
		return
	}
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
	if e.Finding.Ref < 0 {
		return Key{habit, e.Finding.Rule.Name, ""}
	}
	c := audit.NewCase(p.snapshot, e.File, int(e.Finding.Ref))
	known := len(e.Repairs) > 0 && e.Repairs[0].Certainty >= Likely
	if e.Finding.Rule.Name == "missing-file" {
		if w := p.evidence().written[c.Value]; w.paths > 1 && p.onNearlyAll(w.files) {
			return Key{template, c.Value, ""}
		}
	}
	if len(e.Repairs) > 0 && e.Repairs[0].cause != (Key{}) && (known || e.Repairs[0].cause.Kind != folderCalled) {
		return e.Repairs[0].cause
	}
	switch e.Finding.Rule.Name {
	case "missing-file":
		return p.keyOfMissing(c, known)
	case "missing-index":
		return Key{indexless, c.Target().Path, ""}
	case "case-mismatch", "unicode-form":
		if e.Finding.Place == nil {
			a, b := differingPart(c.Target().Path, c.Landed().Path)
			return Key{otherCase, a, b}
		}
	case "missing-fragment":
		if !known && p.manyFragments(c.Landed(), e.File) {
			return Key{fragments, c.Landed().Path, ""}
		}
		return Key{fragment, c.Landed().Path, c.Fragment()}
	}
	return Key{habit, e.Finding.Rule.Name, ""}
}

// keyOfMissing names the cause of a path at which nothing is; known is set if what is meant is known.
func (p *Planner) keyOfMissing(c *audit.Case, known bool) Key {
	wanted := cleaned(c.Target().Path)
	if d, gone := p.departed[wanted]; gone && d.To == "" {
		return Key{departed, wanted, ""}
	}
	if known {
		return Key{missing, wanted, ""}
	}
	if dir, _ := p.missingFolder(wanted); dir != "" {
		if m := p.evidence().folders[dir]; m != nil && (len(m.rests) >= fewest || m.files > few) {
			return Key{absent, dir, ""}
		}
	}
	if s := seriesOf(wanted); s != "" && p.evidence().series[s] >= enough {
		return Key{numbered, s, ""}
	}
	return Key{missing, wanted, ""}
}

// onNearlyAll reports whether so many files are nearly all pages of a folder that has more than a few.
func (p *Planner) onNearlyAll(files int) bool {
	p.pagesOnce.Do(func() {
		for i := range p.snapshot.Files {
			p.pageCount += boolean(p.snapshot.Files[i].IsPage())
		}
	})
	return files >= enough && files*10 >= p.pageCount*nearlyAll
}

// manyFragments reports whether several fragments of a page's own links are not on it, so that they are one cause.
func (p *Planner) manyFragments(page *site.File, from int32) bool {
	file, ok := p.snapshot.Find(page.Path)
	if !ok || file != from {
		return false
	}
	if known, ok := p.lacking.Load(file); ok {
		return known.(bool)
	}
	ids := map[string]bool{}
	for i, l := range p.snapshot.Links(file) {
		if l.Outcome == site.NoFragment && l.File == file {
			ids[page.Doc.References[i].Written] = true
		}
	}
	many := len(ids) >= enough
	p.lacking.Store(file, many)
	return many
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
		c.Evidence = "There is no folder " + phrase.Mono(rest) + "; the files that links look for in it are in " + phrase.Mono(other+"/") + "." + p.confirmed(c)
	case absent:
		c.Kind = "folder-missing"
		c.Message = fmt.Sprintf("%s is not in this folder: %s to %s in it", phrase.Mono(rest+"/"), times(n, "reference", "references"), times(p.wantedFiles(c), "file", "files"))
		c.Evidence = "Nothing is at " + phrase.Mono(rest+"/") + "." + p.confirmed(c)
		if m := p.evidence().folders[rest]; m != nil && m.became != "" {
			c.Evidence += fmt.Sprintf(" %d of the %d names that links look for in it are in %s.", m.agree, len(m.rests), place(m.became))
		}
	case template:
		c.Kind = "template"
		c.Message = phrase.Mono(rest) + " is written on " + p.allPages(c) + ", and is broken on all of them"
		c.Evidence = "It is written the same everywhere, as by a template, but where it leads depends on the page’s folder." + p.confirmed(c)
	case numbered:
		dir, _ := site.Cut(rest)
		names := p.wantedFiles(c)
		c.Kind = "series"
		c.Message = times(names, "file", "files") + " named like " + phrase.Mono(path.Base(audit.CaseOf(p.snapshot, first.Finding, first.File).Target().Path)) + " " + plural(names, "is", "are") + " not in " + place(dir)
		c.Evidence = p.sentence(first) + p.confirmed(c)
	case fragments:
		c.Kind = "fragment"
		c.Message = phrase.Mono(rest) + " links to " + times(n, "id", "ids") + " of its own that " + plural(n, "does", "do") + " not exist"
		c.Evidence = p.sentence(first) + p.confirmed(c)
	case copied:
		p.sayCopied(c, rest)
	case departed:
		c.Kind, c.Message = "file-deleted", phrase.Mono(rest)+" was deleted"
		c.Evidence = "It was there when the folder was last read, and nothing similar is there now; " + times(n, "reference leads", "references lead") + " there."
	case missing:
		c.Kind = "name"
		c.Message = phrase.Mono(rest) + " does not exist, but " + times(n, "reference leads", "references lead") + " to it"
		if t := target(first); t != "" && (first.Repairs[0].Certainty >= Likely || path.Dir(t) == path.Dir(rest)) {
			c.Message = phrase.Mono(rest) + " is written where " + phrase.Mono(t) + " exists"
			if site.Fold(path.Base(rest)) == site.Fold(path.Base(t)) {
				looked, name := site.Cut(rest)
				there, _ := site.Cut(t)
				c.Message = phrase.Mono(name) + " is not in " + place(looked) + ", but in " + place(there)
			}
		}
		c.Evidence = p.sentence(first) + p.confirmed(c)
	case indexless:
		c.Kind, c.Message = "name", "The folder "+phrase.Mono(rest+"/")+" has no index page"
		c.Evidence = "Visitors get an error there, or a bare list of files." + p.confirmed(c)
	case otherCase:
		c.Kind, c.Message = "name", phrase.Mono(path.Base(rest))+" is "+phrase.Mono(path.Base(other))+" on disk"
		c.Evidence = "The names differ in letter case or in how an accent is written, which counts on most hosts." + p.confirmed(c)
	case fragment:
		c.Kind = "fragment"
		c.Message = phrase.Mono("#"+other) + " is missing on " + phrase.Mono(rest) + ", though links lead to it"
		if len(first.Repairs) > 0 {
			if _, meant, ok := strings.Cut(first.Repairs[0].Written, "#"); ok && target(first) == rest {
				c.Message = phrase.Mono("#"+other) + " is missing on " + phrase.Mono(rest) + "; the id is " + phrase.Mono(meant)
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
	"missing-scheme": "Addresses of other sites and of e-mail have no scheme", "mistyped-scheme": "Schemes are mistyped",
	"backslash": "There are backslashes in place of slashes", "unencoded": "Characters that have to be encoded are not", "stray-space": "There is white space in addresses",
	"root-relative": "Paths begin with a slash where the folder is not at the root", "climbs-out": "Paths climb out of the folder",
	"disk-path": "Addresses are of one person’s disk", "malformed-email": "Mail programs would misread some e-mail links", "malformed-url": "Some addresses are not valid",
	"no-destination": "Links have no destination", "changed-place": "Some links lead to something else than before", "second-extension": "A second extension hides what files are", "own-address": "The folder’s own address is written out in full", "nothing-to-click": "Links have nothing to click on",
	"opener": "Other sites could change a page (`rel=noopener` is missing)", "missing-alt": "Pictures have no alternative text", "address-in-text": "The words of some links show another address",
	"duplicate-id": "Ids are on a page twice", "space-in-id": "Ids have spaces in them", "hash-in-id": "Ids begin with `#`", "file-name": "Names may not work everywhere",
	"empty-page": "Pages have nothing on them", "missing-title": "Pages have no title", "unreached": "Some pages can’t be reached from the home page",
	"no-way-home": "Some pages have no way back to the home page", "space-in-link-text": "The words of some links begin or end with a space",
	"dead-end": "Some pages have no link to another one", "unused-file": "Nothing links to some files",
}

// wantedFiles counts the files that the references of a cause are to.
func (p *Planner) wantedFiles(c *Cause) int {
	names := map[string]bool{}
	for _, e := range c.Findings {
		names[audit.CaseOf(p.snapshot, e.Finding, e.File).Target().Path] = true
	}
	return len(names)
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
			counted(inside, "of its own links no longer works", "of its own links no longer work", "")
	case o != nil:
		c.Kind, c.Message = "page-moved", phrase.Mono(page)+" seems to have been moved here from "+place(o.dir)
		c.Evidence = fmt.Sprintf("%d of its %d broken references work when read from there.", o.lands, o.of)
		if to > 0 {
			c.Evidence += " " + counted(to, "reference still leads", "references still lead", " to where it was then")
		}
	default:
		c.Kind, c.Message = "file-moved", phrase.Mono(page)+" seems to have been moved"
		c.Evidence = times(len(c.Findings), "reference leads", "references lead") + " to where it seems to have been."
	}
	c.Evidence = strings.TrimSpace(c.Evidence)
}

// sayCopied says of links that were copied from a page in the folder dir.
func (p *Planner) sayCopied(c *Cause, dir string) {
	pages, like := map[int32]bool{}, ""
	for _, e := range c.Findings {
		pages[e.File] = true
		if o := p.origins[e.File]; o != nil && like == "" {
			like = o.sibling
		}
	}
	c.Kind = "links-copied"
	c.Message = "The links on " + phrase.Mono(p.snapshot.Files[c.Findings[0].File].Path) + " were copied from a page in " + place(dir)
	if len(pages) > 1 {
		c.Message = fmt.Sprintf("The links on %s pages were copied from a page in %s", phrase.Thousands(len(pages)), place(dir))
	}
	c.Evidence = times(len(c.Findings), "reference", "references") + " " + plural(len(c.Findings), "lands", "land") + " when read from there, and " + phrase.Mono(like) + " has the same " + plural(len(c.Findings), "one", "ones") + "."
}

// allPages says on how many pages a cause is met with, and whether these are all.
func (p *Planner) allPages(c *Cause) string {
	files := map[int32]bool{}
	for _, e := range c.Findings {
		files[e.File] = true
	}
	if len(files) == p.pageCount {
		return "all " + phrase.Thousands(len(files)) + " pages"
	}
	return times(len(files), "page", "pages")
}

func plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
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
	return phrase.Thousands(n) + " " + many
}

// confirmed says on how many pages a cause is met with, and how often if that is more.
func (p *Planner) confirmed(c *Cause) string {
	if len(c.Findings) == 1 {
		return ""
	}
	files, noun, preposition := map[int32]bool{}, "page", "on"
	for _, e := range c.Findings {
		files[e.File] = true
		if !p.snapshot.Files[e.File].IsPage() {
			noun, preposition = "file", "in"
		}
	}
	where := preposition + " " + times(len(files), noun, noun+"s")
	if noun == "page" && len(files) > few && p.onNearlyAll(len(files)) && len(files) == p.pageCount {
		where = "on all " + phrase.Thousands(len(files)) + " pages"
	}
	if len(files) == len(c.Findings) {
		return " Found " + where + "."
	}
	return " Found " + times(len(c.Findings), "time", "times") + ", " + where + "."
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
