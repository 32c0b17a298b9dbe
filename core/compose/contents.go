package compose

import (
	"bytes"
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

// Contents writes a list of contents from the page's headings of the given levels at a place, giving each the id that it
// needs; or renews the one that the page has, which is the list with the id "contents".
func (p *Page) Contents(at, from, to int) ([]change.Edit, error) {
	var edits []change.Edit
	var list []entry
	given, next := map[string]bool{}, map[string]int{}
	for i := range p.Doc.Headings {
		h := &p.Doc.Headings[i]
		if int(h.Level) < from || int(h.Level) > to || h.Text == "" {
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
		return nil, fault("There is no heading of that level on the page with words in it. Write the headings first.")
	}
	start, stop := at, at
	for i := range p.tags {
		if t := &p.tags[i]; !t.Closing && (t.Name == "ul" || t.Name == "ol") {
			if a, b, _, ok := markup.AttributeOf(p.Text, t.Start, "id"); ok && string(p.Text[a:b]) == "contents" {
				start, stop = t.Start, p.endOf(i)
				stop = min(len(p.Text), stop+len("</ul>"))
			}
		}
	}
	lines := contentsLines(list, `<ul id="contents">`)
	if start == stop {
		return append(edits, p.block(start, lines)), nil
	}
	space, _, _ := p.line(start)
	text := strings.Join(lines, "\n"+space)
	if string(p.Text[start:stop]) == text && len(edits) == 0 {
		return nil, fault("The list of contents is as the headings are.")
	}
	return append(edits, change.Edit{Start: start, End: stop, New: []byte(text)}), nil
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
		return nil, fault("The page has no headings of the second level. Choose a place, and make a link to the top there.")
	}
	if end := p.contentEnd(); end > 0 {
		put(end)
	}
	if len(edits) == 0 {
		return nil, fault("There is a way back to the top after each section already.")
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
			a, b, _, ok := markup.AttributeOf(p.Text, t.Start, "class")
			foot = t.Name == "footer" || ok && strings.Contains(string(p.Text[a:b]), "foot")
		}
		if foot || t.Closing && (t.Name == "main" || t.Name == "body" || t.Name == "html") {
			return t.Start
		}
	}
	return end
}
