package rule

import (
	"arvel/core/audit"
	"arvel/core/phrase"
)

// duplicateID: an id that is on the page more than once; a fragment lands on the first.
var duplicateID = &audit.Rule{
	Name: "duplicate-id",
	Page: func(c *audit.Case, found func(anchor int)) {
		if len(c.File.Doc.Anchors) < 2 {
			return
		}
		for i := range c.File.Doc.Anchors {
			a := &c.File.Doc.Anchors[i]
			if first := c.File.Doc.Anchor(a.Name); first != nil && first != a && !a.ByName && !first.ByName && !a.Inert {
				found(i)
			}
		}
	},
	State: audit.Fragile,
	Say: func(c *audit.Case) (headline, sentence string) {
		return "The id " + phrase.Mono(c.Anchor.Name) + " is on this page twice", "A link to " + phrase.Mono("#"+c.Anchor.Name) +
			" lands on the first element with that id, never on this one."
	},
}
