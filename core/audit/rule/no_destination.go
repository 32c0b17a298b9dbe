package rule

import (
	"strings"
	"unicode"

	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// noDestination: a link without href, with an empty one, or a bare "#" where nothing handles it. "#" is how a
// way back to the top is written, so a link whose words say so is left alone.
var noDestination = &audit.Rule{
	Name:  "no-destination",
	Exact: true,
	Applies: func(c *audit.Case) (audit.State, bool) {
		if c.Ref.Flags&(markup.Handled|markup.Optional) != 0 || c.Ref.Role == markup.RoleForm {
			return audit.Broken, false
		}
		switch strings.TrimSpace(c.Value) {
		case "":
			return audit.Broken, true
		case "#":
			return audit.Broken, c.Ref.Role == markup.RoleLink && !saysTop(c.Ref.Text)
		}
		return audit.Broken, false
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		attribute := phrase.Mono(c.Ref.Attribute.String())
		switch {
		case c.Ref.Flags&markup.NoValue != 0:
			return "This link leads nowhere", "The element has no " + attribute + ", so a browser does not take it for a link at all."
		case c.Value == "#":
			return "This link leads nowhere", "A bare " + phrase.Mono("#") + " leads to the top of its own page, and no script handles a click on it."
		case c.Ref.Role == markup.RoleLink:
			return "This link leads nowhere", "Its " + attribute + " is empty, so it leads to its own page."
		}
		return "The address is empty", "The " + attribute + " is empty, so there is nothing for a browser to load."
	},
}

func saysTop(text string) bool {
	for word := range strings.FieldsFuncSeq(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) }) {
		if word == "top" || word == "up" {
			return true
		}
	}
	return strings.ContainsAny(text, "↑⇑▲△⬆^")
}
