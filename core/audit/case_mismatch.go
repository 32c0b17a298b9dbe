package audit

import (
	"arvel/core/site"
)

// caseMismatch: what is there differs in letter case alone. Broken where case counts, else fragile.
var caseMismatch = &Rule{
	Name: "case-mismatch",
	Applies: func(c *Case) (State, bool) {
		if c.Link.Outcome != site.OtherCase {
			return Sound, false
		}
		if c.Place.IgnoreCase {
			return Fragile, true
		}
		return Broken, true
	},
	Say: func(c *Case) (headline, sentence string) {
		real := c.Landed().Path
		return "Letter case differs from " + Mono(real),
			Mono(c.Target().Path) + " is written; the name on disk is " + Mono(real) +
				". Most web servers tell capital from small letters, even where your own disk does not."
	},
}
