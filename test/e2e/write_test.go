package e2e

import (
	"bytes"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

// where returns where words begin and end in the source on the screen.
func (u *user) where(words string) (from, to proto.Point) {
	u.Helper()
	require.True(u, drive.Eventually(func() bool {
		v, err := u.page.Eval(`words => {
			for (const line of document.querySelectorAll(".cm-line")) {
				const at = line.textContent.indexOf(words);
				if (at < 0) continue;
				line.scrollIntoView({ block: "nearest" });
				const range = document.createRange(), walk = document.createTreeWalker(line, NodeFilter.SHOW_TEXT);
				let n = 0, begun = false;
				for (let t = walk.nextNode(); t; t = walk.nextNode()) {
					const next = n + t.length;
					if (!begun && at < next) { range.setStart(t, at - n); begun = true; }
					if (at + words.length <= next) { range.setEnd(t, at + words.length - n); break; }
					n = next;
				}
				const rects = range.getClientRects(), a = rects[0], b = rects[rects.length - 1];
				return [a.left, a.top + a.height / 2, b.right, b.top + b.height / 2];
			}
			return null;
		}`, words)
		if err != nil || v.Value.Nil() {
			return false
		}
		n := v.Value.Arr()
		from, to = proto.NewPoint(n[0].Num()+0.5, n[1].Num()), proto.NewPoint(n[2].Num()-0.5, n[3].Num())
		return true
	}), "“%s” is not in the source:\n%s", words, u.text())
	return from, to
}

// behind puts the caret behind words in the source.
func (u *user) behind(words string) {
	u.Helper()
	_, to := u.where(words)
	require.NoError(u, u.page.Mouse.MoveTo(to))
	require.NoError(u, u.page.Mouse.Click(proto.InputMouseButtonLeft, 1))
}

// mark selects words in the source with the pointer.
func (u *user) mark(words string) {
	u.Helper()
	from, to := u.where(words)
	m := u.page.Mouse
	require.NoError(u, m.MoveTo(from))
	require.NoError(u, m.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(u, m.MoveLinear(to, 4))
	require.NoError(u, m.Up(proto.InputMouseButtonLeft, 1))
}

// types types words where the focus is.
func (u *user) types(words string) {
	u.Helper()
	for i, line := range strings.Split(words, "\n") {
		if i > 0 {
			require.NoError(u, u.page.Keyboard.Type(input.Enter))
		}
		require.NoError(u, u.page.InsertText(line))
	}
}

// saves saves what is typed and waits for the file.
func (u *user) saves(p, want string) {
	u.Helper()
	require.NoError(u, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyS).Do())
	if !drive.Eventually(func() bool { return u.file(p) == want }) {
		u.Fatalf("%s is\n%s\nand the window shows\n%s", p, u.file(p), u.text())
	}
	u.reads("Saved.")
}

// begins opens the line where the caret is, or what is selected, and chooses what is written; "" for what is offered first.
func (u *user) begins(what string) {
	u.Helper()
	require.NoError(u, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyE).Do())
	if u.see("region", "What is written here"); what != "" {
		u.press("button", what)
	}
}

// place waits for a place of the open line, and has the focus in it.
func (u *user) place(label string) *rod.Element {
	u.Helper()
	at := u.see("textbox", label)
	require.NoError(u, at.Focus())
	return at
}

// address types into the place of an address, and waits until the line says where it leads.
func (u *user) address(words, leads string) {
	u.Helper()
	at := u.see("combobox", "Address")
	require.NoError(u, at.Focus())
	require.NoError(u, at.SelectAllText())
	u.types(words)
	u.reads(leads)
}

// enters presses Enter until the line is written.
func (u *user) enters() {
	u.Helper()
	require.NoError(u, u.page.Keyboard.Type(input.Enter))
	if !drive.Eventually(func() bool { return len(u.all("region", "What is written here")) == 0 }) {
		u.Fatalf("nothing is written\n%s", u.text())
	}
}

// fill types into a field.
func (u *user) fill(label, words string) {
	u.Helper()
	u.see("textbox", label).MustSelectAllText().MustInput(words)
}

