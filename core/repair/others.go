package repair

import (
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/distance"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// missingFragment looks for the id that is meant, on the page that is named and, failing that, on others.
func (p *Planner) missingFragment(c *audit.Case, s *suggestions) {
	wanted, page := c.Fragment(), c.Landed()
	ids := p.snapshot.IDsOn(page.Doc)
	if c.Ref.Flags&markup.ByMap != 0 {
		ids = distance.NewIndex(page.Doc.Maps)
	}
	value := func(id string) string {
		if c.Ref.Flags&markup.ByID != 0 {
			return id
		}
		part, query, _ := address.Split(c.Value)
		return strings.ReplaceAll(part, `\`, "/") + query + "#" + address.EscapeFragment(id)
	}
	add := func(id string, certainty Certainty, weight int, why string) {
		s.add(suggestion{value: value(id), target: page.Path, certainty: certainty, weight: weight, why: why})
	}
	plain := distance.Plain(strings.TrimPrefix(wanted, "#"))
	likenessTo := func(id string) likeness { return alike(strings.TrimPrefix(wanted, "#"), strings.TrimPrefix(id, "#")) }
	sameLettered := slices.DeleteFunc(ids.Plain(wanted), func(id string) bool { return likenessTo(id) == unlike })
	slices.Sort(sameLettered)
	sameLettered = slices.Compact(sameLettered)
	for _, id := range sameLettered {
		certainty, weight, why := Certain, sameInWords, "the id "+phrase.Mono(id)+" differs only between its words"
		if strings.EqualFold(id, wanted) {
			weight, why = sameLetters, "the id differs only in letter case"
		}
		switch {
		case utf8.RuneCountInString(wanted) == 1:
			certainty = Possible // a single letter is a name of its own, in either case
		case len(sameLettered) > 1 || likenessTo(id) == joined:
			certainty = Likely
		}
		add(id, certainty, weight, why)
	}
	for _, h := range p.headings(page)[plain] {
		if h.ID != "" && h.ID != wanted && plain != "" {
			add(h.ID, Likely, sameHeading, "it is the id of the heading “"+h.Text+"”")
		}
	}
	if id := p.reworded(page, wanted); id != "" && c.Ref.Flags&(markup.ByID|markup.ByMap) == 0 {
		add(id, Likely, sameHeading, "the heading that had the id "+phrase.Mono(wanted)+" before has the id "+phrase.Mono(id)+" now")
	}
	if len(wanted) > 3 {
		for _, id := range ids.OneAway(wanted) {
			if series(id, wanted) {
				add(id, Possible, digitOfID, "the id "+phrase.Mono(id)+" is the most similar, but it has another number or letter")
			} else {
				certainty, why := Likely, "the id "+phrase.Mono(id)+" is one letter away"
				if p.headed(page, id, c.Ref.Text) {
					certainty, why = Certain, why+", and its heading is what the link says"
				}
				add(id, certainty, oneLetterAway, why)
			}
		}
	}
	if c.Ref.Flags&(markup.ByID|markup.ByMap) == 0 {
		p.fragmentElsewhere(c, s, wanted)
	}
}

// headed reports whether the heading that has the id, and no other on the page, has the words.
func (p *Planner) headed(page *site.File, id, words string) bool {
	plain := distance.Plain(words)
	with := p.headings(page)[plain]
	return len(plain) >= 4 && len(with) == 1 && with[0].ID == id
}

// headings returns the headings of a page by their plain text.
func (p *Planner) headings(page *site.File) map[string][]*markup.Heading {
	if known, ok := p.headingsOf.Load(page.Doc); ok {
		return known.(map[string][]*markup.Heading)
	}
	out := map[string][]*markup.Heading{}
	for i := range page.Doc.Headings {
		h := &page.Doc.Headings[i]
		plain := distance.Plain(h.Text)
		out[plain] = append(out[plain], h)
	}
	p.headingsOf.Store(page.Doc, out)
	return out
}

// targets returns the files that the references of a file land on, each once.
func (p *Planner) targets(file int32) []int32 {
	if known, ok := p.targetsOf.Load(file); ok {
		return known.([]int32)
	}
	var out []int32
	seen := map[int32]bool{}
	for _, l := range p.snapshot.Links(file) {
		if l.File >= 0 && !seen[l.File] {
			seen[l.File] = true
			out = append(out, l.File)
		}
	}
	p.targetsOf.Store(file, out)
	return out
}

// elsewhereLimit is how many pages may bear an id before it says nothing of which is meant.
const elsewhereLimit = 3

// fragmentElsewhere looks for the id on other pages: the right fragment, the wrong page.
func (p *Planner) fragmentElsewhere(c *audit.Case, s *suggestions, wanted string) {
	self, ok := p.snapshot.Find(c.File.Path)
	b := p.names.bearers()[wanted]
	switch {
	case !ok || b.pages == 0:
		return
	case b.pages == 1:
		p.onlyBearer(c, s, wanted, b.first)
		return
	}
	var found []int32
	linked := p.targets(self)
	for _, to := range linked {
		if doc := p.snapshot.Files[to].Doc; to != c.Link.File && doc != nil && doc.Anchor(wanted) != nil {
			if found = append(found, to); len(found) > elsewhereLimit {
				return
			}
		}
	}
	if self != c.Link.File && !slices.Contains(linked, self) && c.File.Doc.Anchor(wanted) != nil {
		found = append(found, self)
	}
	if len(found) > elsewhereLimit {
		return
	}
	for _, i := range found {
		p.onBearer(c, s, i, Possible, "an element with that id is on "+phrase.Mono(p.snapshot.Files[i].Path))
	}
}

// onlyBearer takes the only page that has the id, which is certain where one slip in the path leads there.
func (p *Planner) onlyBearer(c *audit.Case, s *suggestions, wanted string, bearer int32) {
	f := &p.snapshot.Files[bearer]
	if c.Link.OnFile() && bearer == c.Link.File {
		return
	}
	asked := p.meantPath(c)
	if l := c.Landed(); l != nil {
		asked = l.Path
	}
	certainty, why := Possible, "the id "+phrase.Mono(wanted)+" is on "+phrase.Mono(f.Path)+" and on no other page"
	way := p.slipTo(p.climbed(c), asked, f.Path)
	switch {
	case way.why != "" && f.Path != c.File.Path:
		certainty, why = Certain, way.why+"; "+why
	case p.had(asked, wanted):
		certainty, why = Likely, "it was on "+phrase.Mono(asked)+" before; "+why
	case p.headed(f, wanted, c.Ref.Text):
		certainty, why = Likely, why+", under a heading that says what the link says"
	case distinctive(wanted):
		certainty = Likely
	}
	p.onBearer(c, s, bearer, certainty, why)
}

// distinctive reports whether an id is so much of a name that no two things have it by chance: of two words or more, none of them a
// number.
func distinctive(id string) bool {
	letters, parted := words(id)
	return len(letters) >= 8 && len(parted) > 0 && !strings.ContainsAny(letters, "0123456789")
}

// onBearer leads the reference to its fragment on another page.
func (p *Planner) onBearer(c *audit.Case, s *suggestions, bearer int32, certainty Certainty, why string) {
	q := p.snapshot.Files[bearer].Path
	s.add(suggestion{value: p.snapshot.Place.Rewrite(c.Value, c.Start(), q), target: q, certainty: certainty, weight: idElsewhere, why: why})
}

// missingScheme writes the scheme that the address lacks.
func (p *Planner) missingScheme(c *audit.Case, s *suggestions) {
	value := strings.TrimSpace(c.Value)
	scheme, what := rule.SchemeFor(value)
	if scheme == "mailto:" {
		if mended, ok := mailbox.Mend(scheme + value); ok {
			value = strings.TrimPrefix(mended, scheme)
		}
	}
	certainty := Likely // a name with dots in it may be that of a file that is gone
	if scheme == "mailto:" && !site.IsExtension(path.Ext(value)) || strings.HasPrefix(strings.ToLower(value), "www.") {
		certainty = Certain
	}
	if _, recorded := p.departed[c.Target().Path]; recorded {
		p.moved(c, s, p.meantPath(c))
		certainty = Possible
	}
	s.add(suggestion{value: scheme + value, target: "", certainty: certainty, weight: sameLetters, why: "it is " + what + ", and no file in the folder has such a name"})
}

// malformedEmail mends what can be mended without guessing.
func (p *Planner) malformedEmail(c *audit.Case, s *suggestions) {
	if mended, ok := mailbox.Mend(c.Value); ok {
		s.add(suggestion{value: mended, target: "", certainty: Certain, weight: sameLetters, why: "mail programs then read it as it was meant"})
	}
}

// diskPath looks for the end of the path in the folder.
func (p *Planner) diskPath(c *audit.Case, s *suggestions) {
	part, query, fragment := address.Split(strings.TrimSpace(c.Value))
	parts := strings.Split(strings.ReplaceAll(address.Unescape(part), `\`, "/"), "/")
	name := parts[len(parts)-1]
	var best []string
	longest := 0
	for _, q := range p.names.byName[site.Fold(name)] {
		n := sharedEnd(parts, strings.Split(q, "/"))
		if n > longest {
			best, longest = nil, n
		}
		if n == longest {
			best = append(best, q)
		}
	}
	for _, q := range best[:min(len(best), most)] {
		certainty, why := Possible, "a file of that name is there"
		if len(best) == 1 && longest > 1 {
			certainty, why = Likely, "it is the only file at the end of that path"
		}
		if len(best) == 1 && longest > 1 && longest == len(strings.Split(q, "/")) {
			certainty, why = Certain, "the path ends in its whole path in the folder"
		}
		if certainty < Likely && !ofSystem(parts) && len(p.names.byName[site.Fold(name)]) == 1 && !p.isIndex(name) {
			certainty, why = Likely, "it is the only "+phrase.Mono(name)+" in the folder"
		}
		value := address.Relative(c.Start(), q) + query + fragment
		s.add(suggestion{value: value, target: q, certainty: certainty, weight: endOfPath, why: why})
	}
}

// ofSystem reports whether a disk path leads to where systems and programs keep what is theirs.
func ofSystem(parts []string) bool {
	return slices.ContainsFunc(parts[:min(len(parts), 5)], func(n string) bool {
		switch strings.ToLower(n) {
		case "program files", "program files (x86)", "programdata", "windows", "system32", "appdata", "usr", "etc", "opt", "system", "applications", "bin":
			return true
		}
		return false
	})
}

// sharedEnd counts the parts that two paths have in common at their ends, letter case aside.
func sharedEnd(a, b []string) int {
	n := 0
	for n < len(a) && n < len(b) && strings.EqualFold(a[len(a)-1-n], b[len(b)-1-n]) {
		n++
	}
	return n
}

// noDestination looks for a page whose title is the link's text.
func (p *Planner) noDestination(c *audit.Case, s *suggestions) {
	if c.Ref.Text == "" || site.KindOf(c.File.Path) != site.Page {
		return
	}
	if mailbox.IsAddress(c.Ref.Text) {
		s.add(suggestion{value: "mailto:" + c.Ref.Text, target: "", certainty: Likely, weight: sameLanding, why: "the link's words are an e-mail address"})
		return
	}
	plain := distance.Plain(c.Ref.Text)
	for i := range c.File.Doc.Headings {
		if h := &c.File.Doc.Headings[i]; h.ID != "" && distance.Plain(h.Text) == plain {
			s.add(suggestion{value: "#" + address.EscapeFragment(h.ID), target: c.File.Path, certainty: Likely, weight: endOfPath, why: "a heading on this page has the link's words"})
		}
	}
	for _, q := range p.names.byTitle(c.Ref.Text) {
		value := address.Relative(c.Start(), q)
		s.add(suggestion{value: value, target: q, certainty: Likely, weight: sameTitle, why: "the page's title is the link's words"})
	}
}

// addressInText leads to the address that the link's words are. Which of the two is meant nobody can tell.
func (p *Planner) addressInText(c *audit.Case, s *suggestions) {
	if shown, ok := rule.ShownAddress(c); ok {
		s.add(suggestion{value: shown, target: "", certainty: Possible, weight: sameLanding, why: "the link's words are this address"})
	}
}

// mistypedScheme writes the scheme as it must have been meant.
func (p *Planner) mistypedScheme(c *audit.Case, s *suggestions) {
	mended, ok := rule.MendScheme(c.Value)
	if !ok {
		return
	}
	certainty := Likely
	if rule.PlainScheme(c.Value) {
		certainty = Certain
	}
	s.add(suggestion{value: mended, target: "", certainty: certainty, weight: sameLetters, why: "browsers know this scheme"})
}

// encode drops the white space around an address and percent-encodes what has to be, unless that is done along
// with what else is wrong.
func (p *Planner) encode(c *audit.Case, s *suggestions) {
	if len(s.all) > 0 || c.Target().Kind == address.Inside && c.Landed() == nil {
		return
	}
	value := strings.NewReplacer("\t", "", "\n", "", "\r", "").Replace(strings.TrimSpace(c.Value))
	var b strings.Builder
	for i := range len(value) {
		if rule.FirstUnencoded(value[i:min(len(value), i+3)]) == value[i:i+1] {
			b.WriteString(address.Escaped(value[i]))
		} else {
			b.WriteByte(value[i])
		}
	}
	target := ""
	if f := c.Landed(); f != nil {
		target = f.Path
	}
	s.add(suggestion{value: b.String(), target: target, certainty: Certain, weight: onlyEncoded, why: "it leads to the same file, in every program"})
}
