package compose

import (
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/site"
)

// AddressOf returns what is written on the page for a target: a path in the folder, with its fragment, or an address outside.
// It is relative or root-relative as most of the page's references are, and names index pages or leaves them out as they
// do.
func (p *Page) AddressOf(target string) string {
	if address.SchemeOf(target) != "" || strings.HasPrefix(target, "//") {
		return target
	}
	file, fragment, has := strings.Cut(target, "#")
	if has {
		fragment = "#" + address.EscapeFragment(fragment)
	}
	if file == p.Path && has && !p.Doc.HasBase {
		return fragment
	}
	if dir, name := site.Cut(file); slices.Contains(p.Snapshot.IndexNames, name) && p.indexLeftOut() {
		file = strings.TrimPrefix(dir+"/", "/")
	}
	if t := p.resolver().Resolve("."); p.Doc.HasBase && t.Kind == address.Web && p.Snapshot.Place.Published != "" {
		return p.Snapshot.Place.Publish("https://", file) + fragment // its base element leads all that is relative to another host
	}
	if p.rooted() {
		return p.Snapshot.Place.Mount + strings.TrimPrefix(address.Relative("", file), "./") + fragment
	}
	return address.Relative(p.start(), file) + fragment
}

// usesLeadingSlash reports whether most of the page's references into the folder begin with a slash.
func (p *Page) usesLeadingSlash() bool {
	rooted, all := 0, 0
	for i := range p.Doc.References {
		v := p.Doc.References[i].Value()
		if v == "" || v[0] == '#' || address.SchemeOf(v) != "" || strings.HasPrefix(v, "//") {
			continue
		}
		all++
		if v[0] == '/' {
			rooted++
		}
	}
	return rooted*2 > all
}

// omitsIndex reports whether the page, or else the folder, leaves out the names of index pages more often than not.
func (p *Page) omitsIndex() bool {
	out, in := 0, 0
	count := func(d *markup.Document) {
		for i := range d.References {
			part, _, _ := address.Split(d.References[i].Written)
			switch name := path.Base(part); {
			case address.SchemeOf(part) != "" || part == "":
			case strings.HasSuffix(part, "/"):
				out++
			case slices.Contains(p.Snapshot.IndexNames, name):
				in++
			}
		}
	}
	count(p.Doc)
	for i := 0; out+in == 0 && i < min(len(p.Snapshot.Files), 200); i++ {
		if d := p.Snapshot.Files[i].Doc; d != nil {
			count(d)
		}
	}
	return out > in
}

// attribute writes a value as it is in a double-quoted attribute.
func attribute(value string) string { return markup.EscapeAttribute(value, '"', true) }
