package audit

import (
	"strings"

	"arvel/core/address"
	"arvel/core/mailbox"
)

// malformedEmail: no mailbox in a mailto: link, or fields that a mail program would not read as meant.
var malformedEmail = &Rule{
	Name:  "malformed-email",
	Exact: true,
	Applies: func(c *Case) (State, bool) {
		return Broken, c.Target().Kind == address.Mail && len(mailbox.Parse(c.Value).Problems) > 0
	},
	Say: func(c *Case) (headline, sentence string) {
		problems := mailbox.Parse(c.Value).Problems
		return "A mail program would not read this as meant", capital(strings.Join(problems, ", and ")) + "."
	},
}

// capital makes the first letter of a sentence a capital, unless it begins with letters as written.
func capital(s string) string {
	if s == "" || s[0] < 'a' || s[0] > 'z' {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
