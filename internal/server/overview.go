package server

import (
	"context"

	"arvel/api"
	"arvel/core/audit"
	"arvel/core/repair"
	"arvel/core/site"
	"arvel/internal/workbench"
)

// lookLimit is how many broken references are looked at for whether they can be repaired with certainty, so that
// the overview comes at once.
const lookLimit = 500

// GetOverview answers with a folder at a glance.
func (s *Server) GetOverview(_ context.Context, r api.GetOverviewRequestObject) (api.GetOverviewResponseObject, error) {
	w, v, err := s.view(r.Folder)
	if err != nil {
		return nil, err
	}
	survey := v.Survey()
	out := api.GetOverview200JSONResponse{
		BrokenPages: survey.BrokenPages, Certain: certain(v), Sites: survey.Sites, Mailboxes: survey.Mailboxes,
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

// certain counts the broken references that have a certain repair; -1 where there are too many to look.
func certain(v *workbench.View) int {
	if v.Report.Counts.Broken > lookLimit {
		return -1
	}
	n := 0
	for i := range v.Snapshot.Files {
		for ref, state := range v.Report.States(int32(i)) {
			if state != audit.Broken {
				continue
			}
			if list := v.Repairs(int32(i), ref); len(list) > 0 && list[0].Certainty == repair.Certain {
				n++
			}
		}
	}
	return n
}
