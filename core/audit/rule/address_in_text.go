package rule

import (
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// addressInText: the words of a link are one address, and it leads to another.
var addressInText = &audit.Rule{
	Name: "address-in-text",
	Applies: func(c *audit.Case) (audit.State, bool) {
		shown, led := addressShown(c.Ref.Text), addressLed(c)
		return audit.Advice, c.Ref.Role == markup.RoleLink && shown != "" && led != "" && shown != led
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "The words show another address", "The link says " + phrase.Mono(c.Ref.Text) + ", but leads to " + phrase.Mono(addressLed(c)) + "."
	},
}

// addressShown returns the mailbox or host that a link's words are, in lower case, or "".
func addressShown(text string) string {
	text = strings.ToLower(strings.TrimSpace(text))
	if strings.ContainsAny(text, " \u00a0") || !strings.Contains(text, ".") {
		return ""
	}
	if mailbox.IsAddress(text) {
		return text
	}
	_, rest, hasScheme := strings.Cut(text, "://")
	if !hasScheme {
		rest = text
	}
	host, path, deeper := strings.Cut(rest, "/")
	if !isHost(host, deeper && path != "" || hasScheme) {
		return ""
	}
	return strings.TrimPrefix(host, "www.")
}

// addressLed returns the mailbox or host that the case leads to, in lower case, or "".
func addressLed(c *audit.Case) string {
	switch t := c.Target(); t.Kind {
	case address.Mail:
		if m := mailbox.Parse(c.Value); len(m.To) == 1 {
			return strings.ToLower(m.To[0])
		}
	case address.Web:
		return strings.TrimPrefix(address.Host(t.URL), "www.")
	}
	return ""
}
