package server

import (
	"cmp"
	"context"
	"encoding/hex"
	"maps"
	"slices"

	"arvel/api"
	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/internal/store"
	"arvel/internal/workbench"
)

// GetSettings answers with what is set for a folder.
func (s *Server) GetSettings(_ context.Context, r api.GetSettingsRequestObject) (api.GetSettingsResponseObject, error) {
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	return api.GetSettings200JSONResponse(settingsOf(w)), nil
}

// SetSettings keeps settings and judges the folder by them.
func (s *Server) SetSettings(_ context.Context, r api.SetSettingsRequestObject) (api.SetSettingsResponseObject, error) {
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	kept := store.Settings{
		Published: r.Body.Published, Off: r.Body.Off, IndexNames: r.Body.IndexNames, HistoryDays: number(r.Body.HistoryDays, 0), HistoryMegabytes: number(r.Body.HistoryMegabytes, 0),
	}
	for _, p := range r.Body.Places {
		kept.Places = append(kept.Places, store.PlaceSetting{Place: p.Place, IgnoreCase: p.IgnoreCase, Ticked: p.Ticked, Chosen: p.Chosen})
	}
	if err := w.SetSettings(kept); err != nil {
		return nil, err
	}
	return api.SetSettings200JSONResponse(settingsOf(w)), nil
}

func settingsOf(w *workbench.Workbench) api.Settings {
	kept := w.Settings()
	rules := []string{}
	for _, rule := range audit.Rules {
		rules = append(rules, rule.Name)
	}
	out := api.Settings{
		Places: []api.Place{}, Published: kept.Published, Off: append([]string{}, kept.Off...), IndexNames: append([]string{}, kept.IndexNames...), Rules: &rules,
		HistoryDays: &kept.HistoryDays, HistoryMegabytes: &kept.HistoryMegabytes,
	}
	for _, p := range kept.Places {
		out.Places = append(out.Places, api.Place{Place: p.Place, IgnoreCase: p.IgnoreCase, Ticked: p.Ticked, Chosen: p.Chosen})
	}
	if v := w.View(); v != nil {
		out.PublishedFound = &v.Snapshot.Place.Published
	}
	return out
}

// GetHosting answers with what differs between the places.
func (s *Server) GetHosting(_ context.Context, r api.GetHostingRequestObject) (api.GetHostingResponseObject, error) {
	_, v, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	places, fates, counts := v.Fates()
	out := api.GetHosting200JSONResponse{Places: []api.PlaceCount{}, Rows: []api.FateRow{}, Names: []api.NameFault{}}
	for i, p := range places {
		out.Places = append(out.Places, api.PlaceCount{Place: p.String(), Phrase: p.Whole(), Broken: counts[i].Broken, Fragile: counts[i].Fragile})
	}
	from, n := window(r.Params.Offset, r.Params.Limit)
	fits := contains(r.Params.Q)
	for _, f := range fates {
		file := &v.Snapshot.Files[f.File]
		ref := &file.Doc.References[f.Ref]
		if !fits(file.Path, ref.Written) {
			continue
		}
		if out.Total >= from && len(out.Rows) < n {
			row := api.FateRow{Page: file.Path, Key: workbench.Key(file.Doc, int(f.Ref)), Line: int(ref.Line), Written: ref.Written}
			for i, p := range places {
				row.Fates = append(row.Fates, api.Fate{State: api.State(f.States[i].String()), Says: f.Says(v.Snapshot, p)})
			}
			out.Rows = append(out.Rows, row)
		}
		out.Total++
	}
	check := func(p string) {
		if fault := nameFault(p); fault.Fault != "" && len(out.Names) < namesShown {
			out.Names = append(out.Names, fault)
		}
	}
	for _, dir := range slices.Sorted(maps.Keys(v.Snapshot.Folders)) {
		check(dir + "/")
	}
	for i := range v.Snapshot.Files {
		check(v.Snapshot.Files[i].Path)
	}
	return out, nil
}

// namesShown is how many names that break the naming rules are listed at once.
const namesShown = 500

// ListAside lists the findings that are set aside.
func (s *Server) ListAside(_ context.Context, r api.ListAsideRequestObject) (api.ListAsideResponseObject, error) {
	_, v, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	out := api.ListAside200JSONResponse{}
	at := map[audit.Mark]int{}
	for i := range v.Snapshot.Files {
		for _, f := range v.Report.Aside(int32(i)) {
			m := audit.MarkOf(v.Snapshot, int32(i), f)
			if k, known := at[m]; known {
				out[k].Count++
				continue
			}
			at[m] = len(out)
			c := audit.CaseOf(v.Snapshot, f, int32(i))
			one := api.AsideFinding{Mark: api.Mark{Page: m.Page, Rule: m.Rule, Written: m.Written}, Reason: v.Report.Reason(m), Count: 1}
			one.Headline, _ = f.Say(c)
			switch {
			case c.Ref != nil:
				one.Line = int(c.Ref.Line)
			case c.Anchor != nil:
				one.Line = int(c.Anchor.Line)
			}
			out = append(out, one)
		}
	}
	slices.SortStableFunc(out, func(a, b api.AsideFinding) int { return cmp.Compare(a.Mark.Page, b.Mark.Page) })
	return out, nil
}

// SetAside sets findings aside or brings them back.
func (s *Server) SetAside(_ context.Context, r api.SetAsideRequestObject) (api.SetAsideResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	marks := make([]audit.Mark, len(r.Body.Marks))
	for i, m := range r.Body.Marks {
		marks[i] = audit.Mark{Page: m.Page, Rule: m.Rule, Written: m.Written}
	}
	if r.Body.Reason == nil {
		return api.SetAside204Response{}, w.BringBack(marks)
	}
	return api.SetAside204Response{}, w.SetAside(marks, *r.Body.Reason)
}

// GetSource answers with the text of a file and where its references stand in it.
func (s *Server) GetSource(_ context.Context, r api.GetSourceRequestObject) (api.GetSourceResponseObject, error) {
	w, v, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	file, err := v.File(r.Params.Page)
	if err != nil {
		return nil, err
	}
	src, err := w.Source(r.Params.Page)
	if err != nil {
		return nil, err
	}
	m := markup.NewMapper(src)
	hash := change.HashOf(src)
	out := api.GetSource200JSONResponse{Text: m.Text, Encoding: m.Encoding, Hash: hex.EncodeToString(hash[:]), Spans: spans(w, v, file, m, 0)}
	draft, ok, err := w.Draft(r.Params.Page)
	if err != nil {
		return nil, err
	}
	if ok {
		out.Draft = &api.Draft{Text: draft.Text, Base: hex.EncodeToString(draft.Base[:]), Stale: !draft.Base.Is(src)}
		if out.Draft.Stale {
			out.Draft.Difference = change.Compared("in the file", "not saved", m.Text, draft.Text)
		}
	}
	return out, nil
}
