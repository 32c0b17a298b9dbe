package markup

import (
	"cmp"
	"slices"
	"strings"
)

// linearLimit is how many anchors are searched one by one rather than by the sorted table.
const linearLimit = 8

// sortAnchors makes the table by which anchors are found. Of those of one name the one that a fragment lands on
// comes first: an id before the name of an a element, what is in a template last.
func (d *Document) sortAnchors() {
	if len(d.Anchors) <= linearLimit {
		return
	}
	d.byName = make([]uint32, len(d.Anchors))
	for i := range d.byName {
		d.byName[i] = uint32(i)
	}
	slices.SortFunc(d.byName, func(a, b uint32) int {
		x, y := &d.Anchors[a], &d.Anchors[b]
		return cmp.Or(strings.Compare(x.Name, y.Name), cmp.Compare(x.rank(), y.rank()), cmp.Compare(a, b))
	})
}

// rank orders anchors of the same name by which one counts.
func (a *Anchor) rank() int {
	switch {
	case a.Inert:
		return 2
	case a.ByName:
		return 1
	}
	return 0
}

// Anchor returns the anchor that name lands on: the first element with that id, else the first a element with
// that name; nil if there is none.
func (d *Document) Anchor(name string) *Anchor {
	var best *Anchor
	if d.byName == nil {
		for i := range d.Anchors {
			if a := &d.Anchors[i]; a.Name == name && (best == nil || a.rank() < best.rank()) {
				best = a
			}
		}
	} else if at, found := slices.BinarySearchFunc(d.byName, name, func(i uint32, n string) int {
		return strings.Compare(d.Anchors[i].Name, n)
	}); found {
		best = &d.Anchors[d.byName[at]]
	}
	if best == nil || best.Inert {
		return nil
	}
	return best
}

// Indicated returns what a fragment, as it is in a URL, lands on (HTML standard, 7.4.6.4): an anchor, or
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
