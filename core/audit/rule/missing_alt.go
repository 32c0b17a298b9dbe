package rule

import (
	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// missingAlt: an image without alt.
var missingAlt = &audit.Rule{
	Name: "missing-alt",
	Applies: func(c *audit.Case) (audit.State, bool) {
		return audit.Advice, c.Ref.Flags&markup.NoAlt != 0 && c.Ref.Attribute == markup.AttrSrc
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "The picture has no alternative text", "Visitors who can't see the picture get no description. Say in " + phrase.Mono("alt") + " what it shows; if it is only decoration, write " + phrase.Mono(`alt=""`) + "."
	},
}
