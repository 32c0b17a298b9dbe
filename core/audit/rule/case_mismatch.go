package rule

import (
	"arvel/core/audit"
	"arvel/core/phrase"
	"arvel/core/site"
)

// caseMismatch: what is there differs in letter case alone. Broken where case counts, else fragile.
var caseMismatch = &audit.Rule{
	Name: "case-mismatch",
	Applies: func(c *audit.Case) (audit.State, bool) {
		if c.Link.Outcome != site.OtherCase {
			return audit.Sound, false
		}
		if c.Place.IgnoreCase {
			return audit.Fragile, true
		}
		return audit.Broken, true
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		real := c.Landed().Path
		return "Letter case differs from " + phrase.Mono(real),
			phrase.Mono(c.Target().Path) + " is written; the name on disk is " + phrase.Mono(real) +
				". Letter case counts on most web servers, even where it doesn't on your own disk."
	},
}
