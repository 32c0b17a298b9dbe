package compose

import (
	"bytes"
	"fmt"
	"slices"
	"sort"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
)

// Block is an element of a page that holds links, a menu for instance.
type Block struct {
	// Name is its start tag as far as it tells it from others: <nav>, <ul id="menu">.
	Name string
	// Links is how many references it holds.
	Links int

	tag        int // number of its start tag
	start, end int // its bytes in the text
}

// blocks are the elements that can hold a block of links.
var blocks = map[string]bool{
	"nav": true, "ul": true, "ol": true, "dl": true, "menu": true, "div": true, "p": true, "table": true, "header": true, "footer": true,
	"aside": true, "section": true,
}

// landmarks are the blocks of which a page has one of a kind, mostly.
var landmarks = map[string]bool{"nav": true, "header": true, "footer": true, "aside": true, "menu": true}

// Blocks returns the blocks of links around a place, the innermost first.
func (p *Page) Blocks(at int) []Block {
	var out []Block
	for i := range p.tags {
		if p.tags[i].Start > at {
			break
		}
		if b, ok := p.blockOf(i); ok && b.end > at && b.Links > 1 {
			out = append(out, b)
		}
	}
	slices.Reverse(out)
	return out
}

// Menu returns the blocks of links around a place, the innermost first, then what else on the page is meant as a menu, and
// which of them is most likely wanted: a menu around the place, or else one elsewhere, or else the innermost.
func (p *Page) Menu(at int) (all []Block, likely int) {
	all = p.Blocks(at)
	around := len(all)
	for i := range p.tags {
		if !p.isMenu(i) {
			continue
		}
		if b, ok := p.blockOf(i); ok && b.Links > 1 && !b.holds(at) {
			all = append(all, b)
		}
	}
	likely = max(0, slices.IndexFunc(all, func(b Block) bool { return p.isMenu(b.tag) }))
	if likely >= around {
		nav := func(b Block) bool { return p.tags[b.tag].Name == "nav" }
		likely = max(around, around+slices.IndexFunc(all[around:], nav))
	}
	return all, likely
}

// isMenu reports whether the i-th tag says that its element is a menu: by what it is, or by its id or class.
func (p *Page) isMenu(i int) bool {
	t := &p.tags[i]
	if t.Closing || !blocks[t.Name] {
		return false
	}
	said := strings.ToLower(p.attribute(t, "id") + " " + p.attribute(t, "class"))
	return t.Name == "nav" || t.Name == "menu" || strings.Contains(said, "menu") || strings.Contains(said, "nav")
}

// blockOf returns the block that begins with the i-th tag.
func (p *Page) blockOf(i int) (Block, bool) {
	t := &p.tags[i]
	if t.Closing || !blocks[t.Name] {
		return Block{}, false
	}
	closer := p.closers()[i]
	if closer < 0 {
		return Block{}, false // it is never closed, so nobody can say where it ends
	}
	b := Block{Name: "<" + t.Name, tag: i, start: t.Start, end: p.tags[closer].End}
	for _, name := range []string{"id", "class"} {
		if v := p.attribute(t, name); v != "" {
			b.Name += fmt.Sprintf(" %s=%q", name, v)
			break
		}
	}
	b.Name += ">"
	for _, ref := range p.within(&b) {
		if ref.Element == markup.A && ref.Flags&markup.NoValue == 0 {
			b.Links++
		}
	}
	return b, true
}

// within returns the references in a block; they are in the order of the text.
func (p *Page) within(b *Block) []markup.Reference {
	refs := p.Doc.References
	at := func(place int) int {
		return sort.Search(len(refs), func(i int) bool { return int(refs[i].Start) >= place })
	}
	return refs[at(b.start):at(b.end)]
}

func (b *Block) holds(at int) bool { return at >= b.start && at < b.end }

func (p *Page) attribute(t *markup.Tag, name string) string {
	a, _ := markup.AttributeOf(p.Text, t.Start, name)
	return string(p.Text[a.ValueStart:a.ValueEnd])
}

