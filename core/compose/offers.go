package compose

import (
	"cmp"
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/site"
)

// Offer is something that can be referred to.
type Offer struct {
	// Written is what is written for it on the page.
	Written string
	// Target is its path in the folder with its fragment, or its address.
	Target string
	// Name tells it from others, Title is what it is called, Kind what it is: folder, page, image, heading, id, mailbox, site.
	Name, Title, Kind string
}

// NeedsID reports whether it is a heading without an id, which has to be given one before a link can lead there.
func (o Offer) NeedsID() bool { return o.Kind == "heading" && strings.HasSuffix(o.Target, "#") }

// Shown returns the target as it is shown.
func (o Offer) Shown() string { return strings.TrimSuffix(o.Target, "#") }

// offered is how many offers are made at once.
const offered = 60

// fitting are the kinds of file that elements refer to, besides those that any can; an element that is not here takes all.
var fitting = map[string][]string{
	"img": {"image"}, "source": {"image", "media"}, "input": {"image"}, "video": {"media", "image"}, "audio": {"media"}, "link": {"style", "image"}, "script": {"script"},
	"iframe": {"page"}, "frame": {"page"}, "form": {"page"}, "area": {"page"}, "a": {"page", "heading", "id", "mailbox", "site", "image", "document", "media", "file"},
}

// Fits reports whether an offer fits an element, by its name in lower case.
func (o *Offer) Fits(element string) bool {
	kinds, known := fitting[element]
	return !known || o.Kind == "folder" || slices.Contains(kinds, o.Kind)
}

// Complete returns what can be where value is being written in a reference on the page: what is in the folder that it
// names so far, the ids of the page before a "#", or the mailboxes that the folder writes to. Only what fits the element is.
func (p *Page) Complete(value, element string) []Offer {
	return slices.DeleteFunc(p.complete(value), func(o Offer) bool { return !o.Fits(element) })
}

// OfferOf returns the offer of a target: a path in the folder with its fragment. One that ends in "#" leads to the heading of
// those words, which is given an id. False if there is no such file.
func (p *Page) OfferOf(target, heading string) (Offer, bool) {
	file, fragment, has := strings.Cut(target, "#")
	i, ok := p.Snapshot.Find(file)
	if !ok {
		return Offer{}, false
	}
	if has && fragment == "" {
		return p.headingOffer(i, markup.Heading{Text: heading}), true
	}
	o := p.offer(file, p.AddressOf(target), false)
	if has {
		o.Target, o.Name, o.Kind, o.Title = target, path.Base(file)+"#"+fragment, "id", p.titleOf(target)
	}
	return o, true
}

// headingOffer returns the offer of a heading; one without an id is offered by the id that it would be given.
func (p *Page) headingOffer(file int32, h markup.Heading) Offer {
	f := &p.Snapshot.Files[file]
	id := h.ID
	if id == "" {
		id = Known(p.Snapshot, f.Path, p.docOf(file)).IDFor(h.Text)
	}
	return Offer{Written: p.AddressOf(f.Path + "#" + id), Target: f.Path + "#" + h.ID, Name: path.Base(f.Path) + "#" + id, Title: h.Text, Kind: "heading"}
}

func (p *Page) complete(value string) []Offer {
	if rest, ok := strings.CutPrefix(value, "mailto:"); ok {
		return p.mailboxes(rest)
	}
	if part, id, ok := strings.Cut(value, "#"); ok {
		return p.ids(part, id)
	}
	if address.SchemeOf(value) != "" {
		return nil
	}
	dirWritten := value[:strings.LastIndexByte(value, '/')+1]
	typed := strings.ToLower(address.Unescape(value[len(dirWritten):]))
	t := p.resolver().Resolve(cmp.Or(dirWritten, "./"))
	var out []Offer
	if f := p.Snapshot.Folders[t.Path]; t.Kind == address.Inside && f != nil {
		for _, n := range f.Names {
			if strings.HasPrefix(strings.ToLower(n), typed) {
				out = append(out, p.offer(path.Join(t.Path, n), dirWritten+strings.TrimPrefix(address.Relative("", n), "./"), strings.HasSuffix(n, "/")))
			}
		}
		if t.Path != "" && strings.HasPrefix("../", typed) && typed == "" && dirWritten == "" {
			out = append(out, Offer{Written: "../", Name: "../", Kind: "folder"})
		}
	}
	// And what is meant by its title or name, wherever it is.
	if len(typed) > 1 && dirWritten == "" {
		for _, o := range p.Search(typed, offered) {
			if !slices.ContainsFunc(out, func(q Offer) bool { return q.Written == o.Written }) {
				out = append(out, o)
			}
		}
	}
	return out[:min(len(out), offered)]
}

func (p *Page) offer(target, written string, folder bool) Offer {
	o := Offer{Written: written, Target: target, Name: path.Base(target), Kind: "folder"}
	if folder {
		o.Name += "/"
		return o
	}
	if i, ok := p.Snapshot.Find(target); ok {
		f := &p.Snapshot.Files[i]
		o.Kind = f.Kind.String()
		if f.Doc != nil {
			o.Title = f.Doc.Title
		}
	}
	return o
}

