package repair

import (
	"path"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/distance"
	"arvel/core/phrase"
	"arvel/core/site"
)

// oneLetter looks for names one letter away, first in the folder that is meant.
func (p *Planner) oneLetter(c *audit.Case, s *suggestions, dir, name string) {
	if short(name) {
		return
	}
	gone := p.evidence().asked[p.meantPath(c)] > few
	for _, near := range p.names.near(name) {
		all := p.names.byName[near]
		if len(all) > many {
			all = p.names.in(dir, near)
		}
		for _, q := range all {
			d, n := site.Cut(q)
			if path.Ext(n) != path.Ext(name) && strings.TrimSuffix(n, path.Ext(n)) == strings.TrimSuffix(name, path.Ext(name)) {
				continue // another extension, not a slip
			}
			if series(name, n) {
				p.suggest(c, s, q, Possible, oneDigitAway, phrase.Mono(n)+" is the most similar name, but it has another number or letter")
			} else if t := c.Target(); t.HasFragment && t.Fragment != "" && !p.hasFragment(q, t.Fragment) {
				p.suggest(c, s, q, Possible, letterNoID, phrase.Mono(n)+" is one letter away")
			} else if d == dir {
				certainty, why := Likely, phrase.Mono(n)+" is one letter away"
				switch {
				case p.confirms(c, q):
					certainty, why = Certain, why+", and it fits what the link says"
					if stem, _ := cutExtension(site.Fold(name)); gone || p.names.words[stem] {
						certainty = Likely // what many ask for, or what is a name elsewhere, is hardly a slip
					}
				case gone:
					certainty = Possible
				}
				p.suggest(c, s, q, certainty, oneLetterAway, why)
			} else if len(p.names.byName[near]) <= 3 {
				p.suggest(c, s, q, Possible, letterAndPlace, phrase.Mono(q)+" is one letter away, in another folder")
			}
		}
	}
}

// confirms reports whether the reference says more of its target than a name, and that fits the page: its fragment is on
// it, or its words are the page's title.
func (p *Planner) confirms(c *audit.Case, target string) bool {
	i, ok := p.snapshot.Find(target)
	if !ok || p.snapshot.Files[i].Doc == nil {
		return false
	}
	doc := p.snapshot.Files[i].Doc
	if t := c.Target(); t.HasFragment && t.Fragment != "" {
		a, _ := doc.Indicated(t.Fragment, address.UnescapeFragment)
		return a != nil && p.names.bearers()[a.Name].pages == 1
	}
	words := distance.Plain(c.Ref.Text)
	return len(words) > 4 && distance.Plain(doc.Title) == words && len(p.names.titled[words]) == 1
}
