// Package preview shows the pages of a folder themselves, as a visitor would get them, on an origin of their own.
package preview

import (
	"encoding/json"
	"errors"
	"fmt"
	"html"
	"io/fs"
	"log/slog"
	"mime"
	"net"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"arvel/api"
	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/internal/loopback"
	"arvel/internal/workspace"
	"arvel/web"
)

// preview serves the files of one folder as the chosen place would: at the root of its host or below it, with letter
// case counting or not. It listens on a port of its own, and is asked for under another host name than the interface, so
// that the author's pages are another site: they can neither read nor drive it, and one that never ends does not stop it.
// A script is added to each page as it is sent, never as it is stored.
type preview struct {
	w      *workspace.Session
	server *http.Server
	port   int
	key    string   // lets a browser in
	shows  []string // the origins of the interface
	// describe returns what the interface shows of a reference.
	describe func(c *audit.Case, state audit.State, key string) api.Reference
}

// Previews are those of the open folders. Make them with [New].
type Previews struct {
	describe func(c *audit.Case, state audit.State, key string) api.Reference

	mu    sync.Mutex
	open  map[int64]*preview
	shows []string // the origins of the interface
}

// New returns no previews yet. describe returns what the interface shows of a reference.
func New(describe func(c *audit.Case, state audit.State, key string) api.Reference) *Previews {
	return &Previews{describe: describe, open: map[int64]*preview{}}
}

// ShowIn sets the hosts under which the interface is reached, which alone may show previews.
func (p *Previews) ShowIn(hosts map[string]bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.shows = nil
	for host := range hosts {
		if !strings.HasPrefix(host, "[") { // which no policy can name
			p.shows = append(p.shows, "http://"+host)
		}
	}
	slices.Sort(p.shows)
}

// Address returns where a folder can be looked at, and the address by which a browser gets in there. The interface is reached
// under the host name given, and the preview under another one. It is started when it is first wanted.
func (p *Previews) Address(w *workspace.Session, v *workspace.View, host string) (address, enter string, err error) {
	one, err := p.of(w)
	if err != nil {
		return "", "", err
	}
	own := "127.0.0.1"
	if strings.HasPrefix(host, own) {
		own = "localhost"
	}
	origin := fmt.Sprintf("http://%s:%d", own, one.port)
	mount := (&url.URL{Path: v.Snapshot.Place.Mount}).EscapedPath()
	return origin + mount, origin + ownPath + "enter?key=" + one.key + "&to=" + url.QueryEscape(mount), nil
}

func (p *Previews) of(w *workspace.Session) (*preview, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if one := p.open[w.ID]; one != nil && one.w == w {
		return one, nil
	} else if one != nil {
		one.server.Close() // of a session that was closed since
	}
	listeners, err := loopback.Listen(0)
	if err != nil {
		return nil, fmt.Errorf("no port for the preview: %w", err)
	}
	one := &preview{w: w, port: listeners[0].Addr().(*net.TCPAddr).Port, key: loopback.Random(), shows: p.shows, describe: p.describe}
	one.server = loopback.Server(one)
	for _, l := range listeners {
		go one.server.Serve(l)
	}
	p.open[w.ID] = one
	return one, nil
}

// Close ends all previews.
func (p *Previews) Close() {
	p.mu.Lock()
	defer p.mu.Unlock()
	for id, one := range p.open {
		one.server.Close()
		delete(p.open, id)
	}
}

// ownPath begins the addresses of what Arvel itself serves among the author's files.
const ownPath = "/.arvel/"

func (p *preview) ServeHTTP(rw http.ResponseWriter, r *http.Request) {
	h := rw.Header()
	h.Set("Content-Security-Policy", "frame-ancestors 'self' "+strings.Join(p.shows, " "))
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Cache-Control", "no-store")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Referrer-Policy", "same-origin")
	switch {
	case !loopback.Hosts(net.JoinHostPort("127.0.0.1", strconv.Itoa(p.port)))[r.Host]:
		http.Error(rw, "Arvel's preview answers on this machine only.", http.StatusForbidden)
	case loopback.IsForeign(r) && !opens(r):
		http.Error(rw, "Other web pages can't use Arvel's preview.", http.StatusForbidden)
	case r.URL.Path == ownPath+"enter":
		p.enter(rw, r)
	case !loopback.HasKey(r, p.cookie(), p.key) && !loopback.HasKey(r, p.cookie()+"-tab", p.key):
		h.Set("Content-Type", "text/html; charset=utf-8")
		rw.WriteHeader(http.StatusUnauthorized)
		fmt.Fprint(rw, noPreviewKey)
	case r.Method != http.MethodGet && r.Method != http.MethodHead:
		p.say(rw, r, http.StatusMethodNotAllowed, "Nothing is sent from here", "A form on this page was sent. The preview shows files only; where the folder is published, the host's program gets what was filled in.")
	case r.URL.Path == ownPath+"live.js":
		http.ServeFileFS(rw, r, web.Dist, "dist/live.js")
	case r.URL.Path == ownPath+"marks":
		p.marks(rw, r)
	default:
		p.file(rw, r)
	}
}

