package httpapi

import (
	"cmp"
	"context"
	"maps"
	"slices"

	"arvel/api"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/explain"
	"arvel/internal/workspace"
)

// GetSettings answers with what is set for a folder.
func (h hosting) GetSettings(_ context.Context, r api.GetSettingsRequestObject) (api.GetSettingsResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	return api.GetSettings200JSONResponse(settingsOf(w)), nil
}

// SetSettings keeps settings and judges the folder by them.
func (h hosting) SetSettings(_ context.Context, r api.SetSettingsRequestObject) (api.SetSettingsResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	kept := workspace.Settings{
		Published: r.Body.Published, Off: r.Body.Off, IndexNames: r.Body.IndexNames, HistoryDays: number(r.Body.HistoryDays, 0), HistoryMegabytes: number(r.Body.HistoryMegabytes, 0),
	}
	for _, p := range r.Body.Places {
		kept.Places = append(kept.Places, workspace.PlaceSetting{Place: workspace.PlaceName(p.Place), IgnoreCase: p.IgnoreCase, Ticked: p.Ticked, Chosen: p.Chosen})
	}
	if err := w.SetSettings(kept); err != nil {
		return nil, err
	}
	return api.SetSettings200JSONResponse(settingsOf(w)), nil
}

func settingsOf(w *workspace.Session) api.Settings {
	kept := w.Settings()
	rules := []string{}
	for _, rule := range rule.All.List() {
		rules = append(rules, rule.Name)
	}
	out := api.Settings{
		Places: []api.Place{}, Published: kept.Published, Off: append([]string{}, kept.Off...), IndexNames: append([]string{}, kept.IndexNames...), Rules: &rules,
		HistoryDays: &kept.HistoryDays, HistoryMegabytes: &kept.HistoryMegabytes,
	}
	for _, p := range kept.Places {
		one := api.Place{Place: p.Place, IgnoreCase: p.IgnoreCase, Ticked: p.Ticked, Chosen: p.Chosen}
		if parsed, err := w.Place(p); err == nil {
			phrase := parsed.Phrase()
			one.Phrase = &phrase
		}
		out.Places = append(out.Places, one)
	}
	if v := w.View(); v != nil {
		out.PublishedFound = &v.Snapshot.Place.Published
	}
	return out
}

// GetHosting answers with what differs between the places.
func (h hosting) GetHosting(_ context.Context, r api.GetHostingRequestObject) (api.GetHostingResponseObject, error) {
	_, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	places, differing, counts := v.PlaceDifferences()
	out := api.GetHosting200JSONResponse{Places: []api.PlaceCount{}, Rows: []api.FateRow{}, Names: []api.NameFault{}}
	for i, p := range places {
		out.Places = append(out.Places, api.PlaceCount{Place: p.String(), Phrase: p.Whole(), Broken: counts[i].Broken, Fragile: counts[i].Fragile})
	}
	from, n := window(r.Params.Offset, r.Params.Limit)
	fits := contains(r.Params.Q)
	for _, f := range differing {
		file := &v.Snapshot.Files[f.File]
		ref := &file.Doc.References[f.Ref]
		if !fits(file.Path, ref.Written) {
			continue
		}
		if out.Total >= from && len(out.Rows) < n {
			row := api.FateRow{Page: file.Path, Key: workspace.Key(file.Doc, int(f.Ref)), Line: int(ref.Line), Written: ref.Written}
			for i, p := range places {
				row.Fates = append(row.Fates, api.Fate{State: api.State(f.States[i].String()), Says: explain.AtPlace(v.Snapshot, f, p)})
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
func (h hosting) ListAside(_ context.Context, r api.ListAsideRequestObject) (api.ListAsideResponseObject, error) {
	_, v, err := h.view(r.Folder)
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
func (h hosting) SetAside(_ context.Context, r api.SetAsideRequestObject) (api.SetAsideResponseObject, error) {
	w, _, err := h.view(r.Folder)
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
