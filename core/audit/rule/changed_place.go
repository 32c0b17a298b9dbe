package rule

import (
	"arvel/core/audit"
	"arvel/core/phrase"
	"arvel/core/site"
)

// changedPlace: it lands, but on another thing than it did when the folder was last read: two files changed places, another file
// came under the old name, or the page was moved to where its references land by chance.
var changedPlace = &audit.Rule{
	Name: "changed-place",
	Applies: func(c *audit.Case) (audit.State, bool) {
		return audit.Fragile, c.Was != "" && (c.Link.Outcome == site.Lands || c.Link.Outcome == site.NoFragment)
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "This leads to something else than before", phrase.Mono(c.Ref.Written) + " leads to " + phrase.Mono(c.Landed().Path) +
			", but the page that it led to when the folder was last read is now " + phrase.Mono(c.Was) + "."
	},
}
