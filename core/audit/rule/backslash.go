package rule

import (
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/phrase"
)

// backslash: read as a slash by browsers in web addresses, as part of a name by nearly everything else.
var backslash = &audit.Rule{
	Name: "backslash",
	Applies: func(c *audit.Case) (audit.State, bool) {
		k := c.Target().Kind
		path, _, _ := address.Split(c.Value)
		return audit.Fragile, (k == address.Inside || k == address.Beyond || k == address.Web) && strings.Contains(path, `\`)
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "There is a backslash in place of a slash",
			"Browsers read " + phrase.Mono(`\`) + " as " + phrase.Mono("/") + "; other programs that follow links take it for part of the name."
	},
}
