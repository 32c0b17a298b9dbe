package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/api"
	"arvel/internal/httpapi"
	"arvel/internal/journal"
	"arvel/internal/store"
	"arvel/internal/workspace"
)

// Whoever was not given the printed address gets in nowhere: not to the interface, not to the API, not to the preview.
func TestNobodyGetsInWithoutTheKey(t *testing.T) {
	s := serve(t, small)
	stranger := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	for _, path := range []string{"/", "/folder/1/pages", "/api/v1/session", "/api/v1/folders", "/api/v1/folders/1/source?page=index.html", "/assets/", "/?key=guessed"} {
		resp, err := stranger.Get(s.web.URL + path)
		require.NoError(t, err)
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		resp.Body.Close()
		assert.Equal(t, http.StatusUnauthorized, resp.StatusCode, path)
		assert.Empty(t, resp.Cookies())
		if strings.HasPrefix(path, "/api/") {
			assert.Equal(t, "application/problem+json", resp.Header.Get("Content-Type"))
		} else {
			assert.Contains(t, string(b), "Open the address that it printed", path)
		}
		assert.NotContains(t, string(b), s.token)
	}
	r, err := http.NewRequestWithContext(t.Context(), "PUT", s.web.URL+"/api/v1/folders/1/source", strings.NewReader(`{"page":"index.html","text":"x","base":""}`))
	require.NoError(t, err)
	r.Header.Set("X-Arvel-Token", s.token)
	resp, err := stranger.Do(r)
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, http.StatusUnauthorized, resp.StatusCode, "the token alone is not enough")

	address, key := s.preview()
	seen, body := looksAt(t, "GET", address+"index.html", "", nil)
	assert.Equal(t, http.StatusUnauthorized, seen.StatusCode)
	assert.NotContains(t, body, "Seed library")
	seen, body = looksAt(t, "GET", address+"index.html", "", key)
	assert.Equal(t, http.StatusOK, seen.StatusCode)
	assert.Contains(t, body, "Seed library")
	assert.True(t, key.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, key.SameSite)
}

