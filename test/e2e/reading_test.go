package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

// Who reads on by following links sees the way that was come, and goes back by key from any depth.
func TestTheWayThatWasComeIsKept(t *testing.T) {
	u := own(t, map[string]string{
		"index.html": "<title>Home</title><p>The home page <a href=\"a.html\">on to A</a></p>",
		"a.html":     "<title>A</title><p>Page A <a href=\"d/b.html\">on to B</a></p>",
		"d/b.html":   "<title>B</title><p>Page B <a href=\"../index.html\">home</a></p>",
	}, "folder/1/pages?page=index.html&see=page")
	u.follow("The home page", "on to A")
	u.follow("Page A", "on to B")
	u.inFrame("Page B")
	u.at("page=d%2Fb.html")
	way := func() string {
		if found := u.all("navigation", "The way here"); len(found) > 0 {
			return strings.Join(strings.Fields(found[0].MustText()), " ")
		}
		return ""
	}
	require.True(t, drive.Eventually(func() bool { return way() == "index › a › b" }), way())
	u.keys(input.Backspace)
	u.at("page=a.html")
	u.press("button", "index")
	u.at("page=index.html")
	u.inFrame("The home page")
}

// By key: a link from the list is followed with Enter, Backspace goes back, B goes to the next broken reference, also of another
// page, and the window says where one is.
func TestLinksAreReadOnByKey(t *testing.T) {
	u := own(t, map[string]string{
		"index.html": "<title>Home</title><p><a href=\"a.html\">A</a> <a href=\"none.html\">n</a></p>",
		"a.html":     "<title>A</title><p><a href=\"index.html\">Home</a> <a href=\"b.html\">B</a></p>",
		"b.html":     "<title>B</title><p><a href=\"gone.html\">g</a> <a href=\"lost.html\">l</a> <a href=\"index.html\">h</a></p>",
	}, "folder/1/pages?page=a.html")
	u.choose("Links", "B")
	u.keys(input.Enter)
	u.at("page=b.html")
	require.True(t, drive.Eventually(func() bool { return contains(u.page.MustInfo().Title, "b.html · ") }), u.page.MustInfo().Title)
	u.see("heading", "Nothing is at gone.html")
	u.keys(input.KeyB)
	u.see("heading", "Nothing is at lost.html")
	u.keys(input.KeyB)
	u.see("heading", "Nothing is at none.html")
	u.at("page=index.html")
	u.keys(input.Key('B'))
	u.see("heading", "Nothing is at lost.html")
	u.press("link", "Overview")
	require.True(t, drive.Eventually(func() bool { return strings.HasPrefix(u.page.MustInfo().Title, "Overview · ") }), u.page.MustInfo().Title)
}

// The live page shows what is typed and not saved, keeps its scroll, and is as the file is once that is left.
func TestWhatIsTypedIsSeenInThePage(t *testing.T) {
	long := strings.Repeat("<p>A line.</p>\n", 200)
	u := own(t, map[string]string{"index.html": "<title>Home</title>\n<body>\n<h1>Home</h1>\n" + long + "</body>\n", "a.html": "<title>A</title>"}, "folder/1/pages?page=index.html&see=write")
	frame := u.inFrame("A line.")
	_, err := frame.Eval(`() => scrollTo(0, 900)`)
	require.NoError(t, err)
	u.behind("<h1>Home")
	u.types(" at last")
	require.True(t, drive.Eventually(func() bool {
		v, err := frame.Eval(`() => document.querySelector("h1").textContent + " " + scrollY`)
		return err == nil && v.Value.Str() == "Home at last 900"
	}), "it is shown, and the scroll is kept")
	u.reads("The page as it would be with what you are writing")
	assert.NotContains(t, u.file("index.html"), "at last")
	require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyZ).Do())
	require.True(t, drive.Eventually(func() bool {
		v, err := u.inFrame("A line.").Eval(`() => document.querySelector("h1").textContent`)
		return err == nil && v.Value.Str() == "Home" && !contains(u.text(), "The page as it would be")
	}))
}

// What a rule of advice found in a tag is put right there, one or all of a cause.
func TestTagsArePutRight(t *testing.T) {
	page := "<title>Home</title>\n<p><a href=\"https://plots.example/\" target=\"_blank\">plots</a> <a href=\"https://beds.example/\" target=\"_blank\">beds</a>\n<a href=\"index.html\">home </a>now <img src=\"p.png\"></p>\n"
	u := own(t, map[string]string{"index.html": page, "p.png": "x"}, "folder/1/repairs")
	u.choose("Causes", "Other sites could change a page")
	u.press("button", "Add rel=noopener")
	after := strings.ReplaceAll(page, `target="_blank"`, `target="_blank" rel="noopener"`)
	u.becomes("index.html", after)
	u.reads("2 tags changed")
	u.press("button", "Undo")
	u.becomes("index.html", page)
	u.open("folder/1/pages?page=index.html")
	u.choose("Links", "home")
	u.press("button", "Move the space outside of the link")
	after = strings.Replace(page, ">home </a>now", ">home</a> now", 1)
	u.becomes("index.html", after)
	u.choose("Links", "p.png")
	u.press("button", `Mark it as decoration: alt=""`)
	u.becomes("index.html", strings.Replace(after, `<img src="p.png">`, `<img src="p.png" alt="">`, 1))
}

