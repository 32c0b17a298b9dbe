package audit

import (
	"strings"
)

// straySpace: white space around the address, or line ends in it, which browsers drop and others do not.
var straySpace = &Rule{
	Name: "stray-space",
	Applies: func(c *Case) (State, bool) {
		v := c.Value
		return Fragile, strings.TrimSpace(v) != "" && (v != strings.TrimSpace(v) || strings.ContainsAny(v, "\t\n\r"))
	},
	Say: func(c *Case) (headline, sentence string) {
		where := "around it"
		if strings.ContainsAny(strings.TrimSpace(c.Value), "\t\n\r") {
			where = "in it, over the end of a line"
		}
		return "There is white space in the address", Mono(strings.TrimSpace(c.Ref.Written)) + " has white space " + where +
			". Browsers drop it; other programs that follow links do not."
	},
}
