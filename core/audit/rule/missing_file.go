package rule

import (
	"strings"

	"arvel/core/audit"
	"arvel/core/distance"
	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/site"
)

// missingFile: nothing is at the path.
var missingFile = &audit.Rule{
	Name:    "missing-file",
	Applies: func(c *audit.Case) (audit.State, bool) { return audit.Broken, c.Link.Outcome == site.NoFile },
	Say: func(c *audit.Case) (headline, sentence string) {
		if headline, sentence = ForOther(c.Snapshot, c.Value); headline != "" {
			return headline, sentence
		}
		path := c.Target().Path
		headline = "Nothing is at " + phrase.Mono(path)
		folder, missing, _ := c.Snapshot.FirstMissing(path)
		if hidden := naming.Hidden(c.Snapshot, path); hidden != "" {
			_, name := site.Cut(hidden)
			return headline, phrase.Mono(name) + " exists: its second extension hides that it is this file. Systems that hide extensions add one when a file is saved."
		}
		sentence = phrase.Mono(path) + " does not exist: there is no " + phrase.Mono(missing) + " " + inFolder(folder) + "."
		if near := c.Snapshot.NamesIn(c.Snapshot.Folders[folder]).Near(missing, 2); len(near) > 0 {
			return headline, sentence + " " + sayNear(missing, near)
		}
		return headline, sentence + " Nothing there has a similar name."
	},
}

func inFolder(folder string) string {
	if folder == "" {
		return "at the top of the folder"
	}
	return "in " + phrase.Mono(folder+"/")
}

// sayNear says how the nearest names differ from the one that is missing.
func sayNear(missing string, near []string) string {
	first := strings.TrimSuffix(near[0], "/")
	if len(near) > 1 && distance.Distance(missing, strings.TrimSuffix(near[1], "/"), 3) <= distance.Distance(missing, first, 3) {
		return phrase.Mono(first) + " and " + phrase.Mono(strings.TrimSuffix(near[1], "/")) + " are similar."
	}
	switch d := distance.Distance(missing, first, 3); {
	case strings.EqualFold(missing, first):
		return phrase.Mono(first) + " differs only in letter case."
	case distance.Plain(missing) == distance.Plain(first):
		return phrase.Mono(first) + " differs only between its words."
	case d == 1:
		return phrase.Mono(first) + " is one letter away."
	case d == 2:
		return phrase.Mono(first) + " is two letters away."
	}
	return phrase.Mono(first) + " is the most similar name there."
}
