package audit

import (
	"strings"
)

// spaceInID: an id with white space in it, which HTML does not allow and which links seldom get right.
var spaceInID = &Rule{
	Name:  "space-in-id",
	State: Fragile,
	Page: func(c *Case, found func(anchor int)) {
		for i := range c.File.Doc.Anchors {
			if a := &c.File.Doc.Anchors[i]; !a.Inert && strings.ContainsAny(a.Name, " \t\n\r\f") {
				found(i)
			}
		}
	},
	Say: func(c *Case) (headline, sentence string) {
		return "There is a space in the id " + Mono(c.Anchor.Name), "An id may not hold white space; not all browsers and programs find " + Mono(c.Anchor.Name) + "."
	},
}