const (
	wantedHome = `<!DOCTYPE html>
<html lang="en">
<head>
  <meta charset="utf-8">
  <title>Seed library</title>
</head>
<body>
<ul>
  <li><a href="borrow.html">Borrow and return</a></li>
  <li><a href="guides/sowing.html">Sowing</a></li>
</ul>
<h1>Seed library</h1>
<p><a href="guides/sowing.html"><img src="images/packet.png" alt="A packet of seed" width="4" height="3"></a></p>
<p>We lend seed to <a href="https://plots.example/" target="_blank" rel="noopener">our neighbours</a>.</p>
<p><a href="mailto:seeds@library.example?subject=Beans%20%26%20peas">Write to us</a></p>
</body>
</html>
`
	wantedBorrow = `<!DOCTYPE html>
<html lang="en">
<head>
  <meta charset="utf-8">
  <title>Borrow and return</title>
</head>
<body>
<ul>
  <li><a href="index.html">Seed library</a></li>
  <li><a href="guides/sowing.html">Sowing</a></li>
</ul>
<h1>Borrow and return</h1>
<p><a href="index.html">Seed library</a></p>
<p>Sow your <a href="guides/sowing.html#peas">peas</a> early.</p>
</body>
</html>
`
	wantedSowing = `<!DOCTYPE html>
<html lang="en">
<head>
  <meta charset="utf-8">
  <title>Sowing</title>
</head>
<body>
<ul>
  <li><a href="../index.html">Seed library</a></li>
  <li><a href="../borrow.html">Borrow and return</a></li>
</ul>
<h1>Sowing</h1>
<p><a href="../index.html">Seed library</a></p>
<ul id="toc">
  <li><a href="#runner-beans">Runner beans</a></li>
  <li><a href="#peas">Peas</a></li>
</ul>
<h2 id="runner-beans">Runner beans</h2>
<p>In May.</p>
<p><a href="#top">Back to the top</a></p>
<h2 id="peas">Peas</h2>
<p>In March.</p>
<p><a href="#top">Back to the top</a></p>
</body>
</html>
`
)

