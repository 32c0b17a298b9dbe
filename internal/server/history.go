package server

import (
	"context"

	"arvel/api"
	"arvel/core/letters"
	"arvel/internal/store"
)

// ApplyRepair writes a repair into its file.
func (s *Server) ApplyRepair(ctx context.Context, r api.ApplyRepairRequestObject) (api.ApplyRepairResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	id, key, err := w.Rewrite(ctx, r.Body.Page, r.Body.Key, r.Body.Written)
	if err != nil {
		return nil, err
	}
	return api.ApplyRepair200JSONResponse{Change: id, Key: key}, nil
}

// UndoChange takes a change set back.
func (s *Server) UndoChange(ctx context.Context, r api.UndoChangeRequestObject) (api.UndoChangeResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	id, left, err := w.Undo(ctx, r.Change, r.Params.Partly != nil && *r.Params.Partly)
	if err != nil {
		return nil, err
	}
	return api.UndoChange200JSONResponse{Change: id, Left: append([]string{}, left...)}, nil
}

// ListChanges lists a folder's history.
func (s *Server) ListChanges(_ context.Context, r api.ListChangesRequestObject) (api.ListChangesResponseObject, error) {
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	from, n := window(r.Params.Offset, r.Params.Limit)
	list, total, err := w.History(from, n)
	if err != nil {
		return nil, err
	}
	out := api.ListChanges200JSONResponse{Total: total, Changes: []api.Change{}}
	for _, c := range list {
		out.Changes = append(out.Changes, changeOf(c))
	}
	return out, nil
}

// UndoBackTo takes back a change and all that came after it.
func (s *Server) UndoBackTo(ctx context.Context, r api.UndoBackToRequestObject) (api.UndoBackToResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	n, err := w.UndoBackTo(ctx, r.Change)
	if err != nil {
		return nil, err
	}
	return api.UndoBackTo200JSONResponse{Undone: n}, nil
}

// GetDiff answers with a change as a unified diff.
func (s *Server) GetDiff(_ context.Context, r api.GetDiffRequestObject) (api.GetDiffResponseObject, error) {
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	text, err := w.Diff(r.Change)
	if err != nil {
		return nil, err
	}
	return api.GetDiff200TextResponse(text), nil
}

func changeOf(c store.Change) api.Change {
	out := api.Change{
		Id: c.ID, Title: c.Title, Made: c.Made, State: api.ChangeState(c.State),
		CanUndo: c.State == store.Done && c.UndoneBy == 0,
	}
	if c.Undoes != 0 {
		out.Undoes = &c.Undoes
	}
	if c.UndoneBy != 0 {
		out.UndoneBy = &c.UndoneBy
	}
	for _, f := range c.Files {
		file := api.ChangedFile{Path: f.Path, Kind: api.ChangedFileKind(f.Kind), Lines: []api.ChangedLine{}}
		if f.From != "" {
			file.From = &f.From
		}
		for _, e := range f.Edits {
			file.Lines = append(file.Lines, api.ChangedLine{Line: e.Line.Number, Runs: runsOf(letters.Align(e.Line.Before, e.Line.After))})
		}
		out.Files = append(out.Files, file)
	}
	return out
}
