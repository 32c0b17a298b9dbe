package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"arvel/api"
	"arvel/core/site"
	"arvel/internal/folder"
	"arvel/internal/workbench"
)

// GetSession answers with what the interface begins with.
func (s *Server) GetSession(context.Context, api.GetSessionRequestObject) (api.GetSessionResponseObject, error) {
	home, _ := os.UserHomeDir() // "" where there is none
	out := api.GetSession200JSONResponse{Token: s.token, Nonce: s.nonce, Version: Version, Home: home}
	if s.start != 0 {
		out.Start = &s.start
	}
	return out, nil
}

// ListFolders lists the folders that were opened.
func (s *Server) ListFolders(context.Context, api.ListFoldersRequestObject) (api.ListFoldersResponseObject, error) {
	list, err := s.store.Folders()
	if err != nil {
		return nil, s.store.Explained(err)
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
func (s *Server) OpenFolder(_ context.Context, r api.OpenFolderRequestObject) (api.OpenFolderResponseObject, error) {
	if !filepath.IsAbs(r.Body.Path) {
		return nil, &folder.OpenError{Path: r.Body.Path, Sentence: "Give the whole path of the folder, from the top of the disk."}
	}
	w, err := s.desk.openPath(r.Body.Path)
	if err != nil {
		return nil, err
	}
	f, err := s.folder(w)
	return api.OpenFolder200JSONResponse(f), err
}

// GetFolder answers how an open folder stands.
func (s *Server) GetFolder(_ context.Context, r api.GetFolderRequestObject) (api.GetFolderResponseObject, error) {
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	f, err := s.folder(w)
	return api.GetFolder200JSONResponse(f), err
}

// ForgetFolder closes a folder and forgets it.
func (s *Server) ForgetFolder(_ context.Context, r api.ForgetFolderRequestObject) (api.ForgetFolderResponseObject, error) {
	s.desk.shut(r.Folder)
	return api.ForgetFolder204Response{}, s.store.Forget(r.Folder)
}

// SetExclude sets what is left out of a folder and opens it anew.
func (s *Server) SetExclude(_ context.Context, r api.SetExcludeRequestObject) (api.SetExcludeResponseObject, error) {
	known, err := s.store.Folder(r.Folder)
	if err != nil {
		return nil, err
	}
	patterns := slices.DeleteFunc(slices.Clone(r.Body.Patterns), func(p string) bool { return strings.TrimSpace(p) == "" })
	// A pattern that can't be read is told before it is kept.
	tried, err := folder.Open(known.Path, append([]string{}, patterns...))
	if err != nil {
		return nil, err
	}
	tried.Close()
	if err := s.store.SetExclude(r.Folder, append([]string{}, patterns...)); err != nil {
		return nil, err
	}
	s.desk.shut(r.Folder)
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	f, err := s.folder(w)
	return api.SetExclude200JSONResponse(f), err
}

func (s *Server) folder(w *workbench.Workbench) (api.Folder, error) {
	known, err := s.store.Folder(w.ID)
	if err != nil {
		return api.Folder{}, s.store.Explained(err)
	}
	out := api.Folder{
		Id: w.ID, Path: w.Path(), Name: filepath.Base(w.Path()), State: api.FolderStateReading,
		Exclude: known.Exclude, Trouble: []string{},
	}
	if out.Exclude == nil {
		out.Exclude = folder.DefaultExclude
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
		var missing *folder.MissingError
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

// countBudget is how long the pages of the folders to choose from are counted; countLimit how many files of
// one are looked at.
const (
	countBudget = 400 * time.Millisecond
	countLimit  = 50_000
)

// ListDisk lists the folders within a folder of the machine.
func (s *Server) ListDisk(_ context.Context, r api.ListDiskRequestObject) (api.ListDiskResponseObject, error) {
	at := ""
	if r.Params.Path != nil {
		at = *r.Params.Path
	}
	if at == "" {
		home, err := os.UserHomeDir()
		if err != nil {
			home = string(filepath.Separator)
		}
		at = home
	}
	if !filepath.IsAbs(at) {
		return nil, &folder.OpenError{Path: at, Sentence: "Give the whole path of the folder, from the top of the disk."}
	}
	at = filepath.Clean(at)
	f, err := folder.Open(at, nil)
	if err != nil {
		return nil, err
	}
	f.Close()
	list, err := os.ReadDir(at)
	if err != nil {
		return nil, &folder.OpenError{Path: at, Sentence: fmt.Sprintf("%s can't be read: your account has no permission for it.", at), Err: err}
	}
	out := api.ListDisk200JSONResponse{Path: at, Folders: []api.DiskEntry{}}
	if parent := filepath.Dir(at); parent != at {
		out.Parent = &parent
	}
	deadline := time.Now().Add(countBudget)
	var wait sync.WaitGroup
	for _, e := range list {
		full := filepath.Join(at, e.Name())
		if strings.HasPrefix(e.Name(), ".") {
			continue
		}
		if info, err := os.Stat(full); err != nil || !info.IsDir() {
			if site.KindOf(e.Name()) == site.Page {
				out.Pages.Count++
			}
			continue
		}
		out.Folders = append(out.Folders, api.DiskEntry{Name: e.Name(), Path: full})
	}
	for i := range out.Folders {
		wait.Go(func() { out.Folders[i].Pages = countPages(out.Folders[i].Path, deadline) })
	}
	wait.Wait()
	for _, sub := range out.Folders {
		out.Pages.Count += sub.Pages.Count
		out.Pages.More = out.Pages.More || sub.Pages.More
	}
	return out, nil
}

// countPages counts the pages in and below a folder until the deadline.
func countPages(dir string, deadline time.Time) (n api.PageCount) {
	looked := 0
	filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err != nil {
			return nil
		}
		if looked++; looked > countLimit || looked%64 == 0 && time.Now().After(deadline) {
			n.More = true
			return filepath.SkipAll
		}
		switch {
		case p != dir && (strings.HasPrefix(e.Name(), ".") || e.IsDir() && e.Name() == "node_modules"):
			if e.IsDir() {
				return filepath.SkipDir
			}
		case !e.IsDir() && site.KindOf(e.Name()) == site.Page:
			n.Count++
		}
		return nil
	})
	return n
}

// StopWork stops what is being done in a folder.
func (s *Server) StopWork(_ context.Context, r api.StopWorkRequestObject) (api.StopWorkResponseObject, error) {
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	w.Stop()
	return api.StopWork204Response{}, nil
}

// Listen streams the events of a folder.
func (s *Server) Listen(ctx context.Context, r api.ListenRequestObject) (api.ListenResponseObject, error) {
	w, err := s.desk.get(r.Folder)
	if err != nil {
		return nil, err
	}
	return &eventStream{ctx, w}, nil
}

// eventStream writes server-sent events until the client or the folder is gone.
type eventStream struct {
	ctx context.Context
	w   *workbench.Workbench
}

// stillThere is how often a stream without events says that it stands.
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
