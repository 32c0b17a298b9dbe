package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

// undoes undoes the last change in History and waits for the folder to be as it was.
func (u *user) undoes(before map[string]string) {
	u.Helper()
	u.press("link", "History")
	u.press("button", "Undo")
	u.reads("undone")
	require.True(u, drive.Eventually(func() bool { return assert.ObjectsAreEqual(before, drive.Files(u.T, u.dir)) }))
}

// holds keeps the answers to requests of an address back that carry something out, until something is so.
func (u *user) holds(address string, until func() bool) {
	enable := proto.FetchEnable{Patterns: []*proto.FetchRequestPattern{{URLPattern: address, RequestStage: proto.FetchRequestStageResponse}}}
	require.NoError(u, enable.Call(u.page))
	go u.page.EachEvent(func(e *proto.FetchRequestPaused) {
		go func() {
			if strings.Contains(e.Request.PostData, `"carry":true`) {
				drive.Eventually(until)
			}
			_ = proto.FetchContinueRequest{RequestID: e.RequestID}.Call(u.page)
		}()
	})()
}

// What a menu came to is said of what was asked for, even if the folder was read again before the answer is there.
func TestAMenuSaysWhatItCameToWhateverIsReadMeanwhile(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Pages")
	u.choose("Pages", "Seed library")
	u.press("button", "write")
	u.where("<h1>")
	u.keys(input.Escape)
	u.behind("</h1>")
	u.begins("the menu on other pages")
	u.reads("24 pages have one that differs")
	u.holds("*/bring", func() bool { return contains(u.text(), "24 have it as it must be") })
	u.press("button", "Put it on 24 pages")
	u.reads("24 more pages have it now.")
}

func TestAMenuIsBroughtToOtherPages(t *testing.T) {
	u := sitDown(t)
	before := drive.Files(t, u.dir)
	u.press("link", "Pages")
	u.choose("Pages", "Seed library")
	u.press("button", "write")
	u.where("<h1>")
	u.keys(input.Escape)
	u.behind("</h1>")
	u.begins("the menu on other pages")
	u.reads("24 pages have one that differs")
	u.reads(`<a href="calendar.html">Calendar</a>`)
	u.click(`[aria-label="Where it goes"] button`, "guides/sowing.html")
	u.reads(`+  <a href="../borrow.html">Borrow and return</a>`)
	u.see("checkbox", "Put it on borrow.html").MustClick()
	assert.Equal(t, before, drive.Files(t, u.dir), "it is shown before it is written")
	u.press("button", "Put it on 23 pages")
	u.reads("23 more pages have it now.")
	assert.Equal(t, before["borrow.html"], u.file("borrow.html"))
	assert.Contains(t, u.file("catalogue/squash.html"), "<p class=\"menu\">\n  <a href=\"../borrow.html\">Borrow and return</a>\n  <a href=\"./\">Catalogue</a>")
	u.press("button", "Leave it")
	u.press("button", "links")
	u.choose("Pages", "sowing.html")
	u.press("button", "page")
	u.follow("When to sow", "Borrow and return")
	u.inFrame("Borrow and return")
	u.undoes(before)
}

func TestFilesAreDeletedWithAChoiceForWhatLeadsThere(t *testing.T) {
	u := sitDown(t)
	before := drive.Files(t, u.dir)
	u.press("link", "Moves")
	u.tick("Choose borrow.html")
	u.tick("Choose events.html")
	u.press("button", "Delete")
	u.reads("2 files to delete; 12 references lead there")
	u.reads("will be broken")
	u.picks("What becomes of the references to events.html", "are removed, their words stay")
	u.picks("What becomes of the references to borrow.html", "get another target:")
	u.reads("Say where they will lead")
	u.types("visit us")
	u.press("button", "Visit us visit.html")
	u.reads("../visit.html")
	assert.Equal(t, before, drive.Files(t, u.dir), "nothing happens before it is said")
	u.press("button", "Delete all 2")
	u.reads("2 files deleted.")
	assert.NoFileExists(t, filepath.Join(u.dir, "borrow.html"))
	assert.Contains(t, u.file("index.html"), `<a href="visit.html">one rule</a>`)
	assert.Contains(t, u.file("index.html"), `<li>Events, the swap in October above all`)
	u.undoes(before)
}

// What was chosen for a file is forgotten with it, when others are to be deleted instead.
func TestOnlyWhatIsChosenIsDeleted(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Moves")
	u.tick("Choose guides")
	u.press("button", "Delete")
	u.picks("What becomes of the references to guides/sowing.html", "are removed, their words stay")
	u.reads("What is rewritten or removed")
	u.tick("Choose guides")
	u.tick("Choose sitemap.xml")
	u.press("button", "Delete")
	u.reads("1 file to delete; nothing links to it")
	u.press("button", "Delete it")
	u.reads("1 file deleted.")
	assert.FileExists(t, filepath.Join(u.dir, "guides", "sowing.html"))
	assert.NoFileExists(t, filepath.Join(u.dir, "sitemap.xml"))
}