// The order of the work itself, from an empty folder to a small site that is whole.
func TestASiteIsWrittenFromAnEmptyFolder(t *testing.T) {
	u := &user{T: t, dir: filepath.Join(t.TempDir(), "site"), data: t.TempDir()}
	require.NoError(t, os.Mkdir(u.dir, 0o755))
	u.start(u.dir)
	u.open("folder/1/pages")
	u.fill("Or begin here: the title of a home page", "Seed library")
	u.press("button", "Make it")
	u.inFrame("Seed library")

	// Two pages, linked there and back, one in a folder below.
	u.behind("<h1>Seed library</h1>")
	for _, page := range [][2]string{{"Borrow and return", "borrow"}, {"Sowing", "guides/sowing"}} {
		u.begins("a new page")
		u.place("Title of the new page")
		u.types(page[0])
		u.fill("Its file", page[1])
		require.NoError(t, u.page.Keyboard.Type(input.Enter))
		u.reads(page[1] + ".html is made.")
		u.press("button", "Leave it")
	}
	// A menu on each.
	menu := func(targets ...string) {
		u.behind("<body>")
		u.begins("a list of links")
		for _, target := range targets {
			at := u.see("combobox", "A page of the list")
			require.NoError(t, at.Focus())
			u.types(target)
			u.see("option", "") // what fits is known
			require.NoError(t, u.page.Keyboard.Type(input.Enter))
			u.see("button", "Leave "+target+" out")
		}
		u.enters()
	}
	menu("borrow.html", "guides/sowing.html")

	// A picture from outside, and it as a link.
	picture := filepath.Join(t.TempDir(), "Packet.png")
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 4, 3))))
	require.NoError(t, os.WriteFile(picture, b.Bytes(), 0o644))
	u.behind("<h1>Seed library</h1>")
	u.types("\n<p></p>\n<p>We lend seed to our neighbours.</p>\n<p>Write to us</p>")
	from, _ := u.where("</p>")
	require.NoError(t, u.page.Mouse.MoveTo(from))
	require.NoError(t, u.page.Mouse.Click(proto.InputMouseButtonLeft, 1))
	u.begins("a picture")
	u.page.MustElement(`input[type="file"]`).MustSetFiles(picture)
	u.reads("images/packet.png is in the folder now.")
	u.place("What the picture shows")
	u.types("A packet of seed")
	u.enters()
	u.saves("index.html", strings.Replace(strings.Replace(u.file("index.html"), "<body>\n", "<body>\n"+`<ul>
  <li><a href="borrow.html">Borrow and return</a></li>
  <li><a href="guides/sowing.html">Sowing</a></li>
</ul>
`, 1), "</h1>\n", "</h1>\n"+`<p><img src="images/packet.png" alt="A packet of seed" width="4" height="3"></p>
<p>We lend seed to our neighbours.</p>
<p>Write to us</p>
`, 1))
	frame := u.inFrame("Write to us")
	require.True(t, drive.Eventually(func() bool {
		_, err := frame.Eval(`() => document.querySelector("img").click()`)
		return err == nil && contains(u.page.MustEval(`() => getSelection().toString()`).Str(), "<img")
	}), "a click on the picture selects it in the source")
	u.begins("a link of this picture")
	u.address("sow", "Lands on guides/sowing.html")
	u.enters()

	// An outside link in a new tab, and a message.
	u.mark("our neighbours")
	u.begins("")
	u.address("plots.example/", "Did you mean this?")
	require.NoError(t, u.page.Keyboard.Type(input.ArrowDown))
	u.reads(`href="https://plots.example/"`)
	u.press("button", "+ new tab")
	u.reads(`rel="noopener"`)
	u.see("combobox", "Address").MustFocus()
	u.enters()
	u.mark("Write to us")
	u.begins("an e-mail link")
	u.fill("To", "seeds@library.example")
	u.fill("Subject", "Beans & peas")
	u.enters()
	u.saves("index.html", wantedHome)

	// Ids, contents, ways back to the top.
	u.follow("We lend seed", "Sowing")
	u.inFrame("Sowing")
	u.where("<h1>Sowing</h1>")
	menu("index.html", "borrow.html")
	u.behind(`<p><a href="../index.html">Seed library</a></p>`)
	u.types("\n<h2>Runner beans</h2>\n<p>In May.</p>\n<h2>Peas</h2>\n<p>In March.</p>")
	u.behind("<h2>Runner")
	u.begins("the id of this heading")
	u.place("Id")
	u.enters()
	u.behind(`<p><a href="../index.html">Seed library</a></p>`)
	u.begins("the contents of this page")
	u.press("checkbox", "renew it whenever the page is saved")
	u.press("button", "Write it")
	u.begins("links back to the top")
	u.place("Words")
	u.enters()
	u.saves("guides/sowing.html", wantedSowing)

	// A fragment on another page.
	u.follow("In March", "Borrow and return")
	u.inFrame("Borrow and return")
	u.where("<h1>Borrow and return</h1>")
	menu("index.html", "guides/sowing.html")
	u.behind(`<p><a href="index.html">Seed library</a></p>`)
	u.types("\n<p>Sow your peas early.</p>")
	u.mark("peas")
	u.begins("")
	u.address("Peas", "Lands on guides/sowing.html#peas")
	u.enters()
	u.saves("borrow.html", wantedBorrow)

	// The message is tried, and what was followed is known.
	u.open("folder/1/pages?page=index.html")
	u.choose("Links", "Write to us")
	u.reads("Try it in yours")
	u.reads("Beans & peas")
	v, err := u.page.Eval(`() => fetch([...document.links].find(a => a.textContent.includes(".eml")).href).then(a => a.text())`)
	require.NoError(t, err)
	assert.Equal(t, "To: <seeds@library.example>\r\nSubject: Beans & peas\r\nX-Unsent: 1\r\nMIME-Version: 1.0\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n", v.Value.Str())
	u.press("button", "page")
	u.follow("We lend seed", "Borrow and return")
	u.inFrame("Sow your peas early.")
	u.open("folder/1/pages?page=index.html")
	u.reads("tried")

	assert.Equal(t, 0, drive.Check(t, u.dir).Counts["broken"])
	everyLinkIsFollowed(t, u.dir)
}

// everyLinkIsFollowed opens each page in Chromium from a plain server and follows each link of the folder.
func everyLinkIsFollowed(t *testing.T, dir string) {
	server := httptest.NewServer(http.FileServer(http.Dir(dir)))
	defer server.Close()
	b, err := browser()
	require.NoError(t, err)
	for _, page := range []string{"index.html", "borrow.html", "guides/sowing.html"} {
		at := b.MustPage(server.URL + "/" + page)
		v, err := at.Eval(`async () => {
			const lost = [];
			for (const a of document.querySelectorAll("a[href], img")) {
				const to = new URL(a.href ?? a.src);
				if (to.origin !== location.origin) continue;
				const got = await fetch(to);
				const id = decodeURIComponent(to.hash.slice(1));
				const found = id === "" || id === "top" || new DOMParser().parseFromString(await got.text(), "text/html").getElementById(id);
				if (!got.ok || !found) lost.push(to.href);
			}
			return lost;
		}`)
		require.NoError(t, err)
		assert.Empty(t, v.Value.Arr(), page)
		at.MustClose()
	}
}

