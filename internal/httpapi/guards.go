package httpapi

import (
	"net/http"
	"net/url"
	"strings"

	"arvel/api"
	"arvel/internal/loopback"

	"github.com/gin-gonic/gin"
)

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
			refuse("Other web pages can't use Arvel.")
		case loopback.IsForeign(c.Request) && (c.GetHeader("Sec-Fetch-Mode") != "navigate" || c.GetHeader("Sec-Fetch-Dest") != "document"):
			refuse("Other web pages can't use Arvel.")
		case c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead && c.GetHeader("X-Arvel-Token") != token:
			refuse("Arvel was restarted. Reload this page.")
		default:
			c.Next()
		}
	}
}

// keyParameter is the part of the printed address that carries the key.
const keyParameter = "key"

// takesKey answers a request whose address carries the key: the browser keeps it as a cookie and goes on without it in the
// address. It reports whether it answered.
func takesKey(rw http.ResponseWriter, r *http.Request, key string, c *http.Cookie) bool {
	q := r.URL.Query()
	if given := q.Get(keyParameter); given == "" || !loopback.IsKey(given, key) {
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
func locked(key string) gin.HandlerFunc {
	return func(c *gin.Context) {
		name := loopback.Cookie("key", loopback.Port(c.Request.Host))
		switch {
		case c.Request.Method == http.MethodGet && takesKey(c.Writer, c.Request, key, &http.Cookie{Name: name, SameSite: http.SameSiteStrictMode, MaxAge: 400 * 24 * 3600}):
			c.Abort()
		case loopback.HasKey(c.Request, name, key):
			c.Next()
		case strings.HasPrefix(c.Request.URL.Path, "/api/"):
			writeProblem(c, api.Problem{Status: http.StatusUnauthorized, Title: "This browser has no key to Arvel. Open the address that Arvel printed when it started."})
		default:
			c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'")
			c.Data(http.StatusUnauthorized, "text/html; charset=utf-8", []byte(noKey))
			c.Abort()
		}
	}
}
