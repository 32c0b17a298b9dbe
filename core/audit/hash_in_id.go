package audit

import (
	"strings"
)

// hashInID: an id that begins with the "#" that belongs into the link.
var hashInID = &Rule{
	Name:  "hash-in-id",
	State: Fragile,
	Page:  anchorsWhere(func(name string) bool { return strings.HasPrefix(name, "#") }),
	Say: func(c *Case) (headline, sentence string) {
		return "The id begins with " + Mono("#"), "The " + Mono("#") + " belongs into the link, not into the id: a link to " + Mono(c.Anchor.Name) +
			" looks for " + Mono(strings.TrimPrefix(c.Anchor.Name, "#")) + " and never lands here."
	},
}
