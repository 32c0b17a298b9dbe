package rule

import (
	"arvel/core/audit"
	"arvel/core/site"
)

// noWayHome: a page from which no chain of links leads back to the home page, though it has links.
var noWayHome = &audit.Rule{
	Name:   "no-way-home",
	State:  audit.Advice,
	Folder: (*site.Snapshot).NoWayHome,
	Say: func(*audit.Case) (headline, sentence string) {
		return "No link leads back to the home page from here", "The links of this page lead to other sites, or to pages that don't lead home either."
	},
}