const noPreviewKey = `<!doctype html><meta charset="utf-8"><title>Arvel</title><p>Open this page from Arvel: in Pages, choose it and see it “itself”.`

// opens reports whether a request opens a page in a frame or a tab, which the interface, of another site, may do.
func opens(r *http.Request) bool {
	switch r.Header.Get("Sec-Fetch-Dest") {
	case "document", "iframe", "frame":
		return r.Header.Get("Sec-Fetch-Mode") == "navigate"
	}
	return false
}

func (p *preview) cookie() string { return loopback.Cookie("preview", strconv.Itoa(p.port)) }

// enter lets a browser in that the interface sent, and goes on to the page it is to show.
func (p *preview) enter(rw http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	to := q.Get("to")
	if !loopback.IsKey(q.Get("key"), p.key) || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.HasPrefix(to, "/\\") {
		http.Error(rw, "Arvel was restarted. Reload its page.", http.StatusForbidden)
		return
	}
	// In a frame of the interface the browser keeps the first, in a tab of its own the second.
	http.SetCookie(rw, &http.Cookie{Name: p.cookie(), Value: p.key, Path: "/", HttpOnly: true, Secure: true, SameSite: http.SameSiteNoneMode, Partitioned: true})
	http.SetCookie(rw, &http.Cookie{Name: p.cookie() + "-tab", Value: p.key, Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode})
	rw.Header().Set("Location", to)
	rw.WriteHeader(http.StatusSeeOther)
}

// landing looks up what is at the path of a request.
func (p *preview) landing(v *workspace.View, escaped string) (site.Link, address.Target, bool) {
	place := v.Snapshot.Place
	mount := (&url.URL{Path: place.Mount}).EscapedPath()
	if escaped+"/" == mount {
		escaped = mount
	}
	rest, within := strings.CutPrefix(escaped, mount)
	if !within {
		return site.Link{File: -1, Outcome: site.OutOfFolder}, address.Target{}, false
	}
	t := address.Target{Path: address.Unescape(strings.TrimSuffix(rest, "/")), Folder: rest == "" || strings.HasSuffix(rest, "/")}
	l := v.Snapshot.Land(&t)
	return l, t, l.Outcome == site.Lands || l.Outcome == site.OtherCase && place.IgnoreCase
}

func (p *preview) file(rw http.ResponseWriter, r *http.Request) {
	v := p.w.View()
	if v == nil {
		p.say(rw, r, http.StatusServiceUnavailable, "The folder is still being read", "It takes a moment more.")
		return
	}
	l, t, lands := p.landing(v, r.URL.EscapedPath())
	switch {
	case !lands && l.Outcome == site.NoIndex:
		p.say(rw, r, http.StatusNotFound, "This folder has no index page", "A visitor gets an error or a bare list of files here.")
		return
	case !lands:
		p.say(rw, r, http.StatusNotFound, "Nothing is at "+t.Path, "A visitor gets the host's error page here.")
		return
	case !t.Folder && v.Snapshot.Folders[t.Path] != nil && v.Snapshot.Files[l.File].Path != t.Path:
		to := r.URL.EscapedPath() + "/"
		if r.URL.RawQuery != "" {
			to += "?" + r.URL.RawQuery
		}
		http.Redirect(rw, r, to, http.StatusMovedPermanently)
		return
	}
	f := &v.Snapshot.Files[l.File]
	if f.Kind != site.Page || f.Doc == nil {
		p.stream(rw, r, f)
		return
	}
	src, err := p.w.Source(f.Path)
	if err != nil {
		p.unreadable(rw, r, f.Path, err)
		return
	}
	rw.Header().Set("Content-Type", contentType(f))
	rw.WriteHeader(http.StatusOK)
	xml := strings.HasPrefix(contentType(f), "application/")
	at := markup.ScriptPlace(src, xml)
	script, err := markup.Encode(p.script(xml), f.Doc.Encoding)
	if err != nil {
		script = nil // an encoding without ASCII is none that a page has
	}
	for _, part := range [][]byte{src[:at], script, src[at:]} {
		if _, err := rw.Write(part); err != nil {
			return
		}
	}
}

// script is the element that is added to a page. It is no module, so that it runs before the page's own scripts.
func (p *preview) script(xml bool) string {
	namespace := ""
	if xml {
		namespace = ` xmlns="http://www.w3.org/1999/xhtml"`
	}
	return `<script` + namespace + ` src="` + ownPath + `live.js?to=` + url.QueryEscape(strings.Join(p.shows, " ")) + `"></script>`
}

// stream serves a file as it is.
func (p *preview) stream(rw http.ResponseWriter, r *http.Request, f *site.File) {
	file, err := p.w.OpenFile(f.Path)
	if err != nil {
		p.unreadable(rw, r, f.Path, err)
		return
	}
	defer file.Close()
	rw.Header().Set("Content-Type", contentType(f))
	http.ServeContent(rw, r, "", time.Unix(0, f.Modified), file)
}

