package rule

import (
	"strings"

	"arvel/core/audit"
	"arvel/core/phrase"
	"arvel/core/site"
)

// missingIndex: a folder without an index page, where a visitor gets an error or a bare list of files.
var missingIndex = &audit.Rule{
	Name:    "missing-index",
	Applies: func(c *audit.Case) (audit.State, bool) { return audit.Broken, c.Link.Outcome == site.NoIndex },
	Say: func(c *audit.Case) (headline, sentence string) {
		folder := phrase.Mono(c.Target().Path + "/")
		if c.Target().Path == "" {
			folder = "the top of the folder"
		}
		wanted := make([]string, len(c.Snapshot.IndexNames))
		for i, n := range c.Snapshot.IndexNames {
			wanted[i] = phrase.Mono(n)
		}
		headline = "No index page in " + folder
		return headline, "The folder is there, but it holds no " + strings.Join(wanted, " and no ") +
			", so a visitor gets an error or a bare list of files."
	},
}
