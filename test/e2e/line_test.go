package e2e

import (
	"encoding/json"
	"math/rand/v2"
	"net/http/httptest"
	"net/url"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/api"
	"arvel/test/drive"
	"arvel/test/seed"
)

// writing is the folder in which the journeys of writing are made.
var writing = map[string]string{
	"index.html": "<!DOCTYPE html>\n<title>Seed library</title>\n<body>\n<h1>Seed library</h1>\n<p>Home</p>\n</body>\n",
	"guides/new.html": "<!DOCTYPE html>\n<title>New</title>\n<body>\n<h1>New</h1>\n<p>some words here</p>\n\n<h2 id=\"peas\">Peas</h2>\n<p>In March.</p>\n" +
		"<h2>Beans</h2>\n<p>In May.</p>\n</body>\n",
	"guides/sowing.html":     "<!DOCTYPE html>\n<title>Sowing</title>\n<body>\n<h1>Sowing</h1>\n<h2 id=\"leeks\">Leeks</h2>\n<p>x</p>\n</body>\n",
	"guides/old/notes.html":  "<!DOCTYPE html>\n<title>Old notes</title>\n<body><p>x</p></body>\n",
	"catalogue/legumes.html": "<!DOCTYPE html>\n<title>Our bean list</title>\n<body><p>x</p></body>\n",
	"images/pod.svg":         `<svg xmlns="http://www.w3.org/2000/svg" width="4" height="3"></svg>`,
}

// journey is a link that is written by keyboard alone: what is typed after the line is open, and what is in the page then.
type journey struct {
	name string
	// select is what is selected in the source; empty to put the caret behind after.
	selected, after string
	keys            func(u *user)
	old, fresh      string // what becomes what
}

func typed(words, leads string) func(u *user) {
	return func(u *user) {
		u.see("combobox", "Address")
		u.types(words)
		u.reads(leads)
	}
}

