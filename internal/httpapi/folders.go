package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"arvel/api"
	"arvel/core/site"
	"arvel/internal/version"
	"arvel/internal/workspace"
)

// GetSession answers with what the interface begins with.
func (h folders) GetSession(context.Context, api.GetSessionRequestObject) (api.GetSessionResponseObject, error) {
	home, _ := os.UserHomeDir() // "" where there is none
	out := api.GetSession200JSONResponse{Token: h.token, Nonce: h.nonce, Version: version.Number, Home: home}
	if h.start != 0 {
		out.Start = &h.start
	}
	return out, nil
}

// ListFolders lists the folders that were opened.
func (h folders) ListFolders(context.Context, api.ListFoldersRequestObject) (api.ListFoldersResponseObject, error) {
	list, err := h.ws.Folders()
	if err != nil {
		return nil, err
	}
	out := api.ListFolders200JSONResponse{}
	for _, f := range list {
		info, err := os.Stat(f.Path)
		out = append(out, api.KnownFolder{
			Id: f.ID, Path: f.Path, Name: filepath.Base(f.Path), Opened: f.Opened, There: err == nil && info.IsDir(),
		})
	}
	return out, nil
}

// OpenFolder opens a folder.
func (h folders) OpenFolder(_ context.Context, r api.OpenFolderRequestObject) (api.OpenFolderResponseObject, error) {
	if !filepath.IsAbs(r.Body.Path) {
		return nil, &workspace.OpenError{Path: r.Body.Path, Sentence: "Give the whole path of the folder, from the top of the disk."}
	}
	w, err := h.ws.Open(r.Body.Path)
	if err != nil {
		return nil, err
	}
	f, err := h.folder(w)
	return api.OpenFolder200JSONResponse(f), err
}

// GetFolder answers with the state of an open folder.
func (h folders) GetFolder(_ context.Context, r api.GetFolderRequestObject) (api.GetFolderResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	f, err := h.folder(w)
	return api.GetFolder200JSONResponse(f), err
}

// ForgetFolder closes a folder and forgets it.
func (h folders) ForgetFolder(_ context.Context, r api.ForgetFolderRequestObject) (api.ForgetFolderResponseObject, error) {
	return api.ForgetFolder204Response{}, h.ws.Forget(r.Folder)
}

// SetExclude sets what is left out of a folder and opens it anew.
func (h folders) SetExclude(_ context.Context, r api.SetExcludeRequestObject) (api.SetExcludeResponseObject, error) {
	w, err := h.ws.SetExclude(r.Folder, r.Body.Patterns)
	if err != nil {
		return nil, err
	}
	f, err := h.folder(w)
	return api.SetExclude200JSONResponse(f), err
}

func (h folders) folder(w *workspace.Session) (api.Folder, error) {
	known, err := h.ws.Folder(w.ID)
	if err != nil {
		return api.Folder{}, err
	}
	out := api.Folder{
		Id: w.ID, Path: w.Path(), Name: filepath.Base(w.Path()), State: api.FolderStateReading,
		Exclude: known.Exclude, Trouble: []string{},
	}
	if out.Exclude == nil {
		out.Exclude = workspace.DefaultExclude
	}
	out.Read, out.Total = w.Progress()
	if v := w.View(); v != nil {
		out.Place = v.Snapshot.Place.Whole()
		out.State, out.Version, out.ReadAt = api.FolderStateReady, int64(v.Version), &v.At
		out.Trouble = append(out.Trouble, v.Trouble...)
		out.Name = nameOf(v.Snapshot, out.Name)
		n := v.Report.Counts
		out.Counts = api.Counts{
			Files: n.Files, Pages: n.Pages, References: n.References, Sound: n.Sound, Broken: n.Broken,
			Fragile: n.Fragile, Unchecked: n.Unchecked, Inert: n.Inert,
		}
	}
	if err := w.Problem(); err != nil {
		problem := problemOf(err).Title
		out.State, out.Problem = api.FolderStateFailed, &problem
		var missing *workspace.MissingError
		gone := errors.As(err, &missing)
		out.Missing = &gone
	}
	if now := w.Work(); now != nil {
		out.Work = &api.Work{Title: now.Title, Done: now.Done, Total: now.Total}
	}
	return out, nil
}

// nameOf is the title of the home page, or else the folder's own name.
func nameOf(s *site.Snapshot, own string) string {
	if home := s.Folders[""].Index; home >= 0 {
		if doc := s.Files[home].Doc; doc != nil && doc.Title != "" {
			return doc.Title
		}
	}
	return own
}

// ListDisk lists the folders in a folder of the machine.
func (h folders) ListDisk(_ context.Context, r api.ListDiskRequestObject) (api.ListDiskResponseObject, error) {
	at, err := workspace.Browse(text(r.Params.Path))
	if err != nil {
		return nil, err
	}
	out := api.ListDisk200JSONResponse{Path: at.Path, Folders: []api.DiskEntry{}, Pages: api.PageCount(at.Pages)}
	if at.Parent != "" {
		out.Parent = &at.Parent
	}
	for _, f := range at.Folders {
		out.Folders = append(out.Folders, api.DiskEntry{Name: filepath.Base(f.Path), Path: f.Path, Pages: api.PageCount(f.Pages)})
	}
	return out, nil
}

// StopWork stops what is being done in a folder.
func (h folders) StopWork(_ context.Context, r api.StopWorkRequestObject) (api.StopWorkResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	w.Stop()
	return api.StopWork204Response{}, nil
}

// Listen streams the events of a folder.
func (h folders) Listen(ctx context.Context, r api.ListenRequestObject) (api.ListenResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	return &eventStream{ctx, w}, nil
}

// eventStream writes server-sent events until the client or the folder is gone.
type eventStream struct {
	ctx context.Context
	w   *workspace.Session
}

// stillThere is how often a stream without events shows that it is alive.
const stillThere = 15 * time.Second

// VisitListenResponse writes the stream.
func (e *eventStream) VisitListenResponse(rw http.ResponseWriter) error {
	events, stop := e.w.Listen()
	defer stop()
	h := rw.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-store")
	rw.WriteHeader(http.StatusOK)
	flush := http.NewResponseController(rw)
	tick := time.NewTicker(stillThere)
	defer tick.Stop()
	if _, err := fmt.Fprint(rw, "retry: 1000\n\n"); err != nil {
		return err
	}
	for {
		if err := flush.Flush(); err != nil {
			return err
		}
		select {
		case <-e.ctx.Done():
			return nil
		case <-tick.C:
			if _, err := fmt.Fprint(rw, ": still there\n\n"); err != nil {
				return err
			}
		case event, ok := <-events:
			if !ok {
				return nil
			}
			data, err := json.Marshal(event)
			if err != nil {
				return err
			}
			if _, err := fmt.Fprintf(rw, "data: %s\n\n", data); err != nil {
				return err
			}
		}
	}
}
