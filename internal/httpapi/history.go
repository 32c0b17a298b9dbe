package httpapi

import (
	"context"
	"slices"

	"arvel/api"
	"arvel/core/distance"
	"arvel/internal/workspace"
)

// UndoChange takes a change set back.
func (h history) UndoChange(ctx context.Context, r api.UndoChangeRequestObject) (api.UndoChangeResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanUndo(r.Change, r.Params.Partly != nil && *r.Params.Partly)
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, &p.Plan)
	if err != nil {
		return nil, err
	}
	return api.UndoChange200JSONResponse{Change: id, Left: append([]string{}, p.Left...)}, nil
}

// UndoLast takes back the last change that is in effect.
func (h history) UndoLast(ctx context.Context, r api.UndoLastRequestObject) (api.UndoLastResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanUndoLast()
	if err != nil {
		return nil, err
	}
	if _, err := w.Apply(ctx, &p.Plan); err != nil {
		return nil, err
	}
	return api.UndoLast200JSONResponse(changeOf(p.Undone)), nil
}

// Redo does the change again that was undone last.
func (h history) Redo(ctx context.Context, r api.RedoRequestObject) (api.RedoResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanRedo()
	if err != nil {
		return nil, err
	}
	if _, err := w.Apply(ctx, &p.Plan); err != nil {
		return nil, err
	}
	return api.Redo200JSONResponse(changeOf(p.Undone)), nil
}

// ListChanges lists a folder's history.
func (h history) ListChanges(_ context.Context, r api.ListChangesRequestObject) (api.ListChangesResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	from, n := window(r.Params.Offset, r.Params.Limit)
	list, total, err := w.History.List(text(r.Params.Q), from, n)
	if err != nil {
		return nil, err
	}
	known, err := h.ws.Folder(r.Folder)
	if err != nil {
		return nil, err
	}
	out := api.ListChanges200JSONResponse{Total: total, Changes: []api.Change{}, Pruned: known.Pruned}
	if known.Pruned > 0 {
		out.PrunedUntil = &known.PrunedUntil
	}
	for _, c := range list {
		out.Changes = append(out.Changes, changeOf(c))
	}
	return out, nil
}

// UndoBackTo takes back a change and all that came after it.
func (h history) UndoBackTo(ctx context.Context, r api.UndoBackToRequestObject) (api.UndoBackToResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	n, left, err := w.UndoBackTo(ctx, r.Change)
	if err != nil {
		return nil, err
	}
	return api.UndoBackTo200JSONResponse{Undone: n, Left: slices.Concat([]string{}, left)}, nil
}

// GetDiff answers with a change as a unified diff.
func (h history) GetDiff(_ context.Context, r api.GetDiffRequestObject) (api.GetDiffResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	text, err := w.History.Diff(r.Change)
	if err != nil {
		return nil, err
	}
	return api.GetDiff200TextResponse(text), nil
}

func changeOf(c workspace.Change) api.Change {
	out := api.Change{
		Id: c.ID, Title: c.Title, Made: c.Made, State: api.ChangeState(c.State), Count: c.Count, Kind: api.ChangeKindChange,
		CanUndo: c.State == workspace.ChangeDone && c.UndoneBy == 0,
	}
	switch {
	case c.Depth%2 == 1:
		out.Kind = api.ChangeKindUndo
	case c.Depth > 0:
		out.Kind = api.ChangeKindRedo
	}
	if c.Undoes != 0 {
		out.Undoes = &c.Undoes
	}
	if c.UndoneBy != 0 {
		out.UndoneBy = &c.UndoneBy
	}
	return out
}

// linesShown is how many lines of a change are shown at once, filesShown how many of its files.
const (
	linesShown = 1000
	filesShown = 1000
)

// GetChange answers with a change and its lines.
func (h history) GetChange(_ context.Context, r api.GetChangeRequestObject) (api.GetChangeResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	c, err := w.History.Change(r.Change)
	if err != nil {
		return nil, err
	}
	out := api.GetChange200JSONResponse{Change: changeOf(c), Files: []api.ChangedFile{}, FilesInAll: len(c.Files)}
	lines := 0
	for i, f := range c.Files {
		file := api.ChangedFile{Path: f.Path, Kind: api.ChangedFileKind(f.Kind), Lines: []api.ChangedLine{}}
		if f.From != "" {
			file.From = &f.From
		}
		for _, line := range f.Lines {
			if lines++; lines > linesShown {
				out.More++
				continue
			}
			file.Lines = append(file.Lines, api.ChangedLine{Line: line.Number, Runs: runsOf(distance.Align(line.Before, line.After))})
		}
		if i < filesShown {
			out.Files = append(out.Files, file)
		}
	}
	return out, nil
}
