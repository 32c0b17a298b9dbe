package httpapi_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/api"
)

// preview enters the preview of the folder, and returns its address and the cookie that lets a browser in.
func (s *site) preview() (address string, key *http.Cookie) {
	s.Helper()
	var p struct{ Address, Enter string }
	s.get("/folders/1/preview", &p)
	resp, _ := looksAt(s.T, "GET", p.Enter, "", nil)
	require.Equal(s, http.StatusSeeOther, resp.StatusCode)
	for _, c := range resp.Cookies() {
		if strings.HasSuffix(c.Name, "-tab") {
			key = c
		}
	}
	require.NotNil(s, key)
	return p.Address, key
}

// looksAt asks the preview for a path, as a browser would that follows nothing by itself.
func looksAt(t *testing.T, method, address, host string, key *http.Cookie) (*http.Response, string) {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), method, address, nil)
	require.NoError(t, err)
	if host != "" {
		r.Host = host
	}
	if key != nil {
		r.AddCookie(key)
	}
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	resp, err := client.Do(r)
	require.NoError(t, err)
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	return resp, string(b)
}

func TestThePreviewServesTheFolderAsThePlaceWould(t *testing.T) {
	files := map[string]string{
		"index.html": "<!doctype html><title>Home</title><a href=guides/>Guides</a>", "guides/index.html": "<!doctype html><title>Guides</title>",
		"news/2018.html": "<p>2018", "css/club.css": "p{}", "100%.html": "<p>all", "old.html": "\xff\xfe<\x00p\x00>\x00", "notes.xhtml": `<html xmlns="http://www.w3.org/1999/xhtml"/>`,
		"pod.png": "\x89PNG",
	}
	s := serve(t, files)
	status, _ := s.do("PUT", "/folders/1/settings", map[string]any{
		"published": "", "off": []string{}, "indexNames": []string{},
		"places": []any{map[string]any{"place": "/club/", "ignoreCase": false, "ticked": false, "chosen": true}},
	}, "X-Arvel-Token", s.token)
	require.Equal(t, http.StatusOK, status)
	address, key := s.preview()
	require.True(t, strings.HasSuffix(address, "/club/"), address)
	origin := strings.TrimSuffix(address, "/club/")
	assert.NotEqual(t, s.web.URL, origin, "another origin than the interface's")

	for _, c := range []struct {
		path   string
		status int
		kind   string
		says   string
	}{
		{"/club/", 200, "text/html; charset=utf-8", "<title>Home</title>"},
		{"/club", 200, "text/html; charset=utf-8", "<title>Home</title>"},
		{"/club/guides/", 200, "text/html; charset=utf-8", "<title>Guides</title>"},
		{"/club/index.html?q=1", 200, "text/html; charset=utf-8", "<title>Home</title>"},
		{"/club/Index.html", 404, "text/html; charset=utf-8", "Nothing is at Index.html"},
		{"/index.html", 404, "text/html; charset=utf-8", "Nothing is at"},
		{"/club/news/", 404, "text/html; charset=utf-8", "This folder has no index page"},
		{"/club/none.html", 404, "text/html; charset=utf-8", "Nothing is at none.html"},
		{"/club/%3Cb%3E.html", 404, "text/html; charset=utf-8", "Nothing is at &lt;b&gt;.html"},
		{"/club/../../etc/passwd", 404, "text/html; charset=utf-8", "Nothing is at"},
		{"/club/%2e%2e/%2e%2e/etc/passwd", 404, "text/html; charset=utf-8", "Nothing is at"},
		{"/club/css/club.css", 200, "text/css; charset=utf-8", "p{}"},
		{"/club/100%25.html", 200, "text/html; charset=utf-8", "<p>all"},
		{"/club/old.html", 200, "text/html; charset=utf-16le", "<\x00p\x00>\x00"},
		{"/club/notes.xhtml", 200, "application/xhtml+xml; charset=utf-8", `<script xmlns="http://www.w3.org/1999/xhtml"`},
		{"/club/pod.png", 200, "image/png", "\x89PNG"},
	} {
		resp, body := looksAt(t, "GET", origin+c.path, "", key)
		assert.Equal(t, c.status, resp.StatusCode, c.path)
		assert.Equal(t, c.kind, resp.Header.Get("Content-Type"), c.path)
		assert.Contains(t, body, c.says, c.path)
		assert.Equal(t, strings.HasPrefix(c.kind, "text/html; charset=utf-8") || strings.Contains(c.path, "xhtml"), strings.Contains(body, "live.js"), "%s: only pages get the script", c.path)
		assert.Contains(t, resp.Header.Get("Content-Security-Policy"), "frame-ancestors 'self' "+s.web.URL, c.path)
		assert.Equal(t, "nosniff", resp.Header.Get("X-Content-Type-Options"), c.path)
	}
	resp, _ := looksAt(t, "GET", origin+"/club/guides?q=1", "", key)
	assert.Equal(t, []any{http.StatusMovedPermanently, "/club/guides/?q=1"}, []any{resp.StatusCode, resp.Header.Get("Location")})
	resp, body := looksAt(t, "POST", origin+"/club/index.html", "", key)
	assert.Equal(t, http.StatusMethodNotAllowed, resp.StatusCode)
	assert.Contains(t, body, "A form on this page was sent")
	resp, body = looksAt(t, "GET", origin+"/club/index.html", "orchard.example", key)
	assert.Equal(t, http.StatusForbidden, resp.StatusCode, "a name that another site gave this machine")
	assert.NotContains(t, body, "Home")
	require.NoError(t, os.Remove(filepath.Join(s.dir, "news/2018.html")))
	resp, _ = looksAt(t, "GET", origin+"/club/news/2018.html", "", key)
	assert.Equal(t, http.StatusNotFound, resp.StatusCode, "it was taken away just now")
	for path, src := range files {
		if path != "news/2018.html" {
			assert.Equal(t, src, s.file(path), "what is added is never stored")
		}
	}
}

func TestTheMarksOfAPageAreFoundByElementValueAndNumber(t *testing.T) {
	s := serve(t, map[string]string{
		"index.html": `<a href="visit.html">1</a><a href="visit.html">2</a><a href="none.html">3</a><a href="https://orchard.example/">4</a><img src="visit.html"><template><a href="x"></a></template><p style="background:url(y)">`,
		"visit.html": "",
	})
	address, key := s.preview()
	_, body := looksAt(t, "GET", address+".arvel/marks?path="+url.QueryEscape("/index.html"), "", key)
	var got struct {
		Page, Missing string
		Marks         []struct {
			Reference      api.Reference
			Value, Follows string
			Nth            int
		}
	}
	require.NoError(t, json.Unmarshal([]byte(body), &got), body)
	assert.Equal(t, "index.html", got.Page)
	var said [][]any
	for _, m := range got.Marks {
		said = append(said, []any{m.Reference.Element, m.Value, m.Nth, m.Follows})
	}
	assert.Equal(t, [][]any{
		{"a", "visit.html", 0, "inside"},
		{"a", "visit.html", 1, "inside"},
		{"a", "none.html", 0, "nowhere"},
		{"a", "https://orchard.example/", 0, "outside"},
		{"img", "visit.html", 0, "inside"},
	}, said)
	_, body = looksAt(t, "GET", address+".arvel/marks?path="+url.QueryEscape("/none.html"), "", key)
	got.Page = ""
	require.NoError(t, json.Unmarshal([]byte(body), &got), body)
	assert.Equal(t, []any{"", "none.html"}, []any{got.Page, got.Missing})
}
