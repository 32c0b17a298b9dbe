package plan

import (
	"bytes"
	"fmt"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/site"
)

// RenameID plans that an id of a page is called another name: it and every reference to it, the fragments of links from
// any page and what names it on its own page (for, headers, aria-…). source returns the bytes of a file; style sheets and
// scripts that speak of the id are looked through with it, and noted.
func RenameID(s *site.Snapshot, page, from, to string, source func(string) ([]byte, error)) *Plan {
	p := &Plan{}
	i, ok := s.Find(page)
	if !ok || s.Files[i].Doc == nil {
		p.Clashes = append(p.Clashes, "There is no page "+phrase.Mono(page)+" in the folder.")
		return p
	}
	f := &s.Files[i]
	anchor := f.Doc.Anchor(from)
	if fault := idFault(f, anchor, from, to); fault != "" {
		p.Clashes = append(p.Clashes, fault)
		return p
	}
	l := newRetargeter(p, s)
	own := l.idEdits(f, anchor, to)
	if len(p.Clashes) > 0 {
		return p
	}
	done := false
	for _, holder := range s.Referrers(i) {
		edits := l.renamed(holder, i, anchor, to)
		if holder == i {
			edits, done = append(edits, own...), true
		}
		p.change(&s.Files[holder], edits)
	}
	if !done {
		p.change(f, own)
	}
	p.mentions(s, i, anchor.Name, source)
	p.Set.Title = "The id " + phrase.Mono(from) + " on " + phrase.Mono(page) + " renamed to " + phrase.Mono(to)
	return p
}

// idFault says why an id can't be renamed (HTML standard, 3.2.6), as a sentence; "" if it can.
func idFault(f *site.File, anchor *markup.Anchor, from, to string) string {
	switch {
	case anchor == nil:
		return phrase.Mono(f.Path) + " has no id " + phrase.Mono(from) + "."
	case naming.IDFault(to) != "":
		return naming.IDFault(to)
	case from == to:
		return "It has this name already."
	case f.Doc.Anchor(to) != nil:
		return "Another element of " + phrase.Mono(f.Path) + " has the id " + phrase.Mono(to) + " already."
	}
	return ""
}

// idEdits returns the edits of the id itself, and of an a element's name that says the same as its id.
func (l *retargeter) idEdits(f *site.File, anchor *markup.Anchor, to string) (edits []change.Edit) {
	fresh, err := markup.Encode(markup.EscapeAttribute(to, 0, true), f.Doc.Encoding)
	if err != nil {
		l.Clashes = append(l.Clashes, fmt.Sprintf("%s has letters that %s, the encoding of %s, can't hold.", phrase.Mono(to), f.Doc.Encoding, phrase.Mono(f.Path)))
		return nil
	}
	others := 0
	for i := range f.Doc.Anchors {
		switch a := &f.Doc.Anchors[i]; {
		case a.Name != anchor.Name || a.Inert:
		case a.After == anchor.After:
			edits = append(edits, change.Edit{Start: int(a.Start), End: int(a.End), New: fresh})
			l.Rewrites = append(l.Rewrites, Rewrite{f.Path, int(a.Line), -1, a.Name, to, ""})
		default:
			others = int(a.Line)
		}
	}
	if others > 0 {
		l.Notes = append(l.Notes, Note{Page: f.Path, Line: others, Written: anchor.Name, Why: "is on another element too, which keeps it; links lead to the first one"})
	}
	return edits
}

// renamed returns the edits of a file's references to an anchor of another or the same file.
func (l *retargeter) renamed(holder, file int32, anchor *markup.Anchor, to string) (edits []change.Edit) {
	f, doc := &l.snapshot.Files[holder], l.snapshot.Files[file].Doc
	l.at(f)
	for k, link := range l.snapshot.Links(holder) {
		ref := &f.Doc.References[k]
		if link.File != file || !lands(l.snapshot, link) || ref.Flags&(markup.ByMap|markup.NoValue) != 0 {
			continue
		}
		value := ref.Value()
		target := l.snapshot.Files[file].Path + "#" + to
		if ref.Flags&markup.ByID != 0 {
			switch {
			case value == anchor.Name && !anchor.ByName:
				edits = l.put(edits, f, ref, to, target)
			case value == to:
				l.note(f, ref, "was broken before and will lead here")
			}
			continue
		}
		now := l.resolver.Resolve(value)
		switch a, top := doc.Indicated(now.Fragment, address.UnescapeFragment); {
		case a == anchor:
			start, fragment, _ := strings.Cut(value, "#")
			_, directive, has := strings.Cut(fragment, ":~:")
			if has {
				directive = ":~:" + directive
			}
			edits = l.put(edits, f, ref, start+"#"+address.EscapeFragment(to)+directive, target)
		case a == nil && !top && address.UnescapeFragment(now.Fragment) == to:
			l.note(f, ref, "was broken before and will lead here")
		}
	}
	return edits
}

// mentions notes where the page, its style sheets and its scripts speak of an id in other ways than by a reference: those
// are not rewritten, since they may mean an element of another page.
func (p *Plan) mentions(s *site.Snapshot, file int32, id string, source func(string) ([]byte, error)) {
	seen := map[int32]bool{}
	look := func(i int32) {
		f := &s.Files[i]
		src, err := source(f.Path)
		if err != nil || seen[i] {
			return
		}
		seen[i] = true
		for _, span := range code(f, src) {
			first := 1 + bytes.Count(src[:span[0]], []byte("\n"))
			for n, line := range bytes.Split(src[span[0]:span[1]], []byte("\n")) {
				if written := mentionOf(string(line), id); written != "" {
					p.Notes = append(p.Notes, Note{Page: f.Path, Line: first + n, Written: written, Why: "is in a style sheet or a script, which is not changed; change it by hand if it means this id"})
				}
			}
		}
	}
	look(file)
	for _, link := range s.Links(file) {
		if link.File >= 0 && (s.Files[link.File].Kind == site.Style || s.Files[link.File].Kind == site.Script) {
			look(link.File)
		}
	}
}

// code returns the stretches of a file that are style sheets or scripts.
func code(f *site.File, src []byte) [][2]int {
	if f.Kind != site.Page {
		return [][2]int{{0, len(src)}}
	}
	var out [][2]int
	tags := markup.Tags(src)
	for i := range tags {
		if t := &tags[i]; !t.Closing && (t.Name == "style" || t.Name == "script") {
			end := len(src)
			if i+1 < len(tags) {
				end = tags[i+1].Start
			}
			out = append(out, [2]int{t.End, end})
		}
	}
	return out
}

// mentionOf returns how a line of a style sheet or a script speaks of an id: as a selector, or as a string; "" if it does not.
func mentionOf(line, id string) string {
	for at := 0; ; {
		n := strings.Index(line[at:], "#"+id)
		if n < 0 {
			break
		}
		end := at + n + 1 + len(id)
		if end == len(line) || !isNamePart(line[end]) {
			return "#" + id
		}
		at = end
	}
	for _, q := range []string{`"`, "'"} {
		if call := "getElementById(" + q + id + q + ")"; strings.Contains(line, call) {
			return call
		}
	}
	return ""
}

// isNamePart reports whether a byte goes on with a name in CSS.
func isNamePart(c byte) bool {
	return c == '-' || c == '_' || '0' <= c && c <= '9' || 'a' <= c|0x20 && c|0x20 <= 'z' || c >= 0x80
}
