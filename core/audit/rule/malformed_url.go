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
		return "This is not an address",
			"A browser can't read " + phrase.Mono(c.Ref.Written) + " as an address: its host or its port is not valid."
	},
}
