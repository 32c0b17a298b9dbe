package rule

import (
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/phrase"
)

// rootRelative: a leading slash, at a place that is not the root of its host.
var rootRelative = &audit.Rule{
	Name:  "root-relative",
	Exact: true,
	Applies: func(c *audit.Case) (audit.State, bool) {
		if c.Place.Kind == address.Root || !strings.HasPrefix(strings.ReplaceAll(c.Value, `\`, "/"), "/") {
			return audit.Fragile, false
		}
		return audit.Fragile, c.Target().Kind == address.Beyond
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		where := "the top of the disk"
		if c.Place.Kind == address.Below {
			where = "the top of the host, above the folder"
		}
		return "The leading slash leaves the folder", phrase.Mono(c.Ref.Written) + " starts at " + where + ", since the folder is " +
			c.Place.Phrase() + ". It works only where the folder is the root of a site."
	},
}
