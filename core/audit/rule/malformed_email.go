package rule

import (
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/mailbox"
	"arvel/core/phrase"
)

// malformedEmail: no mailbox in a mailto: link, or fields that a mail program would not read as meant.
var malformedEmail = &audit.Rule{
	Name:  "malformed-email",
	Exact: true,
	Applies: func(c *audit.Case) (audit.State, bool) {
		return audit.Broken, c.Target().Kind == address.Mail && len(mailbox.Parse(c.Value).Problems) > 0
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		problems := mailbox.Parse(c.Value).Problems
		return "Mail programs would misread this e-mail link", phrase.Capital(strings.Join(problems, ", and ")) + "."
	},
}
