package audit

import (
	"strconv"
	"strings"

	"arvel/core/markup"
	"arvel/core/site"
)

// missingFragment: the page stands, the fragment is on no element.
var missingFragment = &Rule{
	Name:    "missing-fragment",
	Applies: func(c *Case) (State, bool) { return Broken, c.Link.Outcome == site.NoFragment },
	Say: func(c *Case) (headline, sentence string) {
		wanted, page := c.Fragment(), c.Landed()
		if c.Ref.Flags&markup.ByMap != 0 {
			return "No map has the name " + Mono(wanted), Mono(c.Ref.Written) + " names a map of the picture's areas, but no " + Mono("map") + " on this page has that name, so nothing on the picture can be clicked."
		}
		headline = "No element has the id " + Mono(wanted)
		where := Mono(page.Path) + " is there"
		if page == c.File {
			where = "The link stays on this page"
		}
		if c.Ref.Flags&markup.ByID != 0 {
			where = Mono(c.Ref.Attribute.String()) + " names an element of this page"
		}
		sentence = where + ", but nothing on it has the id " + Mono(wanted) + "."
		ids := c.Snapshot.IDsOn(page.Doc)
		switch near := ids.Near(wanted, 1); {
		case len(ids.Names()) == 0:
			sentence += " It has no ids at all."
		case len(near) == 0:
			sentence += " It has " + count(len(ids.Names()), "id") + ", none of them near to that."
		case strings.EqualFold(near[0], wanted):
			sentence += " " + Mono(near[0]) + " differs in letter case, and letter case counts."
		default:
			sentence += " " + sayNear(wanted, near)
		}
		return headline, sentence
	},
}

// count says a number with its noun.
func count(n int, noun string) string {
	if n == 1 {
		return "one " + noun
	}
	return strconv.Itoa(n) + " " + noun + "s"
}
