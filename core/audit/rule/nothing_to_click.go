package rule

import (
	"arvel/core/audit"
	"arvel/core/markup"
)

// nothingToClick: a link that leads somewhere, with neither text nor an image with alternative text.
var nothingToClick = &audit.Rule{
	Name: "nothing-to-click",
	Applies: func(c *audit.Case) (audit.State, bool) {
		return audit.Advice, c.Ref.Element == markup.A && c.Ref.Attribute == markup.AttrHref && c.Ref.Text == "" && c.Ref.Flags&(markup.NoValue|markup.Named) == 0
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "There is nothing to click on", "The link has no words, and no picture with an alternative text, so some visitors never find it."
	},
}
