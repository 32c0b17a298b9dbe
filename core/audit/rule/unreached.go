package rule

import (
	"arvel/core/audit"
	"arvel/core/site"
)

// unreached: a page that no chain of links leads to from the home page.
var unreached = &audit.Rule{
	Name:   "unreached",
	State:  audit.Advice,
	Folder: (*site.Snapshot).Unreached,
	Say: func(*audit.Case) (headline, sentence string) {
		return "This page can't be reached from the home page", "Visitors who follow links from the home page never get here."
	},
}
