package audit

import "arvel/core/site"

// caseMismatch: what is there differs in letter case alone. Broken where case counts, else fragile.
var caseMismatch = &Rule{
	Name: "case-mismatch",
	Applies: func(c *Case) (State, bool) {
		if c.Link.Outcome != site.OtherCase {
			return Sound, false
		}
		if c.Snapshot.Place.IgnoreCase {
			return Fragile, true
		}
		return Broken, true
	},
	Say: func(c *Case) (headline, sentence string) {
		real := c.Landed().Path
		return "Letter case differs from " + Mono(real),
			Mono(c.Target().Path) + " is written; the name on disk is " + Mono(real) +
				". Most web servers tell capital from small letters, even where your own disk does not."
	},
}

// unicodeForm: what is there looks the same but is made of other characters: a letter and its accent as one
// character or as two.
var unicodeForm = &Rule{
	Name:    "unicode-form",
	Applies: func(c *Case) (State, bool) { return Fragile, c.Link.Outcome == site.OtherForm },
	Say: func(c *Case) (headline, sentence string) {
		return "Same letters, other characters",
			Mono(c.Landed().Path) + " looks the same, but an accented letter in it is made of other characters than in the reference. " +
				"Some disks find it all the same; most web servers do not."
	},
}