func TestTextThatIsNotSavedSurvivesAndIsNeverLost(t *testing.T) {
	u := sitDown(t)
	before := u.file("visit.html")
	u.open("folder/1/pages?page=visit.html&see=write")
	u.behind("<h1>Visit us</h1>")
	u.types("\n<p>Bring a <a href=\"nowhere.html\">bag</a>.</p>")
	require.True(t, drive.Eventually(func() bool { return len(u.page.MustElements(".ref-broken")) > 0 }), "it is judged while it is typed")
	assert.Equal(t, before, u.file("visit.html"))
	require.True(t, drive.Eventually(func() bool { return u.draft("visit.html") }))
	require.NoError(t, u.Kill())

	u.start(u.dir)
	u.open("folder/1/pages?page=visit.html&see=write")
	u.reads("Here is what you had typed and not saved.")
	u.reads(`<p>Bring a <a href="nowhere.html">bag</a>.</p>`)

	// Another program saves the file meanwhile: both versions are there, and one is chosen.
	other := strings.Replace(before, "<h1>Visit us</h1>", "<h1>Visit us soon</h1>", 1)
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "visit.html"), []byte(other), 0o644))
	u.reads("Another program changed the file")
	u.reads("-<h1>Visit us soon</h1>")
	u.press("button", "Save mine over it")
	mine := strings.Replace(before, "<h1>Visit us</h1>", "<h1>Visit us</h1>\n<p>Bring a <a href=\"nowhere.html\">bag</a>.</p>", 1)
	u.becomes("visit.html", mine)
	u.press("link", "History")
	u.press("button", "Undo")
	u.becomes("visit.html", other)
}

// draft reports whether text of a page that is not saved is kept.
func (u *user) draft(page string) bool {
	v, err := u.page.Eval(`page => fetch("/api/v1/folders/1/source?page=" + page).then(a => a.json()).then(s => !!s.draft)`, page)
	return err == nil && v.Value.Bool()
}

func TestALinkIsWrittenChangedAndTakenAwayByKeyboardAlone(t *testing.T) {
	u := sitDown(t)
	before := u.file("visit.html")
	u.open("folder/1/pages?page=visit.html&see=write")
	u.inFrame("Visit us")
	u.reads("<h1>Visit us</h1>")
	line := strings.Count(before[:strings.Index(before, "<h1>Visit us</h1>")], "\n")
	require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.Home).Do())
	for range line {
		u.keys(input.ArrowDown)
	}
	u.keys(input.Home, input.ArrowRight, input.ArrowRight, input.ArrowRight, input.ArrowRight)
	for range len("Visit us") {
		require.NoError(t, u.page.KeyActions().Press(input.ShiftLeft).Type(input.ArrowRight).Do())
	}
	u.begins("")
	u.see("combobox", "Address")
	u.types("calendar")
	u.reads("Lands on calendar.html")
	u.inFrame("Visit us")
	require.True(t, drive.Eventually(func() bool {
		v, err := u.inFrame("Visit us").Eval(`() => document.querySelector("h1 a")?.getAttribute("href") ?? ""`)
		return err == nil && v.Value.Str() == "calendar.html"
	}), "the page beside shows it before it is written")
	u.keys(input.Enter)
	written := strings.Replace(before, "<h1>Visit us</h1>", `<h1><a href="calendar.html">Visit us</a></h1>`, 1)
	u.saves("visit.html", written)

	u.keys(input.ArrowLeft, input.ArrowLeft, input.ArrowLeft, input.ArrowLeft, input.ArrowLeft)
	u.begins("")
	u.see("combobox", "Address")
	u.goesTo("its words without the link")
	u.keys(input.Enter)
	u.reads("its words without the link")
	away := u.see("button", "Write it")
	require.NoError(t, away.Focus())
	u.keys(input.Enter)
	u.saves("visit.html", before)

	// A heading of another page is pointed at in the page itself, and given the id that it lacks.
	u.mark("The way")
	u.begins("")
	u.see("combobox", "Address")
	u.follow("We are in the old reading room", "Borrow and return")
	frame := u.inFrame("Borrow and return")
	require.True(t, drive.Eventually(func() bool {
		_, err := frame.Eval(`() => [...document.querySelectorAll("h1")].find(h => !h.id).click()`)
		return err == nil && contains(u.text(), "gets the id borrow_and_return")
	}), u.text())
	u.see("combobox", "Address").MustFocus()
	u.enters()
	u.becomes("visit.html", strings.Replace(before, ">The way<", `><a href="borrow.html#borrow_and_return">The way</a><`, 1))
	assert.Contains(t, u.file("borrow.html"), `<h1 id="borrow_and_return">`, "both are saved as one change")

	// What exists is offered while an address is typed.
	require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.End).Do())
	for _, r := range `<a href="cat` {
		require.NoError(t, u.page.InsertText(string(r)))
	}
	require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.Space).Do())
	require.True(t, drive.Eventually(func() bool { return len(u.page.MustElements(".cm-tooltip-autocomplete li")) > 0 }), u.text())
	assert.Contains(t, u.page.MustElement(".cm-tooltip-autocomplete").MustText(), "catalogue/")
}

