package server

import (
	"context"
	"strings"

	"arvel/api"
	"arvel/core/audit"
	"arvel/core/site"
	"arvel/internal/workbench"
)

// view returns the open folder and its view.
func (s *Server) view(id int64) (*workbench.Workbench, *workbench.View, error) {
	w, err := s.desk.get(id)
	if err != nil {
		return nil, nil, err
	}
	v := w.View()
	if v == nil {
		if err := w.Problem(); err != nil {
			return nil, nil, err
		}
		return nil, nil, workbench.ErrNotReady
	}
	return w, v, nil
}

// window is the stretch of a list that is asked for.
func window(offset *api.Offset, limit *api.Limit) (from, n int) {
	n = 100
	if limit != nil {
		n = min(max(*limit, 1), 500)
	}
	if offset != nil {
		from = max(*offset, 0)
	}
	return from, n
}

// contains returns a test for whether one of some texts has the words typed in it, letter case aside.
func contains(q *string) func(texts ...string) bool {
	if q == nil || strings.TrimSpace(*q) == "" {
		return func(...string) bool { return true }
	}
	want := strings.ToLower(strings.TrimSpace(*q))
	return func(texts ...string) bool {
		for _, t := range texts {
			if strings.Contains(strings.ToLower(t), want) {
				return true
			}
		}
		return false
	}
}

// stateOf returns the state that a list is filtered by, if it is.
func stateOf(s *api.State) (audit.State, bool) {
	if s == nil {
		return 0, false
	}
	return audit.ParseState(string(*s))
}

// ListPages lists the pages of a folder.
func (s *Server) ListPages(_ context.Context, r api.ListPagesRequestObject) (api.ListPagesResponseObject, error) {
	_, v, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	from, n := window(r.Params.Offset, r.Params.Limit)
	fits := contains(r.Params.Q)
	state, filtered := stateOf(r.Params.State)
	out := api.ListPages200JSONResponse{Pages: []api.Page{}, All: len(v.Pages())}
	last := ""
	for _, i := range v.Pages() {
		f := &v.Snapshot.Files[i]
		title := ""
		if f.Doc != nil {
			title = f.Doc.Title
		}
		if filtered && v.Report.Tally(i, state) == 0 || !fits(f.Path, title) {
			continue
		}
		dir, _ := site.Cut(f.Path)
		if out.Total >= from && len(out.Pages) < n {
			p := page(v, i, title)
			p.First = dir != last
			out.Pages = append(out.Pages, p)
		}
		last = dir
		if r.Params.Find != nil && *r.Params.Find == f.Path {
			at := out.Total
			out.Found = &at
		}
		out.Total++
	}
	return out, nil
}

func page(v *workbench.View, i int32, title string) api.Page {
	f := &v.Snapshot.Files[i]
	dir, name := site.Cut(f.Path)
	if dir != "" {
		dir += "/"
	}
	p := api.Page{
		Path: f.Path, Folder: dir, Name: name, Title: title,
		Broken: v.Report.Tally(i, audit.Broken), Fragile: v.Report.Tally(i, audit.Fragile),
		Unchecked: v.Report.Tally(i, audit.Unchecked), Sound: v.Report.Tally(i, audit.Sound),
		Strip: strip(v.Report.States(i)),
	}
	if f.Doc != nil {
		p.References = len(f.Doc.References)
	}
	if f.Trouble != "" {
		p.Trouble = &f.Trouble
	}
	return p
}

// stripLimit is how many strokes a strip has at most.
const stripLimit = 48

// strip draws a page's references in reading order, a letter each; on long pages the worst of each stretch.
func strip(states []audit.State) string {
	n := min(len(states), stripLimit)
	out := make([]byte, n)
	for i := range out {
		worst := audit.Sound
		for _, s := range states[i*len(states)/n : (i+1)*len(states)/n] {
			worst = max(worst, s)
		}
		out[i] = worst.String()[0]
	}
	return string(out)
}

// ListReferences lists the references on a page.
func (s *Server) ListReferences(_ context.Context, r api.ListReferencesRequestObject) (api.ListReferencesResponseObject, error) {
	_, v, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	file, ok := v.Snapshot.Find(r.Params.Page)
	if !ok {
		return nil, &workbench.GoneError{Sentence: r.Params.Page + " is not in the folder any more."}
	}
	f := &v.Snapshot.Files[file]
	out := api.ListReferences200JSONResponse{Path: f.Path, References: []api.Reference{}}
	if f.Trouble != "" {
		out.Trouble = &f.Trouble
	}
	if f.Doc == nil {
		return out, nil
	}
	out.Title, out.Encoding, out.All = f.Doc.Title, &f.Doc.Encoding, len(f.Doc.References)
	from, n := window(r.Params.Offset, r.Params.Limit)
	fits := contains(r.Params.Q)
	state, filtered := stateOf(r.Params.State)
	keys := workbench.Keys(f.Doc)
	for i, st := range v.Report.States(file) {
		ref := &f.Doc.References[i]
		if filtered && st != state || !fits(ref.Written, ref.Text) {
			continue
		}
		if out.Total >= from && len(out.References) < n {
			out.References = append(out.References, reference(audit.NewCase(v.Snapshot, file, i), st, keys[i]))
		}
		if r.Params.Find != nil && *r.Params.Find == keys[i] {
			at := out.Total
			out.Found = &at
		}
		out.Total++
	}
	return out, nil
}

func reference(c *audit.Case, state audit.State, key string) api.Reference {
	verb, where, note := c.Destination()
	r := c.Ref
	return api.Reference{
		Key: key, Line: int(r.Line), Column: int(r.Column), Text: r.Text, Label: c.Label(), Written: r.Written,
		State: api.State(state.String()), Element: r.Element.String(), Attribute: r.Attribute.String(),
		Destination: api.Destination{Verb: verb, Where: where, Note: note},
	}
}