// The key is the same after a restart, and for its owner only.
func TestTheKeyOutlastsARestart(t *testing.T) {
	dir := t.TempDir()
	address := func() string {
		st, err := store.Open(dir)
		require.NoError(t, err)
		defer st.Close()
		s, err := httpapi.New(workspace.On(st))
		require.NoError(t, err)
		return s.Address(4178)
	}
	first := address()
	assert.Regexp(t, `^http://localhost:4178/\?key=[\w-]{32}$`, first)
	assert.Equal(t, first, address())
	info, err := os.Stat(filepath.Join(dir, "arvel.key"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
}

// Another site can't load what the preview shows, not even into an image or a script.
func TestAnotherSiteCannotLoadThePreview(t *testing.T) {
	s := serve(t, small)
	address, key := s.preview()
	ask := func(header ...string) (int, string) {
		r, err := http.NewRequestWithContext(t.Context(), "GET", address+"pod.png", nil)
		require.NoError(t, err)
		r.AddCookie(key)
		for i := 0; i < len(header); i += 2 {
			r.Header.Set(header[i], header[i+1])
		}
		resp, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		resp.Body.Close()
		return resp.StatusCode, resp.Header.Get("Cross-Origin-Resource-Policy")
	}
	for _, c := range []struct {
		site, mode, dest string
		status           int
	}{
		{"cross-site", "no-cors", "image", 403},
		{"cross-site", "no-cors", "script", 403},
		{"same-site", "cors", "empty", 403},
		{"cross-site", "navigate", "object", 403},
		{"same-origin", "no-cors", "image", 200},
		{"none", "navigate", "document", 200},
		{"cross-site", "navigate", "iframe", 200},
	} {
		status, policy := ask("Sec-Fetch-Site", c.site, "Sec-Fetch-Mode", c.mode, "Sec-Fetch-Dest", c.dest)
		assert.Equal(t, c.status, status, "%v", c)
		assert.Equal(t, "same-origin", policy)
	}
}

func TestBodiesAreBounded(t *testing.T) {
	s := serve(t, small)
	for path, size := range map[string]int{"draft": 33 << 20, "settings": 2 << 20, "lead": 2 << 20} {
		method := map[string]string{"draft": "PUT", "settings": "PUT", "lead": "POST"}[path]
		status, b := s.do(method, "/folders/1/"+path, map[string]string{"page": "index.html", "text": strings.Repeat("x", size), "base": ""}, "X-Arvel-Token", s.token)
		assert.Equal(t, http.StatusRequestEntityTooLarge, status, path)
		assert.Contains(t, string(b), "more than Arvel takes at once")
	}
	// One that does not say its length is cut off, too.
	reader, writer := io.Pipe()
	go func() {
		_, err := io.WriteString(writer, `{"from": "`+strings.Repeat("x", 3<<20)+`"}`)
		writer.CloseWithError(err)
	}()
	r, err := http.NewRequestWithContext(t.Context(), "POST", s.web.URL+"/api/v1/folders/1/lead", reader)
	require.NoError(t, err)
	r.Header.Set("X-Arvel-Token", s.token)
	r.Header.Set("Content-Type", "application/json")
	resp, err := s.browser.Do(r)
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, http.StatusRequestEntityTooLarge, resp.StatusCode)
}

// What is only half typed, or gone, is no error in the eyes of a browser, if it is asked that way; all else is.
func TestWhatIsHalfTypedIsQuiet(t *testing.T) {
	s := serve(t, small)
	status, b := s.do("GET", "/folders/1/cause?key=name/none/", nil, "Prefer", "quiet-problems")
	var p api.Problem
	require.NoError(t, json.Unmarshal(b, &p))
	assert.Equal(t, []int{http.StatusOK, http.StatusNotFound}, []int{status, p.Status})
	status, _ = s.do("GET", "/folders/1/cause?key=name/none/", nil)
	assert.Equal(t, http.StatusNotFound, status)
	status, _ = s.do("POST", "/folders/1/undo", nil, "Prefer", "quiet-problems")
	assert.Equal(t, http.StatusForbidden, status, "a request without the token stays one that is refused")
}

// A change that is asked for by somebody who leaves is carried out, and what is shown is what is so then.
func TestWhoLeavesInTheMiddleLeavesNothingStale(t *testing.T) {
	t.Cleanup(func() { journal.Step = func() {} })
	s := serve(t, small)
	var list struct{ References []api.Reference }
	s.get("/folders/1/references?page=index.html", &list)
	ctx, leave := context.WithCancel(t.Context())
	defer leave()
	var left atomic.Bool
	gone := make(chan struct{})
	journal.Step = func() {
		if left.CompareAndSwap(false, true) {
			leave()
			<-gone // the client has gone by the time that anything is written
		}
	}
	body, err := json.Marshal(map[string]string{"page": "index.html", "key": list.References[0].Key, "written": "visit.html"})
	require.NoError(t, err)
	r, err := http.NewRequestWithContext(ctx, "POST", s.web.URL+"/api/v1/folders/1/repairs", bytes.NewReader(body))
	require.NoError(t, err)
	r.Header.Set("X-Arvel-Token", s.token)
	r.Header.Set("Content-Type", "application/json")
	_, err = s.browser.Do(r)
	require.ErrorIs(t, err, context.Canceled)
	close(gone)
	require.Eventually(t, func() bool {
		var f api.Folder
		s.get("/folders/1", &f)
		return f.Counts.Broken == 0
	}, 5*time.Second, 10*time.Millisecond)
	assert.Contains(t, s.file("index.html"), `href="visit.html"`)
}

// A database that fails is said to fail; that is another thing than a folder that is not known.
func TestErrorsKeepTheirKind(t *testing.T) {
	s := serve(t, small)
	status, b := s.do("GET", "/folders/9", nil)
	assert.Equal(t, http.StatusNotFound, status)
	assert.Contains(t, string(b), "doesn't know this folder")
	require.NoError(t, s.store.Close())
	status, b = s.do("GET", "/folders/9", nil)
	assert.Equal(t, http.StatusInternalServerError, status)
	assert.NotContains(t, string(b), "doesn't know this folder")
}

func TestNothingThatIsSentMakesComposingFail(t *testing.T) {
	s := serve(t, small)
	for name, body := range map[string]map[string]any{
		"a stretch from its end to its start": {"page": "index.html", "text": `<p><a href="x.html">`, "from": 15, "to": 2, "what": "tags"},
		"an e-mail link without its message":  {"page": "index.html", "text": "<p>x", "from": 4, "to": 4, "what": "e-mail"},
		"no page":                             {"page": "", "text": "<p>x", "from": 4, "to": 4, "what": "link"},
		"no page, to look":                    {"page": "", "text": "", "from": 0, "to": 0},
		"nothing in an empty page":            {"page": "index.html", "text": "", "from": 0, "to": 0},
		"a tag where there is none":           {"page": "index.html", "text": "<p>x", "from": 4, "to": 4, "what": "tag"},
		"an end tag without its start":        {"page": "index.html", "text": "x</a>", "from": 3, "to": 3, "what": "tag"},
		"a place beyond the text":             {"page": "index.html", "text": "<p>x", "from": 400, "to": -4, "what": "contents"},
	} {
		status, _, b := s.post("/folders/1/compose", body)
		assert.NotEqual(t, http.StatusInternalServerError, status, "%s: %s", name, b)
	}
}

// A link to a heading that is given its id by that same step lands there, as the form says before it is written; and so does
// one to an id that was typed and not saved.
func TestALinkLandsOnTheIDThatItsHeadingIsGiven(t *testing.T) {
	s := serve(t, map[string]string{"index.html": `<title>Home</title><h2 id="old">Peas</h2>`, "visit.html": `<title>Visit</title><h2>Opening times</h2>`})
	for want, body := range map[string]map[string]any{
		"Lands on `visit.html#opening-times`": {"text": `<p>When`, "href": "visit.html#opening-times", "heading": "Opening times"},
		"Lands on `index.html#peas`":          {"text": `<h2>Peas</h2><p>When`, "href": "#peas", "heading": "Peas"},
		"Lands on `index.html#beans`":         {"text": `<h2>Beans</h2><p><a href=x>When`, "href": "#beans", "heading": "Beans", "what": "tag"},
		"Lands on `index.html#typed`":         {"text": `<h2 id="typed">Peas</h2><p>When`, "href": "#typed"},
		"No element has the id `old`":         {"text": `<h2>Peas</h2><p>When`, "href": "#old"},
	} {
		text := body["text"].(string)
		body["attributes"] = []any{map[string]any{"name": "href", "value": body["href"]}}
		body["page"], body["from"], body["to"] = "index.html", len(text)-4, len(text)
		if body["what"] == nil {
			body["what"] = "link"
		}
		delete(body, "href")
		var composed api.Composed
		s.asks("compose", body, &composed)
		require.NotNil(t, composed.Leads)
		assert.Equal(t, want, composed.Leads.Headline)
	}
	assert.Equal(t, `<title>Visit</title><h2>Opening times</h2>`, s.file("visit.html"), "nothing is written before it is asked for")
}

// A line break in a mailbox begins no field of its own in the message.
func TestAMessageHasJustItsOwnFields(t *testing.T) {
	s := serve(t, map[string]string{"index.html": `<a href="mailto:a@b.example%0D%0ABcc:x@y.example?subject=Hi%0D%0AX-Evil: 1">w</a>`})
	var list struct{ References []api.Reference }
	s.get("/folders/1/references?page=index.html", &list)
	status, b := s.do("GET", "/folders/1/message?page=index.html&key="+list.References[0].Key, nil)
	require.Equal(t, http.StatusOK, status)
	for line := range strings.SplitSeq(string(b), "\r\n") {
		assert.NotRegexp(t, `^(Bcc|X-Evil):`, line)
	}
}

// A body that comes drop by drop is cut off, and a connection on which nothing is asked, too.
func TestASlowBodyIsCutOff(t *testing.T) {
	httpapi.BodyTime = 300 * time.Millisecond
	t.Cleanup(func() { httpapi.BodyTime = time.Minute })
	s := serve(t, small)
	at, err := url.Parse(s.web.URL)
	require.NoError(t, err)
	conn, err := net.Dial("tcp", at.Host)
	require.NoError(t, err)
	defer conn.Close()
	var cookies []string
	for _, c := range s.browser.Jar.(*cookiejar.Jar).Cookies(at) {
		cookies = append(cookies, c.String())
	}
	fmt.Fprintf(conn, "POST /api/v1/folders/1/lead HTTP/1.1\r\nHost: %s\r\nCookie: %s\r\nX-Arvel-Token: %s\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{", at.Host, strings.Join(cookies, "; "), s.token)
	require.NoError(t, conn.SetReadDeadline(time.Now().Add(5*time.Second)))
	answer, err := io.ReadAll(conn)
	require.NoError(t, err, "the connection ends")
	assert.Contains(t, string(answer), "408")
}

// The numbers of all views of the API are those of one count.
func TestAllViewsGiveTheSameNumbers(t *testing.T) {
	s := serve(t, map[string]string{
		"index.html": `<title>x</title><a href="Visit.html">1</a><a href="visit.html#no">2</a><label for="x">l</label><a href="www.orchard.example">3</a><a href="mailto:nobody">m</a><a href="mailto:a@b.example">m</a>`,
		"visit.html": `<p id="a b"><p id="a b"><a href="index.html ">i</a><img usemap="#none" src="p.png" alt="">`, "c.css": "p{background:url(no.png)}",
		"sitemap.xml": "<urlset><url><loc>none.html</loc></url></urlset>", "p.png": "\x89PNG", "Two Words.html": "<title>t</title><a href=index.html>i</a>", "F d/x.html": "<title>x</title><a href='../index.html'>i</a>",
	})
	var f api.Folder
	s.get("/folders/1", &f)
	var overview api.Overview
	s.get("/folders/1/overview", &overview)
	var pages api.PageList
	s.get("/folders/1/pages", &pages)
	var causes api.CauseList
	s.get("/folders/1/causes", &causes)
	var hosting api.Hosting
	s.get("/folders/1/hosting", &hosting)
	broken := map[string]int{}
	fragile := map[string]int{}
	brokenPages := 0
	for _, p := range pages.Pages {
		broken["Pages"] += p.Broken
		fragile["Pages"] += p.Fragile
		if p.Broken > 0 && strings.HasSuffix(p.Path, ".html") {
			brokenPages++
		}
	}
	for _, w := range overview.Ways {
		broken["Overview"] += w.Broken
		fragile["Overview"] += w.Fragile
	}
	for _, c := range causes.Causes {
		broken["the causes"] += c.Broken
	}
	var count func(dir string)
	count = func(dir string) {
		var tree []api.TreeEntry
		s.get("/folders/1/tree?path="+url.QueryEscape(dir), &tree)
		for _, e := range tree {
			broken["Moves"] += e.Broken
			if e.Folder {
				count(e.Path)
			}
		}
	}
	count("")
	broken["Repairs"], fragile["Repairs"] = causes.Broken, causes.Fragile
	broken["Hosting"] = hosting.Places[0].Broken
	for view, n := range broken {
		assert.Equal(t, f.Counts.Broken, n, view)
	}
	for view, n := range fragile {
		assert.Equal(t, f.Counts.Fragile, n, view)
	}
	assert.Equal(t, brokenPages, overview.BrokenPages)
	assert.Equal(t, f.Counts.Pages, pages.All-pages.Others)
	assert.Equal(t, 1, overview.Mailboxes, "a malformed one is none")
	names := 0
	for _, r := range overview.Rules {
		if r.Rule == "file-name" {
			names += r.Count
		}
	}
	files := 0
	for _, n := range hosting.Names {
		if !strings.HasSuffix(n.Path, "/") {
			files++
		}
	}
	assert.Equal(t, names, files)
	var better []api.Move
	s.get("/folders/1/better-names", &better)
	assert.Len(t, better, len(hosting.Names))
	assert.Equal(t, overview.Certain, causes.Certain)
	_, _, b := s.post("/folders/1/causes", map[string]any{"certainty": "certain"})
	var repaired struct{ Repaired, Broken int }
	require.NoError(t, json.Unmarshal(b, &repaired))
	assert.Equal(t, causes.Certain, repaired.Broken)
	assert.Equal(t, causes.Certain+causes.CertainFragile, repaired.Repaired)
}

// What is said of a change is counted from what was carried out.
func TestWhatWasMovedIsCounted(t *testing.T) {
	files := map[string]string{"index.html": ""}
	for i := range 30 {
		files[fmt.Sprintf("old/%d.html", i)] = `<a href="../index.html">home</a>`
		files["index.html"] += fmt.Sprintf(`<a href="old/%d.html">x</a>`, i)
	}
	s := serve(t, files)
	_, _, b := s.post("/folders/1/moves", map[string]any{"moves": []map[string]string{{"from": "old", "to": "new/old"}}})
	var plan api.Plan
	require.NoError(t, json.Unmarshal(b, &plan))
	assert.Equal(t, api.Done{Moved: 30, Edited: 31, References: 60}, api.Done{Moved: plan.Done.Moved, Edited: plan.Done.Edited, References: plan.Done.References})
	assert.NotZero(t, plan.Change)
}

// Only those references lead elsewhere that are to: not a page's own links within itself, and not the rows that are left out.
func TestSingleReferencesCanBeLeftAlone(t *testing.T) {
	s := serve(t, map[string]string{
		"index.html": `<a href="visit.html">1</a><a href="visit.html">2</a>`, "visit.html": `<a href="#how">how</a><a href="visit.html#how">h</a><p id=how>`, "new.html": "<p id=how>",
	})
	_, _, b := s.post("/folders/1/lead", map[string]any{"from": "visit.html", "to": "new.html", "carry": false})
	var plan api.Plan
	require.NoError(t, json.Unmarshal(b, &plan))
	require.Len(t, plan.Rewrites, 2)
	s.post("/folders/1/lead", map[string]any{"from": "visit.html", "to": "new.html", "carry": true, "leave": []map[string]string{{"page": "index.html", "key": plan.Rewrites[0].Key}}})
	assert.Equal(t, `<a href="visit.html">1</a><a href="new.html">2</a>`, s.file("index.html"))
	assert.Equal(t, `<a href="#how">how</a><a href="visit.html#how">h</a><p id=how>`, s.file("visit.html"))
}
