package audit

import (
	"arvel/core/address"
	"arvel/core/markup"
)

// opener: opens a new tab that gets a hold of this page.
var opener = &Rule{
	Name: "opener",
	Applies: func(c *Case) (State, bool) {
		return Advice, c.Ref.Role == markup.RoleLink && c.Ref.Flags&(markup.NewTab|markup.Guarded) == markup.NewTab && c.Target().Kind == address.Web
	},
	Say: func(c *Case) (headline, sentence string) {
		return "The new tab gets a hold of this page", "The link opens a new tab without " + Mono(`rel="noopener"`) + ", so in older browsers the other site can send this page elsewhere."
	},
}
