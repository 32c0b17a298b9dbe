package rule

import (
	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// ownAddress: the folder's own published address written out in full, which never leads to the pages on the author's
// disk. Canonical links, cards for other sites and sitemaps have to be written so.
var ownAddress = &audit.Rule{
	Name: "own-address",
	Applies: func(c *audit.Case) (audit.State, bool) {
		return audit.Fragile, c.Target().Own && c.Landed() != nil && c.Ref.Flags&markup.Whole == 0
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "The folder's own address is written out in full", phrase.Mono(c.Ref.Written) + " leads to the published pages, not to these: you try other pages than the ones you changed, and a move to another host breaks it. " +
			"A path from this page works everywhere."
	},
}
