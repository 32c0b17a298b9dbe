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

// writes presses the button of a form and waits until it is done.
func (u *user) writes(button string) {
	u.Helper()
	u.press("button", button)
	require.True(u, drive.Eventually(func() bool { return len(u.all("button", button)) == 0 }), "%s does nothing\n%s", button, u.text())
}

// fill types into a field of a form.
func (u *user) fill(label, words string) {
	u.Helper()
	u.see("textbox", label).MustSelectAllText().MustInput(words)
}

// leadsTo chooses the target of a link by some words.
func (u *user) leadsTo(field, words, target string) {
	u.Helper()
	u.fill(field, words)
	require.True(u, drive.Eventually(func() bool {
		v, err := u.page.Eval(`target => {
			const at = [...document.querySelectorAll('[aria-label="What fits"] button')].find(b => b.lastChild.textContent === target);
			at?.click();
			return !!at;
		}`, target)
		return err == nil && v.Value.Bool()
	}), "%s is not offered for “%s”\n%s", target, words, u.text())
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
<ul id="contents">
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
		u.press("button", "New page")
		u.fill("Title", page[0])
		u.fill("Its file", page[1])
		u.press("button", "Make it")
		u.reads(page[1] + ".html is made.")
		u.press("button", "close")
	}
	// A menu on each.
	menu := func(targets ...string) {
		u.behind("<body>")
		u.press("button", "List")
		for _, target := range targets {
			u.leadsTo("Page", target, target)
		}
		u.writes("Write the list")
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
	u.press("button", "Picture")
	u.page.MustElement(`input[type="file"]`).MustSetFiles(picture)
	u.reads("images/packet.png is in the folder now.")
	u.fill("Shows", "A packet of seed")
	u.writes("Put it here")
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
	u.press("button", "Link")
	u.leadsTo("Leads to", "sow", "guides/sowing.html")
	u.writes("Write it")

	// An outside link in a new tab, and a message.
	u.mark("our neighbours")
	u.press("button", "Link")
	u.leadsTo("Leads to", "plots.example/", "https://plots.example/")
	u.press("checkbox", "in a new tab")
	u.writes("Write it")
	u.mark("Write to us")
	u.press("button", "E-mail")
	u.fill("To", "seeds@library.example")
	u.fill("Subject", "Beans & peas")
	u.writes("Write it")
	u.saves("index.html", wantedHome)

	// Ids, contents, ways back to the top.
	u.follow("We lend seed", "Sowing")
	u.inFrame("Sowing")
	u.where("<h1>Sowing</h1>")
	menu("index.html", "borrow.html")
	u.behind(`<p><a href="../index.html">Seed library</a></p>`)
	u.types("\n<h2>Runner beans</h2>\n<p>In May.</p>\n<h2>Peas</h2>\n<p>In March.</p>")
	u.behind("<h2>Runner")
	u.press("button", "Id")
	u.writes("Give the id")
	u.behind(`<p><a href="../index.html">Seed library</a></p>`)
	u.press("button", "Contents")
	u.writes("Write the list, or renew it")
	u.press("button", "To the top")
	u.writes("Write them")
	u.saves("guides/sowing.html", wantedSowing)

	// A fragment on another page.
	u.follow("In March", "Borrow and return")
	u.inFrame("Borrow and return")
	u.where("<h1>Borrow and return</h1>")
	menu("index.html", "guides/sowing.html")
	u.behind(`<p><a href="index.html">Seed library</a></p>`)
	u.types("\n<p>Sow your peas early.</p>")
	u.mark("peas")
	u.press("button", "Link")
	u.leadsTo("Leads to", "Peas", "guides/sowing.html#peas")
	u.writes("Write it")
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
	u.reads("The file was changed elsewhere")
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
	keys := func(k ...input.Key) {
		for _, key := range k {
			require.NoError(t, u.page.Keyboard.Type(key))
		}
	}
	line := strings.Count(before[:strings.Index(before, "<h1>Visit us</h1>")], "\n")
	require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.Home).Do())
	for range line {
		keys(input.ArrowDown)
	}
	keys(input.Home, input.ArrowRight, input.ArrowRight, input.ArrowRight, input.ArrowRight)
	for range len("Visit us") {
		require.NoError(t, u.page.KeyActions().Press(input.ShiftLeft).Type(input.ArrowRight).Do())
	}
	link := func() { require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyK).Do()) }
	link()
	u.see("textbox", "Leads to")
	u.types("calendar")
	u.reads("calendar.html")
	keys(input.Enter)
	u.reads("It lands on calendar.html")
	keys(input.Enter)
	written := strings.Replace(before, "<h1>Visit us</h1>", `<h1><a href="calendar.html">Visit us</a></h1>`, 1)
	u.saves("visit.html", written)

	keys(input.ArrowLeft, input.ArrowLeft, input.ArrowLeft, input.ArrowLeft, input.ArrowLeft)
	link()
	u.reads("The link here leads to calendar.html")
	away := u.see("button", "Take the link away, keep its words")
	require.NoError(t, away.Focus())
	keys(input.Enter)
	u.saves("visit.html", before)

	// A heading of another page is pointed at in the page itself, and given the id that it lacks.
	u.mark("The way")
	link()
	u.press("button", "or point at a heading beside")
	u.follow("We are in the old reading room", "Borrow and return")
	frame := u.inFrame("Borrow and return")
	require.True(t, drive.Eventually(func() bool {
		_, err := frame.Eval(`() => [...document.querySelectorAll("h1")].find(h => !h.id).click()`)
		return err == nil && contains(u.text(), "The heading has no id yet.")
	}), u.text())
	u.writes("Write it")
	u.inFrame("We are in the old reading room")
	assert.Contains(t, u.file("borrow.html"), `<h1 id="borrow_and_return">`)
	u.saves("visit.html", strings.Replace(before, ">The way<", `><a href="borrow.html#borrow_and_return">The way</a><`, 1))

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
	u.press("button", "Link")
	u.leadsTo("Leads to", "Swap", "swap.html")
	u.press("checkbox", "the same words on other pages too, as one change")
	u.press("checkbox", "notes/leeks.html, line 2")
	u.writes("Write it")
	u.becomes("guides/sowing.html", strings.Replace(pages["guides/sowing.html"], "a seed swap", `a <a href="../swap.html">seed swap</a>`, 1))
	u.saves("index.html", strings.Replace(pages["index.html"], "seed swap", `<a href="swap.html">seed swap</a>`, 1))
	assert.Equal(t, pages["notes/leeks.html"], u.file("notes/leeks.html"), "what was left out")
	assert.Equal(t, pages["swap.html"], u.file("swap.html"), "the target does not lead to itself")
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
	u.reads("was copied from index.html")
	u.writes("Take them")
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
	u.press("button", "Make that page, with the menu of this one")
	u.see("heading", "Lands on guides/composting.html")
	assert.Equal(t, "<title>Composting</title>\n<body>\n<p class=menu><a href=\"../index.html\">Home</a></p>\n<h1>Composting</h1>\n</body>\n", u.file("guides/composting.html"))
}
