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
		if c.Ref.Role != markup.RoleLink || shown == "" || led == "" {
			return audit.Advice, false
		}
		return audit.Advice, shown != led || otherPath(c)
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "The words show another address", "The link says " + phrase.Mono(c.Ref.Text) + ", but leads to " + phrase.Mono(ledTo(c)) + "."
	},
}

// otherPath reports whether the words of a link that leads to the host they name have another path in them.
func otherPath(c *audit.Case) bool {
	shown, ok := ShownAddress(c)
	if !ok || c.Target().Kind != address.Web {
		return false
	}
	plain := func(u string) string {
		_, rest, _ := strings.Cut(u, "://")
		rest, _, _ = strings.Cut(rest, "#")
		host, path, _ := strings.Cut(rest, "/")
		return strings.ToLower(strings.TrimPrefix(host, "www.")) + "/" + address.Unescape(strings.TrimSuffix(path, "/"))
	}
	words := plain(shown)
	_, path, _ := strings.Cut(words, "/")
	return path != "" && words != plain(c.Target().URL)
}

// ShownAddress returns the address that the words of a link are, with the scheme of the link's own where they have none; false if
// they are none.
func ShownAddress(c *audit.Case) (string, bool) {
	words := strings.TrimSpace(c.Ref.Text)
	switch {
	case addressShown(words) == "":
		return "", false
	case mailbox.IsAddress(words):
		return "mailto:" + words, true
	case strings.Contains(words, "://"):
		return words, true
	}
	scheme := "https"
	if t := c.Target(); t.Kind == address.Web && t.Scheme != "" {
		scheme = t.Scheme
	}
	return scheme + "://" + words, true
}

func ledTo(c *audit.Case) string {
	if otherPath(c) {
		return c.Target().URL
	}
	return addressLed(c)
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
