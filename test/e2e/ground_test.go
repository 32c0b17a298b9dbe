package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

// keys types keys, one after the other.
func (u *user) keys(list ...input.Key) {
	u.Helper()
	for _, k := range list {
		require.NoError(u, u.page.Keyboard.Type(k))
	}
}

// own starts the program on a folder of files and opens a path of it.
func own(t *testing.T, files map[string]string, path string) *user {
	t.Helper()
	u := &user{T: t, dir: t.TempDir(), data: t.TempDir()}
	for p, src := range files {
		full := filepath.Join(u.dir, p)
		require.NoError(t, os.MkdirAll(filepath.Dir(full), 0o755))
		require.NoError(t, os.WriteFile(full, []byte(src), 0o644))
	}
	u.start(u.dir)
	u.open(path)
	return u
}

// at waits until the address has a part.
func (u *user) at(part string) {
	u.Helper()
	require.True(u, drive.Eventually(func() bool { return contains(u.page.MustInfo().URL, part) }), "%s is not in %s", part, u.page.MustInfo().URL)
}

// The chord that begins with G is over with the next key, whatever that is, and is not open when the window is.
func TestAChordEndsWithTheNextKey(t *testing.T) {
	u := own(t, map[string]string{"index.html": `<title>Home</title><a href="Visit.html">v</a>`, "visit.html": "<title>Visit</title>"}, "folder/1/pages")
	u.see("button", "Repair by writing visit.html")
	u.keys(input.KeyR) // within the first second
	u.becomes("index.html", `<title>Home</title><a href="visit.html">v</a>`)
	u.at("/pages")
	u.keys(input.KeyG, input.KeyX, input.KeyH)
	u.keys(input.KeyG, input.KeyO)
	u.at("/overview")
	u.keys(input.KeyU)
	u.reads("Undone: Visit.html became visit.html on index.html")
	u.becomes("index.html", `<title>Home</title><a href="Visit.html">v</a>`)
	require.NoError(t, u.page.Keyboard.Press(input.ShiftLeft))
	u.keys('U')
	require.NoError(t, u.page.Keyboard.Release(input.ShiftLeft))
	u.becomes("index.html", `<title>Home</title><a href="visit.html">v</a>`)
	u.reads("Done again: Visit.html became visit.html on index.html")
	u.at("/overview")
}

// A page that is opened at its address right after a start shows the folder, in whatever order answers and events come.
func TestAPageOpenedRightAfterAStartShowsTheFolder(t *testing.T) {
	files := map[string]string{"index.html": "<title>Home</title>"}
	for i := range 400 {
		files[fmt.Sprintf("p%d.html", i)] = `<title>P</title><a href="index.html">home</a>`
	}
	u := own(t, files, "folder/1/pages")
	u.option("Pages", "Home")
	for range 6 {
		require.NoError(t, u.Stop())
		u.start(u.dir)
		require.NoError(t, u.page.Navigate(u.Enter("folder/1/pages")))
		u.option("Pages", "Home")
	}
}

// Reading on in the page itself and coming back, as authors do all day: each Back is one page.
func TestBackInThePageItselfIsOnePageBack(t *testing.T) {
	u := own(t, map[string]string{
		"a.html": `<title>A</title><p>first <a href="b.html">to b</a>`, "b.html": `<title>B</title><p>second <a href="c.html#x">to c</a>`, "c.html": `<title>C</title><p id=x>third`,
	}, "folder/1/pages?page=a.html&see=page")
	u.follow("first", "to b")
	u.at("page=b.html")
	u.follow("second", "to c")
	u.at("page=c.html")
	u.inFrame("third")
	u.page.MustNavigateBack()
	u.at("page=b.html")
	u.inFrame("second")
	u.page.MustNavigateBack()
	u.at("page=a.html")
	u.inFrame("first")
	u.page.MustNavigateForward()
	u.at("page=b.html")
	u.inFrame("second")
}

// A page whose script never ends freezes itself alone: the interface goes on, names it, and puts it away.
func TestAPageThatNeverEndsIsPutAway(t *testing.T) {
	u := own(t, map[string]string{
		"index.html": `<title>Home</title><p>quiet <a href="loop.html">l</a>`, "loop.html": `<title>Loop</title><p>endless<script>setTimeout(() => { for (;;); }, 600)</script>`,
	}, "folder/1/pages?page=loop.html&see=page")
	u.inFrame("endless")
	u.reads("loop.html does not respond: a script in it may never end.")
	began := time.Now()
	u.press("button", "Stop the page")
	u.reads("loop.html was stopped.")
	u.choose("Pages", "Home")
	assert.Less(t, time.Since(began), 5*time.Second, "the interface stays at hand")
	u.inFrame("quiet")
}

