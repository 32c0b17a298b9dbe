package rule

import (
	"fmt"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/phrase"
)

// tooLong: an address so long that it is not looked at any further. No disk has such a path, and most hosts refuse it.
var tooLong = &audit.Rule{
	Name:    "too-long",
	Exact:   true,
	Applies: func(c *audit.Case) (audit.State, bool) { return audit.Broken, c.Target().Kind == address.TooLong },
	Say: func(c *audit.Case) (headline, sentence string) {
		return "This address is too long", fmt.Sprintf("It has %d bytes, beginning with %s. Hosts accept about %d, in %d parts at most, so nobody gets there.",
			len(c.Value), phrase.Mono(address.Shortened(c.Value)), address.MaxLength, address.MaxParts)
	},
}