func TestAFileIsDeletedByKeyboardAlone(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Moves")
	u.option("The folder", "sitemap.xml")
	u.see("tree", "The folder").MustFocus()
	u.page.Keyboard.MustType(input.End, input.ArrowUp, input.Delete)
	u.reads("1 file to delete; nothing links to")
	u.page.Keyboard.MustType(input.KeyR)
	require.True(t, drive.Eventually(func() bool { _, err := os.Stat(filepath.Join(u.dir, "sitemap.xml")); return err != nil }))
}

func TestAllNamesThatBreakTheRulesAreBetteredAsOnePlan(t *testing.T) {
	u := sitDown(t)
	require.NoError(t, os.Rename(filepath.Join(u.dir, "notes"), filepath.Join(u.dir, "Our Notes")))
	u.press("link", "Moves")
	u.reads("Our Notes/")
	u.press("button", "Follow notes")
	u.reads("The references follow.")
	before := drive.Files(t, u.dir)
	u.press("button", "Plan better names for all 5")
	u.see("textbox", "Where Our Notes moves to")
	u.press("button", "Move them")
	u.reads(" moved, ")
	assert.Contains(t, u.file("index.html"), `href="our-notes/ruth-beans.html"`)
	u.reads("Nothing is planned yet")
	require.True(t, drive.Eventually(func() bool { return !contains(u.text(), "Names that may not work everywhere") }))
	u.undoes(before)
}

func TestANewFoldersNameIsCheckedAsItIsTyped(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Moves")
	u.press("button", "New folder")
	u.types("Old Letters")
	u.reads("has capital letters; ↓ takes old-letters")
	u.page.Keyboard.MustType(input.ArrowDown, input.Enter)
	require.True(t, drive.Eventually(func() bool {
		info, err := os.Stat(filepath.Join(u.dir, "old-letters"))
		return err == nil && info.IsDir()
	}))
}

func TestAnIdIsRenamedWithAllThatRefersToIt(t *testing.T) {
	u := sitDown(t)
	before := drive.Files(t, u.dir)
	u.press("link", "Anchors")
	u.choose("Pages", "Sowing by the moon")
	u.choose("Headings and ids", "#beans")
	u.page.Keyboard.MustType(input.KeyE)
	u.types("runner beans")
	u.reads("An id can’t have a space in it")
	u.fill("its id", "runner-beans")
	u.reads("catalogue/legumes.html")
	u.press("button", "Rename it, with 4 references")
	require.True(t, drive.Eventually(func() bool { return strings.Contains(u.file("index.html"), `guides/sowing.html#runner-beans"`) }))
	assert.Contains(t, u.file("guides/sowing.html"), `id="runner-beans"`)
	assert.Contains(t, u.file("guides/sowing.html"), `href="#runner-beans"`)
	u.undoes(before)
}

// A file that was replaced by another one elsewhere: what leads to the old place is led to that instead.
func TestAnotherTargetIsChosenForWhatMovedElsewhere(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Moves")
	require.NoError(t, os.MkdirAll(filepath.Join(u.dir, "stock"), 0o755))
	require.NoError(t, os.Rename(filepath.Join(u.dir, "catalogue"), filepath.Join(u.dir, "stock", "catalogue")))
	require.NoError(t, os.Rename(filepath.Join(u.dir, "calendar.html"), filepath.Join(u.dir, "months.html")))
	u.reads("catalogue/ → stock/catalogue/")
	u.reads("calendar.html → months.html")
	u.press("link", "another target for what leads to calendar.html")
	u.fill("lead to", "events.html")
	u.reads("What is rewritten: 3 references")
	u.press("button", "Change where they lead")
	u.reads("lead to events.html now")
	assert.Contains(t, u.file("index.html"), `<a href="events.html">Calendar</a>`)
	u.press("button", "Follow catalogue")
	u.reads("The references follow.")
	assert.Contains(t, u.file("index.html"), `href="stock/catalogue/legumes.html"`)
	assert.Contains(t, u.file("stock/catalogue/index.html"), `href="../../borrow.html"`)
	assert.Contains(t, u.file("months.html"), `href="catalogue/`, "which moved, too, and is put right when that is followed")
	u.press("button", "Follow calendar.html")
	require.True(t, drive.Eventually(func() bool { return !contains(u.text(), "Moved outside of Arvel") }))
	assert.Contains(t, u.file("months.html"), `href="stock/catalogue/`)
}
