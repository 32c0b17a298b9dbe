package compose

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
)

// entry is one of a list of contents.
type entry struct {
	level    int
	id, text string
}

// contentsLines writes a list of contents, what is under a heading in a list of its own.
func contentsLines(list []entry, start string) []string {
	out := []string{start}
	for i := 0; i < len(list); {
		e := list[i]
		under := i + 1
		for under < len(list) && list[under].level > e.level {
			under++
		}
		item := `  <li><a href="#` + attribute(address.EscapeFragment(e.id)) + `">` + markup.EscapeText(e.text) + "</a>"
		if under == i+1 {
			out = append(out, item+"</li>")
		} else {
			out = append(out, item)
			for _, line := range contentsLines(list[i+1:under], "<ul>") {
				out = append(out, "    "+line)
			}
			out = append(out, "  </li>")
		}
		i = under
	}
	return append(out, "</ul>")
}

// ContentsList is a list of contents that Arvel wrote. It is marked by an attribute that names the levels of its headings,
// data-contents="h2 h3", and renewed whenever the page is saved.
type ContentsList struct {
	// From and To are the levels of its headings, 1 to 6.
	From, To int
	// Renewed: it has the mark.
	Renewed bool
	tag     int
}

// contentsMark is the attribute that marks a list of contents that is to be renewed.
const contentsMark = "data-contents"

// contentsLevels matches what the mark says; a mark that says something else is its author's.
var contentsLevels = regexp.MustCompile(`^h([1-6]) h([1-6])$`)

// FindContents returns the page's list of contents: one with the mark, or with the id toc or contents. False if it has none.
func (p *Page) FindContents() (ContentsList, bool) {
	found, ok := ContentsList{From: 2, To: 3}, false
	for i := range p.tags {
		t := &p.tags[i]
		if t.Closing || t.Name != "ul" && t.Name != "ol" {
			continue
		}
		if levels := contentsLevels.FindStringSubmatch(p.attribute(t, contentsMark)); levels != nil {
			return ContentsList{From: int(levels[1][0] - '0'), To: int(levels[2][0] - '0'), Renewed: true, tag: i}, true
		}
		if id := p.attribute(t, "id"); !ok && (id == "toc" || id == "contents") {
			found.tag, ok = i, true
		}
	}
	return found, ok
}

// Contents writes a list of contents from the page's headings of the given levels at a place, giving each heading the id that it
// needs; or renews the one that the page has. Renewed marks it as one that is renewed with the page.
func (p *Page) Contents(at int, c ContentsList) ([]change.Edit, error) {
	var edits []change.Edit
	var list []entry
	given, next := map[string]bool{}, map[string]int{}
	for i := range p.Doc.Headings {
		h := &p.Doc.Headings[i]
		if int(h.Level) < c.From || int(h.Level) > c.To || h.Text == "" {
			continue
		}
		id := h.ID
		if id == "" {
			id = p.stem(h.Text)
			id = p.free(id, next, func(id string) bool { return given[id] || p.Doc.Anchor(id) != nil })
			given[id] = true
			edits = append(edits, change.Edit{Start: int(h.NameEnd), End: int(h.NameEnd), New: []byte(` id="` + attribute(id) + `"`)})
		}
		list = append(list, entry{int(h.Level), id, h.Text})
	}
	if len(list) == 0 {
		return nil, fault("No heading of these levels is on the page. Write the headings first.")
	}
	mark := ""
	if c.Renewed {
		mark = fmt.Sprintf(` %s="h%d h%d"`, contentsMark, c.From, c.To)
	}
	own, has := p.FindContents()
	if !has {
		id := p.free("toc", map[string]int{}, func(id string) bool { return p.Doc.Anchor(id) != nil })
		return append(edits, p.block(at, contentsLines(list, `<ul id="`+id+`"`+mark+">"))), nil
	}
	e := p.element(own.tag)
	e.Attributes = e.Attributes.Without(contentsMark)
	stop := p.tagEnd(p.endOf(own.tag))
	lines := contentsLines(list, "<"+e.Name+e.Attributes.written()+mark+">")
	lines[len(lines)-1] = "</" + e.Name + ">"
	space, _, _ := p.line(e.Start())
	text := strings.Join(lines, "\n"+space)
	if string(p.Text[e.Start():stop]) == text && len(edits) == 0 {
		return nil, nil
	}
	return append(edits, change.Edit{Start: e.Start(), End: stop, New: []byte(text)}), nil
}

// Renewed returns the edits that renew the page's list of contents, if it has one that is renewed with the page.
func (p *Page) Renewed() []change.Edit {
	c, ok := p.FindContents()
	if !ok || !c.Renewed {
		return nil
	}
	edits, err := p.Contents(0, c)
	if err != nil {
		return nil // a page that lost its headings keeps its list
	}
	return edits
}

// BackToTop writes a way back to the top before each heading of the second level but the first, and at the page's end,
// unless one is there.
func (p *Page) BackToTop(words string) ([]change.Edit, error) {
	var edits []change.Edit
	line := `<p><a href="#top">` + markup.EscapeText(words) + "</a></p>"
	put := func(at int) {
		before := p.Text[:at]
		if bytes.HasSuffix(bytes.TrimSpace(before), []byte(line)) {
			return
		}
		space, _, _ := p.line(at)
		edits = append(edits, change.Edit{Start: at, End: at, New: []byte(line + "\n" + space)})
	}
	first := true
	for i := range p.tags {
		t := &p.tags[i]
		if t.Name == "h2" && !t.Closing {
			if !first {
				put(t.Start)
			}
			first = false
		}
	}
	if first {
		return nil, fault("The page has no headings of the second level. Write a link to `#top` where you want one.")
	}
	if end := p.contentEnd(); end > 0 {
		put(end)
	}
	if len(edits) == 0 {
		return nil, fault("Each section has a link back to the top already.")
	}
	return edits, nil
}

// contentEnd returns where a page's own content ends: before its foot, or before the end of its body.
func (p *Page) contentEnd() int {
	end := len(p.Text)
	for i := range p.tags {
		t := &p.tags[i]
		foot := false
		if !t.Closing {
			foot = t.Name == "footer" || strings.Contains(p.attribute(t, "class"), "foot")
		}
		if foot || t.Closing && (t.Name == "main" || t.Name == "body" || t.Name == "html") {
			return t.Start
		}
	}
	return end
}
