package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

func contains(text, words string) bool { return strings.Contains(text, words) }

func TestFindRepairUndoRestart(t *testing.T) {
	u := sitDown(t)
	before := u.file("guides/sowing.html")
	after := strings.Replace(before, "../image/bean-pods.png", "../images/bean-pods.png", 1)

	u.choose("Pages", "Sowing by the moon")
	u.choose("Links", "../image/bean-pods.png")
	u.see("heading", "Nothing is at image/bean-pods.png")
	u.reads("there is no image at the top of the folder. images is one letter away.")
	u.see("image", "climbs ..; goes down into image, not there; names bean-pods.png, not there")
	u.press("button", "Repair by writing ../images/bean-pods.png")
	u.becomes("guides/sowing.html", after)
	u.see("heading", "Lands on images/bean-pods.png")
	u.see("image", "images/bean-pods.png")

	u.press("link", "History")
	u.see("heading", "../image/bean-pods.png became ../images/bean-pods.png on guides/sowing.html")
	u.press("button", "Undo")
	u.becomes("guides/sowing.html", before)

	require.NoError(t, u.Stop())
	u.start(u.dir)
	u.open("folder/1/history")
	u.choose("Changes", "../image/bean-pods.png became")
	u.reads("undone since")
	u.choose("Changes", "Undone: ../image/bean-pods.png")
	u.press("button", "Do it again")
	u.becomes("guides/sowing.html", after)
}

func TestAFileEditedInBetweenIsNamed(t *testing.T) {
	u := sitDown(t)
	u.choose("Pages", "Leeks over winter")
	u.choose("Links", "../images/Leeks.png")
	u.press("button", "Repair by writing ../images/leeks.png")
	u.see("heading", "Lands on images/leeks.png")
	u.press("link", "History")
	u.see("button", "Undo")
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "notes/leeks.html"), []byte("mine"), 0o644))
	u.press("button", "Undo")
	u.reads("notes/leeks.html was edited in the meantime, so nothing was changed.")
	assert.Equal(t, "mine", u.file("notes/leeks.html"))
}

func TestASaveInAnotherEditorShowsAtOnce(t *testing.T) {
	u := sitDown(t)
	u.choose("Pages", "Sowing by the moon")
	u.choose("Links", "../image/bean-pods.png")
	u.see("heading", "Nothing is at image/bean-pods.png")
	list := u.see("listbox", "Links")
	list.MustEval(`() => { this.scrollTop = 200 }`)
	page := u.file("guides/sowing.html")
	page = strings.Replace(page, `href="#Squash"`, `href="#squash"`, 1)
	page = strings.Replace(page, `<h1>`, "<p><a href=\"new.html\">A new one</a>\n<h1>", 1)
	// As many editors save: beside the file, then over it.
	beside := filepath.Join(u.dir, "guides/.sowing.html.swp")
	require.NoError(t, os.WriteFile(beside, []byte(page), 0o644))
	saved := time.Now()
	require.NoError(t, os.Rename(beside, filepath.Join(u.dir, "guides/sowing.html")))
	u.reads("guides/sowing.html changed: 1 reference broken, 1 broken one repaired")
	t.Logf("shown after %v", time.Since(saved).Round(time.Millisecond))
	u.reads("21 in all")
	u.see("heading", "Nothing is at image/bean-pods.png")
	assert.Equal(t, 200, list.MustEval(`() => this.scrollTop`).Int(), "the scroll position is kept")
	list.MustEval(`() => { this.scrollTop = 0 }`)
	u.option("Links", "A new one")
}

func TestOpenAFolderInTheBrowser(t *testing.T) {
	u := &user{T: t, dir: t.TempDir(), data: t.TempDir()}
	require.NoError(t, os.MkdirAll(filepath.Join(u.dir, "club", "notes"), 0o755))
	require.NoError(t, os.MkdirAll(filepath.Join(u.dir, "empty"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "club", "notes", "it's a #1 “note”.html"), []byte("<title>Note</title><a href=x>x</a>"), 0o644))
	u.start()
	u.open("")
	path := func(p string) {
		// What is typed stays only once the folder that is shown first has come.
		require.True(t, drive.Eventually(func() bool { return u.see("textbox", "Path of the folder").MustText() != "" }))
		u.see("textbox", "Path of the folder").MustSelectAllText().MustInput(p).MustType(input.Enter)
	}
	path(filepath.Join(u.dir, "nowhere"))
	u.reads("There is no folder at " + filepath.Join(u.dir, "nowhere"))
	path(u.dir)
	u.reads("club/")
	u.press("button", "club/ 1 page")
	u.reads("notes/")
	u.press("button", "Open this folder")
	u.press("link", "Pages")
	u.option("Pages", "it's a #1 “note”.html")
	u.see("heading", "Nothing is at notes/x")

	u.press("link", "Arvel: the folders")
	path(filepath.Join(u.dir, "empty"))
	u.reads("No pages in this folder or below it")
	u.press("button", "Open this folder")
	u.see("heading", "There are no pages in this folder")
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "empty", "first.html"), []byte("<title>First</title>"), 0o644))
	u.reads("None of the 0 references in 1 file is broken.")

	u.press("link", "Arvel: the folders")
	require.NoError(t, os.RemoveAll(filepath.Join(u.dir, "empty")))
	require.NoError(t, u.page.Reload())
	u.reads("no longer exists")
}

