package audit

import (
	"strings"
	"unicode"

	"arvel/core/markup"
)

// noDestination: a link without href, with an empty one, or a bare "#" where nothing handles it. "#" is how a
// way back to the top is written, so a link whose words say so is left alone.
var noDestination = &Rule{
	Name:  "no-destination",
	Exact: true,
	Applies: func(c *Case) (State, bool) {
		if c.Ref.Flags&(markup.Handled|markup.Optional) != 0 || c.Ref.Role == markup.RoleForm {
			return Broken, false
		}
		switch strings.TrimSpace(c.Value) {
		case "":
			return Broken, true
		case "#":
			return Broken, c.Ref.Role == markup.RoleLink && !saysTop(c.Ref.Text)
		}
		return Broken, false
	},
	Say: func(c *Case) (headline, sentence string) {
		attribute := Mono(c.Ref.Attribute.String())
		switch {
		case c.Ref.Flags&markup.NoValue != 0:
			return "This link leads nowhere", "The element has no " + attribute + ", so a browser does not take it for a link at all."
		case c.Value == "#":
			return "This link leads nowhere", "A bare " + Mono("#") + " leads to the top of the page it stands on, and nothing handles a click on it."
		case c.Ref.Role == markup.RoleLink:
			return "This link leads nowhere", "Its " + attribute + " is empty, so it leads to the page it stands on."
		}
		return "Nothing is named here", "The " + attribute + " is empty, so there is nothing for a browser to load."
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
