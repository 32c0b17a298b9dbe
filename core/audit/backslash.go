package audit

import (
	"strings"

	"arvel/core/address"
)

// backslash: read as a slash by browsers in web addresses, as part of a name by nearly everything else.
var backslash = &Rule{
	Name: "backslash",
	Applies: func(c *Case) (State, bool) {
		k := c.Target().Kind
		path, _, _ := address.Split(c.Value)
		return Fragile, (k == address.Inside || k == address.Beyond || k == address.Web) && strings.Contains(path, `\`)
	},
	Say: func(c *Case) (headline, sentence string) {
		return "A backslash stands where a slash belongs",
			"Browsers read " + Mono(`\`) + " as " + Mono("/") + "; other programs that follow links do not, and take it for part of the name."
	},
}