var journeys = []journey{
	{name: "beside, by part of a title", selected: "some words", keys: typed("sowi", "Lands on guides/sowing.html"), old: "some words", fresh: `<a href="sowing.html">some words</a>`},
	{name: "down", selected: "some words", keys: typed("old/notes.html", "Lands on guides/old/notes.html"), old: "some words", fresh: `<a href="old/notes.html">some words</a>`},
	{name: "up, as typed", selected: "some words", keys: typed("../index.html", "Lands on index.html"), old: "some words", fresh: `<a href="../index.html">some words</a>`},
	{name: "up and down", selected: "some words", keys: typed("bean list", "Lands on catalogue/legumes.html"), old: "some words", fresh: `<a href="../catalogue/legumes.html">some words</a>`},
	{name: "with a leading slash", selected: "some words", keys: typed("/catalogue/legumes.html", "but not opened from disk"), old: "some words", fresh: `<a href="/catalogue/legumes.html">some words</a>`},
	{name: "outside", selected: "some words", keys: typed("https://plots.example/a?b&c", "Leads outside, to https://plots.example/a?b&c"), old: "some words", fresh: `<a href="https://plots.example/a?b&amp;c">some words</a>`},
	{name: "outside, without its scheme", selected: "some words", keys: func(u *user) {
		typed("plots.example/a", "Did you mean this?")(u)
		u.keys(input.ArrowDown)
		u.reads(`href="https://plots.example/a"`)
	}, old: "some words", fresh: `<a href="https://plots.example/a">some words</a>`},
	{name: "outside, as a file after all", selected: "some words", keys: typed("plots.example/a", "The address has no https://"), old: "some words", fresh: `<a href="plots.example/a">some words</a>`},
	{name: "a mistyped scheme", selected: "some words", keys: func(u *user) {
		typed("htp://plots.example/", "The scheme is mistyped")(u)
		u.keys(input.ArrowDown)
		u.reads(`href="http://plots.example/"`)
	}, old: "some words", fresh: `<a href="http://plots.example/">some words</a>`},
	{name: "nothing but a climb", selected: "some words", keys: typed("../", "Lands on index.html"), old: "some words", fresh: `<a href="../">some words</a>`},
	{name: "a fragment here", selected: "some words", keys: typed("#peas", "Lands on guides/new.html#peas"), old: "some words", fresh: `<a href="#peas">some words</a>`},
	{name: "a fragment of another page", selected: "some words", keys: typed("leeks", "Lands on guides/sowing.html#leeks"), old: "some words", fresh: `<a href="sowing.html#leeks">some words</a>`},
	{
		name: "a heading here without an id", selected: "some words", keys: typed("beans", "The heading “Beans” gets the id beans"), old: "<p>some words here</p>\n\n<h2 id=\"peas\">Peas</h2>\n<p>In March.</p>\n<h2>Beans",
		fresh: "<p><a href=\"#beans\">some words</a> here</p>\n\n<h2 id=\"peas\">Peas</h2>\n<p>In March.</p>\n<h2 id=\"beans\">Beans",
	},
	{name: "an empty place, whose words are the title", after: "some words here", keys: typed("sowi", "Lands on guides/sowing.html"), old: "words here", fresh: `words here<a href="sowing.html">Sowing</a>`},
	{name: "other words and a tooltip", selected: "some words", keys: func(u *user) {
		typed("sowi", "Lands on guides/sowing.html")(u)
		u.keys(input.Tab)
		u.place("Words")
		require.NoError(u, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyA).Do())
		u.types("How to sow")
		u.keys(input.Tab, input.Enter)
		u.see("textbox", "Tooltip")
		u.types(`All of "it"`)
	}, old: "some words", fresh: `<a href="sowing.html" title="All of &quot;it&quot;">How to sow</a>`},
	{name: "a new tab", selected: "some words", keys: func(u *user) {
		typed("https://plots.example/", "Leads outside")(u)
		u.keys(input.Tab)
		u.place("Words")
		u.keys(input.Tab, input.Tab, input.Enter)
		u.reads("so that the other page can't change this one")
		require.True(u, drive.Eventually(func() bool {
			v, err := u.page.Eval(`() => document.activeElement?.matches("[data-place]") ?? false`)
			return err == nil && v.Value.Bool()
		}), "the focus is in the line again")
	}, old: "some words", fresh: `<a href="https://plots.example/" target="_blank" rel="noopener">some words</a>`},
	{name: "a picture", after: "some words here", keys: func(u *user) {
		u.chooses("a picture")
		typed("pod", "images/pod.svg")(u)
		u.keys(input.Enter) // what it shows is asked for
		u.reads("Say what the picture shows")
		u.place("What the picture shows")
		u.types("A pod")
	}, old: "words here", fresh: `words here<img src="../images/pod.svg" alt="A pod">`},
	{name: "a frame", after: "some words here", keys: func(u *user) {
		u.chooses("a page in a frame")
		typed("sowi", "guides/sowing.html")(u)
		u.keys(input.Tab)
		u.place("Tooltip")
		u.types("The dates")
	}, old: "words here", fresh: `words here<iframe src="sowing.html" title="The dates"></iframe>`},
	{name: "e-mail with a subject", selected: "some words", keys: func(u *user) {
		u.chooses("an e-mail link")
		u.place("To")
		u.types("Ruth <ruth@seeds.example>")
		u.keys(input.Tab)
		u.place("Subject")
		u.types("Beans & peas?")
		u.reads("With the subject “Beans & peas?”")
	}, old: "some words", fresh: `<a href="mailto:ruth@seeds.example?subject=Beans%20%26%20peas%3F">some words</a>`},
	{name: "an id", selected: "In May", keys: func(u *user) {
		u.chooses("the id of this paragraph")
		u.place("Id")
		require.NoError(u, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyA).Do())
		u.types("may")
		u.reads("Write it")
	}, old: "<p>In May", fresh: `<p id="may">In May`},
}

// goesTo goes by key to another thing that can be written here.
func (u *user) goesTo(what string) {
	u.Helper()
	u.see("region", "What is written here")
	require.NoError(u, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyE).Do())
	require.True(u, drive.Eventually(func() bool {
		v, err := u.page.Eval(`() => document.activeElement?.closest('[role="toolbar"]') ? document.activeElement.textContent : ""`)
		if err != nil || v.Value.Str() == "" {
			return false
		}
		if v.Value.Str() == what {
			return true
		}
		u.keys(input.ArrowRight)
		return false
	}), "%s is not offered\n%s", what, u.text())
}

// chooses writes another thing here, by key, and waits for its first place.
func (u *user) chooses(what string) {
	u.Helper()
	u.goesTo(what)
	u.keys(input.Enter)
	require.True(u, drive.Eventually(func() bool {
		v, err := u.page.Eval(`() => document.activeElement?.matches("[data-place]") ?? false`)
		return err == nil && v.Value.Bool()
	}), "its first place has the focus\n%s", u.text())
}

