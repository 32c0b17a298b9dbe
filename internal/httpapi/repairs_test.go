package httpapi_test

import (
	"encoding/json"
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/api"
)

// misspelt is a folder in which one folder's name is written wrongly on two pages, and one fragment by a letter's case.
var misspelt = map[string]string{
	"index.html": `<title>Home</title><img src="image/pod.png" alt="Pod"><a href="visit.html">Visit</a>`, "images/pod.png": "\x89PNG", "images/leek.png": "\x89PNG",
	"visit.html": `<title>Visit</title><h1 id=open>Open</h1><img src='image/leek.png' alt=Leek><a href="#Open">up</a><a href="index.html">Home</a>`,
}

func (s *site) causes() (out api.CauseList) {
	s.Helper()
	s.get("/folders/1/causes", &out)
	return out
}

func TestACauseIsLookedAtRepairedInPartAndUndone(t *testing.T) {
	s := serve(t, misspelt)
	list := s.causes()
	require.Len(t, list.Causes, 3, "and what nothing refers to")
	assert.Equal(t, []any{3, 3, "The folder `images` is written `image`"}, []any{list.Broken, list.Certain, list.Causes[0].Message})
	key := "?key=" + url.QueryEscape(list.Causes[0].Key)

	var detail api.CauseDetail
	s.get("/folders/1/cause"+key, &detail)
	require.Equal(t, 2, detail.Total)
	row := detail.Rows[1]
	assert.Equal(t, []any{"visit.html", "image/leek.png", "images/leek.png", "certain"}, []any{row.Page, row.Written, row.Then, row.Certainty})
	require.NotNil(t, row.Destination)
	assert.Equal(t, []any{api.StateBroken, "leads to", "image/leek.png", "which does not exist"}, []any{*row.Destination.State, row.Destination.Verb, row.Destination.Where, row.Destination.Note})
	s.get("/folders/1/cause"+key+"&offset=1&limit=1", &detail)
	assert.Equal(t, []api.CauseRow{row}, detail.Rows, "a stretch of it")

	status, diff := s.do("GET", "/folders/1/cause/diff"+key, nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, string(diff), `-<title>Home</title><img src="image/pod.png"`)
	assert.Contains(t, string(diff), `+<title>Home</title><img src="images/pod.png"`)
	assert.Equal(t, misspelt["index.html"], s.file("index.html"), "which changes nothing")

	status, problem, _ := s.post("/folders/1/causes", map[string]any{"key": list.Causes[0].Key, "certainty": "sure"})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, problem.Title, "not `sure`")
	status, problem, _ = s.post("/folders/1/causes", map[string]any{
		"key": list.Causes[0].Key, "certainty": "certain", "leave": []map[string]any{{"page": "visit.html", "key": row.Key}},
	})
	require.Equal(t, http.StatusOK, status, problem.Title)
	assert.Equal(t, `<title>Home</title><img src="images/pod.png" alt="Pod"><a href="visit.html">Visit</a>`, s.file("index.html"))
	assert.Equal(t, misspelt["visit.html"], s.file("visit.html"), "what was left is left")

	status, problem, _ = s.post("/folders/1/causes", map[string]any{"certainty": "certain"})
	require.Equal(t, http.StatusOK, status, problem.Title)
	assert.Zero(t, s.causes().Broken)
	var history api.ChangeList
	s.get("/folders/1/changes", &history)
	require.Equal(t, 2, history.Total)
	assert.Equal(t, "2 references repaired, certain", history.Changes[0].Title)
	status, diff = s.do("GET", "/folders/1/changes/2/diff", nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, string(diff), `src='images/leek.png' alt=Leek><a href="#open">`)
	status, _, _ = s.post("/folders/1/changes/1/undo-back-to", map[string]any{})
	assert.Equal(t, http.StatusOK, status)
	for p, src := range misspelt {
		assert.Equal(t, src, s.file(p))
	}
	status, _ = s.do("GET", "/folders/1/cause?key=name:gone.html", nil)
	assert.Equal(t, http.StatusNotFound, status)
}

func TestWhatIsSetAsideIsNotBrokenUntilItIsBroughtBack(t *testing.T) {
	s := serve(t, misspelt)
	list := s.causes()
	status, problem, _ := s.post("/folders/1/cause/aside?key="+url.QueryEscape(list.Causes[0].Key), map[string]any{"reason": "The pictures come in May."})
	require.Equal(t, http.StatusNoContent, status, problem.Title)
	assert.Equal(t, 1, s.causes().Broken)
	var aside []api.AsideFinding
	s.get("/folders/1/aside", &aside)
	require.Len(t, aside, 2)
	assert.Equal(t, []any{"index.html", "image/pod.png", "The pictures come in May."}, []any{aside[0].Mark.Page, aside[0].Mark.Written, aside[0].Reason})
	status, _, _ = s.post("/folders/1/aside", map[string]any{"marks": []api.Mark{aside[0].Mark, aside[1].Mark}})
	require.Equal(t, http.StatusNoContent, status)
	assert.Equal(t, list, s.causes())
}

func TestSettingsDecideWhatIsJudgedAndWhere(t *testing.T) {
	s := serve(t, map[string]string{"index.html": `<title>Home</title><a href="/visit.html" target=_blank>Visit</a><a href="Visit.html">v</a>`, "visit.html": "<title>Visit</title><p>Come in."})
	put := func(settings map[string]any) (int, api.Problem) {
		status, b := s.do("PUT", "/folders/1/settings", settings, "X-Arvel-Token", s.token)
		var p api.Problem
		if status != http.StatusOK {
			require.NoError(t, json.Unmarshal(b, &p))
		}
		return status, p
	}
	place := func(at string, ignoreCase, ticked, chosen bool) map[string]any {
		return map[string]any{"place": at, "ignoreCase": ignoreCase, "ticked": ticked, "chosen": chosen}
	}
	assert.Equal(t, 1, s.causes().Broken)
	var settings api.Settings
	s.get("/folders/1/settings", &settings)
	assert.NotEmpty(t, *settings.Rules)

	status, p := put(map[string]any{"published": "", "off": []string{}, "indexNames": []string{}, "places": []any{place("/club/", true, false, true), place("root", false, true, false)}})
	require.Equal(t, http.StatusOK, status, p.Title)
	assert.Zero(t, s.causes().Broken, "there letter case does not count, and what the host has above the folder is not known")
	var hosting api.Hosting
	s.get("/folders/1/hosting", &hosting)
	assert.Equal(t, 2, hosting.Total, "both fare otherwise at the root")
	s.get("/folders/1/hosting?q=/visit", &hosting)
	assert.Equal(t, 1, hosting.Total)

	for says, bad := range map[string]map[string]any{
		"place":       {"published": "", "off": []string{}, "indexNames": []string{}, "places": []any{place("moon", false, false, true)}},
		"rule":        {"published": "", "off": []string{"no-such-rule"}, "indexNames": []string{}, "places": []any{place("root", false, false, true)}},
		"a/b.html":    {"published": "", "off": []string{}, "indexNames": []string{"a/b.html"}, "places": []any{place("root", false, false, true)}},
		"orchard@@::": {"published": "orchard@@::", "off": []string{}, "indexNames": []string{}, "places": []any{place("root", false, false, true)}},
	} {
		status, p := put(bad)
		assert.Equal(t, http.StatusUnprocessableEntity, status, says)
		assert.Contains(t, p.Title, says)
	}
	var kept api.Settings
	s.get("/folders/1/settings", &kept)
	assert.Equal(t, "/club/", kept.Places[0].Place, "what can't be is not kept")
}
