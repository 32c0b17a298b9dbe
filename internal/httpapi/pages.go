package httpapi

import (
	"context"
	"slices"
	"strings"

	"arvel/api"
	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/explain"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/internal/workspace"

	"github.com/gin-gonic/gin"
)

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

// filter says which references a list is of.
type filter struct {
	view           *workspace.View
	state          audit.State
	way            site.LinkKind
	rule           string
	byState, byWay bool
}

func filterOf(v *workspace.View, state *api.State, way, rule *string) filter {
	f := filter{view: v}
	if state != nil {
		f.state, f.byState = audit.ParseState(string(*state))
	}
	if way != nil {
		f.way, f.byWay = site.ParseLinkKind(*way)
	}
	if rule != nil {
		f.rule = *rule
	}
	return f
}

// file reports whether a file has a reference that passes, or a finding of its own by the rule.
func (f *filter) file(file int32) bool {
	switch {
	case f.rule != "":
		for _, found := range f.view.Report.Findings(file) {
			if found.Rule.Name == f.rule && (found.Ref < 0 || f.reference(file, int(found.Ref))) {
				return true
			}
		}
		return false
	case !f.byWay:
		return !f.byState || f.view.Report.Tally(file, f.state) > 0
	}
	for i := range f.view.Snapshot.Links(file) {
		if f.reference(file, i) {
			return true
		}
	}
	return false
}

func (f *filter) reference(file int32, ref int) bool {
	if f.byState && f.view.Report.States(file)[ref] != f.state || f.byWay && f.view.Snapshot.Links(file)[ref].Kind != f.way {
		return false
	}
	if f.rule == "" {
		return true
	}
	for _, found := range f.view.Report.Of(file, ref) {
		if found.Rule.Name == f.rule {
			return true
		}
	}
	return false
}

