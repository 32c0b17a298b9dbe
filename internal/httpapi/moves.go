package httpapi

import (
	"context"
	"maps"
	"path"
	"slices"
	"strings"

	"arvel/api"
	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/distance"
	"arvel/core/markup"
	"arvel/core/naming"
	"arvel/core/plan"
	"arvel/internal/workspace"
)

// GetTree lists what is in a folder within the opened one.
func (h moves) GetTree(_ context.Context, r api.GetTreeRequestObject) (api.GetTreeResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	dir := ""
	if r.Params.Path != nil {
		dir = strings.Trim(*r.Params.Path, "/")
	}
	out := api.GetTree200JSONResponse{}
	unsaved := slices.Collect(maps.Keys(w.Drafts.Pages()))
	for _, name := range w.EmptyFolders(v, dir) {
		out = append(out, treeEntry(v, path.Join(dir, name), name, true))
	}
	f := v.Snapshot.Folders[dir]
	if f == nil {
		return out, nil
	}
	for _, folders := range []bool{true, false} {
		for _, n := range f.Names {
			if name, is := strings.CutSuffix(n, "/"); is == folders {
				e := treeEntry(v, path.Join(dir, name), name, is)
				e.Unsaved = slices.ContainsFunc(unsaved, func(page string) bool {
					return page == e.Path || is && strings.HasPrefix(page, e.Path+"/")
				})
				out = append(out, e)
			}
		}
	}
	return out, nil
}

func treeEntry(v *workspace.View, p, name string, folder bool) api.TreeEntry {
	e := api.TreeEntry{Path: p, Name: name, Folder: folder, Kind: "folder"}
	if folder {
		p += "/"
	}
	fault := nameFault(p)
	e.Fault, e.Better = fault.Fault, fault.Better
	if i, ok := v.Snapshot.Find(p); ok && !folder {
		f := &v.Snapshot.Files[i]
		e.Kind, e.In, e.Broken = f.Kind.String(), len(v.Snapshot.Referrers(i)), v.Report.Tally(i, audit.Broken)
		if f.Doc != nil {
			e.Title, e.Out = f.Doc.Title, len(f.Doc.References)
		}
	}
	return e
}

// applied carries a plan out, if it is to be. It returns the change's id; 0 for a plan that was only asked for.
func applied(ctx context.Context, w *workspace.Session, p *workspace.Plan, carry bool) (int64, error) {
	if !carry {
		return 0, nil
	}
	return w.Apply(ctx, p)
}

// plannedShown is how many of a plan's references are listed at once.
const plannedShown = 300

func movesOf(m api.Moves) ([]plan.Move, plan.Options) {
	var o plan.Options
	if m.LeavePages != nil {
		o.LeavePages = *m.LeavePages
	}
	var out []plan.Move
	for _, one := range m.Moves {
		out = append(out, plan.Move{From: one.From, To: one.To})
	}
	return out, o
}

// PlanMoves answers with what follows from moves.
func (h moves) PlanMoves(_ context.Context, r api.PlanMovesRequestObject) (api.PlanMovesResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanMoves(movesOf(*r.Body))
	if err != nil {
		return nil, err
	}
	return api.PlanMoves200JSONResponse(planOf(v, &p.Plan, 0)), nil
}

// CheckName reports whether a name works everywhere.
func (h moves) CheckName(_ context.Context, r api.CheckNameRequestObject) (api.CheckNameResponseObject, error) {
	if _, err := h.session(r.Folder); err != nil {
		return nil, err
	}
	return api.CheckName200JSONResponse(nameFault(r.Params.Path)), nil
}

// nameFault says what is wrong with the last name of a path; that of a folder ends in a slash.
func nameFault(p string) api.NameFault {
	out := api.NameFault{Path: p}
	if dir, folder := strings.CutSuffix(p, "/"); folder {
		if out.Fault = naming.FolderFault(dir); out.Fault != "" {
			out.Better = naming.BetterFolder(dir)
		}
	} else if out.Fault = naming.FileFault(p); out.Fault != "" {
		out.Better = naming.BetterFile(p)
	}
	return out
}

