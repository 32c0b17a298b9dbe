package audit

import (
	"arvel/core/address"
)

// malformedURL: no URL can be made of it.
var malformedURL = &Rule{
	Name:    "malformed-url",
	Exact:   true,
	Applies: func(c *Case) (State, bool) { return Broken, c.Target().Kind == address.Malformed },
	Say: func(c *Case) (headline, sentence string) {
		return "No address can be made of this",
			"A browser can make no address of " + Mono(c.Ref.Written) + ": its host or its port is not written as one can be."
	},
}