// What a page says of itself is not believed: nothing of its choosing is shown outside of it, and nothing fails.
func TestMessagesOfAPageAreNotBelieved(t *testing.T) {
	u := own(t, map[string]string{"index.html": `<title>Home</title><p id=out>waiting<script>
		const seen = [];
		window.addEventListener("message", (e) => seen.push(e.data?.arvel));
		const lies = [null, 7, "x", {}, { arvel: "at" }, { arvel: "at", page: "http://evil.example/", fragment: "" }, { arvel: "at", page: 7, fragment: "" },
			{ arvel: "click", page: "index.html", key: "0.0", follows: "outside", reference: { text: "Your bank", destination: { verb: "leads", where: "http://evil.example/", note: "" } } },
			{ arvel: "point", page: "index.html", reference: { page: "x", written: "Forged" } }, { arvel: "picked", page: "index.html", what: null }, { arvel: "hello" }];
		for (const lie of lies) { parent.postMessage(lie, "*"); window.postMessage(lie, "*"); }
		setTimeout(() => { document.getElementById("out").textContent = "lied, and saw " + seen.filter((s) => s === "hello").length; }, 800);
	</script>`}, "folder/1/pages?page=index.html&see=page")
	u.inFrame("lied, and saw 1") // its own; that of the interface, with the port, was not for it
	assert.NotContains(t, u.text(), "Your bank")
	assert.NotContains(t, u.text(), "Forged")
	assert.NotContains(t, u.text(), "This view failed")
	u.at("page=index.html")
}

func TestTheEndOfALongListIsReached(t *testing.T) {
	files := map[string]string{}
	for i := range 350 {
		files[fmt.Sprintf("p%03d.html", i)] = fmt.Sprintf(`<title>Page %03d</title><a href="p000.html">x</a>`, i)
	}
	u := own(t, files, "folder/1/pages")
	u.option("Pages", "Page 000")
	u.see("listbox", "Pages").MustFocus()
	u.keys(input.End)
	u.at("page=p349.html")
	u.keys(input.Home)
	u.at("page=p000.html")
	for range 12 {
		u.keys(input.PageDown)
	}
	u.at("page=p120.html")
	u.keys(input.KeyG, input.KeyM)
	u.see("tree", "The folder")
	assert.True(t, drive.Eventually(func() bool {
		return u.page.MustEval(`() => document.activeElement.getAttribute("aria-label") === "The folder"`).Bool()
	}), "what is typed next is a key of the view, and no text")
}

func TestTheFocusStaysWhereItWas(t *testing.T) {
	u := own(t, map[string]string{"index.html": `<title>Home</title><a href="Visit.html">v</a><a href="none-like-it.html">n</a>`, "visit.html": "<title>Visit</title>"}, "folder/1/pages")
	u.press("button", "Repair by writing visit.html")
	u.see("heading", "Lands on visit.html")
	assert.True(t, drive.Eventually(func() bool {
		return u.page.MustEval(`() => document.activeElement !== document.body && document.querySelector("main").contains(document.activeElement)`).Bool()
	}), "the button is gone, the focus is in the view")
}

// The frame fits its window, and a long message its column.
func TestTheFrameFitsASmallWindow(t *testing.T) {
	u := sitDown(t)
	u.page.MustSetViewport(1024, 700, 1, false)
	for _, path := range []string{"overview", "pages?page=guides/sowing.html", "pages?page=guides/sowing.html&see=source", "pages?page=guides/sowing.html&see=page", "repairs", "moves", "anchors?page=index.html", "hosting", "history"} {
		loaded := u.page.MustWaitRequestIdle("/events") // what is still being loaded would fail when the next view is gone to
		require.NoError(t, u.page.Navigate(u.Enter("folder/1/"+path)))
		u.see("navigation", "Views")
		loaded()
		u.page.MustWaitIdle()
		size := u.page.MustEval(`() => [document.documentElement.scrollWidth - innerWidth, document.documentElement.scrollHeight - innerHeight]`).Arr()
		assert.LessOrEqual(t, size[0].Int(), 0, "%s is too wide", path)
		assert.LessOrEqual(t, size[1].Int(), 0, "%s is too high", path)
	}
	require.NoError(t, u.page.Navigate(u.Enter("folder/1/moves")))
	u.see("tree", "The folder")
	long := strings.Repeat("a-rather-long-name-", 20)
	u.see("textbox", "All links to").MustInput(long + ".html")
	u.see("textbox", "lead to").MustInput(long + "2.html")
	u.reads("There is no")
	assert.LessOrEqual(t, u.page.MustEval(`() => Math.max(...[...document.querySelectorAll("[role=alert]")].map((e) => e.getBoundingClientRect().right)) - innerWidth`).Int(), 0)
}

