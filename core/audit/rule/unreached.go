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
		return "No way leads here from the home page", "Following links from the home page, a visitor never comes to this page."
	},
}
