package rule

import (
	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// opener: opens a new tab that gets a hold of this page.
var opener = &audit.Rule{
	Name: "opener",
	Applies: func(c *audit.Case) (audit.State, bool) {
		return audit.Advice, c.Ref.Role == markup.RoleLink && c.Ref.Flags&(markup.NewTab|markup.Guarded) == markup.NewTab && c.Target().Kind == address.Web
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "The other site could change this page", "The link opens a new tab without " + phrase.Mono(`rel="noopener"`) + ", so in older browsers the other site can send this page elsewhere."
	},
}
