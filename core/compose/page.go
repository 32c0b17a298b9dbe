package compose

import (
	"bytes"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
)

// New is a page to be made.
type New struct {
	Title string
	// Back is the path of a page that it gets a link back to; "" for none.
	Back string
}

func (n *New) heading() string { return "<h1>" + markup.EscapeText(n.Title) + "</h1>\n" }

// back writes the way back, if there is to be one.
func (n *New) back(p *Page) string {
	if n.Back == "" {
		return ""
	}
	return `<p><a href="` + attribute(p.AddressOf(n.Back)) + `">` + markup.EscapeText(p.titleOf(n.Back)) + "</a></p>\n"
}

// After returns the bytes of the page made after the pattern of another one, which src are the bytes of: head, menu and
// foot are kept, with every path made right for the new page's folder; the content is emptied, the title and the heading
// are set. The pattern's encoding is kept.
func (n *New) After(s *site.Snapshot, pattern, to string, src []byte) ([]byte, error) {
	doc := site.Scan(markup.NewScanner(), pattern, src)
	if strings.HasPrefix(doc.Encoding, "utf-16") || doc.Encoding == "iso-2022-jp" {
		return nil, fault("%s is in %s, which can't be a pattern. Choose another page.", pattern, doc.Encoding)
	}
	p := read(s, pattern, src, doc, markup.Tags(src))
	there := read(s, to, src, doc, p.tags)
	from, until := p.content()
	menus := p.menus()
	kept := slices.DeleteFunc(slices.Clone(menus), func(b Block) bool { return b.start < from || b.end > until })
	var edits []change.Edit
	encoded := func(text string) ([]byte, error) { return markup.Encode(text, doc.Encoding) }
	put := func(start, end int, text string) error {
		fresh, err := encoded(text)
		edits = append(edits, change.Edit{Start: start, End: end, New: fresh})
		return err
	}
	// The content goes, but for a menu in it.
	pieces := []string{n.heading(), n.back(there)}
	if len(kept) == 0 {
		pieces = []string{n.heading() + n.back(there)}
	}
	at := from
	for i := range kept {
		if err := put(at, kept[i].start, pieces[0]); err != nil {
			return nil, err
		}
		at, pieces[0] = kept[i].end, "\n"
	}
	if last := pieces[len(pieces)-1]; len(kept) > 0 {
		pieces[len(pieces)-1] = "\n" + last
	}
	if err := put(at, until, pieces[len(pieces)-1]); err != nil {
		return nil, err
	}
	for i := range p.tags {
		if t := &p.tags[i]; t.Name == "title" && !t.Closing && t.End < from {
			if err := put(t.End, p.endOf(i), markup.EscapeText(n.Title)); err != nil {
				return nil, err
			}
			break
		}
	}
	var own []change.Edit
	for i := range menus {
		own = append(own, p.markOther(&menus[i], there)...)
	}
	for _, e := range own {
		if err := put(e.Start, e.End, string(e.New)); err != nil {
			return nil, err
		}
	}
	carried, err := movedReferences(p, Known(s, to, doc), func(at int) bool {
		return (at < from || at >= until || slices.ContainsFunc(kept, func(b Block) bool { return b.holds(at) })) &&
			!slices.ContainsFunc(own, func(e change.Edit) bool { return e.Start <= at && at < e.End })
	})
	if err != nil {
		return nil, err
	}
	return change.Apply(src, append(edits, carried...))
}

// menus returns the menus of the page, none of which is in another: what says that it is one, and lists of links that lead to the
// home page among others.
func (p *Page) menus() (out []Block) {
	home := int32(-1)
	if top := p.Snapshot.Folders[""]; top != nil {
		home = top.Index
	}
	for i := range p.tags {
		if n := len(out); n > 0 && p.tags[i].Start < out[n-1].end {
			continue
		}
		b, ok := p.blockOf(i)
		if !ok || b.Links == 0 || p.tags[i].Name == "div" && !p.isMenu(i) {
			continue
		}
		if leads := p.leadsTo(&b); p.isMenu(i) || b.Links > 2 && home >= 0 && leads[home] && len(leads) > 2 {
			out = append(out, b)
		}
	}
	return out
}

