package httpapi_test

import (
	"encoding/json"
	"maps"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

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
			3, "index.html",
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
		{"moves", move("visit.html", "index.html"), 409, "`index.html` exists already"},
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
		{"bring", map[string]any{"page": "visit.html", "text": "<p>x", "at": 0, "leave": []string{}, "added": false, "carry": true}, 422, "There are no links here"},
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

func TestTheFolderIsATreeInWhichMovesArePlannedAndCarriedOut(t *testing.T) {
	files := map[string]string{"My Notes/One.html": "<title>One</title><a href=../index.html>Home</a>"}
	maps.Copy(files, club)
	s := serve(t, files)
	tree := func(path string) (names []string, entries []api.TreeEntry) {
		s.get("/folders/1/tree?path="+url.QueryEscape(path), &entries)
		for _, e := range entries {
			names = append(names, e.Path)
		}
		return names, entries
	}
	names, entries := tree("")
	assert.Equal(t, []string{"My Notes", "news", "index.html", "pod.png", "visit.html"}, names)
	assert.Equal(t, api.TreeEntry{Path: "My Notes", Name: "My Notes", Folder: true, Kind: "folder", Fault: "has capital letters", Better: "my-notes"}, entries[0])
	assert.Equal(t, api.TreeEntry{Path: "visit.html", Name: "visit.html", Title: "Visit", Kind: "page", In: 3, Out: 1}, entries[4])

	status, problem, _ := s.post("/folders/1/new-folder", map[string]any{"path": "/club/"})
	require.Equal(t, http.StatusOK, status, problem.Title)
	names, _ = tree("")
	assert.Contains(t, names, "club", "an empty one, too")
	for _, bad := range []string{"club", "../out", "index.html/x", ""} {
		status, problem, _ := s.post("/folders/1/new-folder", map[string]any{"path": bad})
		assert.GreaterOrEqual(t, status, 400, bad)
		assert.Less(t, status, 500, "%s: %s", bad, problem.Title)
		assert.NotEmpty(t, problem.Title, bad)
		assert.Equal(t, club["index.html"], s.file("index.html"), bad)
	}

	var better []api.Move
	s.get("/folders/1/better-names", &better)
	assert.Contains(t, better, api.Move{From: "My Notes", To: "my-notes"})
	moves := map[string]any{"moves": []api.Move{{From: "visit.html", To: "club/visit.html"}, {From: "My Notes", To: "my-notes"}}, "leavePages": true}
	status, problem, b := s.post("/folders/1/moves/plan", moves)
	require.Equal(t, http.StatusOK, status, problem.Title)
	var plan api.Plan
	require.NoError(t, json.Unmarshal(b, &plan))
	assert.Equal(t, 2, plan.FilesInAll)
	assert.Equal(t, 3, plan.RewritesInAll, "two on the home page, one in the news; what goes with its page stays as it is written")
	for _, r := range plan.Rewrites {
		require.NotNil(t, r.Destination, r.Page)
		assert.Equal(t, "will lead to", r.Destination.Verb)
		assert.Contains(t, r.Destination.Where, "club/visit.html")
		assert.Nil(t, r.Destination.State, "it is not written yet")
	}
	assert.Equal(t, club["index.html"], s.file("index.html"))

	status, problem, _ = s.post("/folders/1/moves", moves)
	require.Equal(t, http.StatusOK, status, problem.Title)
	assert.Equal(t, `<a href="../club/visit.html">visit</a>`, s.file("news/autumn.html"))
	assert.Equal(t, files["My Notes/One.html"], s.file("my-notes/One.html"))
	assert.Contains(t, s.file("visit.html"), `href="club/visit.html"`, "the page that is left behind")
	status, problem, _ = s.post("/folders/1/changes/2/undo", map[string]any{})
	require.Equal(t, http.StatusOK, status, problem.Title)
	for p, src := range files {
		assert.Equal(t, src, s.file(p))
	}
}

func TestAMoveMadeElsewhereIsFollowedOrRefused(t *testing.T) {
	s := serve(t, club)
	departures := func() (out []api.Departure) {
		s.get("/folders/1/departures", &out)
		return out
	}
	require.Empty(t, departures())
	require.NoError(t, os.Mkdir(filepath.Join(s.dir, "club"), 0o755))
	require.NoError(t, os.Rename(filepath.Join(s.dir, "visit.html"), filepath.Join(s.dir, "club/find-us.html")))
	require.NoError(t, os.Rename(filepath.Join(s.dir, "pod.png"), filepath.Join(s.dir, "club/pod.png")))
	require.Eventually(t, func() bool { return len(departures()) == 2 }, 5*time.Second, 10*time.Millisecond)
	page := departures()[slices.IndexFunc(departures(), func(d api.Departure) bool { return d.From == "visit.html" })]
	assert.Equal(t, api.Departure{From: "visit.html", To: "club/find-us.html", Same: true, Sure: true, Still: 3}, page)

	status, problem, _ := s.post("/folders/1/departures", map[string]any{"moves": []api.Move{{From: "visit.html", To: "club/find-us.html"}}, "follow": true})
	require.Equal(t, http.StatusOK, status, problem.Title)
	assert.Equal(t, `<title>Seed library</title><a href="club/find-us.html#open">Visit</a> <a href="club/find-us.html">us</a><img src="pod.png" alt="Pod">`, s.file("index.html"))
	require.Len(t, departures(), 1)
	status, problem, _ = s.post("/folders/1/departures", map[string]any{"moves": []api.Move{{From: "pod.png", To: "club/pod.png"}}, "follow": false})
	require.Equal(t, http.StatusOK, status, problem.Title)
	assert.Empty(t, departures(), "it was none")
	assert.Contains(t, s.file("index.html"), `src="pod.png"`)
	status, _, _ = s.post("/folders/1/changes/1/undo", map[string]any{})
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, club["index.html"], s.file("index.html"))
	assert.Len(t, departures(), 1, "what was followed is offered again")
}
