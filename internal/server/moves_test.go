package server_test

import (
	"encoding/json"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/api"
)

// plans posts what is to be planned, or carried out, and returns what follows.
func (s *site) plans(path string, body map[string]any, carry bool) (p api.Plan) {
	s.Helper()
	body["carry"] = carry
	status, problem, b := s.post("/folders/1/"+path, body)
	require.Equal(s, http.StatusOK, status, problem.Title)
	require.NoError(s, json.Unmarshal(b, &p))
	return p
}

func (s *site) file(p string) string {
	s.Helper()
	b, err := os.ReadFile(filepath.Join(s.dir, p))
	require.NoError(s, err)
	return string(b)
}

var club = map[string]string{
	"index.html": `<title>Seed library</title><a href="visit.html#open">Visit</a> <a href="visit.html">us</a><img src="pod.png" alt="Pod">`,
	"visit.html": `<title>Visit</title><h1 id=open>Open</h1><a href="#open">up</a>`, "news/autumn.html": `<a href="../visit.html">visit</a>`, "pod.png": "\x89PNG",
}

// What more of the same kind is planned is only shown until it is carried out, and is one change then.
func TestMoreOfTheSameKindIsPlannedAndCarriedOut(t *testing.T) {
	for path, c := range map[string]struct {
		body     map[string]any
		rewrites int
		file     string
		becomes  string
	}{
		"lead": {
			map[string]any{"from": "visit.html", "to": "news/autumn.html"},
			4, "index.html",
			`<title>Seed library</title><a href="news/autumn.html">Visit</a> <a href="news/autumn.html">us</a><img src="pod.png" alt="Pod">`,
		},
		"rename-id": {
			map[string]any{"page": "visit.html", "from": "open", "to": "hours"},
			3, "visit.html",
			`<title>Visit</title><h1 id=hours>Open</h1><a href="#hours">up</a>`,
		},
		"delete": {
			map[string]any{"files": []map[string]any{{"path": "visit.html", "choice": "unlink"}, {"path": "pod.png", "choice": "leave"}}}, 3, "news/autumn.html", "visit",
		},
	} {
		t.Run(path, func(t *testing.T) {
			s := serve(t, club)
			p := s.plans(path, c.body, false)
			assert.Zero(t, p.Change)
			assert.Equal(t, c.rewrites, p.RewritesInAll)
			assert.Equal(t, club[c.file], s.file(c.file))
			p = s.plans(path, c.body, true)
			assert.NotZero(t, p.Change)
			assert.Equal(t, c.becomes, s.file(c.file))
			status, _, _ := s.post("/folders/1/changes/1/undo", map[string]any{})
			assert.Equal(t, http.StatusOK, status)
			assert.Equal(t, club[c.file], s.file(c.file))
		})
	}
}

func TestWhatCantBeMovedOrDeletedIsSaidAndNothingIsDone(t *testing.T) {
	s := serve(t, club)
	move := func(pairs ...string) map[string]any {
		var moves []map[string]any
		for i := 0; i < len(pairs); i += 2 {
			moves = append(moves, map[string]any{"from": pairs[i], "to": pairs[i+1]})
		}
		return map[string]any{"moves": moves}
	}
	deletion := func(path, choice, to string) map[string]any {
		return map[string]any{"carry": true, "files": []map[string]any{{"path": path, "choice": choice, "to": to}}}
	}
	for _, c := range []struct {
		path   string
		body   map[string]any
		status int
		says   string
	}{
		{"moves", move("visit.html", "index.html"), 409, "`index.html` is there already"},
		{"moves", move("none.html", "x.html"), 409, "There is no `none.html`"},
		{"moves", move("visit.html", "../visit.html"), 409, "outside"},
		{"moves", move("visit.html", "index.html/visit.html"), 409, "is a file"},
		{"moves", move("news", "news/old"), 409, "itself"},
		{"moves", move("visit.html", "a.html", "index.html", "a.html"), 409, "a.html"},
		{"moves", move("visit.html", "a.html", "visit.html", "b.html"), 409, "visit.html"},
		{"moves", move("visit.html", "INDEX.html"), 409, "letter case"},
		{"moves", move("visit.html", "a\x00b.html"), 409, "a\x00b.html"},
		{"moves", move("visit.html", ""), 409, "name"},
		{"moves", move(), 404, "nothing to change"},
		{"delete", deletion("none", "leave", ""), 409, "There is no `none`"},
		{"delete", deletion("../", "leave", ""), 409, "There is no"},
		{"delete", deletion("visit.html", "lead", "none.html"), 409, "There is no `none.html`"},
		{"delete", deletion("visit.html", "burn", ""), 409, "`burn` is not known"},
		{"lead", map[string]any{"from": "visit.html", "to": "visit.html", "carry": true}, 409, "already"},
		{"lead", map[string]any{"from": "", "to": "visit.html", "carry": true}, 409, "Say what"},
		{"rename-id", map[string]any{"page": "visit.html", "from": "none", "to": "x", "carry": true}, 409, "none"},
		{"rename-id", map[string]any{"page": "visit.html", "from": "open", "to": "two words", "carry": true}, 409, "a space in it"},
		{"departures", map[string]any{"moves": []map[string]any{{"from": "a.html", "to": "b.html"}}, "follow": true}, 409, "Nothing is at `b.html`"},
		{"departures", map[string]any{"moves": []map[string]any{}, "follow": true}, 404, "nothing to change"},
		{"bring", map[string]any{"page": "none.html", "text": "", "at": 0, "leave": []string{}, "added": false, "carry": true}, 404, "none.html"},
		{"bring", map[string]any{"page": "visit.html", "text": "<p>x", "at": 0, "leave": []string{}, "added": false, "carry": true}, 422, "no block with links"},
	} {
		status, problem, _ := s.post("/folders/1/"+c.path, c.body)
		assert.Equal(t, c.status, status, "%s %v: %s", c.path, c.body, problem.Title)
		assert.Contains(t, problem.Title+" "+string(text(problem.Detail)), c.says, "%s %v", c.path, c.body)
		for p, src := range club {
			assert.Equal(t, src, s.file(p), "%s %v", c.path, c.body)
		}
	}
}

func text(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

func TestANameIsCheckedAsItIsTyped(t *testing.T) {
	s := serve(t, club)
	for name, want := range map[string]api.NameFault{
		"":              {},
		"2026/":         {Path: "2026/"},
		"My Guides/":    {Path: "My Guides/", Fault: "has capital letters", Better: "my-guides"},
		"find-us.html":  {Path: "find-us.html"},
		"Find Us!.html": {Path: "Find Us!.html", Fault: "has capital letters", Better: "find-us.html"},
	} {
		var got api.NameFault
		s.get("/folders/1/name?path="+url.QueryEscape(name), &got)
		assert.Equal(t, want, got)
	}
}
