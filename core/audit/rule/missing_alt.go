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
		return "The picture has no alternative text", "Who can't see the picture is told nothing of it. Say in " + phrase.Mono("alt") + " what it shows; for mere decoration write " + phrase.Mono(`alt=""`) + "."
	},
}
