package compose_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/markup"
	"arvel/core/site"
)

// library returns a folder of pages, by their paths.
func library(pages map[string]string) *site.Snapshot {
	var files []site.File
	for p, src := range pages {
		f := site.File{Path: p, Kind: site.KindOf(p), Hash: change.HashOf([]byte(src))}
		if site.IsRead(p) {
			f.Doc = site.Scan(markup.NewScanner(), p, []byte(src))
		}
		files = append(files, f)
	}
	return site.Build(files, site.Options{Place: address.Place{Mount: "/"}, IndexNames: []string{"index.html"}})
}

var seeds = map[string]string{
	"index.html":             `<title>Seed library</title><h1>Seed library</h1><a href="guides/sowing.html">Sowing</a>`,
	"guides/sowing.html":     `<title>Sowing</title><h2 id="runner_beans">Runner beans</h2><h2>Peas</h2><a href="mailto:seeds@library.example">Write</a>`,
	"guides/R&D notes.html":  `<title>Trials</title>`,
	"images/packet.png":      "",
	"catalogue/index.html":   `<title>Catalogue</title><a href="../">Home</a>`,
	"catalogue/über-uns.htm": `<title>About us</title>`,
}

// applied returns the text with what is written in it.
func applied(t require.TestingT, text string, edits []change.Edit, err error) string {
	require.NoError(t, err)
	sorted, err := change.Sorted(edits, len(text))
	require.NoError(t, err)
	out, err := change.Apply([]byte(text), sorted)
	require.NoError(t, err)
	return string(out)
}

// on opens a text as a page, whose caret or selection is between bars.
func on(p, text string) (page *compose.Page, from, to int) {
	from = strings.Index(text, "|")
	text = strings.Replace(text, "|", "", 1)
	to = from
	if second := strings.Index(text, "|"); second >= 0 {
		to, text = second, strings.Replace(text, "|", "", 1)
	}
	return compose.Open(library(seeds), p, []byte(text)), from, to
}

func TestWhereNoLinkCanBe(t *testing.T) {
	for text, why := range map[string]string{
		`<p cl|ass="x">y|</p>`:               "inside `<p …>`",
		`<p>x |<a href="y">z</a>|</p>`:       "A link can't be in a link",
		`<p><a href="y">|z|</a></p>`:         "A link can't be in a link",
		`<p>|x <b>y| z</b></p>`:              "a start tag without its end tag",
		`<p><b>x |y</b> z|</p>`:              "`</b>` without its start tag",
		`<head><title>|x|</title></head>`:    "Visitors see nothing of this",
		`<p><textarea>|x|</textarea>`:        "a browser looks for no links",
		`<script>let |x| = "<p>";</script>`:  "a browser looks for no links",
		`<style>|p| { color: red }</style>x`: "a browser looks for no links",
	} {
		p, from, to := on("index.html", text)
		_, err := p.Enclose(from, to, "a", href("guides/sowing.html"), nil)
		assert.ErrorContains(t, err, why, text)
	}
	p, at, _ := on("index.html", "<head>|</head><body>x</body>")
	assert.ErrorContains(t, p.Within(at), "Visitors see nothing of this")
}

func TestWordsAreFoundWhereALinkCanBe(t *testing.T) {
	p, _, _ := on("index.html", `|<title>seed</title><body title="seed"><a href=x>seed</a> seeds <!-- seed --> Ökoseed <b>seed</b> seed`)
	from, edits := p.Words("seed", "guides/sowing.html", compose.Attributes{{Name: "title", Value: "Tip"}})
	require.Positive(t, from)
	assert.Contains(t, applied(t, string(p.Text), edits, nil), `Ökoseed <b><a href="guides/sowing.html" title="Tip">seed</a></b> seed`)
	from, _ = p.Words("seeds and more", "guides/sowing.html", nil)
	assert.Negative(t, from)
}

func TestALinkIsTakenAwayAndItsWordsStay(t *testing.T) {
	p, at, _ := on("index.html", `<p>a <A HREF=x>b <i>|c</i></A> d`)
	e, ok := p.ElementAt(at, at)
	require.True(t, ok)
	assert.Equal(t, `<p>a b <i>c</i> d`, applied(t, string(p.Text), p.Unlink(&e), nil))
}

