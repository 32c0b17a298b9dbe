package rule

import (
	"arvel/core/audit"
	"arvel/core/phrase"
	"arvel/core/site"
)

// unicodeForm: what is there looks the same but is made of other characters: a letter and its accent as one
// character or as two.
var unicodeForm = &audit.Rule{
	Name:    "unicode-form",
	Applies: func(c *audit.Case) (audit.State, bool) { return audit.Fragile, c.Link.Outcome == site.OtherForm },
	Say: func(c *audit.Case) (headline, sentence string) {
		return "Same letters, other characters",
			phrase.Mono(c.Landed().Path) + " looks the same, but an accented letter in it is made of other characters than in the reference. " +
				"Some disks find it anyway; most web servers don't."
	},
}