// movedReferences returns the edits of text that was on one page and is to be on another one, so that its references into
// the folder land where they did. Which tells by their places which are meant.
func movedReferences(from, to *Page, which func(at int) bool) (edits []change.Edit, err error) {
	now, then := from.resolver(), to.resolver()
	doc := from.Doc
	for i := range doc.References {
		ref := &doc.References[i]
		if !which(int(ref.Start)) || ref.Flags&(markup.ByID|markup.ByMap|markup.NoValue) != 0 {
			continue
		}
		value := ref.Value()
		t := now.Resolve(value)
		part, _, _ := address.Split(value)
		if t.Kind != address.Inside || t.Own || part == "" {
			continue
		}
		if after := then.Resolve(value); after.Kind == address.Inside && after.Path == t.Path && after.Climbed == t.Climbed {
			continue
		}
		aim := t.Path
		if t.Folder {
			aim = strings.TrimPrefix(aim+"/", "/")
		}
		fresh := from.Snapshot.Place.Follow(strings.TrimSpace(value), now.Start(), aim, then.Start(), aim)
		edit, err := repair.Edit(doc.Encoding, ref, repair.Written(doc.Encoding, ref, fresh))
		if err != nil {
			return nil, err
		}
		edits = append(edits, edit)
	}
	return edits, nil
}

// Pasted says from which page of the folder pasted text was copied, if its references don't land as they are but would
// from there, and returns the edits of it that make them land here.
func (p *Page) Pasted(text string) (from string, edits []change.Edit) {
	doc := scan(p.Path, []byte(text))
	here := p.resolver()
	wanted := map[string]bool{}
	lost := false
	for i := range doc.References {
		value := doc.References[i].Value()
		t := here.Resolve(value)
		if part, _, _ := address.Split(value); part == "" || part[0] == '/' || t.Kind != address.Inside || t.Own {
			continue
		}
		l := p.Snapshot.Land(&t)
		lost = lost || l.File < 0
		wanted[value] = true
	}
	if !lost {
		return "", nil
	}
	for i := range p.Snapshot.Files {
		f := &p.Snapshot.Files[i]
		if f.Doc == nil || f.Path == p.Path {
			continue
		}
		seen := map[string]bool{}
		for k := range f.Doc.References {
			if written := f.Doc.References[k].Written; wanted[written] && p.Snapshot.Links(int32(i))[k].File >= 0 {
				seen[written] = true
			}
		}
		if len(seen) < len(wanted) {
			continue
		}
		doc.Base, doc.HasBase = f.Doc.Base, f.Doc.HasBase
		edits, err := movedReferences(Known(p.Snapshot, f.Path, doc), p, func(int) bool { return true })
		if err == nil && len(edits) > 0 {
			return f.Path, edits
		}
	}
	return "", nil
}

// content returns where a page's own content is: what is in its main element; else from its first heading on, up to
// its foot or the end of its body.
func (p *Page) content() (from, until int) {
	for i := range p.tags {
		if t := &p.tags[i]; t.Name == "main" && !t.Closing {
			until = p.endOf(i)
			from = t.End
			for from < until && isSpace(p.Text[from]) {
				from++
			}
			return from, until
		}
	}
	until = p.contentEnd()
	from = until
	for i := range p.tags {
		if t := &p.tags[i]; !t.Closing && len(t.Name) == 2 && t.Name[0] == 'h' && t.Name[1] >= '1' && t.Name[1] <= '6' {
			return min(t.Start, until), until
		}
		if t := &p.tags[i]; t.Name == "body" && !t.Closing {
			from = min(t.End, until)
		}
	}
	for from < until && bytes.IndexByte([]byte(" \n\t\r"), p.Text[from]) >= 0 {
		from++
	}
	return from, until
}

// Bare returns the bytes of the page without a pattern, as somebody who begins a site would write it.
func (n *New) Bare(s *site.Snapshot, to string) []byte {
	return []byte("<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n  <meta charset=\"utf-8\">\n  <title>" + markup.EscapeText(n.Title) +
		"</title>\n</head>\n<body>\n" + n.heading() + n.back(Open(s, to, nil)) + "</body>\n</html>\n")
}