func TestIDsAreMadeByTheHabitOfTheFolder(t *testing.T) {
	for text, want := range map[string]string{
		"<h2>|Ruth's dry beans</h2>":                     `<h2 id="ruths_dry_beans">Ruth's dry beans</h2>`,
		"<meta charset=shift_jis><h2>|種と豆</h2>":          `<meta charset=shift_jis><h2 id="種と豆">種と豆</h2>`,
		`<h2 id="a-b">A</h2><h2>|A b</h2>`:               `<h2 id="a-b">A</h2><h2 id="a-b-2">A b</h2>`,
		"<h2>|</h2>":                                     `<h2 id="part"></h2>`,
		"<p class=x>|Über uns und alle, die da sind</p>": `<p id="über_uns_und_alle_die_da" class=x>Über uns und alle, die da sind</p>`,
	} {
		p, at, _ := on("index.html", text)
		_, edits, err := p.GiveID(at, "")
		assert.Equal(t, want, applied(t, string(p.Text), edits, err))
	}
	p, at, _ := on("index.html", `<h2 id=x>|A</h2>`)
	id, edits, err := p.GiveID(at, "other")
	require.NoError(t, err)
	assert.Equal(t, "x", id, "what has an id keeps it")
	assert.Empty(t, edits)
}

func TestContentsAreWrittenAndRenewed(t *testing.T) {
	text := "<h1>A</h1>\n  |\n<h2>Beans</h2>\n<h3>Runner</h3>\n<h2 id=p>Peas &amp; co</h2>\n<h2></h2>\n"
	p, at, _ := on("index.html", text)
	edits, err := p.Contents(at, compose.ContentsList{From: 2, To: 3, Renewed: true})
	want := `<h1>A</h1>
  <ul id="toc" data-contents="h2 h3">
    <li><a href="#beans">Beans</a>
      <ul>
        <li><a href="#runner">Runner</a></li>
      </ul>
    </li>
    <li><a href="#p">Peas &amp; co</a></li>
  </ul>
<h2 id="beans">Beans</h2>
<h3 id="runner">Runner</h3>
<h2 id=p>Peas &amp; co</h2>
<h2></h2>
`
	written := applied(t, string(p.Text), edits, err)
	assert.Equal(t, want, written)

	p, _, _ = on("index.html", written)
	assert.Empty(t, p.Renewed(), "it is as the headings are")
	p, _, _ = on("index.html", strings.Replace(written, `<h3 id="runner">Runner<`, `<h3 id="runner">Runner beans<`, 1))
	assert.Contains(t, applied(t, string(p.Text), p.Renewed(), nil), `<a href="#runner">Runner beans</a>`)
	found, ok := p.FindContents()
	assert.True(t, ok && found.Renewed && found.From == 2 && found.To == 3)
	edits, err = p.Contents(0, compose.ContentsList{From: 2, To: 2})
	renewed := applied(t, string(p.Text), edits, err)
	assert.NotContains(t, renewed, `href="#runner"`, "it is renewed where it is")
	assert.Contains(t, renewed, `<ul id="toc">`, "which is set")
	p, _, _ = on("index.html", renewed)
	assert.Empty(t, p.Renewed(), "one without the mark is its author's")
	p, _, _ = on("index.html", "<ul data-contents=\"all of it\">\n</ul><h2>Beans</h2>")
	assert.Empty(t, p.Renewed(), "a mark that says something else is another one")
	p, _, _ = on("index.html", "<ol id=\"contents\" class=x>\n</ol><h2>Beans</h2>")
	edits, err = p.Contents(0, compose.ContentsList{From: 2, To: 3})
	assert.Equal(t, "<ol id=\"contents\" class=\"x\">\n  <li><a href=\"#beans\">Beans</a></li>\n</ol><h2 id=\"beans\">Beans</h2>", applied(t, string(p.Text), edits, err))
	p, _, _ = on("index.html", "<h1>A</h1><h2></h2>")
	_, err = p.Contents(0, compose.ContentsList{From: 2, To: 3})
	assert.ErrorContains(t, err, "No heading of these levels")
}

