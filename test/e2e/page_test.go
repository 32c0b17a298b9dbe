package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

// within returns the document in a frame. The author's pages are another site than the interface, so the browser gives them
// a process of their own.
func (u *user) within(frame *rod.Element) (*rod.Page, error) {
	node, err := frame.Describe(1, false)
	if err != nil {
		return nil, err
	}
	b, err := browser()
	if err != nil {
		return nil, err
	}
	page, err := b.PageFromTarget(proto.TargetTargetID(node.FrameID))
	if err != nil {
		return nil, err
	}
	return page.Timeout(60 * time.Second), nil
}

// inFrame returns the document of the page itself, once it says the words.
func (u *user) inFrame(words string) *rod.Page {
	u.Helper()
	var frame *rod.Page
	if !drive.Eventually(func() bool {
		e, err := u.page.Element("iframe")
		if err != nil {
			return false
		}
		if frame, err = u.within(e); err != nil {
			return false
		}
		v, err := frame.Timeout(2 * time.Second).Eval(`() => document.body?.innerText ?? ""`)
		return err == nil && contains(v.Value.Str(), words)
	}) {
		u.Fatalf("the page itself does not say “%s”", words)
	}
	return frame
}

// follow clicks on a link in the page itself.
func (u *user) follow(words, link string) {
	u.Helper()
	frame := u.inFrame(words)
	require.True(u, drive.Eventually(func() bool {
		_, err := frame.Eval(`link => [...document.querySelectorAll("a")].find(a => a.textContent.includes(link)).click()`, link)
		return err == nil
	}), link)
}

func TestThePageItselfIsFollowedAndExplained(t *testing.T) {
	u := sitDown(t)
	u.choose("Pages", "Sowing by the moon")
	u.press("button", "page")
	u.follow("Some of us do, some of us laugh", "Catalogue")
	u.inFrame("What lies in our drawers")
	u.reads("catalogue/index.html")
	assert.True(t, drive.Eventually(func() bool {
		return contains(u.page.MustInfo().URL, "page=catalogue%2Findex.html")
	}), "the interface follows along: %s", u.page.MustInfo().URL)

	u.page.MustNavigateBack()
	require.True(t, drive.Eventually(func() bool {
		u.follow("Some of us do, some of us laugh", "When to sow squash") // again, if the page was still loading
		return contains(u.text(), "It was not followed: the reason is beside it.")
	}), u.text())
	u.see("heading", "No element has the id Squash")
	u.press("button", "Repair by writing #squash")
	u.becomes("guides/sowing.html", u.file("guides/sowing.html"))
	u.see("heading", "Lands on guides/sowing.html#squash")
	assert.Contains(t, u.file("guides/sowing.html"), `href="#squash"`)

	// What is saved elsewhere is seen at once, and where the pointer is, is told below.
	page := filepath.Join(u.dir, "guides", "sowing.html")
	require.NoError(t, os.WriteFile(page, []byte(strings.Replace(u.file("guides/sowing.html"), "Some of us do", "Some of us dig", 1)), 0o644))
	frame := u.inFrame("Some of us dig")
	require.True(t, drive.Eventually(func() bool {
		frame = u.inFrame("Some of us dig")
		_, err := frame.Eval(`() => [...document.querySelectorAll("a")].find(a => a.textContent === "our bean list").dispatchEvent(new MouseEvent("mouseover", { bubbles: true }))`)
		return err == nil
	}))
	u.below("catalogue/legumes.html#runner")
	assert.NotContains(t, u.file("guides/sowing.html"), "live.js", "what is added to what is sent is never stored")

	u.follow("Some of us dig", "Tuesday")
	u.reads("writes to tuesday@seedlibrary.example")
}

func TestThePreviewIsAnotherOriginThatCannotDriveArvel(t *testing.T) {
	u := sitDown(t)
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "evil.html"), []byte(`<title>Evil</title><p id=out>waiting</p><script>
		const to = new URLSearchParams(location.search), out = document.getElementById("out"), said = [];
		(async () => {
			const arvel = document.referrer || "`+u.Address+`";
			for (const what of ["api/v1/session", "api/v1/folders"]) {
				try { said.push(await (await fetch("`+u.Address+`" + what)).text()) } catch (e) { said.push("refused") }
			}
			try { said.push(parent.document.title) } catch (e) { said.push("kept out") }
			out.textContent = said.join(" ");
		})();
	</script>`), 0o644))
	u.choose("Pages", "Evil")
	u.press("button", "page")
	u.inFrame("refused refused kept out")
}

func TestTheSourceShowsItsReferences(t *testing.T) {
	u := sitDown(t)
	u.choose("Pages", "Sowing by the moon")
	u.press("button", "source")
	u.see("textbox", "Source of guides/sowing.html")
	u.reads(`<h2 id="moon">What the moon has to do with it</h2>`)
	u.click(".ref-broken", "squash.html#Kinds")
	u.see("heading", "No element has the id Kinds")
}

func TestPlacesAreChosenAndTicked(t *testing.T) {
	u := sitDown(t)
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "notes", "rooted.html"), []byte(`<title>Rooted</title><a href="/index.html">Home</a>`), 0o644))
	u.press("link", "Hosting")
	u.see("heading", "Where the folder is opened")
	u.option("What differs", "/index.html") // opened from disk is ticked
	u.reads("The leading slash leaves the folder")
	u.press("link", "Pages")
	u.choose("Pages", "Rooted")
	u.reads("It works here, but not opened from disk")
	u.press("button", "Repair by writing ../index.html")
	u.becomes("notes/rooted.html", `<title>Rooted</title><a href="../index.html">Home</a>`)

	u.press("link", "Hosting")
	u.see("textbox", "below the root, at").MustInput("club").MustType(input.Enter)
	u.press("button", "Choose published below /club/")
	u.see("button", "Choose at the root of a site")
	require.NoError(t, u.Stop())
	u.start(u.dir)
	u.open("folder/1/pages?page=index.html&see=page")
	frame := u.inFrame("We lend vegetable seed")
	assert.Equal(t, "/club/index.html", frame.MustEval(`() => location.pathname`).Str(), "the choice outlasts the program")
}

func TestWhatIsSetAsideStaysListed(t *testing.T) {
	u := sitDown(t)
	u.choose("Pages", "Sowing by the moon")
	u.choose("Links", "../image/bean-pods.png")
	u.press("button", "Set it aside")
	u.see("textbox", "Why it stays as it is (files that don’t exist)").MustInput("the picture comes in spring")
	u.press("button", "Set aside")
	u.see("heading", "Leads to image/bean-pods.png")
	require.NoError(t, u.Stop())
	u.start(u.dir)
	u.open("folder/1/pages")
	u.click("header button", "Seed library")
	u.reads("“the picture comes in spring” · guides/sowing.html line 26")
	u.press("button", "bring back")
	u.page.MustElement("body").MustType(input.Escape)
	u.choose("Pages", "Sowing by the moon")
	u.choose("Links", "../image/bean-pods.png")
	u.see("heading", "Nothing is at image/bean-pods.png")
}
