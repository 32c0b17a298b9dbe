package rule

import (
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/phrase"
)

// unencoded: characters that an address may not hold as they are. Browsers encode them on the way.
var unencoded = &audit.Rule{
	Name: "unencoded",
	Applies: func(c *audit.Case) (audit.State, bool) {
		switch c.Target().Kind {
		case address.Inside, address.Beyond, address.Web:
			return audit.Fragile, FirstUnencoded(c.Value) != ""
		}
		return audit.Fragile, false
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		bad := FirstUnencoded(c.Value)
		name := phrase.Mono(bad)
		if bad == " " {
			name = "a space"
		}
		return "A character in the address is not encoded", phrase.Mono(strings.TrimSpace(c.Ref.Written)) + " has " + name +
			" in it, which is written " + phrase.Mono(address.Escaped(bad[0])) + " in an address. Browsers accept it; other programs and some hosts don't."
	},
}

// FirstUnencoded returns the first character of value that has to be percent-encoded, or "".
func FirstUnencoded(value string) string {
	value = strings.TrimSpace(value)
	for i := 0; i < len(value); i++ {
		switch c := value[i]; c {
		case ' ', '"', '<', '>', '`', '{', '}', '|', '^':
			return value[i : i+1]
		case '%':
			if i+2 >= len(value) || address.Unescape(value[i:i+3]) == value[i:i+3] && !strings.EqualFold(value[i:i+3], "%2f") && value[i:i+3] != "%00" {
				return "%"
			}
		}
	}
	return ""
}
