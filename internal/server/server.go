// Package server is Arvel's web server: the API of package api, the interface, and what keeps other web pages
// from using either.
package server

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/gin-gonic/gin"

	"arvel/api"
	"arvel/internal/store"
	"arvel/internal/workbench"
	"arvel/web"
)

// Version is the program's version.
const Version = "0.1.0"

// Server answers the interface. Make one with [New].
type Server struct {
	store *store.Store
	desk  *desk
	token string
	key   string // lets a browser in
	nonce string // by which the editor's styles are let through
	start int64
	http  *http.Server
	// hosts are the names under which a browser reaches the server, once it listens.
	hosts    map[string]bool
	previews previews
}

// New returns a server that keeps what it knows in st. Whoever has the key of its data directory is let in.
func New(st *store.Store) (*Server, error) {
	key, err := key(st.Dir)
	if err != nil {
		return nil, fmt.Errorf("the key to this Arvel can't be kept: %w", err)
	}
	return &Server{
		store: st, token: random(), nonce: random(), key: key,
		desk:     &desk{store: st, open: map[int64]*workbench.Workbench{}},
		previews: previews{open: map[int64]*preview{}},
	}, nil
}

// Address is where a browser gets in, with the key, if the server listens at the port.
func (s *Server) Address(port int) string {
	return fmt.Sprintf("http://localhost:%d/?%s=%s", port, keyParameter, s.key)
}

// random returns letters that nobody can guess.
func random() string {
	var b [24]byte
	rand.Read(b[:])
	return base64.RawURLEncoding.EncodeToString(b[:])
}

// Begin opens the folder that the interface begins with.
func (s *Server) Begin(path string) error {
	w, err := s.desk.openPath(path)
	if err != nil {
		return err
	}
	s.start = w.ID
	return nil
}

// Listen takes a port on the loopback addresses of both families, as far as there are both, since a browser may take
// "localhost" for either; 0 for any port that is free.
func Listen(port int) ([]net.Listener, error) {
	first, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
	if err != nil {
		return nil, err
	}
	taken := first.Addr().(*net.TCPAddr).Port
	second, err := net.Listen("tcp", net.JoinHostPort("::1", strconv.Itoa(taken)))
	switch {
	case err == nil:
		return []net.Listener{first, second}, nil
	case errors.Is(err, syscall.EADDRINUSE):
		// Somebody else would get what a browser sends to "localhost".
		first.Close()
		if port == 0 {
			return Listen(0)
		}
		return nil, err
	}
	return []net.Listener{first}, nil // this machine has no IPv6
}

// limits are those of each connection, besides the ones of a body.
func limits(h http.Handler) *http.Server {
	return &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10}
}

// Serve answers requests on the listeners until ctx is done.
func (s *Server) Serve(ctx context.Context, listeners ...net.Listener) error {
	s.http = limits(s.Handler(listeners[0].Addr().String()))
	done := make(chan error, len(listeners))
	for _, l := range listeners {
		go func() { done <- s.http.Serve(l) }()
	}
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	s.closePreviews()
	s.desk.close() // ends the event streams, which would else hold the server up
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
	s.hosts = hostsOf(listening)
	g := gin.New()
	g.HandleMethodNotAllowed = true
	g.ContextWithFallback = true // so that a stream ends when its client leaves
	g.Use(gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, err any) {
		slog.Error("a request failed", "path", c.Request.URL.Path, "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
	}), guard(s.hosts, s.token, fmt.Sprintf(policy, s.nonce)), s.locked, bounded)
	strict := api.NewStrictHandlerWithOptions(s, nil, api.StrictGinServerOptions{
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

// policy lets the interface load what ships with it and nothing else, and the styles that its editor makes.
const policy = "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-%s'; font-src 'self'; img-src 'self'; " +
	"connect-src 'self'; frame-src http://127.0.0.1:* http://localhost:*; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// guard turns away requests that another web page could have made: those for another host (an address that was
// made to point here), from another origin, and changes without the token.
func guard(hosts map[string]bool, token, policy string) gin.HandlerFunc {
	return func(c *gin.Context) {
		h := c.Writer.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		refuse := func(why string) {
			writeProblem(c, api.Problem{Status: http.StatusForbidden, Title: why})
		}
		switch origin := c.GetHeader("Origin"); {
		case !hosts[c.Request.Host]:
			refuse("Arvel answers on this machine only, not as " + c.Request.Host + ".")
		case origin != "" && !hosts[strings.TrimPrefix(origin, "http://")]:
			refuse("Another web page may not use Arvel.")
		case foreign(c.GetHeader("Sec-Fetch-Site")) && (c.GetHeader("Sec-Fetch-Mode") != "navigate" || c.GetHeader("Sec-Fetch-Dest") != "document"):
			refuse("Another web page may not use Arvel.")
		case c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead && c.GetHeader("X-Arvel-Token") != token:
			refuse("Arvel was restarted. Reload this page.")
		default:
			c.Next()
		}
	}
}

// foreign reports whether a request was made by a page of another origin, on this machine (the preview) or elsewhere.
func foreign(site string) bool { return site == "cross-site" || site == "same-site" }

// hostsOf returns the names under which a browser on this machine reaches the address.
func hostsOf(listening string) map[string]bool {
	_, port, err := net.SplitHostPort(listening)
	if err != nil {
		return nil
	}
	hosts := map[string]bool{listening: true}
	for _, name := range []string{"127.0.0.1", "localhost", "[::1]"} {
		hosts[fmt.Sprintf("%s:%s", name, port)] = true
		if port == "80" {
			hosts[name] = true
		}
	}
	return hosts
}
