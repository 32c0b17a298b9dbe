package httpapi

import (
	"context"
	"net/url"
	"slices"
	"strings"

	"arvel/api"
	"arvel/core/audit"
	"arvel/core/distance"
	"arvel/core/explain"
	"arvel/core/phrase"
	"arvel/core/repair"
	"arvel/core/site"
	"arvel/internal/workspace"
)

// ApplyRepair writes a repair into its file.
func (h repairs) ApplyRepair(ctx context.Context, r api.ApplyRepairRequestObject) (api.ApplyRepairResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanRewrite(r.Body.Page, r.Body.Key, r.Body.Written)
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, &p.Plan)
	if err != nil {
		return nil, err
	}
	return api.ApplyRepair200JSONResponse{Change: id, Key: p.Key(w.View())}, nil
}

// ListCauses lists what the findings have in common.
func (h repairs) ListCauses(_ context.Context, r api.ListCausesRequestObject) (api.ListCausesResponseObject, error) {
	_, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	out := api.ListCauses200JSONResponse{Causes: []api.Cause{}, Broken: v.Report.Counts.Broken, Fragile: v.Report.Counts.Fragile}
	out.Certain, out.CertainFragile = v.Certain()
	causes := v.Causes()
	for i := range causes {
		out.Causes = append(out.Causes, causeOf(v, &causes[i], causes))
	}
	return out, nil
}

// keyText writes a key as one text: its parts, encoded, with slashes between them.
func keyText(k repair.Key) string {
	return string(k.Kind) + "/" + url.PathEscape(k.Subject) + "/" + url.PathEscape(k.Other)
}

// keyOfText reads what keyText wrote; the zero Key, which is that of no cause, for anything else.
func keyOfText(text string) repair.Key {
	parts := strings.Split(text, "/")
	if len(parts) != 3 {
		return repair.Key{}
	}
	subject, err := url.PathUnescape(parts[1])
	other, err2 := url.PathUnescape(parts[2])
	if err != nil || err2 != nil {
		return repair.Key{}
	}
	return repair.Key{Kind: repair.KeyKind(parts[0]), Subject: subject, Other: other}
}

func causeOf(v *workspace.View, c *repair.Cause, causes []repair.Cause) api.Cause {
	out := api.Cause{
		Key: keyText(c.Key), Kind: c.Kind, Message: c.Message, Evidence: c.Evidence, Findings: len(c.Findings), Broken: c.Broken,
		State: api.CauseState(c.Worst().String()), Certainty: c.Certainty, Repairable: c.Repairable, Certain: c.Certain,
		MissingFolder: c.MissingFolder(), Least: api.CauseLeast(c.Key.Least().String()), Rules: []string{}, Folders: []string{},
	}
	file := int32(-1)
	for _, e := range c.Findings {
		if name := e.Finding.Rule.Name; !slices.Contains(out.Rules, name) {
			out.Rules = append(out.Rules, name)
		}
		if e.File == file {
			continue
		}
		file = e.File
		dir, _ := site.Cut(v.Snapshot.Files[file].Path)
		if dir = strings.TrimPrefix(dir+"/", "/"); !slices.Contains(out.Folders, dir) {
			out.Folders = append(out.Folders, dir)
		}
	}
	if all := repair.KindOf(c, causes); all != (repair.Key{}) {
		out.KindKey, out.KindTitle = keyText(all), repair.KindTitle(all, all.Count(causes))
	}
	return out
}

// GetCause answers with the references that a cause touches.
func (h repairs) GetCause(_ context.Context, r api.GetCauseRequestObject) (api.GetCauseResponseObject, error) {
	_, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	c, err := v.Cause(keyOfText(r.Params.Key))
	if err != nil {
		return nil, err
	}
	from, n := window(r.Params.Offset, r.Params.Limit)
	out := api.GetCause200JSONResponse{Cause: causeOf(v, c, v.Causes()), Total: len(c.Findings), Rows: []api.CauseRow{}, Holding: slices.Concat([]string{}, v.Planner().Holding(c)), Mends: mendsAll(c)}
	for _, e := range c.Findings[min(from, len(c.Findings)):min(from+n, len(c.Findings))] {
		out.Rows = append(out.Rows, causeRow(v, e, c.Key.Least()))
	}
	return out, nil
}

