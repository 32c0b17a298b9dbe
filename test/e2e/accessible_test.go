package e2e

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

// violation is what axe-core says of something that keeps people out.
type violation struct {
	ID, Impact, Help string
	Nodes            []struct{ HTML string }
}

// accessible asks axe-core about the view that is open.
func (u *user) accessible(view string) {
	u.Helper()
	axe, err := os.ReadFile(filepath.Join(drive.Root(), "web", "node_modules", "axe-core", "axe.min.js"))
	require.NoError(u, err)
	_, err = proto.RuntimeEvaluate{Expression: string(axe)}.Call(u.page)
	require.NoError(u, err)
	result, err := u.page.Eval(`async () => JSON.stringify((await axe.run(document)).violations)`)
	require.NoError(u, err)
	var found []violation
	require.NoError(u, json.Unmarshal([]byte(result.Value.Str()), &found))
	for _, v := range found {
		if v.Impact == "serious" || v.Impact == "critical" {
			assert.Fail(u, v.ID+" in "+view, "%s: %v", v.Help, v.Nodes)
		}
	}
}

func TestNothingKeepsPeopleOut(t *testing.T) {
	u := sitDown(t)
	for _, theme := range []string{"light", "dark"} {
		require.NoError(t, proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{
			{Name: "prefers-color-scheme", Value: theme},
			{Name: "prefers-reduced-motion", Value: "reduce"},
		}}.Call(u.page))
		u.press("link", "Overview")
		u.reads("What there is")
		u.accessible("Overview, " + theme)
		u.press("link", "Pages")
		u.choose("Pages", "Sowing by the moon")
		u.choose("Links", "#Squash")
		u.see("heading", "No element has the id Squash")
		u.accessible("Pages, " + theme)
		u.press("button", "write")
		u.where("Sowing by the moon")
		u.begins("")
		u.see("combobox", "Address")
		u.address("calendar", "Lands on calendar.html")
		u.accessible("Write, " + theme)
		u.keys(input.Escape)
		u.behind(">Catalogue")
		u.begins("these 3 links on other pages")
		u.reads("put it on the")
		u.accessible("A menu for other pages, " + theme)
		u.press("link", "Repairs")
		u.reads("certain")
		u.accessible("Repairs, " + theme)
		u.press("link", "Moves")
		u.reads("Nothing is planned yet")
		u.accessible("Moves, " + theme)
		u.tick("Choose borrow.html")
		u.press("button", "Delete")
		u.picks("What becomes of the references to borrow.html", "get another target:")
		u.reads("Say where they will lead")
		u.accessible("Moves, deleting, " + theme)
		u.press("link", "Hosting")
		u.reads("Where the folder is opened")
		u.accessible("Hosting, " + theme)
		u.press("link", "Anchors")
		u.reads("Headings and ids")
		u.choose("Pages", "Sowing by the moon")
		u.choose("Headings and ids", "#beans")
		u.fill("its id", "runner")
		u.reads("What is rewritten")
		u.accessible("Anchors, " + theme)
		u.press("link", "History")
		u.reads("Nothing has been changed yet")
		u.accessible("History, " + theme)
		u.press("link", "Arvel: the folders")
		u.reads("Open this folder")
		time.Sleep(200 * time.Millisecond)
		u.accessible("Start, " + theme)
		u.click("button", "seed-library")
	}
}
