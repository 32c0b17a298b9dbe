package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

// drag drags the row of the tree that has the words onto another one.
func (u *user) drag(words, onto string) {
	u.Helper()
	middle := func(row string) proto.Point {
		box := u.option("The folder", row).MustShape().Box()
		return proto.NewPoint(box.X+220, box.Y+box.Height/2)
	}
	from, to := middle(words), middle(onto)
	require.NoError(u, proto.InputSetInterceptDrags{Enabled: true}.Call(u.page))
	var picked proto.InputDragIntercepted
	wait := u.page.WaitEvent(&picked)
	m := u.page.Mouse
	require.NoError(u, m.MoveTo(from))
	require.NoError(u, m.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(u, m.MoveLinear(proto.NewPoint(from.X+30, from.Y+10), 5))
	wait()
	for _, kind := range []proto.InputDispatchDragEventType{proto.InputDispatchDragEventTypeDragEnter, proto.InputDispatchDragEventTypeDragOver, proto.InputDispatchDragEventTypeDrop} {
		require.NoError(u, proto.InputDispatchDragEvent{Type: kind, X: to.X, Y: to.Y, Data: picked.Data}.Call(u.page))
	}
	require.NoError(u, m.Up(proto.InputMouseButtonLeft, 1))
	require.NoError(u, proto.InputSetInterceptDrags{Enabled: false}.Call(u.page))
}

func TestPagesAreMovedAndEverythingFollows(t *testing.T) {
	u := sitDown(t)
	before := drive.Files(t, u.dir)
	u.press("link", "Moves")
	u.press("button", "New folder")
	u.see("textbox", "Name of the new folder").MustInput("club").MustType(input.Enter)
	u.option("The folder", "club/")
	for _, page := range []string{"borrow.html", "calendar.html", "visit.html"} {
		u.tick("Choose " + page)
	}
	u.drag("visit.html", "club/")
	u.reads("3 files move,")
	u.reads("guides/saving.html was broken before")
	u.page.MustElementR(`[aria-label="Plan"] div`, "^index.html").MustHover()
	u.below("club/borrow.html will lead to club/borrow.html")
	assert.Equal(t, before["index.html"], u.file("index.html"), "nothing happens before it is said")
	u.press("button", "Move them")
	u.reads("3 files moved,")
	assert.Contains(t, u.file("index.html"), `href="club/borrow.html#rules"`)
	assert.Contains(t, u.file("club/visit.html"), `src="../images/reading-room.png"`)
	assert.NoFileExists(t, filepath.Join(u.dir, "visit.html"))

	u.press("link", "Pages")
	u.choose("Pages", "Seed library")
	u.press("button", "page")
	u.follow("We lend vegetable seed", "where we are")
	u.inFrame("We are in the old reading room")

	u.press("link", "History")
	u.press("button", "Undo")
	u.reads("undone")
	assert.Equal(t, before, drive.Files(t, u.dir))
}

func TestAMoveMadeElsewhereIsNoticed(t *testing.T) {
	u := sitDown(t)
	require.NoError(t, u.Stop())
	require.NoError(t, os.MkdirAll(filepath.Join(u.dir, "club", "about"), 0o755))
	require.NoError(t, os.Rename(filepath.Join(u.dir, "visit.html"), filepath.Join(u.dir, "club", "about", "find-us.html")))
	u.start(u.dir)
	u.open("folder/1/moves")
	u.see("heading", "Moved outside of Arvel")
	u.reads("visit.html → club/about/find-us.html")
	u.press("button", "Follow visit.html")
	u.reads("The references follow.")
	assert.Contains(t, u.file("index.html"), `href="club/about/find-us.html"`)
	assert.Contains(t, u.file("club/about/find-us.html"), `href="../../borrow.html"`)

	// And while Arvel runs.
	require.NoError(t, os.Rename(filepath.Join(u.dir, "images"), filepath.Join(u.dir, "pictures")))
	u.press("link", "Repairs")
	u.choose("Causes", "The folder images is pictures now")
	u.click("button", "^Repair all")
	require.True(t, drive.Eventually(func() bool { return contains(u.file("guides/sowing.html"), "../pictures/seedlings.png") }))
}

func TestRenamedByKeyboardAlone(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Moves")
	u.option("The folder", "catalogue/")
	list := u.see("tree", "The folder")
	list.MustFocus()
	u.page.Keyboard.MustType(input.ArrowDown, input.ArrowRight)
	u.option("The folder", "Tomatoes.htm")
	u.page.Keyboard.MustType(input.ArrowDown, input.KeyE)
	u.see("textbox", "New name of Tomatoes.htm").MustSelectAllText().MustInput("tomatoes.htm").MustType(input.Enter)
	u.see("textbox", "Where catalogue/Tomatoes.htm moves to")
	u.see("button", "Move it")
	list.MustFocus()
	u.page.Keyboard.MustType(input.KeyR)
	require.True(t, drive.Eventually(func() bool {
		_, err := os.Stat(filepath.Join(u.dir, "catalogue", "tomatoes.htm"))
		return err == nil
	}))
}
