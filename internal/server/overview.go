package server

import (
	"context"

	"arvel/api"
	"arvel/core/audit"
	"arvel/core/site"
)

// GetOverview answers with a folder at a glance.
func (s *Server) GetOverview(_ context.Context, r api.GetOverviewRequestObject) (api.GetOverviewResponseObject, error) {
	w, v, err := s.view(r.Folder)
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
	for way, n := range survey.Ways {
		out.Ways = append(out.Ways, api.WayCount{
			Way: api.WayCountWay(site.Way(way).String()), Sound: n[audit.Sound], Broken: n[audit.Broken], Fragile: n[audit.Fragile],
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