// What check counts in the demo folder is what the band, the Overview and Repairs count.
func TestTheViewsCountWhatCheckCounts(t *testing.T) {
	u := sitDown(t)
	counts := drive.Check(t, u.dir).Counts
	for _, path := range []string{"pages", "overview", "repairs", "hosting"} {
		u.open("folder/1/" + path)
		for _, state := range []string{"broken", "fragile", "unchecked", "sound"} {
			u.see("button", fmt.Sprintf("%d %s", counts[state], state))
		}
		switch path {
		case "overview":
			u.reads(fmt.Sprintf("%d references that go nowhere", counts["broken"]))
		case "repairs":
			u.reads(fmt.Sprintf("%d broken, %d fragile", counts["broken"], counts["fragile"]))
		}
	}
}

// The folder that was opened goes away, another one comes, and the first comes back: the view says so each time, and shows nothing false.
func TestTheFolderGoesIsReplacedAndComesBack(t *testing.T) {
	u := own(t, map[string]string{"index.html": `<title>Home</title><a href="none.html">n</a>`}, "folder/1/overview")
	u.reads("1 reference that goes nowhere")
	require.NoError(t, os.Rename(u.dir, u.dir+"-away"))
	t.Cleanup(func() { os.Rename(u.dir+"-away", u.dir) })
	u.see("heading", "The folder is not there")
	require.NoError(t, os.Mkdir(u.dir, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "index.html"), []byte("<title>Another</title>"), 0o644))
	u.reads("There is another folder at")
	u.press("button", "Open it again")
	u.reads("None of the 0 references in 1 file is broken.")
	require.NoError(t, os.RemoveAll(u.dir))
	require.NoError(t, os.Rename(u.dir+"-away", u.dir))
	u.press("button", "Open it again")
	u.reads("1 reference that goes nowhere")
}

func TestUnsavedTextIsMarkedAndFollowsAMove(t *testing.T) {
	u := own(t, map[string]string{
		"index.html": `<title>Home</title><body><h1>Home</h1><a href="guides/sowing.html">S</a>` + "\n", "guides/sowing.html": "<title>Sowing</title>",
	}, "folder/1/pages?page=index.html&see=write")
	u.see("textbox", "Source of index.html")
	u.page.MustElement(".cm-content").MustFocus()
	require.NoError(t, u.page.Keyboard.Press(input.ControlLeft))
	u.keys(input.End)
	require.NoError(t, u.page.Keyboard.Release(input.ControlLeft))
	require.NoError(t, u.page.InsertText("typed and not saved "))
	u.press("link", "Pages")
	u.reads("not saved")
	u.press("link", "Moves")
	u.reads("not saved")
	_, err := u.page.Eval(`async () => {
		const { token } = await (await fetch("/api/v1/session")).json();
		await fetch("/api/v1/folders/1/moves", { method: "POST", headers: { "X-Arvel-Token": token, "Content-Type": "application/json" }, body: JSON.stringify({ moves: [{ from: "guides", to: "how-to" }] }) });
	}`)
	require.NoError(t, err)
	u.becomes("index.html", `<title>Home</title><body><h1>Home</h1><a href="how-to/sowing.html">S</a>`+"\n")
	u.press("link", "Pages")
	u.choose("Pages", "Home")
	u.press("button", "write")
	u.reads("typed and not saved")
	u.reads("how-to/sowing.html")
	assert.NotContains(t, u.text(), "Another program changed the file")
}

