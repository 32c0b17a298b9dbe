package rule

import (
	"strings"

	"arvel/core/audit"
	"arvel/core/phrase"
)

// straySpace: white space around the address, or line ends in it, which browsers drop and others do not.
var straySpace = &audit.Rule{
	Name: "stray-space",
	Applies: func(c *audit.Case) (audit.State, bool) {
		v := c.Value
		return audit.Fragile, strings.TrimSpace(v) != "" && (v != strings.TrimSpace(v) || strings.ContainsAny(v, "\t\n\r"))
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		where := "around it"
		if strings.ContainsAny(strings.TrimSpace(c.Value), "\t\n\r") {
			where = "in it, over the end of a line"
		}
		return "There is white space in the address", phrase.Mono(strings.TrimSpace(c.Ref.Written)) + " has white space " + where +
			". Browsers leave it out; other programs that follow links don't."
	},
}
