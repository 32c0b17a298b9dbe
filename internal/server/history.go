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
	id, err := w.Undo(ctx, r.Change)
	if err != nil {
		return nil, err
	}
	return api.UndoChange200JSONResponse{Change: id}, nil
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
		file := api.ChangedFile{Path: f.Path, Lines: []api.ChangedLine{}}
		for _, e := range f.Edits {
			file.Lines = append(file.Lines, api.ChangedLine{Line: e.Line.Number, Runs: runsOf(letters.Align(e.Line.Before, e.Line.After))})
		}
		out.Files = append(out.Files, file)
	}
	return out
}
