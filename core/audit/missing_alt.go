package audit

import (
	"arvel/core/markup"
)

// missingAlt: an image without alt.
var missingAlt = &Rule{
	Name: "missing-alt",
	Applies: func(c *Case) (State, bool) {
		return Advice, c.Ref.Flags&markup.NoAlt != 0 && c.Ref.Attribute == markup.AttrSrc
	},
	Say: func(c *Case) (headline, sentence string) {
		return "The picture has no alternative text", "Who can't see the picture is told nothing of it. Say in " + Mono("alt") + " what it shows; for mere decoration write " + Mono(`alt=""`) + "."
	},
}