// Causes are filtered by what one chooses, and lists leave as files.
func TestListsAreFilteredAndExported(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Repairs")
	u.option("Causes", "seems to have been moved here")
	u.picks("How certain", "likely")
	u.option("Causes", "no scheme")
	require.True(t, drive.Eventually(func() bool { return !contains(u.text(), "The folder images is written image") }), u.text())
	u.picks("The rule", "addresses without their scheme")
	u.press("button", "show all")
	u.option("Causes", "The folder images is written image")
	_, err := u.page.Eval(`() => { window.saved = []; URL.createObjectURL = blob => { blob.text().then(t => window.saved.push(t)); return "data:,"; }; }`)
	require.NoError(t, err)
	u.press("button", "Copy or export: Causes")
	u.press("menuitem", "Save it as CSV")
	require.True(t, drive.Eventually(func() bool {
		v, err := u.page.Eval(`() => window.saved[0] ?? ""`)
		return err == nil && strings.HasPrefix(v.Value.Str(), "cause,state,references,certainty,rules\r\n") && strings.Contains(v.Value.Str(), "The folder images is written image,broken,9,certain,missing-file\r\n")
	}))
}

// Pages are listed by folder, or those with most broken references first.
func TestPagesAreSorted(t *testing.T) {
	u := sitDown(t)
	first := func() string {
		v, err := u.page.Eval(`() => document.querySelector('[aria-label="Pages"] [role="option"]')?.innerText.split("\n")[0] ?? ""`)
		if err != nil {
			return ""
		}
		return v.Value.Str()
	}
	require.True(t, drive.Eventually(func() bool { return first() == "Seed library" }), first())
	u.picks("The order of the pages", "most broken first")
	require.True(t, drive.Eventually(func() bool { return first() == "Sowing by the moon" || first() == "Tomatoes" }), first())
}

// The toolbar and the combobox of the open line behave by the ARIA patterns.
func TestTheOpenLineKeepsToTheARIAPatterns(t *testing.T) {
	u := own(t, writing, "folder/1/pages?page=guides/new.html&see=write")
	u.inFrame("some words here")
	u.mark("some words")
	u.begins("")
	at := u.see("combobox", "Address")
	u.types("s")
	attribute := func(name string) string {
		v, err := at.Attribute(name)
		if err != nil || v == nil {
			return ""
		}
		return *v
	}
	require.True(t, drive.Eventually(func() bool { return attribute("aria-expanded") == "true" && attribute("aria-activedescendant") != "" }))
	assert.NotEmpty(t, attribute("aria-controls"))
	first := attribute("aria-activedescendant")
	u.keys(input.ArrowDown)
	require.True(t, drive.Eventually(func() bool { now := attribute("aria-activedescendant"); return now != "" && now != first }), "the arrows go through the options")
	active := func() string {
		return u.page.MustEval(`() => (document.activeElement.getAttribute("aria-label") ?? document.activeElement.textContent)`).Str()
	}
	assert.Equal(t, "Address", active(), "the focus stays in the combobox")
	require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyE).Do())
	require.True(t, drive.Eventually(func() bool { return active() == "a link of these words" }), active())
	u.keys(input.ArrowRight)
	require.True(t, drive.Eventually(func() bool { return active() == "an e-mail link" }), active())
	u.keys(input.End)
	require.True(t, drive.Eventually(func() bool { return active() == "a new page" }), active())
	u.keys(input.Home)
	require.True(t, drive.Eventually(func() bool { return active() == "a link of these words" }), active())
	u.keys(input.Escape)
	require.True(t, drive.Eventually(func() bool { return len(u.all("region", "What is written here")) == 0 }), "Escape leaves it")
	assert.Equal(t, "Source of guides/new.html", active(), "and the source has the focus again")
	assert.Equal(t, writing["guides/new.html"], u.file("guides/new.html"))
}

// The tree of Moves opens, closes and is walked by the ARIA pattern.
func TestTheTreeKeepsToTheARIAPattern(t *testing.T) {
	u := own(t, map[string]string{"index.html": "<title>H</title>", "d/a.html": "<title>A</title>", "d/e/b.html": "<title>B</title>"}, "folder/1/moves")
	tree := u.see("tree", "The folder")
	active := func() string {
		v, err := u.page.Eval(`() => {
			const tree = document.querySelector('[role="tree"]');
			const at = document.getElementById(tree.getAttribute("aria-activedescendant"));
			return at ? [at.getAttribute("aria-level"), at.getAttribute("aria-expanded") ?? "-", at.innerText.split("\n")[0].trim()].join(" ") : "";
		}`)
		if err != nil {
			return ""
		}
		return v.Value.Str()
	}
	is := func(want string) {
		t.Helper()
		require.True(t, drive.Eventually(func() bool { return active() == want }), "%s, not %s", active(), want)
	}
	u.choose("The folder", "d/")
	require.NoError(t, tree.Focus())
	is("1 false +d/")
	u.keys(input.ArrowRight)
	is("1 true –d/")
	u.keys(input.ArrowRight)
	require.True(t, drive.Eventually(func() bool { return strings.HasPrefix(active(), "2 ") }), active())
	u.keys(input.ArrowLeft)
	require.True(t, drive.Eventually(func() bool { return strings.HasPrefix(active(), "2 ") || strings.HasPrefix(active(), "1 true") }))
	u.keys(input.Home)
	require.True(t, drive.Eventually(func() bool { return strings.HasPrefix(active(), "1 ") }))
}