func TestWaysBackToTheTop(t *testing.T) {
	p, _, _ := on("index.html", "<body>\n<h2>A</h2>\n<p>a\n<h2>B</h2>\n<p>b\n</body>")
	edits, err := p.BackToTop("Up")
	written := applied(t, string(p.Text), edits, err)
	assert.Equal(t, "<body>\n<h2>A</h2>\n<p>a\n<p><a href=\"#top\">Up</a></p>\n<h2>B</h2>\n<p>b\n<p><a href=\"#top\">Up</a></p>\n</body>", written)
	p, _, _ = on("index.html", written)
	_, err = p.BackToTop("Up")
	assert.ErrorContains(t, err, "already")
}

func TestListsOfLinks(t *testing.T) {
	p, at, _ := on("index.html", "<body>\n|\n</body>")
	assert.Equal(t, "<body>\n<ul>\n  <li><a href=\"guides/sowing.html\">Sowing</a></li>\n  <li><a href=\"catalogue/\">Catalogue</a></li>\n</ul>\n</body>",
		applied(t, string(p.Text), p.List(at, []string{"guides/sowing.html", "catalogue/index.html"}), nil), "index pages by their folder, as the folder does")
}

func TestOffersWhileAnAddressIsTyped(t *testing.T) {
	p, _, _ := on("guides/new.html", `<h2 id="here">Here</h2>|`)
	for typed, want := range map[string][]string{
		"":                       {"../", "R&D%20notes.html", "sowing.html"},
		"../cat":                 {"../catalogue/"},
		"../catalogue/":          {"../catalogue/index.html", "../catalogue/über-uns.htm"},
		"so":                     {"sowing.html"},
		"catalogue":              {"../catalogue/", "../catalogue/über-uns.htm"},
		"sowing.html#":           {"sowing.html#runner_beans"},
		"#h":                     {"#here"},
		"mailto:se":              {"mailto:seeds@library.example"},
		"https://plots.example/": nil,
		"nowhere/":               nil,
		"nowhere.html#":          nil,
	} {
		var got []string
		for _, o := range p.Complete(typed, "a") {
			got = append(got, o.Written)
		}
		if typed == "../catalogue/" || typed == "" {
			assert.ElementsMatch(t, want, got, typed)
			continue
		}
		assert.Equal(t, want, got, typed)
	}
}

func TestWhatIsMeantIsFound(t *testing.T) {
	p, _, _ := on("index.html", "<h2>Not saved yet</h2>|")
	for words, want := range map[string]string{
		"peas":                   "guides/sowing.html#",
		"trials":                 "guides/R&D notes.html",
		"packet.png":             "images/packet.png",
		"not saved":              "index.html#",
		"seeds@library.example":  "mailto:seeds@library.example",
		"plots.example/allot":    "https://plots.example/allot",
		"https://plots.example/": "https://plots.example/",
	} {
		offers := p.Search(words, 5)
		require.NotEmpty(t, offers, words)
		assert.Equal(t, want, offers[0].Target, words)
	}
	assert.Empty(t, p.Search("nothing has these words", 5))
}

func TestANewPageKeepsHeadMenuAndFoot(t *testing.T) {
	src := `<!DOCTYPE html>
<title>Sowing</title>
<link rel=stylesheet href="../css/club.css">
<p class="menu"><a href="../index.html">Home</a> <a href="sowing.html">Guides</a> <a href='#top'>Top</a></p>
<h1>Sowing</h1>
<p><a href="pests.html">Pests</a></p>
<p class="foot"><a href="../index.html?a&amp;b">Back</a></p>
`
	n := compose.New{Title: "Peas & co", Back: "guides/sowing.html"}
	out, err := n.After(library(seeds), "guides/sowing.html", "notes/2026/peas.html", []byte(src))
	require.NoError(t, err)
	assert.Equal(t, `<!DOCTYPE html>
<title>Peas &amp; co</title>
<link rel=stylesheet href="../../css/club.css">
<p class="menu"><a href="../../index.html">Home</a> <a href="../../guides/sowing.html">Guides</a> <a href='#top'>Top</a></p>
<h1>Peas &amp; co</h1>
<p><a href="../../guides/sowing.html">Sowing</a></p>
<p class="foot"><a href="../../index.html?a&amp;b">Back</a></p>
`, string(out))
}

