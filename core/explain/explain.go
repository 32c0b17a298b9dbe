package explain

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/distance"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// Tread is one step of the stair: a part of a reference as written, where it leads, and whether anything
// is there.
type Tread struct {
	address.Step
	Exists bool
	// Names are what is at the level where the stair breaks off, the nearest to the written name first;
	// empty for every other tread. The first Near of them are similar.
	Names []string
	Near  int
}

// namesShown is how many names are listed where the stair breaks off.
const namesShown = 12

// Stair returns the steps of the reference, each with whether it exists. After the first that does not, none does.
func Stair(c *audit.Case) []Tread {
	steps := c.Steps()
	treads := make([]Tread, len(steps))
	broken := false
	for i, st := range steps {
		treads[i] = Tread{Step: st, Exists: !broken && exists(c, st)}
		if !treads[i].Exists && !broken {
			broken = true
			treads[i].Names, treads[i].Near = nearby(c, st)
		}
	}
	return treads
}

func exists(c *audit.Case, st address.Step) bool {
	switch st.Kind {
	case address.Outside, address.Query:
		return true
	case address.Fragment:
		return c.Link.Outcome != site.NoFragment
	case address.Enter:
		return !st.Beyond && c.Snapshot.Folders[st.Path] != nil
	case address.Name:
		return !st.Beyond && c.Snapshot.Exists(st.Path)
	}
	return !st.Beyond
}

// nearby returns the names that are there where the step fails.
func nearby(c *audit.Case, st address.Step) (shown []string, near int) {
	var names []string
	wanted := address.Unescape(strings.TrimPrefix(st.Written, "#"))
	switch st.Kind {
	case address.Fragment:
		if page := c.Landed(); page != nil && c.Ref.Flags&markup.ByMap != 0 {
			names = page.Doc.Maps
			shown = distance.NewIndex(names).Near(wanted, namesShown)
		} else if page != nil {
			index := c.Snapshot.IDsOn(page.Doc)
			names, shown = index.Names(), index.Near(wanted, namesShown)
		}
	case address.Enter, address.Name:
		dir, _ := site.Cut(st.Path)
		if f := c.Snapshot.Folders[dir]; f != nil {
			names = f.Names
			for _, n := range c.Snapshot.NamesIn(f).Near(wanted, namesShown) {
				shown = append(shown, withSlash(f, n))
			}
		}
	}
	near = nearest(wanted, shown)
	// Where a folder is missing, the folders come before the files, and the other way round.
	for _, folders := range []bool{st.Kind == address.Enter, st.Kind != address.Enter} {
		for _, n := range names {
			if len(shown) < namesShown && strings.HasSuffix(n, "/") == folders && !slices.Contains(shown, n) {
				shown = append(shown, n)
			}
		}
	}
	return shown, near
}

// withSlash returns a name in a folder as the folder has it: with a slash, if it is a folder's.
func withSlash(f *site.Folder, name string) string {
	if _, is := slices.BinarySearch(f.Names, name); is {
		return name
	}
	return name + "/"
}

// nearest counts the names, which are sorted by how near they are, that are as near as the first.
func nearest(wanted string, names []string) int {
	if len(names) == 0 {
		return 0
	}
	far := len(wanted) + 8
	best := distance.Distance(wanted, strings.TrimSuffix(names[0], "/"), far)
	n := 1
	for n < len(names) && distance.Distance(wanted, strings.TrimSuffix(names[n], "/"), far) <= best {
		n++
	}
	return n
}

// Destination says in a line where the reference lands: verb ("lands on"), where (letters as on disk or in the
// address), and a note ("which is not there"), any of which may be empty.
func Destination(c *audit.Case) (verb, where, note string) {
	t := c.Target()
	switch c.Link.Outcome {
	case site.Lands, site.NoFragment:
		return landsOn(c, t)
	case site.NoFile:
		return "leads to", t.Path, "which does not exist"
	case site.NoIndex:
		return "leads to", t.Path + "/", "which has no index page"
	case site.OtherCase:
		return "leads to", t.Path, "which is " + c.Landed().Path + " on disk"
	case site.OtherForm:
		return "lands on", c.Landed().Path, "whose name is made of other characters"
	case site.NotKnown:
		return "leads to", t.Path, "which could not be read, so it was not checked"
	case site.OutOfFolder:
		return "leads to", t.Path, "which is outside of the folder"
	case site.Nowhere:
		switch t.Kind {
		case address.Malformed:
			return "leads nowhere", "", "it is not an address"
		case address.TooLong:
			return "leads nowhere", "", "it is too long for an address"
		}
		return "names", t.URL, "which is on one person's disk"
	case site.NotJudged:
		if c.Ref.Flags&markup.Inert != 0 {
			return "is in a template", "", "where nothing is followed"
		}
		return "runs or holds its own content", "", ""
	}
	return outside(c, t)
}

