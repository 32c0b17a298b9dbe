package audit

import (
	"arvel/core/site"
)

// emptyPage: a page with nothing on it.
var emptyPage = &Rule{
	Name:  "empty-page",
	State: Advice,
	Page: func(c *Case, found func(anchor int)) {
		if c.File.Kind == site.Page && c.File.Doc.Empty {
			found(none)
		}
	},
	Say: func(*Case) (headline, sentence string) {
		return "There is nothing on this page", "A visitor who comes here sees an empty window."
	},
}