// A menu comes along wherever it is, the entry of the page itself is marked as the pattern's was, and the way back is behind it.
func TestTheMenuOfANewPageComesAlong(t *testing.T) {
	for name, c := range map[string][2]string{
		"behind the heading": {
			"<title>Sowing</title><h1>Sowing</h1>\n<nav><a href=\"../index.html\">Home</a> <b>Sowing</b></nav>\n<p>Now</p>\n",
			"<title>Peas</title><h1>Peas</h1>\n<nav><a href=\"../index.html\">Home</a> <b>Sowing</b></nav>\n<p><a href=\"sowing.html\">Sowing</a></p>\n",
		},
		"that is none by its name": {
			"<h1>Sowing</h1>\n<p><a href=\"../index.html\">Home</a> | <a href=\"sowing.html\">Sow</a> | <a href=\"../catalogue/\">List</a></p>\n<p>Now</p>\n",
			"<h1>Peas</h1>\n<p><a href=\"../index.html\">Home</a> | <a href=\"sowing.html\">Sow</a> | <a href=\"../catalogue/\">List</a></p>\n<p><a href=\"sowing.html\">Sowing</a></p>\n",
		},
		"with the page marked": {
			"<ul class=menu><li><a href=\"../index.html\">Home</a></li><li><a href=\"sowing.html\" aria-current=\"page\">Sow</a></li></ul>\n<h1>Sowing</h1>\n<p>Now</p>\n",
			"<ul class=menu><li><a href=\"../index.html\">Home</a></li><li><a href=\"sowing.html\">Sow</a></li></ul>\n<h1>Peas</h1>\n<p><a href=\"sowing.html\">Sowing</a></p>\n",
		},
	} {
		n := compose.New{Title: "Peas", Back: "guides/sowing.html"}
		out, err := n.After(library(seeds), "guides/sowing.html", "guides/peas.html", []byte(c[0]))
		require.NoError(t, err)
		assert.Equal(t, c[1], string(out), name)
	}
}

func TestPastedTextIsKnownAndItsPathsAreOfferedAsTheyMustBeHere(t *testing.T) {
	p, _, _ := on("notes/2026/leeks.html", "<body>|")
	text := `<p><a href="guides/sowing.html">Sowing</a> <a href="#top">Top</a> <a href="https://plots.example/">Plots</a></p>`
	from, edits := p.Pasted(text)
	assert.Equal(t, "index.html", from)
	assert.Equal(t, strings.Replace(text, "guides/", "../../guides/", 1), applied(t, text, edits, nil))
	_, edits = p.Pasted(`<a href="../../guides/sowing.html">lands already</a>`)
	assert.Empty(t, edits)
	_, edits = p.Pasted(`<a href="guides/nowhere.html">is on no page</a>`)
	assert.Empty(t, edits)
}