// ListPages lists the pages of a folder.
func (h pages) ListPages(_ context.Context, r api.ListPagesRequestObject) (api.ListPagesResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	from, n := window(r.Params.Offset, r.Params.Limit)
	fits := contains(r.Params.Q)
	passes := filterOf(v, r.Params.State, r.Params.Way, r.Params.Rule)
	drafts := w.Drafts.Pages()
	out := api.ListPages200JSONResponse{Pages: []api.Page{}, All: len(v.Pages()), Others: len(v.Pages()) - v.Report.Counts.Pages}
	last := ""
	list := v.Pages()
	if r.Params.Rule != nil {
		list = v.Files() // a rule may be about any file
	}
	sorted := r.Params.Sort != nil && *r.Params.Sort == api.ListPagesParamsSortBroken
	if sorted {
		list = slices.Clone(list)
		slices.SortStableFunc(list, func(a, b int32) int { return v.Report.Tally(b, audit.Broken) - v.Report.Tally(a, audit.Broken) })
	}
	for _, i := range list {
		f := &v.Snapshot.Files[i]
		title := ""
		if f.Doc != nil {
			title = f.Doc.Title
		}
		if !fits(f.Path, title) || !passes.file(i) {
			continue
		}
		dir, _ := site.Cut(f.Path)
		if out.Total >= from && len(out.Pages) < n {
			p := page(v, i, title)
			p.Unsaved = drafts[f.Path]
			p.First, p.Untried = dir != last && !sorted, untried(v, i, w.Tried(v, i))
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

// untried counts the links that a visitor can follow and that the author did not; none where nothing was tried at all.
func untried(v *workspace.View, file int32, tried []bool) (n int) {
	if tried == nil {
		return 0
	}
	for i, st := range v.Report.States(file) {
		if v.Snapshot.Files[file].Doc.References[i].Role == markup.RoleLink && st != audit.Broken && st != audit.Inert && !tried[i] {
			n++
		}
	}
	return n
}

func page(v *workspace.View, i int32, title string) api.Page {
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
func (h pages) ListReferences(_ context.Context, r api.ListReferencesRequestObject) (api.ListReferencesResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	file, err := v.File(r.Params.Page)
	if err != nil {
		return nil, err
	}
	f := &v.Snapshot.Files[file]
	out := api.ListReferences200JSONResponse{Path: f.Path, References: []api.Reference{}, Notes: notes(v, file)}
	if f.Trouble != "" {
		out.Trouble = &f.Trouble
	}
	if f.Doc == nil {
		return out, nil
	}
	out.Title, out.Encoding, out.All = f.Doc.Title, &f.Doc.Encoding, len(f.Doc.References)
	from, n := window(r.Params.Offset, r.Params.Limit)
	fits := contains(r.Params.Q)
	passes := filterOf(v, r.Params.State, r.Params.Way, r.Params.Rule)
	keys, tried := workspace.Keys(f.Doc), w.Tried(v, file)
	out.Untried = untried(v, file, tried)
	for i, st := range v.Report.States(file) {
		ref := &f.Doc.References[i]
		done := tried != nil && tried[i]
		if !fits(ref.Written, ref.Text) || !passes.reference(file, i) {
			continue
		}
		if out.Total >= from && len(out.References) < n {
			one := reference(audit.NewCase(v.Snapshot, file, i), st, keys[i])
			one.Tried = done
			out.References = append(out.References, one)
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
	r := c.Ref
	return api.Reference{
		Key: key, Line: int(r.Line), Column: int(r.Column), Text: r.Text, Label: explain.Label(c), Written: r.Written,
		State: api.State(state.String()), Element: r.Element.String(), Attribute: r.Attribute.String(),
		Destination: destination(c, state), Opens: opens(c, state),
	}
}

// opens returns the page of the folder that following a reference opens, or the address outside; "" for none.
func opens(c *audit.Case, state audit.State) string {
	if f := c.Landed(); f != nil && f.IsPage() {
		return f.Path
	}
	if t := c.Target(); t.Kind == address.Web && state != audit.Broken {
		return t.URL
	}
	return ""
}

func destination(c *audit.Case, state audit.State) api.Destination {
	verb, where, note := explain.Destination(c)
	s := api.State(state.String())
	return api.Destination{State: &s, Verb: verb, Where: where, Note: note}
}

// notes are the findings on a file that are about no reference.
func notes(v *workspace.View, file int32) []api.Note {
	out := []api.Note{}
	for _, f := range v.Report.Findings(file) {
		if f.Ref < 0 {
			out = append(out, note(v, file, f))
		}
	}
	return out
}

func note(v *workspace.View, file int32, f audit.Finding) api.Note {
	c := audit.CaseOf(v.Snapshot, f, file)
	headline, sentence := f.Say(c)
	n := api.Note{Rule: f.Rule.Name, State: api.NoteState(f.State.String()), Headline: headline, Sentence: sentence}
	if c.Anchor != nil {
		n.Line = int(c.Anchor.Line)
	}
	return n
}

// GetOverview answers with a folder at a glance.
func (h pages) GetOverview(_ context.Context, r api.GetOverviewRequestObject) (api.GetOverviewResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	survey := v.Survey()
	certain, _ := v.Certain()
	out := api.GetOverview200JSONResponse{
		BrokenPages: survey.BrokenPages, BrokenFiles: survey.BrokenFiles, Certain: certain, Sites: survey.Sites, Mailboxes: survey.Mailboxes,
		Ways: []api.WayCount{}, Rules: []api.RuleCount{}, Folders: []api.FolderCount{},
	}
	for _, i := range v.Pages() {
		out.Untried += untried(v, i, w.Tried(v, i))
	}
	for way, n := range survey.LinkKinds {
		out.Ways = append(out.Ways, api.WayCount{
			Way: api.WayCountWay(site.LinkKind(way).String()), Sound: n[audit.Sound], Broken: n[audit.Broken], Fragile: n[audit.Fragile],
			Unchecked: n[audit.Unchecked], Inert: n[audit.Inert],
		})
	}
	for _, c := range survey.Rules {
		out.Rules = append(out.Rules, api.RuleCount{Rule: c.Rule.Name, State: api.RuleCountState(c.State.String()), Count: c.Count, First: c.First})
	}
	for _, f := range survey.Folders {
		path := f.Path
		if path != "" {
			path += "/"
		}
		out.Folders = append(out.Folders, api.FolderCount{Path: path, Pages: f.Pages, References: f.References, Broken: f.Broken})
	}
	return out, nil
}

// referrersShown is how many references that lead to a landmark are named.
const referrersShown = 50

// GetOutline answers with the headings and ids of a page, and who refers to them.
func (h pages) GetOutline(_ context.Context, r api.GetOutlineRequestObject) (api.GetOutlineResponseObject, error) {
	_, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	file, err := v.File(r.Params.Page)
	if err != nil {
		return nil, err
	}
	out := api.GetOutline200JSONResponse{Path: r.Params.Page, Landmarks: []api.Landmark{}}
	if doc := v.Snapshot.Files[file].Doc; doc != nil {
		out.Title = doc.Title
	}
	for _, l := range explain.Outline(v.Report, v.Snapshot, file) {
		mark := api.Landmark{
			Name: l.Name, Level: l.Level, Text: l.Text, Line: l.Line, ReferrersInAll: len(l.Referrers),
			Referrers: []api.Referrer{}, Notes: []api.Note{},
		}
		for _, f := range l.Findings {
			mark.Notes = append(mark.Notes, note(v, file, f))
		}
		for _, from := range l.Referrers[:min(len(l.Referrers), referrersShown)] {
			f := &v.Snapshot.Files[from.File]
			ref := &f.Doc.References[from.Ref]
			mark.Referrers = append(mark.Referrers, api.Referrer{
				Page: f.Path, Key: workspace.Key(f.Doc, int(from.Ref)), Line: int(ref.Line), Text: ref.Text, Written: ref.Written,
				Destination: destination(audit.NewCase(v.Snapshot, from.File, int(from.Ref)), v.Report.States(from.File)[from.Ref]),
			})
		}
		out.Landmarks = append(out.Landmarks, mark)
	}
	return out, nil
}

// GetPreview answers where a folder can be looked at.
func (h pages) GetPreview(ctx context.Context, r api.GetPreviewRequestObject) (api.GetPreviewResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	host := ""
	if c, ok := ctx.(*gin.Context); ok {
		host = c.Request.Host
	}
	address, enter, err := h.previews.Address(w, v, host)
	if err != nil {
		return nil, err
	}
	return api.GetPreview200JSONResponse{Address: address, Enter: enter}, nil
}