// ids returns the ids and headings of the page that part names, those that begin as typed.
func (p *Page) ids(part, typed string) []Offer {
	doc, target := p.Doc, p.Path
	if part != "" {
		t := p.resolver().Resolve(part)
		l := p.Snapshot.Land(&t)
		if l.File < 0 || p.Snapshot.Files[l.File].Doc == nil {
			return nil
		}
		doc, target = p.docOf(l.File), p.Snapshot.Files[l.File].Path
	}
	headings := map[string]string{}
	for i := range doc.Headings {
		headings[doc.Headings[i].ID] = doc.Headings[i].Text
	}
	var out []Offer
	for i := range doc.Anchors {
		a := &doc.Anchors[i]
		if a.Inert || doc.Anchor(a.Name) != a || !strings.HasPrefix(strings.ToLower(a.Name), strings.ToLower(typed)) || len(out) >= offered {
			continue
		}
		o := Offer{Written: part + "#" + address.EscapeFragment(a.Name), Target: target + "#" + a.Name, Name: "#" + a.Name, Kind: "id"}
		if text, ok := headings[a.Name]; ok {
			o.Title, o.Kind = text, "heading"
		}
		out = append(out, o)
	}
	return out
}

// mailboxes returns those that the folder's links write to.
func (p *Page) mailboxes(typed string) []Offer {
	var out []Offer
	seen := map[string]bool{}
	for i := range p.Snapshot.Files {
		doc := p.Snapshot.Files[i].Doc
		if doc == nil {
			continue
		}
		for k, l := range p.Snapshot.Links(int32(i)) {
			if l.Kind != site.EMail {
				continue
			}
			for _, to := range mailbox.Parse(doc.References[k].Value()).To {
				if !seen[to] && strings.HasPrefix(strings.ToLower(to), strings.ToLower(typed)) && mailbox.IsAddress(to) && len(out) < offered {
					seen[to] = true
					out = append(out, Offer{Written: "mailto:" + to, Target: "mailto:" + to, Name: to, Kind: "mailbox"})
				}
			}
		}
	}
	return out
}

// Search returns what in the folder has the words in its name, its title or a heading, what fits best first; and what
// was pasted, if it is an address of a site or a mailbox, whose scheme is added.
func (p *Page) Search(words string, most int) []Offer {
	words = strings.TrimSpace(words)
	if scheme := address.SchemeOf(words); scheme != "" && len(scheme) > 1 {
		return []Offer{{Written: words, Target: words, Name: words, Kind: map[bool]string{true: "mailbox", false: "site"}[scheme == "mailto"]}}
	}
	low := strings.ToLower(words)
	type match struct{ file, heading, rank, length int }
	var found []match
	for i := range p.Snapshot.Files {
		f := &p.Snapshot.Files[i]
		rank := fits(low, path.Base(f.Path), f.Path)
		if f.Doc != nil {
			rank = max(rank, fits(low, f.Doc.Title, f.Doc.Title))
		}
		if rank > 0 {
			found = append(found, match{i, -1, rank, len(f.Path)})
		}
		if f.Doc == nil || low == "" {
			continue
		}
		doc := p.docOf(int32(i))
		for k := range doc.Headings {
			if h := &doc.Headings[k]; h.ID == "" && h.Text == doc.Title {
				continue // that is the page
			}
			if rank := fits(low, doc.Headings[k].Text, doc.Headings[k].Text); rank > 0 {
				found = append(found, match{i, k, rank - 1, len(f.Path) + len(doc.Headings[k].ID)})
			}
		}
	}
	slices.SortStableFunc(found, func(a, b match) int { return cmp.Or(b.rank-a.rank, a.length-b.length) })
	out := make([]Offer, 0, min(len(found), most))
	for _, m := range found[:min(len(found), most)] {
		f := &p.Snapshot.Files[m.file]
		if m.heading < 0 {
			out = append(out, p.offer(f.Path, p.AddressOf(f.Path), false))
			continue
		}
		out = append(out, p.headingOffer(int32(m.file), p.docOf(int32(m.file)).Headings[m.heading]))
	}
	if mailbox.IsAddress(words) {
		out = append([]Offer{{Written: "mailto:" + words, Target: "mailto:" + words, Name: words, Kind: "mailbox"}}, out...)
	}
	if strings.Contains(words, ".") && !strings.ContainsAny(words, " @") && len(found) == 0 {
		out = append(out, Offer{Written: "https://" + words, Target: "https://" + words, Name: "https://" + words, Kind: "site"})
	}
	return out
}

// fits ranks how well words fit a name or a longer text: 5 for the whole, 4 for its beginning, 2 for a part, 0 for not.
func fits(low, name, whole string) int {
	name = strings.ToLower(name)
	switch {
	case low == "":
		return 1
	case name == low:
		return 5
	case strings.HasPrefix(name, low):
		return 4
	case strings.Contains(strings.ToLower(whole), low):
		return 2
	}
	return 0
}