func (p *preview) unreadable(rw http.ResponseWriter, r *http.Request, name string, err error) {
	status := http.StatusForbidden
	if errors.Is(err, fs.ErrNotExist) {
		status = http.StatusNotFound
	}
	p.say(rw, r, status, name+" can't be read", err.Error())
}

// contentTypes are those that every host gives, whatever this machine is set to.
var contentTypes = map[string]string{
	".html": "text/html", ".htm": "text/html", ".shtml": "text/html", ".xhtml": "application/xhtml+xml", ".xht": "application/xhtml+xml",
	".css": "text/css", ".js": "text/javascript", ".mjs": "text/javascript", ".svg": "image/svg+xml", ".xml": "application/xml", ".txt": "text/plain; charset=utf-8",
	".png": "image/png", ".jpg": "image/jpeg", ".jpeg": "image/jpeg", ".gif": "image/gif", ".webp": "image/webp", ".avif": "image/avif", ".ico": "image/x-icon",
	".bmp": "image/bmp", ".pdf": "application/pdf", ".mp3": "audio/mpeg", ".mp4": "video/mp4", ".ogg": "audio/ogg", ".ogv": "video/ogg", ".webm": "video/webm",
	".wav": "audio/wav", ".vtt": "text/vtt", ".json": "application/json", ".woff": "font/woff", ".woff2": "font/woff2", ".ttf": "font/ttf", ".csv": "text/csv",
}

func contentType(f *site.File) string {
	ext := strings.ToLower(path.Ext(f.Path))
	kind, known := contentTypes[ext]
	if !known {
		if kind = mime.TypeByExtension(ext); kind == "" {
			return "application/octet-stream"
		}
	}
	if f.Doc != nil && f.Doc.Encoding != "" && (f.Kind == site.Page || f.Kind == site.Style) {
		kind += "; charset=" + f.Doc.Encoding
	}
	return kind
}

// say answers with a page of Arvel's own.
func (p *preview) say(rw http.ResponseWriter, r *http.Request, status int, what, why string) {
	rw.Header().Set("Content-Type", "text/html; charset=utf-8")
	rw.WriteHeader(status)
	fmt.Fprintf(rw, `<!doctype html><meta charset="utf-8"><title>%s</title>%s
<style>body{font:15px/1.5 system-ui,sans-serif;margin:3rem;color:#1d2729;background:#fbfaf6;max-width:34rem}h1{font-size:1.3rem}</style>
<h1>%s</h1><p>%s</p>`, html.EscapeString(what), p.script(false), html.EscapeString(what), html.EscapeString(why))
}

type marks struct {
	// Page is the path of the page, Missing that of what is not there.
	Page    string         `json:"page,omitempty"`
	Missing string         `json:"missing,omitempty"`
	Marks   []api.LiveMark `json:"marks"`
}

// marks answers with the references of the page at a path.
func (p *preview) marks(rw http.ResponseWriter, r *http.Request) {
	rw.Header().Set("Content-Type", "application/json")
	out := marks{Marks: []api.LiveMark{}}
	if v := p.w.View(); v != nil {
		l, t, lands := p.landing(v, r.URL.Query().Get("path"))
		if lands {
			out.Page, out.Marks = v.Snapshot.Files[l.File].Path, Marks(v, l.File, p.describe)
		} else {
			out.Missing = t.Path
		}
	}
	if err := json.NewEncoder(rw).Encode(out); err != nil {
		slog.Debug("an answer was cut short", "error", err)
	}
}

var newlines = strings.NewReplacer("\r\n", "\n", "\r", "\n")

// Marks returns the references of a page as the added script finds them in it. describe returns what is shown of one.
func Marks(v *workspace.View, file int32, describe func(c *audit.Case, state audit.State, key string) api.Reference) []api.LiveMark {
	doc := v.Snapshot.Files[file].Doc
	out := []api.LiveMark{}
	if doc == nil {
		return out
	}
	keys := workspace.Keys(doc)
	type place struct {
		element   markup.Element
		attribute markup.Attribute
		value     string
	}
	nth := map[place]int{}
	for i, state := range v.Report.States(file) {
		ref := &doc.References[i]
		if ref.Attribute == markup.NoAttribute || ref.Flags&(markup.InStyle|markup.Inert) != 0 {
			continue
		}
		c := audit.NewCase(v.Snapshot, file, i)
		m := api.LiveMark{Reference: describe(c, state, keys[i]), Value: newlines.Replace(c.Value), Follows: follows(c, state)}
		at := place{ref.Element, ref.Attribute, m.Value}
		m.Nth = nth[at]
		nth[at]++
		out = append(out, m)
	}
	return out
}

func follows(c *audit.Case, state audit.State) api.LiveMarkFollows {
	switch {
	case state == audit.Broken:
		return api.LiveMarkFollowsNowhere
	case c.Landed() != nil:
		return api.LiveMarkFollowsInside
	}
	switch c.Target().Kind {
	case address.Web, address.Mail, address.Phone, address.OtherScheme:
		return api.LiveMarkFollowsOutside
	case address.Beyond:
		return api.LiveMarkFollowsNowhere
	}
	return api.LiveMarkFollowsInside
}
