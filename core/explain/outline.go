package explain

import (
	"cmp"
	"slices"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/site"
)

// Landmark is something on a page that fragments can land on, a heading that they can't for want of an id, or a
// name that is looked for and not there.
type Landmark struct {
	// Name is the id, or the name that is looked for; "" for a heading without an id.
	Name string
	// Level is a heading's, 1 to 6; 0 for what is no heading. Text is the heading's.
	Level int
	Text  string
	// Line is where it is, from 1; 0 for a name that is not there.
	Line int
	// Referrers are the references that lead there.
	Referrers []Referrer
	// Findings are what is wrong with the id.
	Findings []audit.Finding

	start uint32
}

// Referrer is a reference that leads to a landmark.
type Referrer struct{ File, Ref int32 }

// Outline returns the landmarks of a page: first the names that are looked for and not there, then what is there
// in the order of its bytes.
func Outline(r *audit.Report, s *site.Snapshot, file int32) []Landmark {
	doc := s.Files[file].Doc
	if doc == nil {
		return nil
	}
	var out []Landmark
	byName := map[string]int{}     // the landmark that each name lands on
	headings := map[string][]int{} // those that bear each id, in order
	for i := range doc.Headings {
		h := &doc.Headings[i]
		out = append(out, Landmark{Level: int(h.Level), Text: h.Text, Name: h.ID, Line: int(h.Line), start: h.NameEnd})
		headings[h.ID] = append(headings[h.ID], len(out)-1)
	}
	wrong := map[int32][]audit.Finding{} // by anchor
	for _, f := range r.Findings(file) {
		if f.Anchor >= 0 {
			wrong[f.Anchor] = append(wrong[f.Anchor], f)
		}
	}
	for i := range doc.Anchors {
		a := &doc.Anchors[i]
		if a.Inert {
			continue
		}
		at := len(out)
		if own := headings[a.Name]; len(own) > 0 && out[own[0]].start < a.Start {
			at, headings[a.Name] = own[0], own[1:]
		} else {
			out = append(out, Landmark{Name: a.Name, Line: int(a.Line), start: a.Start})
		}
		if doc.Anchor(a.Name) == a {
			byName[a.Name] = at
		}
		out[at].Findings = append(out[at].Findings, wrong[int32(i)]...)
	}
	there := len(out)
	resolver := address.NewResolver(s.Place)
	for _, page := range s.Referrers(file) {
		f := &s.Files[page]
		resolver.At(f.Path, f.Doc.Base, f.Doc.HasBase)
		for ref, l := range s.Links(page) {
			if l.File != file || !l.OnFile() {
				continue
			}
			t := resolver.Resolve(f.Doc.References[ref].Value())
			name := address.UnescapeFragment(t.Fragment)
			if a, _ := doc.Indicated(t.Fragment, address.UnescapeFragment); a != nil {
				name = a.Name
			} else if l.Outcome == site.Lands {
				continue // the top of the page
			}
			at, known := byName[name]
			if !known {
				out = append(out, Landmark{Name: name})
				at = len(out) - 1
				byName[name] = at
			}
			out[at].Referrers = append(out[at].Referrers, Referrer{page, int32(ref)})
		}
	}
	slices.SortStableFunc(out[:there], func(a, b Landmark) int { return cmp.Compare(a.start, b.start) })
	return append(slices.Clone(out[there:]), out[:there]...)
}