// SyncedBlock is what bringing a block of links to another page comes to.
type SyncedBlock struct {
	// Edits are those of the other page's text; none if the block is already as it has to be.
	Edits []change.Edit
	// Replaces is set if a block of the page is replaced; else the page has none and it is put in.
	Replaces bool
	// Line is where, from 1.
	Line int
	// Notes say what the author should look at, each as the end of a sentence that begins with the page.
	Notes []string
}

// SyncBlock brings a block of the page to another one: every path is made right for that one's folder, the entry that marks
// the page itself becomes that of the other one, and the lines are indented as there. It takes the place of the block
// that is there for the same purpose: of the same id or class, the only one of its kind, or one whose links lead to the same.
func (p *Page) SyncBlock(b Block, to *Page) (SyncedBlock, error) {
	var out SyncedBlock
	edits, err := movedReferences(p, to, b.holds)
	if err != nil {
		return out, err
	}
	edits = append(edits, p.ownFragments(&b, to)...)
	marked := p.markOther(&b, to)
	edits = slices.DeleteFunc(edits, func(e change.Edit) bool {
		return slices.ContainsFunc(marked, func(m change.Edit) bool { return m.Start < e.End && e.Start < m.End })
	})
	edits = append(edits, marked...)
	for i := range edits {
		edits[i].Start, edits[i].End = edits[i].Start-b.start, edits[i].End-b.start
	}
	text, err := change.Apply(p.Text[b.start:b.end], edits)
	if err != nil {
		return out, err
	}
	space, _, _ := p.line(b.start)
	lines := strings.Split(string(text), "\n")
	for i := range lines[1:] {
		lines[i+1] = strings.TrimPrefix(lines[i+1], space)
	}
	own, found := to.counterpart(p, &b)
	if found {
		out.Replaces = true
		there, _, _ := to.line(own.start)
		fresh := strings.Join(lines, "\n"+there)
		out.Line = 1 + strings.Count(string(to.Text[:own.start]), "\n")
		if fresh != string(to.Text[own.start:own.end]) {
			out.Edits = []change.Edit{{Start: own.start, End: own.end, New: []byte(fresh)}}
		}
	} else {
		edit := to.block(to.placeFor(p, &b), lines)
		out.Line, out.Edits = 1+strings.Count(string(to.Text[:edit.Start]), "\n"), []change.Edit{edit}
	}
	for i := range p.Doc.Anchors {
		a := &p.Doc.Anchors[i]
		if other := to.Doc.Anchor(a.Name); b.holds(int(a.Start)) && other != nil && !(found && own.holds(int(other.Start))) {
			out.Notes = append(out.Notes, "has the id `"+a.Name+"` in another place, so it will have it twice")
		}
	}
	return out, nil
}

// ownFragments returns the edits that let references of a block to the page itself lead there from another page, unless
// that one has what they land on, too.
func (p *Page) ownFragments(b *Block, to *Page) (edits []change.Edit) {
	for _, ref := range p.within(b) {
		part, query, fragment := address.Split(ref.Value())
		if part+query != "" || ref.Flags&(markup.ByID|markup.ByMap|markup.NoValue|markup.InStyle) != 0 || fragment == "#" {
			continue
		}
		if fragment != "" {
			if a, top := to.Doc.Indicated(fragment[1:], address.UnescapeFragment); a != nil || top {
				continue
			}
		}
		fresh := attribute(p.addressFrom(to) + fragment)
		if ref.Quote == 0 {
			fresh = `"` + fresh + `"`
		}
		edits = append(edits, change.Edit{Start: int(ref.Start), End: int(ref.End), New: []byte(fresh)})
	}
	return edits
}

// addressFrom returns what is written on another page for this one, by the habits of this one.
func (p *Page) addressFrom(to *Page) string {
	there := *to
	there.rooted, there.indexLeftOut = p.rooted, p.indexLeftOut
	return there.AddressOf(p.Path)
}

// marks are the attributes by which the entry of the page itself differs from the others.
var marks = []string{"class", "aria-current"}

