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

func TestALinkIsWrittenAsItsAuthorWould(t *testing.T) {
	for _, c := range []struct {
		page, text string
		link       compose.Link
		want       string
	}{
		{"index.html", "<p>See |our guide|.", compose.Link{Target: "guides/sowing.html"}, `<p>See <a href="guides/sowing.html">our guide</a>.`},
		{"guides/new.html", "<p>See| our index |now", compose.Link{Target: "index.html"}, `<p>See <a href="../">our index</a> now`},
		{"guides/new.html", `<a href="/index.html">x</a><p>|y|`, compose.Link{Target: "guides/sowing.html#runner_beans"}, `<a href="/index.html">x</a><p><a href="/guides/sowing.html#runner_beans">y</a>`},
		{"index.html", `<a href="catalogue/">x</a><p>|y|`, compose.Link{Target: "catalogue/index.html"}, `<a href="catalogue/">x</a><p><a href="catalogue/">y</a>`},
		{"index.html", "<p>|y|", compose.Link{Target: "guides/R&D notes.html"}, `<p><a href="guides/R&amp;D%20notes.html">y</a>`},
		{"index.html", "<p>|", compose.Link{Target: "guides/sowing.html"}, `<p><a href="guides/sowing.html">Sowing</a>`},
		{"index.html", "<p>|x|", compose.Link{Target: "https://plots.example/?a=1&b=2", NewTab: true, Title: `The "plots"`}, `<p><a href="https://plots.example/?a=1&amp;b=2" title="The &quot;plots&quot;" target="_blank" rel="noopener">x</a>`},
		{"index.html", `<h2 id="a b">A</h2><p>|x|`, compose.Link{Target: "index.html#a b"}, `<h2 id="a b">A</h2><p><a href="#a%20b">x</a>`},
		{"index.html", `<base href="guides/"><p>|x|`, compose.Link{Target: "guides/sowing.html"}, `<base href="guides/"><p><a href="sowing.html">x</a>`},
		{"index.html", `<p>|<img src="images/packet.png">|`, compose.Link{Target: "guides/sowing.html"}, `<p><a href="guides/sowing.html"><img src="images/packet.png"></a>`},
		// In a link, that one is changed, and what else it has stays.
		{"index.html", `<a class=x href=old.html>the |guide|</a>`, compose.Link{Target: "guides/sowing.html"}, `<a class=x href=guides/sowing.html>the guide</a>`},
		{"index.html", `<a href='old.html' title='t'>the |guide</a>`, compose.Link{Text: "<guide>", NewTab: true}, `<a href='old.html' target="_blank" rel="noopener">&lt;guide&gt;</a>`},
	} {
		p, from, to := on(c.page, c.text)
		edits, err := p.Make(from, to, c.link)
		assert.Equal(t, c.want, applied(t, string(p.Text), edits, err))
	}
}

// What was not asked for stays as it is: a named frame, the tokens of rel, the words. HTML, 4.6.1 and 4.6.7.
func TestALinkIsChangedInWhatWasAskedFor(t *testing.T) {
	say := func(s string) *string { return &s }
	is := func(b bool) *bool { return &b }
	for _, c := range []struct {
		text    string
		changes compose.Changes
		want    string
	}{
		{`<a href="x.html" target="main">|w</a>`, compose.Changes{Title: say("Tip")}, `<a href="x.html" title="Tip" target="main">w</a>`},
		{`<a href="x.html" target="main">|w</a>`, compose.Changes{NewTab: is(false)}, `<a href="x.html" target="main">w</a>`},
		{`<a href="x.html" target="_BLANK" rel="external nofollow">|w</a>`, compose.Changes{NewTab: is(true)}, `<a href="x.html" target="_BLANK" rel="external nofollow">w</a>`},
		{`<a href="x.html" rel="nofollow NoReferrer">|w</a>`, compose.Changes{NewTab: is(true)}, `<a href="x.html" target="_blank" rel="nofollow NoReferrer">w</a>`},
		{`<a href="x.html" rel=external>|w</a>`, compose.Changes{NewTab: is(true)}, `<a href="x.html" target="_blank" rel="external noopener">w</a>`},
		{`<a href="x.html" target="_blank" rel="NOOPENER external">|w</a>`, compose.Changes{NewTab: is(false)}, `<a href="x.html" rel="external">w</a>`},
		{`<a href="x.html" target="_blank" rel="noopener" title="t">|w</a>`, compose.Changes{NewTab: is(false), Title: say("")}, `<a href="x.html">w</a>`},
		{`<a href="x.html" title>|w</a>`, compose.Changes{Title: say("Tip")}, `<a href="x.html" title="Tip">w</a>`},
		{`<a title='It&#39;s here' href="x.html">|w</a>`, compose.Changes{Title: say("It's here")}, `<a title='It&#39;s here' href="x.html">w</a>`},
		{`<a href="x.html">|w &amp; <b>more</b></a>`, compose.Changes{Text: "w & more"}, `<a href="x.html">w &amp; <b>more</b></a>`},
		{`<a href="x.html">|w</a>`, compose.Changes{Text: "a < b"}, `<a href="x.html">a &lt; b</a>`},
		{`<a href="guides/sowing.html" class=x>|w</a>`, compose.Changes{Target: "catalogue/index.html"}, `<a href="catalogue/" class=x>w</a>`},
	} {
		p, at, _ := on("index.html", c.text)
		edits, err := p.Change(at, c.changes)
		assert.Equal(t, c.want, applied(t, string(p.Text), edits, err))
	}
	for text, c := range map[string]struct {
		compose.Changes
		why string
	}{
		`<a href="x.html" target="main">|w</a>`:     {compose.Changes{NewTab: is(true)}, "frame or window `main`"},
		`<a href="x.html">|see <img src="i"> w</a>`: {compose.Changes{Text: "see it"}, "hold markup"},
		`<p>|no link`: {compose.Changes{Text: "see it"}, "no link here"},
	} {
		p, at, _ := on("index.html", text)
		_, err := p.Change(at, c.Changes)
		assert.ErrorContains(t, err, c.why)
	}
}

