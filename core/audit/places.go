package audit

import (
	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/site"
)

// PlaceDifference is a reference that does not fare the same at several places.
type PlaceDifference struct {
	File, Ref int32
	// States are its states at each of the places.
	States []State
}

// PlaceDifferences judges the references of a snapshot at each of the places and returns those whose state differs between them,
// in the order of the files, and how many are in which state at each place.
func (r *Report) PlaceDifferences(s *site.Snapshot, places []address.Place) (differing []PlaceDifference, counts []Counts) {
	counts = make([]Counts, len(places))
	resolvers := make([]*address.Resolver, len(places))
	for i, p := range places {
		p.Published = s.Place.Published
		resolvers[i] = address.NewResolver(p)
	}
	rules := r.terms.asked(r.rules.references)
	states := make([]State, len(places))
	for i := range s.Files {
		file := int32(i)
		doc := s.Files[i].Doc
		if doc == nil {
			continue
		}
		cases := make([]*Case, len(places))
		for k := range places {
			cases[k] = caseOf(s, resolvers[k], file)
		}
		for ref, l := range s.Links(file) {
			if !l.Unusual && l.Outcome == site.Lands || l.Outcome == site.Elsewhere || l.Outcome == site.NotJudged || doc.References[ref].Flags&(markup.ByID|markup.ByMap) != 0 {
				for k := range counts {
					counts[k].add(r.states[file][ref], 1)
				}
				continue
			}
			if r.states[file][ref] == Inert { // set aside: whatever it comes to at a place is as its author wants it
				for k := range counts {
					counts[k].add(Inert, 1)
				}
				continue
			}
			differs := false
			for k, c := range cases {
				c.setReference(ref, site.Link{})
				c.Link = s.LandAt(c.Target(), c.Place.IgnoreCase)
				_, states[k] = c.judge(rules, int32(ref), nil)
				counts[k].add(states[k], 1)
				differs = differs || states[k] != states[0]
			}
			if differs {
				differing = append(differing, PlaceDifference{file, int32(ref), append([]State{}, states...)})
			}
		}
	}
	return differing, counts
}