// markOther returns the edits that let the entry of another page be marked in a block as that of the page itself is: by an
// attribute that no other entry has, on the link or on the item around it, or by being no link.
func (p *Page) markOther(b *Block, to *Page) (edits []change.Edit) {
	own, other := p.entryTo(b, p.Path), p.entryTo(b, to.Path)
	if own < 0 {
		return p.linkOther(b, to, other)
	}
	for _, up := range []bool{false, true} {
		from, at := p.itemOf(own, up), p.itemOf(other, up)
		if from < 0 {
			continue
		}
		for _, name := range marks {
			a, ok := markup.AttributeOf(p.Text, p.tags[from].Start, name)
			if !ok || p.shared(b, from, name) {
				continue
			}
			start, end := a.WithSpace(p.Text)
			edits = append(edits, change.Edit{Start: start, End: end})
			if at < 0 || p.attribute(&p.tags[at], name) != "" {
				continue
			}
			place := p.tags[at].NameEnd
			if start > p.tags[from].NameEnd {
				place = p.tags[at].End - 1 // it is behind the others
			}
			edits = append(edits, change.Edit{Start: place, End: place, New: []byte(" " + string(bytes.TrimSpace(p.Text[start:end])))})
		}
	}
	return edits
}

// entryTo returns the number of the tag of the only link in a block that leads to a page; -1 if there is none, or more.
func (p *Page) entryTo(b *Block, target string) int {
	found := -1
	r := p.resolver()
	for _, ref := range p.within(b) {
		if ref.Element != markup.A || ref.Attribute != markup.AttrHref || ref.Flags&markup.NoValue != 0 {
			continue
		}
		t := r.Resolve(ref.Value())
		l := p.Snapshot.Land(&t)
		if l.File < 0 || p.Snapshot.Files[l.File].Path != target || t.HasFragment {
			continue
		}
		if found >= 0 {
			return -1
		}
		found = p.tagAt(int(ref.Start))
	}
	return found
}

// itemOf returns the number of a link's tag, or of the li element's whose first content it is; -1 if there is none.
func (p *Page) itemOf(link int, up bool) int {
	if !up || link < 0 {
		return link
	}
	if before := link - 1; before >= 0 && p.tags[before].Name == "li" && !p.tags[before].Closing {
		return before
	}
	return -1
}

// shared reports whether another element of the same name in the block has the same value of an attribute.
func (p *Page) shared(b *Block, own int, name string) bool {
	value := p.attribute(&p.tags[own], name)
	for i := range p.tags {
		t := &p.tags[i]
		if i != own && !t.Closing && b.holds(t.Start) && t.Name == p.tags[own].Name && p.attribute(t, name) == value {
			return true
		}
	}
	return false
}

// linkOther does what [Page.markOther] does in a list in which the entry of the page itself is no link, but words, perhaps
// in an element such as strong.
func (p *Page) linkOther(b *Block, to *Page, other int) []change.Edit {
	bareItem := -1
	for i := range p.tags {
		t := &p.tags[i]
		if t.Closing || t.Name != "li" || !b.holds(t.Start) {
			continue
		}
		if end := p.itemEnd(i); !slices.ContainsFunc(p.tags[i+1:], func(k markup.Tag) bool { return k.Start < end && (k.Name == "a" || k.Name == "ul" || k.Name == "ol") }) {
			if bareItem >= 0 {
				return nil // more than one: they are no entries of pages
			}
			bareItem = i
		}
	}
	if bareItem < 0 {
		return nil
	}
	from, until := p.trimmed(p.tags[bareItem].End, p.itemEnd(bareItem))
	open, end := "", ""
	if k := bareItem + 1; k < len(p.tags) && p.tags[k].Start == from && !p.tags[k].Closing && !void[p.tags[k].Name] {
		if stop := p.endOf(k); stop > from && stop < until && p.Text[until-1] == '>' && p.tagEnd(stop) == until {
			open, end = string(p.Text[from:p.tags[k].End]), string(p.Text[stop:until])
		}
	}
	href := `<a href="` + attribute(p.addressFrom(to)) + `">`
	edits := []change.Edit{
		{Start: from, End: from + len(open), New: []byte(href)},
		{Start: until - len(end), End: until, New: []byte("</a>")},
	}
	if other < 0 {
		return edits
	}
	stop := p.endOf(other)
	return append(edits, change.Edit{Start: p.tags[other].Start, End: p.tags[other].End, New: []byte(open)}, change.Edit{Start: stop, End: p.tagEnd(stop), New: []byte(end)})
}