func TestLinksOfEveryKindAreWrittenByKeyboardAlone(t *testing.T) {
	u := own(t, writing, "folder/1/pages?page=guides/new.html&see=write")
	u.inFrame("some words here")
	before := writing["guides/new.html"]
	server := httptest.NewServer(asAHost(u.dir))
	defer server.Close()
	for _, j := range journeys {
		ok := t.Run(j.name, func(t *testing.T) {
			own := u.T
			u.T = t
			defer func() { u.T = own }()
			if j.selected != "" {
				u.mark(j.selected)
			} else {
				u.behind(j.after)
			}
			u.begins("")
			j.keys(u)
			u.enters()
			want := strings.Replace(before, j.old, j.fresh, 1)
			require.NotEqual(t, before, want)
			u.saves("guides/new.html", want)
			chromiumAgrees(t, u.dir, server.URL)
			// And back, which the notice offers.
			u.press("button", "Undo")
			u.becomes("guides/new.html", before)
			require.True(t, drive.Eventually(func() bool {
				v, err := u.page.Eval(`() => [...document.querySelectorAll(".cm-line")].map(l => l.textContent).join("\n")`)
				return err == nil && v.Value.Str() == before
			}), "the source is as it was")
		})
		if !ok {
			return
		}
	}
}

// chromiumAgrees compares what Chromium makes of the page's links, from disk and from a server, with what core says lands.
func chromiumAgrees(t *testing.T, dir, server string) {
	t.Helper()
	b, err := browser()
	require.NoError(t, err)
	real, err := filepath.EvalSymlinks(dir)
	require.NoError(t, err)
	s := read(t, dir, "root")
	file, _ := s.Find("guides/new.html")
	for _, origin := range []string{server, "file://" + (&url.URL{Path: real}).EscapedPath()} {
		at := b.MustPage(origin + "/guides/new.html")
		var hrefs []string
		got, err := at.Eval(`() => [...document.querySelectorAll("a[href], img, iframe")].map(e => e.href ?? e.src)`)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal([]byte(got.Value.JSON("", "")), &hrefs))
		links := s.Links(file)
		require.Len(t, hrefs, len(links))
		for i, l := range links {
			u, err := url.Parse(hrefs[i])
			require.NoError(t, err)
			if l.File < 0 || strings.HasPrefix(origin, "file:") && strings.HasPrefix(s.Files[file].Doc.References[i].Written, "/") {
				continue
			}
			p := strings.TrimPrefix(u.Path, strings.TrimPrefix(origin, "file://"))
			if strings.HasSuffix(p, "/") {
				p += "index.html"
			}
			assert.Equal(t, "/"+s.Files[l.File].Path, path.Clean("/"+strings.TrimPrefix(p, "/")), hrefs[i])
		}
		at.MustClose()
	}
}

// An existing link opens as its own tag wherever it is chosen, and what was not changed stays to the byte.
func TestAnExistingLinkOpensAsItsOwnTag(t *testing.T) {
	page := "<!DOCTYPE html>\n<title>A</title>\n<body>\n<p>See <A HREF='b.htm' class=x>the <b>second</b> page</A>, and write to <a href=\"mailto:a@b.example?subject=Hi%20you&amp;x-club=1\">us</a>.</p>\n" +
		"<p><img src=p.png alt=\"A pod\"></p>\n</body>\n"
	files := map[string]string{"index.html": page, "b.html": "<title>B</title><body><p id=x>B <a href=index.html>A</a></p></body>", "c.html": "<title>C</title><body><p><a href=index.html>A</a></p></body>", "p.png": "x"}
	u := own(t, files, "folder/1/pages?page=index.html")
	// From the list of links, by key.
	u.choose("Links", "b.htm")
	u.keys(input.KeyE)
	u.reads("Did you mean this?")
	require.NoError(t, u.see("combobox", "Address").Focus())
	u.keys(input.ArrowDown)
	u.reads("Lands on b.html")
	u.enters()
	after := strings.Replace(page, "'b.htm'", "'b.html'", 1)
	u.saves("index.html", after)

	// The message of an e-mail link, in its parts; fields of other names stay.
	u.open("folder/1/pages?page=index.html")
	u.choose("Links", "mailto:")
	u.keys(input.KeyE)
	u.place("Subject")
	require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyA).Do())
	u.types("Hi all")
	u.enters()
	after = strings.Replace(after, "Hi%20you", "Hi%20all", 1)
	u.saves("index.html", after)

	// A picture, from the page itself, and a new tab by the pointer.
	u.where("A pod")
	u.behind("<img src=p")
	u.begins("this picture")
	u.place("What the picture shows")
	require.NoError(t, u.page.KeyActions().Press(input.ControlLeft).Type(input.KeyA).Do())
	u.types("Two pods")
	u.enters()
	after = strings.Replace(after, `alt="A pod"`, `alt="Two pods"`, 1)
	u.saves("index.html", after)

	// Several at once.
	u.mark(`See <A HREF='b.html' class=x>the <b>second</b> page</A>, and write to <a href="mailto:a@b.example?subject=Hi%20all&amp;x-club=1">us</a>`)
	u.begins("these 2 links")
	u.press("button", "+ tooltip")
	u.place("Tooltip")
	u.types("Try it")
	u.enters()
	after = strings.Replace(strings.Replace(after, "class=x>", `class=x title="Try it">`, 1), `x-club=1">`, `x-club=1" title="Try it">`, 1)
	u.saves("index.html", after)

	// From the pages that lead somewhere else: here the other one that leads to the home page.
	u.open("folder/1/pages?page=c.html")
	u.choose("Links", "index.html")
	require.NoError(t, u.see("link", "b.html").Focus())
	u.keys(input.KeyE)
	u.at("page=b.html")
	require.NoError(t, u.see("combobox", "Address").Focus())
	u.reads("Lands on index.html")
	// Also where text is not saved yet.
	u.open("folder/1/pages?page=index.html&see=write")
	u.behind(`alt="Two pods">`)
	u.types("!")
	after = strings.Replace(after, `alt="Two pods">`, `alt="Two pods">!`, 1)
	require.True(t, drive.Eventually(func() bool { return u.draft("index.html") }))
	u.press("button", "links")
	u.choose("Links", "mailto:")
	u.keys(input.KeyE)
	u.place("Subject")
	u.keys(input.Escape)

	// And away.
	u.behind("second</b> pa")
	u.begins("its words without the link")
	u.press("button", "Write it")
	after = strings.Replace(strings.Replace(after, `<A HREF='b.html' class=x title="Try it">`, "", 1), "</A>", "", 1)
	u.saves("index.html", after)
}

