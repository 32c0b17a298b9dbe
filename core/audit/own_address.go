package audit

import (
	"arvel/core/markup"
)

// ownAddress: the folder's own published address written out in full, which never leads to the pages on the author's
// disk. Canonical links, cards for other sites and sitemaps have to be written so.
var ownAddress = &Rule{
	Name: "own-address",
	Applies: func(c *Case) (State, bool) {
		return Fragile, c.Target().Own && c.Landed() != nil && c.Ref.Flags&markup.Whole == 0
	},
	Say: func(c *Case) (headline, sentence string) {
		return "The folder's own address is written out in full", Mono(c.Ref.Written) + " leads to the published pages, not to these: what is tried on disk is not what was changed, and a move to another host breaks it. " +
			"A path from this page leads to the same thing from everywhere."
	},
}
