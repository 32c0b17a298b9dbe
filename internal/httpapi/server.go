// Package httpapi is the web server: the API of package api, one file for each of its tags, the interface, and what keeps other
// web pages from using either. It decides nothing about folders, which is up to package workspace.
package httpapi

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"arvel/api"
	"arvel/internal/loopback"
	"arvel/internal/preview"
	"arvel/internal/workspace"
	"arvel/web"
)

// Server answers the interface. Make one with [New].
type Server struct {
	*base
	key  string // lets a browser in
	http *http.Server
}

// base is what the handlers of all tags answer from.
type base struct {
	ws       *workspace.Workspace
	previews *preview.Previews
	token    string
	nonce    string // by which the editor's styles are let through
	start    int64  // the folder that the interface begins with, or 0
}

// handlers answer the requests of the API, those of each tag in a file of its own.
type handlers struct {
	folders
	pages
	references
	repairs
	history
	moves
	hosting
	writing
}

type (
	folders    struct{ *base }
	pages      struct{ *base }
	references struct{ *base }
	repairs    struct{ *base }
	history    struct{ *base }
	moves      struct{ *base }
	hosting    struct{ *base }
	writing    struct{ *base }
)

// New returns a server for the folders of a workspace. Whoever has the key of its data directory is let in.
func New(ws *workspace.Workspace) (*Server, error) {
	key, err := loopback.Key(ws.Dir())
	if err != nil {
		return nil, fmt.Errorf("the key to this Arvel can't be kept: %w", err)
	}
	b := &base{ws: ws, previews: preview.New(reference), token: loopback.Random(), nonce: loopback.Random()}
	return &Server{base: b, key: key}, nil
}

// Address is where a browser gets in, with the key, if the server listens at the port.
func (s *Server) Address(port int) string {
	return fmt.Sprintf("http://localhost:%d/?%s=%s", port, keyParameter, s.key)
}

// Begin opens the folder that the interface begins with.
func (s *Server) Begin(path string) error {
	w, err := s.ws.Open(path)
	if err != nil {
		return err
	}
	s.start = w.ID
	return nil
}

// Serve answers requests on the listeners until ctx is done.
func (s *Server) Serve(ctx context.Context, listeners ...net.Listener) error {
	s.http = loopback.Server(s.Handler(listeners[0].Addr().String()))
	done := make(chan error, len(listeners))
	for _, l := range listeners {
		go func() { done <- s.http.Serve(l) }()
	}
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	s.previews.Close()
	s.ws.CloseFolders() // ends the event streams, which would else hold the server up
	stop, cancel := context.WithTimeout(context.Background(), 3*time.Second)
	defer cancel()
	if err := s.http.Shutdown(stop); !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return s.http.Close() // what is left are connections that nothing was asked on
}

// Handler returns what answers requests to the address that the server listens on.
func (s *Server) Handler(listening string) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	hosts := loopback.Hosts(listening)
	s.previews.ShowIn(hosts)
	g := gin.New()
	g.HandleMethodNotAllowed = true
	g.ContextWithFallback = true // so that a stream ends when its client leaves
	g.Use(gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, err any) {
		slog.Error("a request failed", "path", c.Request.URL.Path, "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
	}), guard(hosts, s.token, fmt.Sprintf(policy, s.nonce)), locked(s.key), bounded)
	b := s.base
	tags := handlers{folders{b}, pages{b}, references{b}, repairs{b}, history{b}, moves{b}, hosting{b}, writing{b}}
	strict := api.NewStrictHandlerWithOptions(tags, nil, api.StrictGinServerOptions{
		RequestErrorHandlerFunc:  func(c *gin.Context, err error) { writeProblem(c, badRequest(err)) },
		HandlerErrorFunc:         func(c *gin.Context, err error) { writeProblem(c, problemOf(err)) },
		ResponseErrorHandlerFunc: func(c *gin.Context, err error) { slog.Debug("an answer was cut short", "error", err) },
	})
	api.RegisterHandlersWithOptions(g, strict, api.GinServerOptions{
		BaseURL:      "/api/v1",
		ErrorHandler: func(c *gin.Context, err error, _ int) { writeProblem(c, badRequest(err)) },
	})
	g.NoRoute(interfaceFiles())
	return g
}

// session returns the open folder of that id.
func (b *base) session(id int64) (*workspace.Session, error) { return b.ws.Session(id) }

// view returns the open folder of that id and its view.
func (b *base) view(id int64) (*workspace.Session, *workspace.View, error) {
	w, err := b.session(id)
	if err != nil {
		return nil, nil, err
	}
	v := w.View()
	if v == nil {
		if err := w.Problem(); err != nil {
			return nil, nil, err
		}
		return nil, nil, workspace.ErrNotReady
	}
	return w, v, nil
}

// interfaceFiles serves the built interface. An address that names no file is one of its views.
func interfaceFiles() gin.HandlerFunc {
	dist, err := fs.Sub(web.Dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded
	}
	files := http.FileServerFS(dist)
	return func(c *gin.Context) {
		p := strings.TrimPrefix(c.Request.URL.Path, "/")
		if strings.HasPrefix(p, "api/") {
			writeProblem(c, api.Problem{Status: http.StatusNotFound, Title: "There is no such address in the API."})
			return
		}
		if p != "" && fs.ValidPath(p) {
			if info, err := fs.Stat(dist, p); err == nil && !info.IsDir() {
				if strings.HasPrefix(p, "assets/") {
					c.Header("Cache-Control", "public, max-age=31536000, immutable")
				}
				files.ServeHTTP(c.Writer, c.Request)
				return
			}
		}
		page, err := fs.ReadFile(dist, "index.html")
		if err != nil {
			c.String(http.StatusNotFound, "The interface is not built into this program; run make build.\n")
			return
		}
		c.Header("Cache-Control", "no-cache")
		c.Data(http.StatusOK, "text/html; charset=utf-8", page)
	}
}
