package httpapi_test

import (
	"bufio"
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/api"
	"arvel/internal/httpapi"
	"arvel/internal/store"
	"arvel/internal/workspace"
)

// site is a server on a small folder, and a client of it.
type site struct {
	*testing.T
	dir   string
	web   *httptest.Server
	token string
	store *store.Store
	// browser has the key; nobody else gets in.
	browser *http.Client
}

// enter opens the printed address in a new browser, at the address where the server really is.
func enter(t *testing.T, web, printed string) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	browser := &http.Client{Jar: jar}
	_, key, _ := strings.Cut(printed, "?")
	resp, err := browser.Get(web + "/?" + key)
	require.NoError(t, err)
	resp.Body.Close()
	require.Equal(t, http.StatusOK, resp.StatusCode)
	require.NotContains(t, resp.Request.URL.String(), "key=", "the address that stays has no key in it")
	return browser
}

func serve(t *testing.T, files map[string]string) *site {
	s := &site{T: t, dir: t.TempDir()}
	for p, src := range files {
		full := filepath.Join(s.dir, p)
		require.NoError(t, os.MkdirAll(filepath.Dir(full), 0o755))
		require.NoError(t, os.WriteFile(full, []byte(src), 0o644))
	}
	st, err := store.Open(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	s.store = st
	srv, err := httpapi.New(workspace.On(st))
	require.NoError(t, err)
	s.web = httptest.NewUnstartedServer(nil)
	s.web.Config.Handler = srv.Handler(s.web.Listener.Addr().String())
	s.web.Start()
	t.Cleanup(s.web.Close)
	s.browser = enter(t, s.web.URL, srv.Address(0))
	require.NoError(t, srv.Begin(s.dir))
	var session struct{ Token string }
	s.get("/session", &session)
	s.token = session.Token
	assert.Eventually(t, func() bool {
		var f api.Folder
		s.get("/folders/1", &f)
		return f.State == api.FolderStateReady
	}, 5*time.Second, 5*time.Millisecond)
	return s
}

func (s *site) do(method, path string, body any, header ...string) (int, []byte) {
	s.Helper()
	var sent io.Reader
	if body != nil {
		b, err := json.Marshal(body)
		require.NoError(s, err)
		sent = bytes.NewReader(b)
	}
	r, err := http.NewRequestWithContext(s.Context(), method, s.web.URL+"/api/v1"+path, sent)
	require.NoError(s, err)
	r.Header.Set("Content-Type", "application/json")
	for i := 0; i < len(header); i += 2 {
		if header[i] == "Host" {
			r.Host = header[i+1]
		}
		r.Header.Set(header[i], header[i+1])
	}
	resp, err := s.browser.Do(r)
	require.NoError(s, err)
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(s, err)
	return resp.StatusCode, b
}

func (s *site) get(path string, into any) {
	s.Helper()
	status, b := s.do("GET", path, nil)
	require.Equal(s, http.StatusOK, status, "%s: %s", path, b)
	require.NoError(s, json.Unmarshal(b, into))
}

func (s *site) post(path string, body any) (int, api.Problem, []byte) {
	s.Helper()
	status, b := s.do("POST", path, body, "X-Arvel-Token", s.token)
	var p api.Problem
	json.Unmarshal(b, &p)
	return status, p, b
}

var small = map[string]string{
	"index.html": `<title>Seed library</title><a href="Visit.html">Visit</a><img src="pod.png" alt="Pod"><a href="mailto:a@b.example?subject=Hi">w</a>`,
	"visit.html": `<title>Visit</title><h1 id=open>Open</h1>`, "pod.png": "\x89PNG", "secret.txt": "secret",
}

func TestAnotherWebPageCanDoNothing(t *testing.T) {
	s := serve(t, small)
	for name, header := range map[string][]string{
		"another origin":          {"Origin", "https://orchard.example"},
		"another port":            {"Origin", "http://127.0.0.1:1"},
		"no origin of its own":    {"Origin", "null"},
		"another name of ours":    {"Host", "orchard.example"},
		"a script elsewhere":      {"Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "no-cors"},
		"a name with our port":    {"Host", "orchard.example:" + strings.Split(s.web.URL, ":")[2]},
		"the right name, no port": {"Host", "127.0.0.1"},
	} {
		status, _ := s.do("GET", "/folders", nil, header...)
		assert.Equal(t, http.StatusForbidden, status, name)
	}
	for _, token := range []string{"", "wrong"} {
		status, _ := s.do("POST", "/folders", map[string]string{"path": s.dir}, "X-Arvel-Token", token)
		assert.Equal(t, http.StatusForbidden, status, "a change without the token")
	}
	status, _ := s.do("GET", "/folders", nil, "Origin", s.web.URL)
	assert.Equal(t, http.StatusOK, status)
}

func TestHeadersKeepTheInterfaceToItself(t *testing.T) {
	s := serve(t, small)
	for _, path := range []string{"/", "/folder/1/pages", "/api/v1/folders"} {
		resp, err := s.browser.Get(s.web.URL + path)
		require.NoError(t, err)
		resp.Body.Close()
		assert.Contains(t, resp.Header.Get("Content-Security-Policy"), "script-src 'self'", path)
		assert.Equal(t, "nosniff", resp.Header.Get("X-Content-Type-Options"), path)
	}
}

func TestNoPathLeavesTheFolder(t *testing.T) {
	s := serve(t, small)
	outside := filepath.Join(t.TempDir(), "x.png")
	require.NoError(t, os.WriteFile(outside, []byte("secret"), 0o644))
	require.NoError(t, os.Symlink(outside, filepath.Join(s.dir, "leak.png")))
	for _, p := range []string{"../x.png", "%2e%2e/x.png", outside, "leak.png", "secret.txt", "", ".", "pod.png/../../x.png"} {
		status, b := s.do("GET", "/folders/1/picture?path="+url.QueryEscape(p), nil)
		assert.Equal(t, http.StatusNotFound, status, p)
		assert.NotContains(t, string(b), "secret", p)
	}
	status, _ := s.do("GET", "/folders/1/picture?path=pod.png", nil)
	assert.Equal(t, http.StatusOK, status)
}

func (s *site) references(page string) api.ReferenceList {
	s.Helper()
	var list api.ReferenceList
	s.get("/folders/1/references?page="+page, &list)
	return list
}

func TestFromTheListToTheRepairAndBack(t *testing.T) {
	s := serve(t, small)
	var pages api.PageList
	s.get("/folders/1/pages?find=visit.html", &pages)
	require.Len(t, pages.Pages, 2)
	assert.Equal(t, 1, *pages.Found)
	assert.Equal(t, "bsu", pages.Pages[0].Strip)
	s.get("/folders/1/pages?state=broken&q=LIBRARY", &pages)
	assert.Equal(t, 1, pages.Total)
	s.get("/folders/1/pages?q=nothing", &pages)
	assert.Equal(t, []int{0, 2}, []int{pages.Total, pages.All})

	list := s.references("index.html")
	require.Len(t, list.References, 3)
	var landing api.Landing
	s.get("/folders/1/landing?page=index.html&key="+list.References[0].Key, &landing)
	assert.Equal(t, "Letter case differs from `visit.html`", landing.Headline)
	require.Len(t, landing.Repairs, 1)
	assert.Contains(t, landing.Repairs[0].After, `<a href="visit.html">`)
	status, _, _ := s.post("/folders/1/repairs", map[string]string{"page": "index.html", "key": list.References[0].Key, "written": landing.Repairs[0].Written})
	assert.Equal(t, http.StatusOK, status)
	var history api.ChangeList
	s.get("/folders/1/changes", &history)
	require.Len(t, history.Changes, 1)
	assert.True(t, history.Changes[0].CanUndo)

	require.NoError(t, os.WriteFile(filepath.Join(s.dir, "index.html"), []byte("mine"), 0o644))
	status, problem, _ := s.post("/folders/1/changes/1/undo", nil)
	assert.Equal(t, http.StatusConflict, status)
	assert.Equal(t, []string{"index.html"}, *problem.Files)
	assert.Contains(t, problem.Title, "index.html was edited in the meantime")

	status, problem, _ = s.post("/folders/1/repairs", map[string]string{"page": "index.html", "key": "0.0", "written": "x"})
	assert.Equal(t, http.StatusNotFound, status)
	assert.Contains(t, problem.Title, "no longer on index.html")
}

func TestLandingsTellWhatStandsThere(t *testing.T) {
	s := serve(t, small)
	list := s.references("index.html")
	var picture, mail api.Landing
	s.get("/folders/1/landing?page=index.html&key="+list.References[1].Key, &picture)
	assert.Contains(t, *picture.Target.Picture, "/picture?path=pod.png")
	s.get("/folders/1/landing?page=index.html&key="+list.References[2].Key, &mail)
	assert.Equal(t, []api.Field{{Name: "To", Value: "a@b.example"}, {Name: "Subject", Value: "Hi"}}, mail.Message)
}

func TestWhatIsLeftOutCanBeSet(t *testing.T) {
	s := serve(t, small)
	status, b := s.do("PUT", "/folders/1/exclude", map[string][]string{"patterns": {"visit.*"}}, "X-Arvel-Token", s.token)
	require.Equal(t, http.StatusOK, status, "%s", b)
	assert.Eventually(t, func() bool {
		var f api.Folder
		s.get("/folders/1", &f)
		return f.State == api.FolderStateReady && f.Counts.Pages == 1 && f.Exclude[0] == "visit.*"
	}, 5*time.Second, 5*time.Millisecond)
	status, b = s.do("PUT", "/folders/1/exclude", map[string][]string{"patterns": {"[x"}}, "X-Arvel-Token", s.token)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, string(b), "is not a pattern")
}

func TestFoldersToChooseFrom(t *testing.T) {
	s := serve(t, map[string]string{"a/x.html": "", "a/b/y.htm": "", "c/z.txt": "", ".hidden/x.html": "", "index.html": ""})
	var disk api.DiskFolder
	s.get("/disk?path="+url.QueryEscape(s.dir), &disk)
	assert.Equal(t, []api.DiskEntry{
		{Name: "a", Path: filepath.Join(s.dir, "a"), Pages: api.PageCount{Count: 2}},
		{Name: "c", Path: filepath.Join(s.dir, "c")},
	}, disk.Folders)
	assert.Equal(t, api.PageCount{Count: 3}, disk.Pages)
	for path, says := range map[string]string{"/nowhere": "There is no folder", "here": "Give the whole path", filepath.Join(s.dir, "index.html"): "is a file"} {
		status, b := s.do("GET", "/disk?path="+url.QueryEscape(path), nil)
		assert.Equal(t, http.StatusUnprocessableEntity, status)
		assert.Contains(t, string(b), says)
		status, problem, _ := s.post("/folders", map[string]string{"path": path})
		assert.Equal(t, http.StatusUnprocessableEntity, status)
		assert.Contains(t, problem.Title, says)
	}
	status, problem, _ := s.post("/folders/99/repairs", map[string]string{"page": "x", "key": "x", "written": "x"})
	assert.Equal(t, http.StatusNotFound, status)
	assert.Contains(t, problem.Title, "doesn't know this folder")
}

func TestBadRequestsAreProblems(t *testing.T) {
	s := serve(t, small)
	for _, path := range []string{"/folders/x", "/folders/1/pages?offset=x", "/folders/1/landing?page=x", "/nothing"} {
		status, b := s.do("GET", path, nil)
		var p api.Problem
		require.NoError(t, json.Unmarshal(b, &p), "%s: %s", path, b)
		assert.Equal(t, status, p.Status, path)
		assert.NotEmpty(t, p.Title, path)
		assert.GreaterOrEqual(t, status, 400, path)
	}
}

func TestOverviewAndItsLists(t *testing.T) {
	s := serve(t, map[string]string{
		"index.html":   `<title>Home</title><a href="d/a.html">a</a><img src="no.png" alt="x"><a href="https://x.example/">x</a>`,
		"d/a.html":     `<title>A</title><h1 id="x">One</h1><h2 id="x">Two</h2><a href="../index.html">h</a><a href="#y">y</a>`,
		"d/style.css":  "p { background: url(none.png) }",
		"unused.png":   "",
		"d/b c d.html": "<title>B</title><a href=a.html#x>x</a>",
	})
	var o api.Overview
	s.get("/folders/1/overview", &o)
	assert.Equal(t, []int{2, 1, 0}, []int{o.BrokenPages, o.Sites, o.Mailboxes})
	counts := map[string]int{}
	for _, r := range o.Rules {
		counts[r.Rule] = r.Count
	}
	assert.Equal(t, map[string]int{
		"missing-file": 2, "missing-fragment": 1, "duplicate-id": 1, "unused-file": 2, "unreached": 1, "file-name": 1,
	}, counts)
	assert.Equal(t, []api.FolderCount{{Path: "", Pages: 1, References: 3, Broken: 1}, {Path: "d/", Pages: 2, References: 3, Broken: 1}}, o.Folders)

	var pages api.PageList
	s.get("/folders/1/pages?way=image&state=broken", &pages)
	assert.Equal(t, []string{"index.html", "d/style.css"}, pathsOf(pages))
	s.get("/folders/1/pages?rule=unused-file", &pages)
	assert.Equal(t, []string{"d/style.css", "unused.png"}, pathsOf(pages))
	var list api.ReferenceList
	s.get("/folders/1/references?page=d/a.html&rule=missing-fragment", &list)
	require.Len(t, list.References, 1)
	require.Len(t, list.Notes, 1)
	assert.Equal(t, "duplicate-id", list.Notes[0].Rule)

	var outline api.Outline
	s.get("/folders/1/outline?page=d/a.html", &outline)
	require.Len(t, outline.Landmarks, 3)
	assert.Equal(t, []string{"y", "x", "x"}, []string{outline.Landmarks[0].Name, outline.Landmarks[1].Name, outline.Landmarks[2].Name})
	assert.Equal(t, "d/b c d.html", outline.Landmarks[1].Referrers[0].Page)
	assert.Len(t, outline.Landmarks[2].Notes, 1)
}

func pathsOf(list api.PageList) (out []string) {
	for _, p := range list.Pages {
		out = append(out, p.Path)
	}
	return out
}

func TestEventsStreamUntilTheClientLeaves(t *testing.T) {
	s := serve(t, small)
	r, err := http.NewRequestWithContext(t.Context(), "GET", s.web.URL+"/api/v1/folders/1/events", nil)
	require.NoError(t, err)
	resp, err := s.browser.Do(r)
	require.NoError(t, err)
	defer resp.Body.Close()
	assert.Equal(t, "text/event-stream", resp.Header.Get("Content-Type"))
	lines := bufio.NewScanner(resp.Body)
	require.True(t, lines.Scan())
	assert.Equal(t, "retry: 1000", lines.Text())
	require.NoError(t, os.WriteFile(filepath.Join(s.dir, "visit.html"), []byte("<a href=nowhere.html>x</a>"), 0o644))
	for lines.Scan() {
		data, is := strings.CutPrefix(lines.Text(), "data: ")
		if !is {
			continue
		}
		var e api.Event
		require.NoError(t, json.Unmarshal([]byte(data), &e))
		if e.Paths != nil {
			assert.Equal(t, []any{[]string{"visit.html"}, 1}, []any{*e.Paths, e.Broke})
			return
		}
	}
	t.Fatal("the stream ended")
}
