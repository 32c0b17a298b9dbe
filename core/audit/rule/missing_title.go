package rule

import (
	"arvel/core/audit"
	"arvel/core/site"
)

// missingTitle: a page without a title, which tabs, bookmarks and search results show.
var missingTitle = &audit.Rule{
	Name:  "missing-title",
	State: audit.Advice,
	Page: func(c *audit.Case, found func(anchor int)) {
		if c.File.Kind == site.Page && c.File.Doc.Title == "" && !c.File.Doc.Empty && len(c.File.Doc.Faults) == 0 {
			found(audit.None)
		}
	},
	Say: func(*audit.Case) (headline, sentence string) {
		return "The page has no title", "Tabs, bookmarks and search results show the title; without one they show the address."
	},
}
