package rule

import (
	"strings"

	"arvel/core/audit"
	"arvel/core/phrase"
)

// spaceInID: an id with white space in it, which HTML does not allow and which links seldom get right.
var spaceInID = &audit.Rule{
	Name:  "space-in-id",
	State: audit.Fragile,
	Page:  anchorsWhere(func(name string) bool { return strings.ContainsAny(name, " \t\n\r\f") }),
	Say: func(c *audit.Case) (headline, sentence string) {
		return "There is a space in the id " + phrase.Mono(c.Anchor.Name), "An id may not hold white space; not all browsers and programs find " + phrase.Mono(c.Anchor.Name) + "."
	},
}

// anchorsWhere returns what finds the anchors of a page whose name passes the test.
func anchorsWhere(test func(name string) bool) func(*audit.Case, func(anchor int)) {
	return func(c *audit.Case, found func(anchor int)) {
		for i := range c.File.Doc.Anchors {
			if a := &c.File.Doc.Anchors[i]; !a.Inert && test(a.Name) {
				found(i)
			}
		}
	}
}
