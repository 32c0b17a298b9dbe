package audit

import (
	"strings"

	"arvel/core/letters"
	"arvel/core/site"
)

// missingFile: nothing stands at the path.
var missingFile = &Rule{
	Name:    "missing-file",
	Applies: func(c *Case) (State, bool) { return Broken, c.Link.Outcome == site.NoFile },
	Say: func(c *Case) (headline, sentence string) {
		path := c.Target().Path
		headline = "Nothing is at " + Mono(path)
		folder, missing, _ := c.Snapshot.Breaks(path)
		sentence = Mono(path) + " is not there: " + inFolder(folder) + " no " + Mono(missing) + "."
		if near := c.Snapshot.NamesIn(c.Snapshot.Folders[folder]).Near(missing, 2); len(near) > 0 {
			return headline, sentence + " " + sayNear(missing, near)
		}
		return headline, sentence + " Nothing there has a similar name."
	},
}

func inFolder(folder string) string {
	if folder == "" {
		return "the top of the folder has"
	}
	return Mono(folder+"/") + " has"
}

// sayNear says how the nearest names differ from the one that is missing.
func sayNear(missing string, near []string) string {
	first := strings.TrimSuffix(near[0], "/")
	if len(near) > 1 && letters.Distance(missing, strings.TrimSuffix(near[1], "/"), 3) <= letters.Distance(missing, first, 3) {
		return Mono(first) + " and " + Mono(strings.TrimSuffix(near[1], "/")) + " are near to it."
	}
	switch d := letters.Distance(missing, first, 3); {
	case strings.EqualFold(missing, first):
		return Mono(first) + " differs in letter case alone."
	case letters.Plain(missing) == letters.Plain(first):
		return Mono(first) + " differs in what stands between its words."
	case d == 1:
		return Mono(first) + " is one letter away."
	case d == 2:
		return Mono(first) + " is two letters away."
	}
	return Mono(first) + " is the nearest name there."
}

// Mono sets letters as they stand in a file apart from the words of a sentence.
func Mono(s string) string { return letters.Mono(s) }