// What is typed in the place of the address is what is written: whatever it is, the browser reads just that, and resolves it as
// the line said.
func TestWhatIsTypedIsNeverTurnedIntoSomethingElse(t *testing.T) {
	random := rand.New(rand.NewPCG(seed.Of(t), 0))
	all := []string{"../../about.html", "/about.html", "#top", "https://../", "https:////", "htp://", "?x=1", "//host", "C:\\site\\a.html", "a b.html", "mailto:<ruth@x.example>", `"`, "'", "&amp;", "<a>", "&#x3a;", "é"}
	for range 150 {
		v := ""
		for range 1 + random.IntN(6) {
			v += pieces[random.IntN(len(pieces))]
		}
		all = append(all, v)
	}
	u := own(t, targets, "folder/1/pages?page=d/a.html")
	text := "<!DOCTYPE html>\n<p id=x>words</p>"
	from := strings.Index(text, "words")
	type said struct{ Value, Snippet, Target, State string }
	var got []said
	for _, v := range all {
		body := map[string]any{"page": "d/a.html", "text": text, "from": from, "to": from + 5, "what": "link", "attributes": []any{map[string]any{"name": "href", "value": v}}}
		var c api.Composed
		answer, err := u.page.Eval(`async body => {
			const session = await (await fetch("/api/v1/session")).json();
			const headers = { "Content-Type": "application/json", "X-Arvel-Token": session.token };
			return (await fetch("/api/v1/folders/1/compose", { method: "POST", headers, body: JSON.stringify(body) })).text();
		}`, body)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal([]byte(answer.Value.Str()), &c), answer.Value.Str())
		if v == "" {
			continue
		}
		require.Len(t, c.Edits, 2, v)
		require.NotNil(t, c.Leads, v)
		got = append(got, said{v, c.Edits[0].Insert + "words" + c.Edits[1].Insert, c.Leads.Target, string(c.Leads.State)})
	}
	server := httptest.NewServer(asAHost(u.dir))
	defer server.Close()
	b, err := browser()
	require.NoError(t, err)
	at := b.MustPage(server.URL + "/d/a.html")
	defer at.MustClose()
	for _, one := range got {
		v, err := at.Eval(`html => {
			document.body.innerHTML = html;
			const a = document.querySelector("a");
			let path = "";
			try { path = new URL(a.href).origin === location.origin ? decodeURIComponent(new URL(a.href).pathname) : ""; } catch {}
			return [a.getAttribute("href"), path, document.querySelectorAll("a").length];
		}`, one.Snippet)
		require.NoError(t, err)
		r := v.Value.Arr()
		assert.Equal(t, one.Value, r[0].Str(), "it is written as it was typed")
		assert.Equal(t, 1, r[2].Int())
		if file, _, _ := strings.Cut(one.Target, "#"); one.State == "sound" && targets[file] != "" {
			p := strings.TrimPrefix(r[1].Str(), "/")
			p = path.Clean("/" + p)[1:] // as a host looks it up
			assert.Contains(t, []string{file, path.Dir(file), strings.TrimPrefix(path.Dir(file), ".")}, p, one.Value)
		}
	}
}