// itemEnd returns where the content of the li element of the i-th tag ends: before its end tag, the next item, or the end
// of the list.
func (p *Page) itemEnd(i int) int {
	depth := 0
	for k := i + 1; k < len(p.tags); k++ {
		t := &p.tags[k]
		switch {
		case t.Name == "ul" || t.Name == "ol" || t.Name == "menu":
			if t.Closing {
				depth--
			} else {
				depth++
			}
			if depth < 0 {
				return t.Start
			}
		case t.Name == "li" && depth == 0:
			return t.Start
		}
	}
	return len(p.Text)
}

// tagEnd returns where the tag that begins at a place ends.
func (p *Page) tagEnd(at int) int {
	for i := range p.tags {
		if p.tags[i].Start == at {
			return p.tags[i].End
		}
	}
	return at
}

// counterpart returns the block of the page that stands for the same as one of another page.
func (p *Page) counterpart(other *Page, b *Block) (Block, bool) {
	t := &other.tags[b.tag]
	id, class := other.attribute(t, "id"), other.attribute(t, "class")
	leads := other.leadsTo(b)
	var best Block
	bestScore, kin := 0, 0
	for i := range p.tags {
		if p.tags[i].Name != t.Name {
			continue
		}
		own, ok := p.blockOf(i)
		if !ok {
			continue
		}
		kin++
		score := 0
		if theirs := p.leadsTo(&own); overlapping(leads, theirs) {
			score = 1
		}
		if v := p.attribute(&p.tags[i], "class"); class != "" && v == class {
			score += 2
		}
		if v := p.attribute(&p.tags[i], "id"); id != "" && v == id {
			score += 4
		} else if id != "" && v != "" {
			continue // an id of another name is another thing
		}
		if score > bestScore {
			best, bestScore = own, score
		}
		if kin == 1 && bestScore == 0 {
			best = own
		}
	}
	return best, bestScore > 0 || kin == 1 && landmarks[t.Name] && best.end > 0
}

// leadsTo returns the files that the links of a block lead to.
func (p *Page) leadsTo(b *Block) map[int32]bool {
	out := map[int32]bool{}
	if b.Links < 2 {
		return out // which is alike to nothing
	}
	r := p.resolver()
	for _, ref := range p.within(b) {
		if ref.Element == markup.A {
			t := r.Resolve(ref.Value())
			if l := p.Snapshot.Land(&t); l.File >= 0 {
				out[l.File] = true
			}
		}
	}
	return out
}

// overlapping reports whether two sets have half of what is in either in common, and two at least.
func overlapping(a, b map[int32]bool) bool {
	both := 0
	for f := range a {
		if b[f] {
			both++
		}
	}
	return both >= 2 && both*2 >= len(a)+len(b)-both
}

// placeFor returns where a block of another page goes on a page that has none: at the end of its content if it is there
// on the other one, or else at the beginning of what is shown.
func (p *Page) placeFor(other *Page, b *Block) int {
	if from, _ := other.content(); b.start > from {
		return p.contentEnd()
	}
	for i := range p.tags {
		if t := &p.tags[i]; t.Name == "body" && !t.Closing {
			_, _, behind := p.line(t.End)
			at := t.End
			if !behind && at < len(p.Text) {
				at++ // its line ends here
			}
			for at < len(p.Text) && (p.Text[at] == ' ' || p.Text[at] == '\t') {
				at++
			}
			return at
		}
	}
	from, _ := p.content()
	return from
}
