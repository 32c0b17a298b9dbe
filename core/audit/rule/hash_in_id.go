package rule

import (
	"strings"

	"arvel/core/audit"
	"arvel/core/phrase"
)

// hashInID: an id that begins with the "#" that belongs into the link.
var hashInID = &audit.Rule{
	Name:  "hash-in-id",
	State: audit.Fragile,
	Page:  anchorsWhere(func(name string) bool { return strings.HasPrefix(name, "#") }),
	Say: func(c *audit.Case) (headline, sentence string) {
		return "The id begins with " + phrase.Mono("#"), "The " + phrase.Mono("#") + " belongs into the link, not into the id: a link to " + phrase.Mono(c.Anchor.Name) +
			" looks for " + phrase.Mono(strings.TrimPrefix(c.Anchor.Name, "#")) + " and never lands here."
	},
}