func TestByKeyboardAlone(t *testing.T) {
	u := sitDown(t)
	before := u.file("borrow.html")
	u.option("Pages", "Borrow and return")
	u.see("listbox", "Pages").MustFocus()
	keys := func(list ...input.Key) {
		for _, k := range list {
			require.NoError(t, u.page.Keyboard.Type(k))
		}
	}
	keys(input.ArrowDown)
	u.see("heading", "No element has the id dates")
	keys(input.ArrowRight, input.Home)
	u.see("heading", "Lands on css/club.css")
	keys(input.KeyB)
	u.see("heading", "No element has the id dates")
	keys(input.KeyR)
	u.becomes("borrow.html", strings.Replace(before, "#dates", "#date", 1))
	u.see("heading", "Lands on borrow.html#date")
	keys(input.KeyG, input.KeyH)
	u.see("heading", "#dates became #date on borrow.html")
	keys(input.KeyU)
	u.becomes("borrow.html", before)
	keys(input.KeyG, input.KeyP)
	u.option("Pages", "Borrow and return")
	keys(input.Slash)
	require.NoError(t, u.page.InsertText("ruth"))
	u.reads("1 of 35")
	keys(input.Escape)
	keys(input.Key('?'))
	u.reads("go through a list")
}

func TestFilterByStateAndFollowTheAddress(t *testing.T) {
	u := sitDown(t)
	u.press("button", "6 fragile")
	u.reads("5 of 35")
	u.option("Pages", "Roots")
	u.choose("Pages", "Sowing by the moon")
	u.reads("1 of 20")
	u.see("heading", "There is a backslash in place of a slash")
	require.NoError(t, u.page.Reload())
	u.see("heading", "There is a backslash in place of a slash")
	u.press("button", "6 fragile")
	u.reads("33 pages + 2")
}

func TestTheLossOfTheServerIsShownAndMendsItself(t *testing.T) {
	u := sitDown(t)
	u.option("Pages", "Events")
	address := strings.TrimPrefix(strings.TrimSuffix(u.Address, "/"), "http://localhost:")
	require.NoError(t, u.Kill())
	u.reads("Arvel does not answer")
	p, err := drive.Start("serve", u.dir, "--port", address, "--data", u.data)
	require.NoError(t, err)
	t.Cleanup(func() { p.Stop() })
	u.reads("Watching")
	u.choose("Pages", "Leeks over winter")
	u.choose("Links", "../images/Leeks.png")
	u.press("button", "Repair by writing ../images/leeks.png")
	u.see("heading", "Lands on images/leeks.png")
}

func TestTwoArvelsOnOneDataDirectory(t *testing.T) {
	u := sitDown(t)
	out, err := drive.Run("serve", u.dir, "--port", "0", "--data", u.data)
	assert.Equal(t, 2, drive.ExitCode(err))
	assert.Contains(t, out, "Arvel already works on the data directory "+u.data+", at "+u.Address)
	out, err = drive.Run("check", u.dir, "--data", u.data)
	assert.Equal(t, 1, drive.ExitCode(err), "a check beside it works: %s", out)
}

func TestWhatIsLeftOutCanBeSet(t *testing.T) {
	u := sitDown(t)
	u.option("Pages", "Start")
	u.click("button", "Seed library")
	u.reads("They are judged as at the root of a site")
	u.see("textbox", "What is left out").MustSelectAllText().MustInput("node_modules\nold")
	u.press("button", "Read again without these")
	u.reads("29 pages + 2")
}

func TestOverviewLeadsToItsLists(t *testing.T) {
	u := sitDown(t)
	u.open("folder/1/overview")
	u.reads("Visitors run into 60 references that go nowhere, on 22 of 33 pages and in 2 other files.")
	u.reads("of the 60 broken ones can be repaired with certainty")
	u.press("link", "14 broken: images")
	u.reads("only broken, images")
	u.choose("Pages", "Beans and peas")
	u.reads("4 of 17")
	u.press("button", "show all")
	u.reads("17 in all")
	u.press("link", "Overview")
	u.press("link", "files that nothing links to")
	u.choose("Pages", "brandywine.png")
	u.reads("Nothing links to this file")
	u.press("link", "Overview")
	u.click("a", "germination.html")
	u.reads("There is a space in the id paper test line 15")
}

func TestAnchorsTellWhoRefers(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Anchors")
	u.choose("Pages", "Sowing by the moon")
	u.reads("5, and 1 missing id")
	u.reads("Nothing on guides/sowing.html has the id Squash")
	u.choose("Headings and ids", "#squash")
	u.reads("2 references lead there")
	u.choose("Headings and ids", "Sowing by the moon")
	u.reads("Nothing links to it")
	u.choose("Headings and ids", "#Squash")
	u.page.MustElementR("a", "guides/sowing.html line 19").MustFocus()
	u.below("line 19 #Squash leads to guides/sowing.html#Squash nothing there has that id")
	u.click("a", "guides/sowing.html line 19")
	u.see("heading", "No element has the id Squash")
}

func TestAStyleSheetIsRepairedAsAPageIs(t *testing.T) {
	u := sitDown(t)
	before := u.file("css/club.css")
	u.choose("Pages", "club.css")
	u.see("heading", "Nothing is at image/packet.svg")
	u.press("button", "Repair by writing ../images/packet.svg")
	u.becomes("css/club.css", strings.Replace(before, "../image/packet.svg", "../images/packet.svg", 1))
	u.press("link", "History")
	u.press("button", "Undo")
	u.becomes("css/club.css", before)
}

func TestBackAndForwardFollowTheViews(t *testing.T) {
	u := sitDown(t)
	u.choose("Pages", "Roots")
	u.see("heading", "Nothing is at catalogue/squahs.html")
	u.press("link", "Anchors")
	u.reads("Headings and ids")
	u.press("link", "Overview")
	u.reads("What there is")
	require.NoError(t, u.page.NavigateBack())
	u.reads("Headings and ids")
	require.NoError(t, u.page.NavigateBack())
	u.see("heading", "Nothing is at catalogue/squahs.html")
	require.NoError(t, u.page.NavigateForward())
	u.reads("Headings and ids")
}