func TestNamesOfNewPages(t *testing.T) {
	s := library(seeds)
	for p, c := range map[string]struct {
		path, better string
		refused      bool
		faults       []string
	}{
		"peas":                {path: "peas.html"},
		"notes/peas.htm":      {path: "notes/peas.htm"},
		"/notes/peas":         {path: "notes/peas.html"},
		"index.html":          {"index.html", "index-2.html", true, []string{"exists already"}},
		"Index.html":          {"Index.html", "index-2.html", true, []string{"has capital letters", "exists already in other letter case"}},
		"":                    {refused: true, faults: []string{"needs a name"}},
		"notes/":              {path: "notes/", refused: true, faults: []string{"needs a name"}},
		"Über 2 Beans&.html":  {"Über 2 Beans&.html", "uber-2-beans-and.html", false, []string{"letters other than a to z", "a space", "capital letters", "`&`"}},
		"2027.html":           {"2027.html", "page-2027.html", false, []string{"begins with a digit"}},
		"New Notes/peas.html": {"New Notes/peas.html", "new-notes/peas.html", false, []string{"is in a folder that has capital letters", "is in a folder that has a space in it"}},
		"../peas.html":        {"../peas.html", "peas.html", true, []string{"is outside of the folder"}},
		"about.html.txt":      {"about.html.txt", "about.html", true, []string{"ends in `.txt`, which hides that it is a page"}},
		"about.html.html":     {"about.html.html", "about.html", true, []string{"ends in `.html`, which hides"}},
		"about.php":           {"about.php", "about.php.html", true, []string{"doesn't end in `.html`"}},
	} {
		n := compose.NameFor(s, p, "", "index.html")
		assert.Equal(t, c.path, n.Path, p)
		assert.Equal(t, c.refused, n.Refused, p)
		assert.Equal(t, c.better, n.Better, p)
		assert.Len(t, n.Faults, len(c.faults), "%s: %v", p, n.Faults)
		for _, f := range c.faults {
			assert.Contains(t, strings.Join(n.Faults, ", "), f, p)
		}
	}
	for title, want := range map[string]string{"When to sow?": "guides/when-to-sow.html", "Sowing": "guides/sowing-2.html", "2027": "guides/page-2027.html", "Fish & chips. And/or": "guides/fish-and-chips-and-or.html"} {
		n := compose.NameFor(s, "", title, "guides/sowing.html")
		assert.Equal(t, want, n.Path, title)
		assert.Empty(t, n.Faults, title)
	}
}

// For any page, selection and target: what is written resolves to the target, the other bytes are the same, and a link
// never goes into a link.
func TestWhatIsWrittenLandsOnItsTarget(t *testing.T) {
	s := library(seeds)
	targets := []string{"index.html", "guides/sowing.html", "guides/sowing.html#runner_beans", "guides/R&D notes.html", "catalogue/index.html", "catalogue/über-uns.htm", "images/packet.png"}
	pieces := []string{"<p>", "</p>", "words ", "<b>", "</b>", `<a href="x">`, "</a>", "<br>", "<!-- <a> -->", "&amp;", "ü", `<img alt=">">`, "\n", "<a name=y>", "<", `<base href="catalogue/">`, `<a href="/">`}
	rapid.Check(t, func(t *rapid.T) {
		page := rapid.SampledFrom([]string{"index.html", "guides/new.html", "a/b/c.html"}).Draw(t, "page")
		text := strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 14).Draw(t, "pieces"), "")
		from := rapid.IntRange(0, len(text)).Draw(t, "from")
		to := rapid.IntRange(from, len(text)).Draw(t, "to")
		target := rapid.SampledFrom(targets).Draw(t, "target")
		p := compose.Open(s, page, []byte(text))
		edits, err := p.Enclose(from, to, "a", href(p.AddressOf(target)), nil)
		if err != nil {
			var place *compose.PlaceError
			require.ErrorAs(t, err, &place)
			return
		}
		after := applied(t, text, edits, err)
		require.Equal(t, len(text), len(after)-grown(edits))
		doc := site.Scan(markup.NewScanner(), page, []byte(after))
		r := address.NewResolver(s.Place)
		r.At(page, doc.Base, doc.HasBase)
		file, _, _ := strings.Cut(target, "#")
		for i := range doc.References {
			landed := r.Resolve(doc.References[i].Value())
			l := s.Land(&landed)
			if l.File >= 0 && s.Files[l.File].Path == file {
				return
			}
		}
		require.Fail(t, "it does not land", "%q on %s: %q", target, page, after)
	})
}

func href(value string) compose.Attributes { return compose.Attributes{{Name: "href", Value: value}} }

func grown(edits []change.Edit) (n int) {
	for _, e := range edits {
		n += len(e.New) - (e.End - e.Start)
	}
	return n
}

func ExamplePage_AddressOf() {
	p := compose.Open(library(seeds), "guides/new.html", nil)
	fmt.Println(p.AddressOf("catalogue/über-uns.htm"))
	// Output: ../catalogue/über-uns.htm
}
