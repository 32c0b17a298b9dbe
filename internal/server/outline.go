package server

import (
	"context"

	"arvel/api"
	"arvel/core/audit"
	"arvel/internal/workbench"
)

// referrersShown is how many references that lead to a landmark are named.
const referrersShown = 50

// GetOutline answers with the headings and ids of a page, and who refers to them.
func (s *Server) GetOutline(_ context.Context, r api.GetOutlineRequestObject) (api.GetOutlineResponseObject, error) {
	_, v, err := s.view(r.Folder)
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
	for _, l := range v.Report.Outline(v.Snapshot, file) {
		mark := api.Landmark{
			Name: l.Name, Level: l.Level, Text: l.Text, Line: l.Line, ReferrersInAll: len(l.From),
			Referrers: []api.Referrer{}, Notes: []api.Note{},
		}
		for _, f := range l.Findings {
			mark.Notes = append(mark.Notes, note(v, file, f))
		}
		for _, from := range l.From[:min(len(l.From), referrersShown)] {
			f := &v.Snapshot.Files[from.File]
			ref := &f.Doc.References[from.Ref]
			mark.Referrers = append(mark.Referrers, api.Referrer{
				Page: f.Path, Key: workbench.Key(f.Doc, int(from.Ref)), Line: int(ref.Line), Text: ref.Text, Written: ref.Written,
				Destination: destination(audit.NewCase(v.Snapshot, from.File, int(from.Ref)), v.Report.States(from.File)[from.Ref]),
			})
		}
		out.Landmarks = append(out.Landmarks, mark)
	}
	return out, nil
}
