package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

func TestAMovedPageIsMendedInOneDecision(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Repairs")
	u.choose("Causes", "catalogue/Tomatoes.htm seems to have been moved here from the top of the folder")
	u.reads("6 of its 6 broken references work when read from there.")
	u.choose("What changes", "images/brandywine.png")
	u.below("images/brandywine.png leads to catalogue/images/brandywine.png which does not exist")
	u.option("What changes", "news/autumn.html").MustHover()
	u.below("news/autumn.html line")
	u.tick("Repair ../Tomatoes.htm on news/autumn.html")
	u.press("button", "Repair 9 of 10")
	u.reads("9 references repaired: 9 broken.")
	tomatoes := u.file("catalogue/Tomatoes.htm")
	assert.Contains(t, tomatoes, `"../css/club.css"`)
	assert.Contains(t, tomatoes, `"leaves.html"`)
	assert.Contains(t, u.file("index.html"), `href="catalogue/Tomatoes.htm"`)
	assert.Contains(t, u.file("news/autumn.html"), `"../Tomatoes.htm"`, "what was left out is left as it is")
	u.press("link", "History")
	u.press("button", "Undo")
	require.True(t, drive.Eventually(func() bool { return u.file("catalogue/Tomatoes.htm") != tomatoes }))
}

func TestAllThatIsCertainByKeyboard(t *testing.T) {
	u := sitDown(t)
	before := u.file("guides/saving.html")
	u.option("Pages", "Seed library")
	u.page.Keyboard.MustType(input.KeyG)
	u.page.Keyboard.MustType(input.KeyR)
	u.option("Causes", "The folder images is written image")
	u.page.Keyboard.MustType(input.KeyC)
	u.reads("fragile.")
	assert.NotContains(t, u.file("guides/sowing.html"), "../image/")
	c := drive.Check(t, u.dir)
	for _, f := range c.Findings {
		for _, r := range f.Repairs {
			assert.False(t, f.State == "broken" && r.Certainty == "certain", "%s on %s is left", f.Written, f.Page)
		}
	}
	require.NoError(t, u.Stop())
	u.start(u.dir)
	u.open("folder/1/history")
	u.option("Changes", "references repaired, certain")
	u.page.Keyboard.MustType(input.KeyU)
	u.becomes("guides/saving.html", before)
}

func TestASaveElsewhereWithdrawsARepair(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Repairs")
	u.choose("Causes", "notes/no_dig.html is written where notes/no-dig.html exists")
	page := strings.Replace(u.file("catalogue/squash.html"), "no_dig", "no-dig", 1)
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "catalogue/squash.html"), []byte(page), 0o644))
	require.True(t, drive.Eventually(func() bool { return !contains(u.text(), "notes/no_dig.html") }), u.text())
	u.reads("catalogue/squash.html changed: 1 broken one repaired")
}

// A folder that is not here is one cause: its author says where it is and sees what lands, takes the links away, or sets them aside.
func TestAFolderThatIsNotHereIsDecidedAsOne(t *testing.T) {
	charts := `<p><a href="charts/rain.html">Rain</a> <a href="charts/sun.html">Sun</a> <a href="charts/frost.html">Frost</a>`
	u := own(t, map[string]string{
		"index.html": "<title>Home</title>" + charts + `<a href="tables/rain.html">Rain</a>`, "visit.html": "<title>Visit</title>" + charts,
		"tables/rain.html": "<title>Rain</title>", "tables/sun.html": "<title>Sun</title>",
	}, "folder/1/repairs")
	before := drive.Files(t, u.dir)
	u.choose("Causes", "charts/ is not in this folder: 6 references to 3 files in it")
	u.see("combobox", "charts/ is").MustInput("tables")
	u.press("button", "Show what works then")
	u.reads("4 of the 6 references lead to what is in tables/.")
	assert.Equal(t, before, drive.Files(t, u.dir), "it is seen before it is written")
	u.press("button", "Repair 4 of 6")
	u.reads("4 references repaired: 4 broken.")
	assert.Contains(t, u.file("visit.html"), `<a href="tables/rain.html">Rain</a> <a href="tables/sun.html">Sun</a> <a href="charts/frost.html">Frost</a>`)
	u.undoes(before)
	u.press("link", "Repairs")
	u.choose("Causes", "charts/ is not in this folder")
	u.press("button", "Remove these references")
	u.reads("6 references taken away.")
	assert.Equal(t, "<title>Visit</title><p>Rain Sun Frost", u.file("visit.html"))
	u.undoes(before)
	u.press("link", "Repairs")
	u.choose("Causes", "charts/ is not in this folder")
	u.press("button", "Set aside")
	u.press("button", "Set 6 findings aside")
	u.reads("Nothing is broken or fragile.")
}

// All causes of a kind that are as certain are seen together, repaired in one go, and undone in one.
func TestAllCausesOfAKindAreDecidedAtOnce(t *testing.T) {
	u := own(t, map[string]string{
		"index.html": `<title>Home</title><a href="Visit.html">1</a><a href="Leek.html">2</a><a href="nothing.html">3</a>`,
		"visit.html": "<title>Visit</title>", "leek.html": "<title>Leek</title>",
	}, "folder/1/repairs")
	before := drive.Files(t, u.dir)
	u.choose("Causes", "Visit.html is visit.html on disk")
	u.press("button", "All 2 certain ones: letter case")
	u.see("heading", "All 2 certain ones: letter case")
	u.option("What changes", "Leek.html")
	u.press("button", "Repair all 2")
	u.reads("2 references repaired: 2 broken.")
	assert.Equal(t, `<title>Home</title><a href="visit.html">1</a><a href="leek.html">2</a><a href="nothing.html">3</a>`, u.file("index.html"))
	u.undoes(before)
}

// A second extension that hides what a file is can be taken away where it is looked for.
func TestAFileWithASecondExtensionIsRenamed(t *testing.T) {
	u := own(t, map[string]string{"index.html": `<title>Home</title><a href="rules.html">Rules</a>`, "rules.html.txt": "<title>Rules</title>"}, "folder/1/pages?page=index.html")
	u.reads("rules.html.txt exists: its second extension hides that it is this file.")
	u.press("button", "Rename it to rules.html")
	u.see("heading", "Lands on rules.html")
	assert.Equal(t, map[string]string{"index.html": `<title>Home</title><a href="rules.html">Rules</a>`, "rules.html": "<title>Rules</title>"}, drive.Files(t, u.dir))
}

// Pages that were swapped behind the references are noticed, though nothing is broken.
func TestPagesThatChangedPlacesAreNoticed(t *testing.T) {
	u := own(t, map[string]string{
		"index.html": `<title>Home</title><a href="leek.html">Leek</a><a href="chard.html">Chard</a>`,
		"leek.html":  "<title>Leek</title>Sow in March.", "chard.html": "<title>Chard</title>Sow in May.",
	}, "folder/1/pages")
	u.option("Pages", "Home")
	swap := filepath.Join(u.dir, "swap")
	leek, chard := filepath.Join(u.dir, "leek.html"), filepath.Join(u.dir, "chard.html")
	require.NoError(t, os.Rename(leek, swap))
	require.NoError(t, os.Rename(chard, leek))
	require.NoError(t, os.Rename(swap, chard))
	u.press("link", "Repairs")
	u.choose("Causes", "Some links lead to something else than before")
	u.press("button", "Repair all 2")
	u.reads("2 references repaired: 2 fragile.")
	assert.Equal(t, `<title>Home</title><a href="chard.html">Leek</a><a href="leek.html">Chard</a>`, u.file("index.html"))
	u.reads("Nothing is broken or fragile.")
}