func TestTheSameWordsOnManyPagesBecomeLinks(t *testing.T) {
	u := &user{T: t, dir: filepath.Join(t.TempDir(), "site"), data: t.TempDir()}
	pages := map[string]string{
		"index.html":         "<body>\n<p>Ask for a seed swap.</p>\n</body>\n",
		"swap.html":          "<title>Swap</title><body>\n<p>The seed swap</p>\n</body>\n",
		"guides/sowing.html": "<body>\r\n<p><a href=\"../swap.html\">seed swap</a>: a seed swap</p>\r\n</body>\r\n",
		"notes/leeks.html":   "<body>\n<p>Leeks for the seed swap.</p>\n</body>\n",
	}
	lay(t, u.dir, pages)
	u.start(u.dir)
	u.open("folder/1/pages?page=index.html&see=write")
	u.mark("seed swap")
	u.begins("")
	u.address("Swap", "Lands on swap.html")
	u.press("button", "+ tooltip")
	u.place("Tooltip")
	u.types("Swaps")
	u.press("checkbox", "link the same words on other pages too")
	u.press("checkbox", "notes/leeks.html, line 2")
	u.see("combobox", "Address").MustFocus()
	u.enters()
	u.becomes("guides/sowing.html", strings.Replace(pages["guides/sowing.html"], "a seed swap", `a <a href="../swap.html" title="Swaps">seed swap</a>`, 1))
	u.becomes("index.html", strings.Replace(pages["index.html"], "seed swap", `<a href="swap.html" title="Swaps">seed swap</a>`, 1))
	assert.Equal(t, pages["notes/leeks.html"], u.file("notes/leeks.html"), "what was left out")
	assert.Equal(t, pages["swap.html"], u.file("swap.html"), "the target does not lead to itself")
	u.press("link", "History")
	u.press("button", "Undo")
	u.becomes("guides/sowing.html", pages["guides/sowing.html"])
	u.becomes("index.html", pages["index.html"])
}

func TestPathsThatWerePastedAreOfferedAsTheyMustBe(t *testing.T) {
	u := &user{T: t, dir: filepath.Join(t.TempDir(), "site"), data: t.TempDir()}
	pages := map[string]string{
		"index.html":       "<body>\n<p><a href=\"swap.html\">The swap</a></p>\n</body>\n",
		"swap.html":        "<body>Swap</body>\n",
		"notes/leeks.html": "<body>\n<h1>Leeks</h1>\n</body>\n",
	}
	lay(t, u.dir, pages)
	u.start(u.dir)
	u.open("folder/1/pages?page=notes/leeks.html&see=write")
	u.behind("<h1>Leeks</h1>")
	_, err := u.page.Eval(`text => {
		const data = new DataTransfer();
		data.setData("text/plain", text);
		document.querySelector(".cm-content").dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
	}`, `<a href="swap.html">The swap</a>`)
	require.NoError(t, err)
	u.reads("You copied this from index.html")
	u.press("button", "Correct it")
	u.saves("notes/leeks.html", strings.Replace(pages["notes/leeks.html"], "</h1>", `</h1><a href="../swap.html">The swap</a>`, 1))
}

func TestAMissingPageIsMadeAfterThePatternOfTheOneThatLeadsToIt(t *testing.T) {
	u := &user{T: t, dir: filepath.Join(t.TempDir(), "site"), data: t.TempDir()}
	lay(t, u.dir, map[string]string{
		"index.html": "<title>Home</title>\n<body>\n<p class=menu><a href=\"index.html\">Home</a></p>\n<h1>Home</h1>\n<p><a href=\"guides/composting.html\">Composting</a></p>\n</body>\n",
	})
	u.start(u.dir)
	u.open("folder/1/pages?page=index.html")
	u.choose("Links", "Composting")
	u.press("button", "Make this page, with the menu of the page you are on")
	u.see("heading", "Lands on guides/composting.html")
	assert.Equal(t, "<title>Composting</title>\n<body>\n<p class=menu><a href=\"../index.html\">Home</a></p>\n<h1>Composting</h1>\n</body>\n", u.file("guides/composting.html"))
}
