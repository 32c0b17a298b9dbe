package rule

import (
	"strings"

	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// missingFragment: the page exists, the fragment is on no element.
var missingFragment = &audit.Rule{
	Name:    "missing-fragment",
	ByID:    true,
	Applies: func(c *audit.Case) (audit.State, bool) { return audit.Broken, c.Link.Outcome == site.NoFragment },
	Say: func(c *audit.Case) (headline, sentence string) {
		wanted, page := c.Fragment(), c.Landed()
		if c.Ref.Flags&markup.ByMap != 0 {
			return "No map has the name " + phrase.Mono(wanted), phrase.Mono(c.Ref.Written) + " names a map of the picture's areas, but no " + phrase.Mono("map") + " on this page has that name, so nothing on the picture can be clicked."
		}
		if headline, sentence = ForOther(c.Snapshot, c.Value); headline != "" {
			return headline, sentence
		}
		headline = "No element has the id " + phrase.Mono(wanted)
		where := phrase.Mono(page.Path) + " is there"
		if page == c.File {
			where = "The link stays on this page"
		}
		if c.Ref.Flags&markup.ByID != 0 {
			where = phrase.Mono(c.Ref.Attribute.String()) + " names an element of this page"
		}
		sentence = where + ", but nothing on it has the id " + phrase.Mono(wanted) + "."
		ids := c.Snapshot.IDsOn(page.Doc)
		switch near := ids.Near(wanted, 1); {
		case len(ids.Names()) == 0:
			sentence += " It has no ids at all."
		case len(near) == 0:
			sentence += " It has " + phrase.Count(len(ids.Names()), "id") + ", none of them similar."
		case strings.EqualFold(near[0], wanted):
			sentence += " " + phrase.Mono(near[0]) + " differs in letter case, which counts in ids."
		default:
			sentence += " " + sayNear(wanted, near)
		}
		return headline, sentence
	},
}
