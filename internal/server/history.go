package server

import (
	"context"

	"arvel/api"
	"arvel/core/letters"
	"arvel/internal/store"
)

// ApplyRepair writes a repair into its file.
func (s *Server) ApplyRepair(_ context.Context, r api.ApplyRepairRequestObject) (api.ApplyRepairResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	id, key, err := w.Rewrite(r.Body.Page, r.Body.Key, r.Body.Written)
	if err != nil {
		return nil, err
	}
	return api.ApplyRepair200JSONResponse{Change: id, Key: key}, nil
}

// UndoChange takes a change set back.
func (s *Server) UndoChange(_ context.Context, r api.UndoChangeRequestObject) (api.UndoChangeResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	id, left, err := w.Undo(r.Change, r.Params.Partly != nil && *r.Params.Partly)
	if err != nil {
		return nil, err
	}
	return api.UndoChange200JSONResponse{Change: id, Left: append([]string{}, left...)}, nil
}

// UndoLast takes back the last change that is in effect.
func (s *Server) UndoLast(_ context.Context, r api.UndoLastRequestObject) (api.UndoLastResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	c, err := w.UndoLast()
	if err != nil {
		return nil, err
	}
	return api.UndoLast200JSONResponse(changeOf(c)), nil
}

// Redo does the change again that was undone last.
func (s *Server) Redo(_ context.Context, r api.RedoRequestObject) (api.RedoResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	c, err := w.Redo()
	if err != nil {
		return nil, err
	}
	return api.Redo200JSONResponse(changeOf(c)), nil
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
	known, err := s.store.Folder(r.Folder)
	if err != nil {
		return nil, s.store.Explained(err)
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
func (s *Server) UndoBackTo(_ context.Context, r api.UndoBackToRequestObject) (api.UndoBackToResponseObject, error) {
	w, _, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	n, err := w.UndoBackTo(r.Change)
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
		Id: c.ID, Title: c.Title, Made: c.Made, State: api.ChangeState(c.State), Count: c.Count, Kind: api.ChangeKindChange,
		CanUndo: c.State == store.Done && c.UndoneBy == 0,
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
func (s *Server) GetChange(_ context.Context, r api.GetChangeRequestObject) (api.GetChangeResponseObject, error) {
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	c, err := w.Change(r.Change)
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
		for _, e := range f.Edits {
			if lines++; lines > linesShown {
				out.More++
				continue
			}
			file.Lines = append(file.Lines, api.ChangedLine{Line: e.Line.Number, Runs: runsOf(letters.Align(e.Line.Before, e.Line.After))})
		}
		if i < filesShown {
			out.Files = append(out.Files, file)
		}
	}
	return out, nil
}
