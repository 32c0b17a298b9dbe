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
		if self, _ := c.Snapshot.Find(c.File.Path); !c.Snapshot.HasWayOn(self) {
			found(audit.None)
		}
	},
	Say: func(*audit.Case) (headline, sentence string) {
		return "This page has no link to another one", "Visitors can only go back from here: there is no link on, not even one home."
	},
}
