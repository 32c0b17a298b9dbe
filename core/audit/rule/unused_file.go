package rule

import (
	"arvel/core/audit"
	"arvel/core/site"
)

// unusedFile: a file that nothing refers to.
var unusedFile = &audit.Rule{
	Name:   "unused-file",
	State:  audit.Advice,
	Folder: (*site.Snapshot).Unused,
	Say: func(*audit.Case) (headline, sentence string) {
		return "Nothing links to this file", "No page, style sheet or picture in the folder uses it."
	},
}
