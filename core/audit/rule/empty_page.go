package rule

import (
	"arvel/core/audit"
	"arvel/core/site"
)

// emptyPage: a page with nothing on it.
var emptyPage = &audit.Rule{
	Name:  "empty-page",
	State: audit.Advice,
	Page: func(c *audit.Case, found func(anchor int)) {
		if c.File.Kind == site.Page && c.File.Doc.Empty {
			found(audit.None)
		}
	},
	Say: func(*audit.Case) (headline, sentence string) {
		return "This page is empty", "Visitors see an empty window here."
	},
}