// ListBetterNames lists the moves that make all names keep the naming rules.
func (h moves) ListBetterNames(_ context.Context, r api.ListBetterNamesRequestObject) (api.ListBetterNamesResponseObject, error) {
	_, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	out := api.ListBetterNames200JSONResponse{}
	for _, m := range plan.BetterNames(v.Snapshot) {
		out = append(out, api.Move{From: m.From, To: m.To})
	}
	return out, nil
}

// LeadElsewhere leads the references to one thing to another one.
func (h moves) LeadElsewhere(ctx context.Context, r api.LeadElsewhereRequestObject) (api.LeadElsewhereResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanRetarget(r.Body.From, r.Body.To, atsOf(r.Body.Leave))
	if err != nil {
		return nil, err
	}
	id, err := applied(ctx, w, p, r.Body.Carry)
	if err != nil {
		return nil, err
	}
	return api.LeadElsewhere200JSONResponse(planOf(v, &p.Plan, id)), nil
}

// RenameId renames an id.
func (h moves) RenameId(ctx context.Context, r api.RenameIdRequestObject) (api.RenameIdResponseObject, error) { //nolint:revive // the generated name
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanIDRename(r.Body.Page, r.Body.From, strings.TrimSpace(r.Body.To))
	if err != nil {
		return nil, err
	}
	id, err := applied(ctx, w, p, r.Body.Carry)
	if err != nil {
		return nil, err
	}
	return api.RenameId200JSONResponse(planOf(v, &p.Plan, id)), nil
}

// DeleteFiles deletes files and folders.
func (h moves) DeleteFiles(ctx context.Context, r api.DeleteFilesRequestObject) (api.DeleteFilesResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	var deletions []plan.Deletion
	for _, d := range r.Body.Files {
		deletions = append(deletions, plan.Deletion{Path: d.Path, Choice: plan.Choice(d.Choice), To: text(d.To)})
	}
	p, err := w.PlanDeletion(deletions)
	if err != nil {
		return nil, err
	}
	id, err := applied(ctx, w, p, r.Body.Carry)
	if err != nil {
		return nil, err
	}
	return api.DeleteFiles200JSONResponse(planOf(v, &p.Plan, id)), nil
}

// doneOf counts what a change set does.
func doneOf(set change.Set) api.Done {
	out := api.Done{Folders: len(set.Folders)}
	for i := range set.Files {
		f := &set.Files[i]
		switch f.Kind {
		case change.Moved:
			out.Moved++
		case change.Made:
			out.Made++
		case change.Deleted:
			out.Deleted++
		}
		if len(f.Edits) > 0 {
			out.Edited++
			out.References += len(f.Edits)
		}
	}
	return out
}

// keyOf returns the key of a reference that a plan rewrites; "" for what is none. keys are those of the pages that were
// asked for.
func keyOf(v *workspace.View, keys map[string][]string, one plan.Rewrite) string {
	known, ok := keys[one.Page]
	if !ok {
		if i, there := v.Snapshot.Find(one.Page); there && v.Snapshot.Files[i].Doc != nil {
			known = workspace.Keys(v.Snapshot.Files[i].Doc)
		}
		keys[one.Page] = known
	}
	if one.Ref < 0 || int(one.Ref) >= len(known) {
		return ""
	}
	return known[one.Ref]
}

func atsOf(list *[]api.At) (out []workspace.At) {
	if list != nil {
		for _, at := range *list {
			out = append(out, workspace.At{Page: at.Page, Key: at.Key})
		}
	}
	return out
}

