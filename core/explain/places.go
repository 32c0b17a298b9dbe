package explain

import (
	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/phrase"
	"arvel/core/site"
)

// AtPlace says in a few words where the reference of a difference lands at a place, or why it does not.
func AtPlace(s *site.Snapshot, d audit.PlaceDifference, p address.Place) string {
	c := audit.NewCaseAt(s, d.File, int(d.Ref), p)
	if findings, state := rule.All.Judge(c); state >= audit.Fragile {
		for _, g := range findings {
			if g.State == state {
				headline, _ := g.Rule.Say(c)
				return headline
			}
		}
	}
	verb, where, note := Destination(c)
	if where != "" {
		where = " " + phrase.Mono(where)
	}
	return phrase.Capital(verb) + where + " " + note
}
