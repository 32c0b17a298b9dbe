package rule

import (
	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// spaceInLinkText: the words of a link begin or end with a space.
var spaceInLinkText = &audit.Rule{
	Name: "space-in-link-text",
	Applies: func(c *audit.Case) (audit.State, bool) {
		return audit.Advice, c.Ref.Flags&(markup.Spaced|markup.NoValue) == markup.Spaced
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "There is a space at the edge of the link's words", "Browsers underline the space beside " + phrase.Mono(c.Ref.Text) + ", and it is clicked with the link. It belongs outside of the link."
	},
}