func planOf(v *workspace.View, p *plan.Plan, change int64) api.Plan {
	out := api.Plan{
		Files: []api.Move{}, FilesInAll: len(p.Moves), Rewrites: []api.RewrittenReference{}, Told: []api.ToldReference{}, Faults: []api.NameFault{},
		Clashes: append([]string{}, p.Clashes...), RewritesInAll: len(p.Rewrites), ToldInAll: len(p.Notes),
		Deleted: []api.DeletedFile{}, DeletedInAll: len(p.Deleted), Lonely: append([]string{}, p.Unreferenced[:min(len(p.Unreferenced), plannedShown)]...), Change: change, Done: doneOf(p.Set),
	}
	keys := map[string][]string{}
	for _, d := range p.Deleted {
		out.LeadThere += d.Referrers
		if d.Referrers > 0 && len(out.Deleted) < plannedShown {
			out.Deleted = append(out.Deleted, api.DeletedFile{Path: d.Path, From: d.Referrers})
		}
	}
	touched := map[string]bool{}
	for _, m := range p.Moves {
		if len(out.Files) < plannedShown {
			out.Files = append(out.Files, api.Move{From: m.From, To: m.To})
		}
		if fault := nameFault(m.To); fault.Fault != "" && len(out.Faults) < plannedShown {
			out.Faults = append(out.Faults, fault)
		}
		touched[m.From] = true
	}
	pages := map[string]bool{}
	for _, one := range p.Rewrites {
		pages[one.Page], touched[one.Page] = true, true
		if len(out.Rewrites) < plannedShown {
			row := api.RewrittenReference{Page: one.Page, Key: keyOf(v, keys, one), Line: one.Line, Written: one.After, Runs: runsOf(distance.Align(one.Before, one.After))}
			if one.Target != "" {
				row.Destination = &api.Destination{Verb: "will lead to", Where: one.Target}
			}
			out.Rewrites = append(out.Rewrites, row)
		}
	}
	out.Pages = len(pages)
	for _, t := range p.Notes[:min(len(p.Notes), plannedShown)] {
		out.Told = append(out.Told, api.ToldReference{Page: t.Page, Line: t.Line, Written: t.Written, Why: t.Why})
	}
	for page := range touched {
		if i, ok := v.Snapshot.Find(page); ok && v.Snapshot.Files[i].Doc != nil {
			for k := range v.Snapshot.Files[i].Doc.References {
				if v.Snapshot.Files[i].Doc.References[k].Element == markup.Script {
					out.Scripts++
				}
			}
		}
	}
	return out
}

// CarryMoves carries moves out.
func (h moves) CarryMoves(ctx context.Context, r api.CarryMovesRequestObject) (api.CarryMovesResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanMoves(movesOf(*r.Body))
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, p)
	if err != nil {
		return nil, err
	}
	return api.CarryMoves200JSONResponse(planOf(v, &p.Plan, id)), nil
}

// ListDepartures lists the moves that were made elsewhere.
func (h moves) ListDepartures(_ context.Context, r api.ListDeparturesRequestObject) (api.ListDeparturesResponseObject, error) {
	_, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	out := api.ListDepartures200JSONResponse{}
	for _, d := range v.PendingMoves() {
		out = append(out, api.Departure{From: d.From, To: d.To, Files: d.Files, Same: d.Identical, Sure: d.Certain, Still: d.Behind, Inside: d.Inside})
	}
	return out, nil
}

// AnswerDepartures lets references follow moves that were made elsewhere, or forgets them.
func (h moves) AnswerDepartures(ctx context.Context, r api.AnswerDeparturesRequestObject) (api.AnswerDeparturesResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	var moves []plan.Move
	for _, m := range r.Body.Moves {
		moves = append(moves, plan.Move{From: m.From, To: m.To})
	}
	if r.Body.Follow {
		p, err := w.PlanFollow(moves)
		if err != nil {
			return nil, err
		}
		id, err := w.Apply(ctx, p)
		if err != nil {
			return nil, err
		}
		return api.AnswerDepartures200JSONResponse{Change: &id}, nil
	}
	for _, m := range moves {
		if err := w.DismissMove(m.From); err != nil {
			return nil, err
		}
	}
	return api.AnswerDepartures200JSONResponse{}, nil
}

// MakeFolder makes a folder.
func (h moves) MakeFolder(ctx context.Context, r api.MakeFolderRequestObject) (api.MakeFolderResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanFolder(strings.Trim(r.Body.Path, "/"))
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, p)
	if err != nil {
		return nil, err
	}
	return api.MakeFolder200JSONResponse{Change: id}, nil
}
