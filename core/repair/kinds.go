package repair

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"arvel/core/audit"
	"arvel/core/phrase"
)

// kindWords say what all causes of a kind are, after "of them" or a number; kinds that are not in it are decided one by one.
var kindWords = map[KeyKind]string{
	moved: "what was moved", folderCalled: "folders with another name", missing: "names", otherCase: "letter case", fragment: "fragments",
	copied: "links that were copied", numbered: "series", absent: "folders that are not here",
}

// KindOf returns the key of all causes of the same kind that are as certain, for one decision about all of them; the zero Key if
// there is no other.
func KindOf(c *Cause, causes []Cause) Key {
	if kindWords[c.Key.Kind] == "" {
		return Key{}
	}
	n := 0
	for i := range causes {
		n += boolean(causes[i].Key.Kind == c.Key.Kind && causes[i].Certainty == c.Certainty)
	}
	if n < 2 {
		return Key{}
	}
	return Key{kindAll, string(c.Key.Kind), c.Certainty}
}

// OfKind returns all causes of a kind as one, by the key that [KindOf] gave; nil if there are none any more.
func OfKind(key Key, causes []Cause) *Cause {
	out := Cause{Key: key, Kind: "kind", Certainty: key.Other}
	n := 0
	for i := range causes {
		c := &causes[i]
		if string(c.Key.Kind) != key.Subject || c.Certainty != key.Other {
			continue
		}
		n++
		out.Findings = append(out.Findings, c.Findings...)
		out.Broken += c.Broken
		out.Repairable += c.Repairable
		out.Certain += c.Certain
	}
	if key.Kind != kindAll || n == 0 {
		return nil
	}
	out.Message = KindTitle(key, n)
	out.Evidence = "They have " + phrase.Thousands(n) + " causes, decided together. One undo takes all of it back."
	return &out
}

// KindTitle says what n causes are that the key names.
func KindTitle(key Key, n int) string {
	words := kindWords[KeyKind(key.Subject)]
	if key.Other == "" {
		return fmt.Sprintf("All %s without a repair: %s", phrase.Thousands(n), words)
	}
	return fmt.Sprintf("All %s %s ones: %s", phrase.Thousands(n), key.Other, words)
}

// Count returns how many causes a key of a kind names.
func (k Key) Count(causes []Cause) (n int) {
	for i := range causes {
		n += boolean(k.Kind == kindAll && string(causes[i].Key.Kind) == k.Subject && causes[i].Certainty == k.Other)
	}
	return n
}

// Into returns a cause of a folder that is not there with the repairs that lead into another one, as its author chose it: of those
// references that are to what is there. Nil if the cause is another one, or there is no such folder.
func (p *Planner) Into(c *Cause, folder string) *Cause {
	if c.Key.Kind != absent || folder == "" || p.snapshot.Folders[folder] == nil {
		return nil
	}
	out := *c
	out.Key.Other = folder
	out.Findings = slices.Clone(c.Findings)
	out.Repairable, out.Certain, out.Certainty = 0, 0, Likely.String()
	for i := range out.Findings {
		e := &out.Findings[i]
		e.Repairs = nil
		at := audit.CaseOf(p.snapshot, e.Finding, e.File)
		_, rest := p.missingFolder(cleaned(at.Target().Path))
		target := p.within(folder, rest)
		if target == "" {
			continue
		}
		written := Written(at.File.Doc.Encoding, at.Ref, p.write(at, target))
		e.Repairs = []Repair{{Written: written, Certainty: Likely, Why: "it is in the folder that you chose", Target: target}}
		out.Repairable++
	}
	out.Message = phrase.Mono(c.Key.Subject+"/") + ", read as " + phrase.Mono(folder+"/")
	out.Evidence = fmt.Sprintf("%s of the %s lead to what is in %s.", phrase.Thousands(out.Repairable), times(len(out.Findings), "reference", "references"), phrase.Mono(folder+"/"))
	return &out
}

// within returns the file in a folder at a path, or at as much of its end as is there; "" if there is none.
func (p *Planner) within(folder, rest string) string {
	for more := true; more; _, rest, more = strings.Cut(rest, "/") {
		if target := path.Join(folder, rest); rest != "" {
			if _, there := p.snapshot.Find(target); there {
				return target
			}
		}
	}
	return ""
}

// MissingFolder returns the folder that is not there, if that is the cause; else "".
func (c *Cause) MissingFolder() string {
	if c.Key.Kind == absent {
		return c.Key.Subject
	}
	return ""
}

// Holding returns the folders that have some of what is looked for in the folder that is not there, those that have most first.
func (p *Planner) Holding(c *Cause) []string {
	if m := p.evidence().folders[c.MissingFolder()]; m != nil {
		return slices.DeleteFunc(slices.Clone(m.holds), func(dir string) bool { return dir == "" })
	}
	return nil
}

// Least returns how certain a repair is at least that is written for the cause as a whole: all that it has, and of several causes at
// once none that is merely possible.
func (k Key) Least() Certainty {
	switch k.Kind {
	case kindAll:
		return max(parseCertainty(k.Other), Likely)
	case absent, template, numbered, fragments:
		return Likely // many different things, which are not looked at one by one
	}
	return Possible
}
