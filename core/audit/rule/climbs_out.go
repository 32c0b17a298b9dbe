package rule

import (
	"arvel/core/audit"
	"arvel/core/phrase"
	"arvel/core/site"
)

// climbsOut: ".." beyond the top of the folder. At the root of a host a browser stays at the top, anywhere
// else it leaves the folder.
var climbsOut = &audit.Rule{
	Name: "climbs-out",
	Applies: func(c *audit.Case) (audit.State, bool) {
		return audit.Fragile, c.Target().Climbed > 0 && c.Link.Outcome != site.NoFile || c.Link.Outcome == site.OutOfFolder
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		if c.Target().Climbed == 0 {
			return "This leads out of the folder",
				phrase.Mono(c.Target().Path) + " is outside of the folder, so it is not published with it."
		}
		return "This climbs out of the folder",
			"There is one " + phrase.Mono("../") + " too many. At the root of a site a browser stays at the top; from disk, or below the root, it leaves the folder."
	},
}
