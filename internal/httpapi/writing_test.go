package httpapi_test

import (
	"encoding/json"
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

// asks posts something that has to be answered well.
func (s *site) asks(path string, body, into any) {
	s.Helper()
	status, problem, b := s.post("/folders/1/"+path, body)
	require.Equal(s, http.StatusOK, status, "%s: %s", path, problem.Title)
	require.NoError(s, json.Unmarshal(b, into))
}

func TestOffersAreAsSeenFromThePageOrTheFolder(t *testing.T) {
	s := serve(t, club)
	for _, c := range []struct {
		body map[string]any
		want []string
	}{
		{map[string]any{"page": "news/autumn.html", "value": "../v"}, []string{"../visit.html"}},
		{map[string]any{"page": "news/autumn.html", "value": "../visit.html#"}, []string{"../visit.html#open"}},
		{map[string]any{"page": "", "words": "visit"}, []string{"visit.html"}},
		{map[string]any{"page": "", "value": "new"}, []string{"news/"}},
		{map[string]any{"page": "", "words": "nothing of the kind"}, nil},
		{map[string]any{"page": "news/autumn.html", "text": `<p id=late>`, "value": "#"}, []string{"#late"}},
	} {
		var offers []api.Offer
		s.asks("offers", c.body, &offers)
		var written []string
		for _, o := range offers {
			written = append(written, o.Written)
		}
		for _, w := range c.want {
			assert.Contains(t, written, w, "%v", c.body)
		}
		if c.want == nil {
			assert.Empty(t, written)
		}
	}
	status, _, _ := s.post("/folders/1/offers", map[string]any{"page": "none.html", "value": "x"})
	assert.Equal(t, http.StatusNotFound, status)
}

// What is saved is what was typed, by its hash; what another program wrote meanwhile is never written over.
func TestSavingKeepsWhatAnotherProgramWrote(t *testing.T) {
	s := serve(t, club)
	var source api.Source
	s.get("/folders/1/source?page=visit.html", &source)
	assert.Equal(t, club["visit.html"], source.Text)
	save := func(text, base string) (int, api.Problem) {
		status, b := s.do("PUT", "/folders/1/source", map[string]any{"page": "visit.html", "text": text, "base": base}, "X-Arvel-Token", s.token)
		var p api.Problem
		json.Unmarshal(b, &p)
		return status, p
	}
	status, _ := save(source.Text+"<p>More", source.Hash)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, club["visit.html"]+"<p>More", s.file("visit.html"))
	require.NoError(t, os.WriteFile(filepath.Join(s.dir, "visit.html"), []byte("<p>by another program"), 0o644))
	s.get("/folders/1/source?page=visit.html", &source)
	status, problem := save("<p>mine", strings.Repeat("0", len(source.Hash)))
	assert.Equal(t, http.StatusConflict, status, problem.Title)
	assert.Equal(t, "<p>by another program", s.file("visit.html"))
}

func TestTextThatIsNotSavedIsJudgedAndKept(t *testing.T) {
	s := serve(t, club)
	var judged api.JudgedText
	s.asks("judge", map[string]any{"page": "visit.html", "text": `<a href="none.html">n</a><a href="index.html">i</a>`}, &judged)
	spans := judged.Spans
	require.Len(t, spans, 2)
	require.Len(t, judged.Marks, 2)
	assert.Equal(t, api.LiveMarkFollowsNowhere, judged.Marks[0].Follows)
	assert.Equal(t, []api.State{"broken", "sound"}, []api.State{spans[0].Reference.State, spans[1].Reference.State})
	assert.Equal(t, club["visit.html"], s.file("visit.html"))
	status, _ := s.do("PUT", "/folders/1/draft", map[string]any{"page": "visit.html", "text": "<p>draft", "base": ""}, "X-Arvel-Token", s.token)
	assert.Equal(t, http.StatusNoContent, status)
	var source api.Source
	s.get("/folders/1/source?page=visit.html", &source)
	require.NotNil(t, source.Draft)
	assert.Equal(t, "<p>draft", source.Draft.Text)
}

func TestLinksAndPagesAreMadeOverTheAPI(t *testing.T) {
	s := serve(t, club)
	var composed api.Composed
	text := "<p>Where we are."
	s.asks("compose", map[string]any{"page": "news/autumn.html", "text": text, "from": 3, "to": 8, "what": "link", "attributes": []any{map[string]any{"name": "href", "value": "../visit.html"}}}, &composed)
	require.Len(t, composed.Edits, 2)
	assert.Equal(t, `<a href="../visit.html">`, composed.Edits[0].Insert)
	assert.Equal(t, "Lands on `visit.html`", composed.Leads.Headline)
	status, problem, _ := s.post("/folders/1/compose", map[string]any{"page": "news/autumn.html", "text": "<a href=x>y</a>", "from": 4, "to": 4, "what": "list", "targets": []string{"visit.html"}})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, problem.Title, "inside `<a …>`")

	var page struct{ Path string }
	s.asks("new-page", map[string]any{"path": "news/winter", "title": "Winter", "check": true}, &page)
	assert.Equal(t, "news/winter.html", page.Path)
	assert.NoFileExists(t, filepath.Join(s.dir, "news/winter.html"), "it was only asked")
	s.asks("new-page", map[string]any{"path": "news/winter", "title": "Winter", "pattern": "visit.html"}, &page)
	assert.Contains(t, s.file("news/winter.html"), "<title>Winter</title>")
	for path, says := range map[string]string{"visit.html": "exists", "winter.html.txt": "hides", "../winter": "outside"} {
		status, problem, _ := s.post("/folders/1/new-page", map[string]any{"path": path, "title": "x"})
		assert.Equal(t, http.StatusUnprocessableEntity, status, path)
		assert.Contains(t, problem.Title, says, path)
	}

	var words []api.WordsAt
	require.NoError(t, os.WriteFile(filepath.Join(s.dir, "pod.css"), []byte("/* Open */"), 0o644))
	s.asks("link-words", map[string]any{"words": "visit", "target": "visit.html", "attributes": []any{}, "leave": []string{}}, &words)
	for _, at := range words {
		assert.NotEqual(t, "visit.html", at.Page, "no page leads to itself")
	}
}

func TestAPictureIsTakenInUnderAGoodName(t *testing.T) {
	s := serve(t, club)
	send := func(name, bytes string) int {
		r, err := http.NewRequestWithContext(t.Context(), "POST", s.web.URL+"/api/v1/folders/1/pictures?name="+url.QueryEscape(name), strings.NewReader(bytes))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/octet-stream")
		r.Header.Set("X-Arvel-Token", s.token)
		resp, err := s.browser.Do(r)
		require.NoError(t, err)
		defer resp.Body.Close()
		return resp.StatusCode
	}
	gif := "GIF89a\x01\x00\x01\x00\x80\x00\x00\x00\x00\x00\xff\xff\xff,\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00;"
	status := send("My Pod!.GIF", gif)
	assert.Equal(t, http.StatusOK, status)
	found, err := filepath.Glob(filepath.Join(s.dir, "*", "my-pod.gif"))
	require.NoError(t, err)
	if len(found) == 0 {
		found, _ = filepath.Glob(filepath.Join(s.dir, "my-pod.gif"))
	}
	assert.Len(t, found, 1)
	status = send("notes.gif", "no picture at all")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}
