package audit

import (
	"strings"

	"arvel/core/site"
)

// missingIndex: a folder without an index page, where a visitor gets an error or a bare list of files.
var missingIndex = &Rule{
	Name:    "missing-index",
	Applies: func(c *Case) (State, bool) { return Broken, c.Link.Outcome == site.NoIndex },
	Say: func(c *Case) (headline, sentence string) {
		folder := Mono(c.Target().Path + "/")
		if c.Target().Path == "" {
			folder = "the top of the folder"
		}
		wanted := make([]string, len(c.Snapshot.IndexNames))
		for i, n := range c.Snapshot.IndexNames {
			wanted[i] = Mono(n)
		}
		headline = "No index page in " + folder
		return headline, "The folder is there, but it holds no " + strings.Join(wanted, " and no ") +
			", so a visitor gets an error or a bare list of files."
	},
}