// Headless: what could not be read ends with 2, unless that is accepted; an empty name is no folder; a killed move without a
// record is completed or taken back at the next start.
func TestHeadlessCommandsAreOnFirmGround(t *testing.T) {
	data := t.TempDir()
	dir := t.TempDir()
	write := func(p, src string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, p)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, p), []byte(src), 0o644))
	}
	write("index.html", `<title>=1+1</title><a href="=cmd|x">x</a><a href="Visit.html">v</a>`+"<a href=\"\x1b]0;owned\x07.html\">e</a>")
	write("visit.html", "<title>v</title>")
	write("huge.html", "")
	require.NoError(t, os.Truncate(filepath.Join(dir, "huge.html"), 600<<20))
	for _, c := range []struct {
		code int
		says string
		args []string
	}{
		{2, "1 page or folder could not be read (huge.html)", []string{"check", dir, "--forget"}},
		{1, "3 broken", []string{"check", dir, "--forget", "--accept-unread"}},
		{2, "say --accept-unread", []string{"repair", dir, "--data", data}},
		{2, "say --accept-unread", []string{"move", dir, "visit.html", "find-us.html", "--data", data}},
		{2, "say which folder", []string{"repair", "", "--data", data}},
		{2, "say which folder", []string{"check", ""}},
		{1, "1 reference repaired", []string{"repair", dir, "--data", data, "--accept-unread"}},
	} {
		out, err := drive.Run(c.args...)
		assert.Equal(t, c.code, drive.ExitCode(err), "%s: %s", strings.Join(c.args, " "), out)
		assert.Contains(t, out, c.says)
		assert.NotContains(t, out, "\x1b", "nothing that a terminal would obey")
	}
	out, _ := drive.Run("check", dir, "--forget", "--accept-unread", "--format", "csv")
	assert.Contains(t, out, ",'=cmd|x,", "a spreadsheet takes it for a text")

	require.NoError(t, os.Remove(filepath.Join(dir, "huge.html")))
	for i := range 60 {
		write(fmt.Sprintf("old/p%03d.html", i), fmt.Sprintf(`<title>%d</title><a href="../index.html">home</a>`, i))
	}
	ended := 0
	for wait := 3 * time.Millisecond; ended < 2; wait = wait * 3 / 2 {
		cmd := drive.Command("move", dir, "old", "new", "--data", data, "--forget")
		require.NoError(t, cmd.Start())
		time.Sleep(wait) // the process is killed at some moment of its work
		if cmd.Process.Signal(syscall.SIGKILL) != nil {
			ended++
		}
		if cmd.Wait() == nil {
			ended++
		}
		_, _ = drive.Run("move", dir, "index.html", "index.html", "--data", data) // any command that may change files recovers
		seen := 0
		for _, at := range []string{"old", "new"} {
			list, err := filepath.Glob(filepath.Join(dir, at, "p*.html"))
			require.NoError(t, err)
			if len(list) > 0 {
				require.Len(t, list, 60, "all are in %s, or none", at)
				seen++
			}
			hidden, err := filepath.Glob(filepath.Join(dir, at, ".arvel-*"))
			require.NoError(t, err)
			require.Empty(t, hidden)
		}
		require.Equal(t, 1, seen)
		if _, err := os.Stat(filepath.Join(dir, "new")); err == nil {
			_, _ = drive.Run("move", dir, "new", "old", "--data", data, "--forget")
		}
		if wait > 2*time.Second {
			break
		}
	}
}

// A second process that would change files at the same time is turned away, and one that is interrupted leaves every file whole.
func TestOnlyOneProcessChangesFiles(t *testing.T) {
	files := map[string]string{}
	for i := range 1500 {
		files[fmt.Sprintf("p%04d.html", i)] = `<title>x</title><a href="P0000.html">x</a>`
	}
	u := own(t, files, "folder/1/overview")
	out, err := drive.Run("repair", u.dir, "--data", u.data)
	assert.Equal(t, 2, drive.ExitCode(err))
	assert.Contains(t, out, "already works on the data directory")
	require.NoError(t, u.Stop())

	cmd := drive.Command("repair", u.dir, "--data", u.data)
	require.NoError(t, cmd.Start())
	require.True(t, drive.Eventually(func() bool { return u.file("p0000.html") != files["p0000.html"] }), "it has begun")
	_ = cmd.Process.Signal(os.Interrupt)
	_ = cmd.Wait()
	_, _ = drive.Run("repair", u.dir, "--data", u.data) // takes back or ends what was begun
	whole := map[string]int{}
	for i := range 1500 {
		whole[u.file(fmt.Sprintf("p%04d.html", i))]++
	}
	assert.Len(t, whole, 1, "all are changed, or none: %v", whole)
}
