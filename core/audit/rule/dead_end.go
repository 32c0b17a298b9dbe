package rule

import (
	"arvel/core/audit"
	"arvel/core/site"
)

// deadEnd: a page from which no link leads to another one.
var deadEnd = &audit.Rule{
	Name:  "dead-end",
	State: audit.Advice,
	Page: func(c *audit.Case, found func(anchor int)) {
		if c.File.Kind != site.Page || c.File.Doc.Empty {
			return
		}
		self, _ := c.Snapshot.Find(c.File.Path)
		for _, l := range c.Snapshot.Links(self) {
			if l.Outcome == site.Elsewhere || l.File >= 0 && l.File != self && c.Snapshot.Files[l.File].Kind == site.Page {
				return
			}
		}
		found(audit.None)
	},
	Say: func(*audit.Case) (headline, sentence string) {
		return "This page has no link to another one", "Visitors can only go back from here: there is no link on, not even one home."
	},
}
