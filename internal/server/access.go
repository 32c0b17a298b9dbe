package server

import (
	"crypto/subtle"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"arvel/api"
)

// keyFile holds the key in the data directory, for the owner only, so that it is the same after a restart.
const keyFile = "arvel.key"

// key returns the secret that lets a browser in: that of the data directory, or a new one where there is none.
func key(dir string) (string, error) {
	if dir == "" {
		return random(), nil
	}
	p := filepath.Join(dir, keyFile)
	b, err := os.ReadFile(p)
	if kept := strings.TrimSpace(string(b)); err == nil && len(kept) >= 32 {
		return kept, nil
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", err
	}
	fresh := random()
	return fresh, os.WriteFile(p, []byte(fresh+"\n"), 0o600)
}

// cookie is the name under which a browser keeps the key of the server at a port. Cookies are those of a host, not of a
// port, so the port is part of the name.
func cookie(kind, port string) string { return "arvel-" + kind + "-" + port }

// hasKey reports whether a request carries the key.
func hasKey(r *http.Request, name, key string) bool {
	c, err := r.Cookie(name)
	return err == nil && subtle.ConstantTimeCompare([]byte(c.Value), []byte(key)) == 1
}

// keyParameter is the part of the printed address that carries the key.
const keyParameter = "key"

// takesKey answers a request whose address carries the key: the browser keeps it as a cookie and goes on without it in the
// address. It reports whether it answered.
func takesKey(rw http.ResponseWriter, r *http.Request, key string, c *http.Cookie) bool {
	q := r.URL.Query()
	given := q.Get(keyParameter)
	if given == "" || subtle.ConstantTimeCompare([]byte(given), []byte(key)) != 1 {
		return false
	}
	q.Del(keyParameter)
	c.Value, c.Path, c.HttpOnly = key, "/", true
	http.SetCookie(rw, c)
	to := url.URL{Path: r.URL.Path, RawPath: r.URL.RawPath, RawQuery: q.Encode()}
	if strings.HasPrefix(to.Path, "//") {
		to = url.URL{Path: "/"}
	}
	rw.Header().Set("Cache-Control", "no-store")
	http.Redirect(rw, r, to.String(), http.StatusSeeOther)
	return true
}

const noKey = `<!doctype html><meta charset="utf-8"><title>Arvel</title>
<style>body{font:16px/1.5 system-ui,sans-serif;margin:4rem auto;max-width:34rem;padding:0 1rem;color:#1d2729;background:#f3f1ea}h1{font-size:1.4rem}code{font-family:ui-monospace,monospace}</style>
<h1>This browser has no key to Arvel yet</h1>
<p>Arvel works on your files, so it lets nobody in who was not given its address. Open the address that it printed when it
was started, with everything behind <code>?key=</code>; this browser then keeps the key.</p>
<p>Is the window in which Arvel was started gone? Start it again: it prints the address once more.
With <code>arvel serve --open</code> it opens your browser itself.</p>
`

// locked lets requests through that carry the key, and answers all others with how to get in.
func (s *Server) locked(c *gin.Context) {
	name := cookie("key", portOf(c.Request.Host))
	switch {
	case c.Request.Method == http.MethodGet && takesKey(c.Writer, c.Request, s.key, &http.Cookie{Name: name, SameSite: http.SameSiteStrictMode, MaxAge: 400 * 24 * 3600}):
		c.Abort()
	case hasKey(c.Request, name, s.key):
		c.Next()
	case strings.HasPrefix(c.Request.URL.Path, "/api/"):
		writeProblem(c, api.Problem{Status: http.StatusUnauthorized, Title: "This browser has no key to Arvel. Open the address that Arvel printed when it was started."})
	default:
		c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'")
		c.Data(http.StatusUnauthorized, "text/html; charset=utf-8", []byte(noKey))
		c.Abort()
	}
}

func portOf(host string) string {
	_, port, err := net.SplitHostPort(host)
	if err != nil {
		return "80"
	}
	return port
}

// What a request may send. Text that is being written comes with every keystroke, so a page has to fit; all else is small.
const (
	bodyLimit = 1 << 20
	textLimit = 64 << 20
	// DraftLimit is the size in bytes above which text that is not saved is not kept.
	DraftLimit = 32 << 20
)

// BodyTime is how long a body may take to arrive.
var BodyTime = time.Minute

// carriesText are the addresses, behind that of the folder, to which a page's text is sent.
var carriesText = map[string]int64{
	"source": textLimit, "judge": textLimit, "offers": textLimit, "compose": textLimit, "bring": textLimit, "draft": DraftLimit, "pictures": textLimit,
}

// bounded bounds the size of a request's body and the time that it takes.
func bounded(c *gin.Context) {
	if c.Request.Body == nil || c.Request.ContentLength == 0 {
		c.Next()
		return
	}
	limit := int64(bodyLimit)
	if of, ok := carriesText[c.Request.URL.Path[strings.LastIndexByte(c.Request.URL.Path, '/')+1:]]; ok {
		limit = of
	}
	if c.Request.ContentLength > limit {
		writeProblem(c, tooLarge(limit))
		return
	}
	control := http.NewResponseController(c.Writer)
	_ = control.SetReadDeadline(time.Now().Add(BodyTime)) // where the connection has none, the body is there already
	c.Request.Body = &timed{http.MaxBytesReader(c.Writer, c.Request.Body, limit), control}
	c.Next()
}

func tooLarge(limit int64) api.Problem {
	return api.Problem{Status: http.StatusRequestEntityTooLarge, Title: fmt.Sprintf("That is more than Arvel takes at once, which is %d MB.", max(1, limit>>20))}
}

// timed is a body that lifts its deadline once it is read, so that what is done with it may take longer.
type timed struct {
	io.ReadCloser
	control *http.ResponseController
}

func (t *timed) Read(p []byte) (int, error) {
	n, err := t.ReadCloser.Read(p)
	if errors.Is(err, io.EOF) {
		_ = t.control.SetReadDeadline(time.Time{})
	}
	return n, err
}