func causeRow(v *workspace.View, e repair.Explained, least repair.Certainty) api.CauseRow {
	c := audit.CaseOf(v.Snapshot, e.Finding, e.File)
	row := api.CauseRow{Page: c.File.Path, State: api.CauseRowState(e.Finding.State.String()), Runs: []api.Run{}, Line: 1}
	row.Headline, _ = e.Finding.Say(c)
	if c.Anchor != nil {
		row.Line, row.Written = int(c.Anchor.Line), c.Anchor.Name
	}
	if c.Ref == nil {
		return row
	}
	row.Key, row.Line, row.Written, row.Text = workspace.Key(c.File.Doc, int(e.Finding.Ref)), int(c.Ref.Line), c.Ref.Written, c.Ref.Text
	lands := destination(c, v.Report.States(e.File)[e.Finding.Ref])
	row.Destination = &lands
	if len(e.Repairs) > 0 && e.Repairs[0].Certainty >= least {
		best := e.Repairs[0]
		row.Then, row.Certainty, row.Why, row.Target = best.Written, best.Certainty.String(), best.Why, best.Target
		row.Runs = runsOf(distance.Align(c.Ref.Written, best.Written))
	}
	return row
}

// GetCauseDiff answers with what repairing a cause changes.
func (h repairs) GetCauseDiff(_ context.Context, r api.GetCauseDiffRequestObject) (api.GetCauseDiffResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	key := keyOfText(r.Params.Key)
	p, err := w.PlanRepairs(key, key.Least(), nil)
	if err != nil {
		return nil, err
	}
	text, err := w.Unified(p.Set)
	return api.GetCauseDiff200TextResponse(text), err
}

// RepairCauses writes the best repairs of causes.
func (h repairs) RepairCauses(ctx context.Context, r api.RepairCausesRequestObject) (api.RepairCausesResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	least, known := repair.ParseCertainty(string(r.Body.Certainty))
	if !known {
		return nil, &workspace.SettingError{Sentence: "A repair is certain, likely or possible, not " + phrase.Mono(string(r.Body.Certainty)) + "."}
	}
	key := keyOfText(text(r.Body.Key))
	if key == (repair.Key{}) && text(r.Body.Key) != "" {
		return nil, &workspace.GoneError{Sentence: "This cause no longer exists."}
	}
	p, err := w.PlanRepairs(key, least, atsOf(r.Body.Leave))
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, &p.Plan)
	if err != nil {
		return nil, err
	}
	return api.RepairCauses200JSONResponse{Change: id, Repaired: len(p.Picks), Broken: p.Broken}, nil
}

// TakeCauseAway takes the references of a cause away.
func (h repairs) TakeCauseAway(ctx context.Context, r api.TakeCauseAwayRequestObject) (api.TakeCauseAwayResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanTakeAway(keyOfText(r.Params.Key))
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, p)
	if err != nil {
		return nil, err
	}
	return api.TakeCauseAway200JSONResponse{Change: id, Taken: len(p.Rewrites), Left: len(p.Notes)}, nil
}

// MendTags puts right what a rule found in the tags of references.
func (h repairs) MendTags(ctx context.Context, r api.MendTagsRequestObject) (api.MendTagsResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanMend(r.Body.Rule, workspace.At{Page: text(r.Body.Page), Key: text(r.Body.Key)}, keyOfText(text(r.Body.Cause)))
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, p)
	if err != nil {
		return nil, err
	}
	return api.MendTags200JSONResponse{Change: id, Mended: len(p.Rewrites), Left: len(p.Notes)}, nil
}

// mendsAll returns what can be done in the tags of all references of a cause at once.
func mendsAll(c *repair.Cause) api.Mending {
	rule := c.Findings[0].Finding.Rule.Name
	for _, e := range c.Findings {
		if e.Finding.Rule.Name != rule || rule == "missing-alt" { // what a picture shows is said one by one
			return api.Mending{}
		}
	}
	if label := explain.Mends(rule); label != "" {
		return api.Mending{Rule: rule, Label: label}
	}
	return api.Mending{}
}

// SetCauseAside sets all findings of a cause aside.
func (h repairs) SetCauseAside(_ context.Context, r api.SetCauseAsideRequestObject) (api.SetCauseAsideResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	return api.SetCauseAside204Response{}, w.SetCauseAside(keyOfText(r.Params.Key), r.Body.Reason)
}