func landsOn(c *audit.Case, t *address.Target) (verb, where, note string) {
	switch {
	case c.Ref.Flags&markup.NoValue != 0:
		return "leads nowhere", "", "the link has no href"
	case c.Value == "":
		return "leads nowhere", "", "the address is empty"
	}
	where = c.Landed().Path
	if !t.HasFragment {
		if c.Landed().Doc != nil && c.Landed().Doc.Empty {
			return "lands on", where, "which is empty"
		}
		return "lands on", where, ""
	}
	fragment := c.Fragment()
	where += "#" + fragment
	if c.Link.Outcome == site.NoFragment {
		return "leads to", where, "nothing there has that id"
	}
	if fragment == "" || strings.EqualFold(fragment, "top") {
		return "lands on", where, "the top of the page"
	}
	return "lands on", where, ""
}

func outside(c *audit.Case, t *address.Target) (verb, where, note string) {
	switch t.Kind {
	case address.Mail:
		m := mailbox.Parse(c.Value)
		note = "in the visitor's mail program"
		if m.Subject != "" {
			note = fmt.Sprintf("with the subject “%s”", m.Subject)
		}
		return "writes to", strings.Join(m.To, ", "), note
	case address.Phone:
		return "calls", strings.TrimPrefix(t.URL, t.Scheme+":"), ""
	case address.Web, address.Inside: // the folder's host has more than the folder
		return "leads outside, to", t.URL, "not asked yet"
	}
	return "is handed to another program:", t.URL, ""
}

// Comparison sets a written name against the real one.
type Comparison struct {
	Written, Real string
	Runs          []distance.Run
}

// Compare sets what is written against what it would be if it landed on path, as the whole reference would
// then be written; nil where both are the same.
func Compare(c *audit.Case, real string) *Comparison {
	if real == c.Ref.Written || real == "" {
		return nil
	}
	return &Comparison{c.Ref.Written, real, distance.Align(c.Ref.Written, real)}
}

// Explain says why the reference is in its state: a headline, and a sentence for each finding; where there is
// none, that it lands, and on what.
func Explain(c *audit.Case, findings []audit.Finding) (headline string, sentences []string) {
	if len(findings) > 0 {
		worst := findings[0]
		for _, f := range findings[1:] {
			if f.State > worst.State {
				worst = f
			}
		}
		headline, _ = worst.Say(c.At(worst))
		for _, f := range findings {
			_, s := f.Say(c.At(f))
			sentences = append(sentences, s)
		}
		return headline, sentences
	}
	verb, where, note := Destination(c)
	headline = phrase.Capital(verb)
	if where != "" {
		headline += " " + phrase.Mono(where)
	}
	return headline, []string{soundSentence(c, note)}
}

func soundSentence(c *audit.Case, note string) string {
	f := c.Landed()
	switch {
	case f == nil:
		return phrase.Capital(note) + fullStop(note)
	case c.Ref.Flags&(markup.ByID|markup.ByMap) != 0:
		return "The element is on this page."
	case f.Doc != nil && f.Doc.Empty:
		return "The page is there, but it is empty."
	case f == c.File && c.Target().HasFragment:
		return "The link stays on this page."
	case f == c.File:
		return "The link leads to its own page."
	}
	what := "The " + f.Kind.String() + " is there"
	if f.Doc != nil && f.Doc.Title != "" {
		what = "The page “" + f.Doc.Title + "” is there"
	}
	if c.Target().Folder && f.Kind == site.Page {
		what += ", as the index page of its folder"
	}
	if c.Target().HasFragment && f.Doc != nil && c.Fragment() != "" {
		what += ", and so is the id"
	}
	return what + "."
}

func fullStop(s string) string {
	if s == "" {
		return ""
	}
	return "."
}

// Words prints the steps of the reference in words, a line each, as "arvel resolve" does.
func Words(c *audit.Case) []string {
	lines := []string{"from " + place(c.Start())}
	for _, t := range Stair(c) {
		line := fmt.Sprintf("%-16s %s", t.Written, words(c, t))
		if !t.Exists {
			line += ", which does not exist"
		}
		lines = append(lines, line)
		if len(t.Names) > 0 {
			lines = append(lines, "                 what is there: "+strings.Join(t.Names, "  "))
		}
	}
	return lines
}

func place(folder string) string {
	if folder == "" {
		return "the top of the folder"
	}
	return folder + "/"
}

func words(c *audit.Case, t Tread) string {
	switch t.Kind {
	case address.Stay:
		return "stays in " + place(t.Path)
	case address.Climb:
		if t.Beyond {
			return "climbs beyond the top of the folder"
		}
		return "climbs to " + place(t.Path)
	case address.ToTop:
		if t.Beyond {
			return "starts at the very top, above the folder"
		}
		return "starts at the top of the folder"
	case address.Enter:
		return "goes down into " + path.Base(t.Path) + "/"
	case address.Name:
		return "names " + t.Path
	case address.Query:
		return "is a query, which chooses no other file"
	case address.Fragment:
		return "looks for the id " + c.Fragment()
	}
	verb, where, note := Destination(c)
	return strings.TrimSpace(verb + " " + where + " " + note)
}
