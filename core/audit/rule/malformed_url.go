package rule

import (
	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/phrase"
)

// malformedURL: no URL can be made of it.
var malformedURL = &audit.Rule{
	Name:    "malformed-url",
	Exact:   true,
	Applies: func(c *audit.Case) (audit.State, bool) { return audit.Broken, c.Target().Kind == address.Malformed },
	Say: func(c *audit.Case) (headline, sentence string) {
		return "No address can be made of this",
			"A browser can make no address of " + phrase.Mono(c.Ref.Written) + ": its host or its port is not written as one can be."
	},
}
