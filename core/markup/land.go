package markup

import (
	"slices"
	"strings"
)

// linearLimit is how many anchors are searched one by one rather than by the sorted table.
const linearLimit = 8

// sortAnchors makes the table by which anchors are found.
func (d *Document) sortAnchors() {
	if len(d.Anchors) <= linearLimit {
		return
	}
	d.byName = make([]uint32, len(d.Anchors))
	for i := range d.byName {
		d.byName[i] = uint32(i)
	}
	slices.SortFunc(d.byName, func(a, b uint32) int {
		if c := strings.Compare(d.Anchors[a].Name, d.Anchors[b].Name); c != 0 {
			return c
		}
		return int(a) - int(b)
	})
}

// Anchor returns the anchor that name lands on: the first element with that id, else the first a element with
// that name; nil if there is none.
func (d *Document) Anchor(name string) *Anchor {
	var byName *Anchor
	consider := func(a *Anchor) bool {
		if a.Inert {
			return false
		}
		if a.ByName && byName == nil {
			byName = a
		}
		return !a.ByName
	}
	if d.byName == nil {
		for i := range d.Anchors {
			if a := &d.Anchors[i]; a.Name == name && consider(a) {
				return a
			}
		}
		return byName
	}
	at, _ := slices.BinarySearchFunc(d.byName, name, func(i uint32, n string) int {
		return strings.Compare(d.Anchors[i].Name, n)
	})
	for ; at < len(d.byName) && d.Anchors[d.byName[at]].Name == name; at++ {
		if a := &d.Anchors[d.byName[at]]; consider(a) {
			return a
		}
	}
	return byName
}

// Indicated returns what a fragment, as it stands in a URL, lands on (HTML standard, 7.4.6.4): an anchor, or
// top for the top of the page; neither if it lands nowhere. decode percent-decodes it.
func (d *Document) Indicated(fragment string, decode func(string) string) (a *Anchor, top bool) {
	fragment, _, _ = strings.Cut(fragment, ":~:")
	if fragment == "" {
		return nil, true
	}
	if a = d.Anchor(fragment); a != nil {
		return a, false
	}
	decoded := decode(fragment)
	if decoded != fragment {
		if a = d.Anchor(decoded); a != nil {
			return a, false
		}
	}
	return nil, strings.EqualFold(decoded, "top")
}