func TestWhereNoLinkCanBe(t *testing.T) {
	for text, why := range map[string]string{
		`<p cl|ass="x">y|</p>`:               "within a tag",
		`<p>x |<a href="y">z</a>|</p>`:       "a link can't stand in a link",
		`<p>|x <b>y| z</b></p>`:              "a start tag whose end it leaves out",
		`<p><b>x |y</b> z|</p>`:              "an end tag whose start it leaves out",
		`<head><title>|x|</title></head>`:    "outside of what the page shows",
		`<p><textarea>|x|</textarea>`:        "as it stands",
		`<script>let |x| = "<p>";</script>`:  "as it stands",
		`<style>|p| { color: red }</style>x`: "as it stands",
	} {
		p, from, to := on("index.html", text)
		_, err := p.Make(from, to, compose.Link{Target: "guides/sowing.html"})
		assert.ErrorContains(t, err, why, text)
	}
	p, at, _ := on("index.html", "<head>|</head><body>x</body>")
	assert.ErrorContains(t, p.Within(at), "outside of what the page shows")
	p, at, _ = on("index.html", "<p>no |link")
	_, err := p.Unlink(at)
	assert.ErrorContains(t, err, "no link here")
}

func TestWordsAreFoundWhereALinkCanBe(t *testing.T) {
	p, _, _ := on("index.html", `|<title>seed</title><body title="seed"><a href=x>seed</a> seeds <!-- seed --> Ökoseed <b>seed</b> seed`)
	from, edits := p.Words("seed", "guides/sowing.html")
	require.Positive(t, from)
	assert.Contains(t, applied(t, string(p.Text), edits, nil), `Ökoseed <b><a href="guides/sowing.html">seed</a></b> seed`)
	from, _ = p.Words("seeds and more", "guides/sowing.html")
	assert.Negative(t, from)
}

func TestALinkIsTakenAwayAndItsWordsStay(t *testing.T) {
	p, at, _ := on("index.html", `<p>a <A HREF=x>b <i>|c</i></A> d`)
	edits, err := p.Unlink(at)
	assert.Equal(t, `<p>a b <i>c</i> d`, applied(t, string(p.Text), edits, err))
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
	edits, err := p.Contents(at, 2, 3)
	want := `<h1>A</h1>
  <ul id="contents">
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
	_, err = p.Contents(0, 2, 3)
	assert.ErrorContains(t, err, "as the headings are")
	p, _, _ = on("index.html", strings.Replace(written, ">Runner<", ">Runner beans<", 1))
	edits, err = p.Contents(0, 2, 2)
	assert.NotContains(t, applied(t, string(p.Text), edits, err), `href="#runner"`, "it is renewed where it stands")
	p, _, _ = on("index.html", "<h1>A</h1><h2></h2>")
	_, err = p.Contents(0, 2, 3)
	assert.ErrorContains(t, err, "no heading of that level")
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

func TestPicturesFramesAndLists(t *testing.T) {
	p, at, _ := on("guides/new.html", "<body><p>|</p>")
	assert.Equal(t, `<body><p><img src="../images/packet.png" alt="A &quot;packet&quot;" width="4" height="3"></p>`, applied(t, string(p.Text), p.Picture(at, "images/packet.png", `A "packet"`, 4, 3), nil))
	assert.Equal(t, `<body><p><img src="../images/packet.png" alt=""></p>`, applied(t, string(p.Text), p.Picture(at, "images/packet.png", "", 0, 0), nil))
	assert.Equal(t, `<body><p><iframe src="sowing.html" title="How to sow"></iframe></p>`, applied(t, string(p.Text), p.Frame(at, "guides/sowing.html", "How to sow"), nil))
	p, at, _ = on("index.html", "<body>\n|\n</body>")
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
		for _, o := range p.Complete(typed) {
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
	for p, wrong := range map[string]string{
		"peas": "", "notes/peas.htm": "", "index.html": "there already", "Index.html": "other letter case", "": "needs a name", "a b.html": "space",
	} {
		name, got := compose.NameFor(s, p)
		if wrong == "" {
			assert.Empty(t, got, p)
		} else {
			assert.Contains(t, got, wrong, p)
		}
		assert.False(t, p == "peas" && name != "peas.html")
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
		edits, err := p.Make(from, to, compose.Link{Target: target})
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
