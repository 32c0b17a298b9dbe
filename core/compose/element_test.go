package compose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/compose"
	"arvel/core/markup"
	"arvel/core/site"
)

func TestALinkIsWrittenAroundWhatIsSelected(t *testing.T) {
	say := func(s string) *string { return &s }
	for _, c := range []struct {
		page, text string
		as         compose.Attributes
		words      *string
		want       string
	}{
		{"index.html", "<p>See |our guide|.", href("guides/sowing.html"), nil, `<p>See <a href="guides/sowing.html">our guide</a>.`},
		{"guides/new.html", "<p>See| our index |now", href("../"), nil, `<p>See <a href="../">our index</a> now`},
		{"index.html", "<p>|", href("guides/sowing.html"), say("Sowing & more"), `<p><a href="guides/sowing.html">Sowing &amp; more</a>`},
		{"index.html", "<p>|old words|", href("x"), say("new words"), `<p><a href="x">new words</a>`},
		{"index.html", "<p>|old\n words|", href("x"), say("old words"), "<p><a href=\"x\">old\n words</a>"},
		{"index.html", `<p>|<img src="images/packet.png">|`, href("guides/sowing.html"), nil, `<p><a href="guides/sowing.html"><img src="images/packet.png"></a>`},
		{"index.html", "<p>|x|", href(`a b"c&d`).With("title", `The "plots"`), nil, `<p><a href="a b&quot;c&amp;d" title="The &quot;plots&quot;">x</a>`},
	} {
		p, from, to := on(c.page, c.text)
		edits, err := p.Enclose(from, to, "a", c.as, c.words)
		assert.Equal(t, c.want, applied(t, string(p.Text), edits, err))
	}
	p, at, _ := on("index.html", `<p><a href="x">|</a>`)
	edits, err := p.Enclose(at, at, "img", compose.Attributes{{Name: "src", Value: "images/packet.png"}, {Name: "alt", Value: ""}}, nil)
	assert.Equal(t, `<p><a href="x"><img src="images/packet.png" alt=""></a>`, applied(t, string(p.Text), edits, err))
}

// What was not changed stays as it is written: quotes, letter case, character references, the order, what stands among the
// words. HTML, 4.6.1 and 4.6.7.
func TestATagIsChangedInWhatWasChanged(t *testing.T) {
	same := func(as compose.Attributes) compose.Attributes { return as }
	with := func(pairs ...string) func(compose.Attributes) compose.Attributes {
		return func(as compose.Attributes) compose.Attributes {
			for i := 0; i < len(pairs); i += 2 {
				as = as.With(pairs[i], pairs[i+1])
			}
			return as
		}
	}
	without := func(name string) func(compose.Attributes) compose.Attributes {
		return func(as compose.Attributes) compose.Attributes { return as.Without(name) }
	}
	for _, c := range []struct {
		text   string
		change func(compose.Attributes) compose.Attributes
		words  string
		want   string
	}{
		{`<A HREF='a&amp;b' Class=x>|w</A>`, same, "", `<A HREF='a&amp;b' Class=x>w</A>`},
		{`<a href="x.html" target="main">|w</a>`, with("title", "Tip"), "", `<a href="x.html" target="main" title="Tip">w</a>`},
		{`<a href=x.html target=main>|w</a>`, with("href", "y z/"), "", `<a href="y z/" target=main>w</a>`},
		{`<a href=x.html>|w</a>`, with("href", "y.html"), "", `<a href=y.html>w</a>`},
		{`<a href=x.html>|w</a>`, with("href", "y/"), "", `<a href="y/">w</a>`},
		{`<a href='x.html' title='t'>|w</a>`, with("title", "It's"), "", `<a href='x.html' title='It&#39;s'>w</a>`},
		{`<a href="x.html" title>|w</a>`, with("title", "Tip"), "", `<a href="x.html" title="Tip">w</a>`},
		{`<a href="x.html" download title="t" hreflang=en>|w</a>`, without("title"), "", `<a href="x.html" download hreflang=en>w</a>`},
		{`<a href="x.html" target="_BLANK" rel="external nofollow">|w</a>`, with("target", "_BLANK"), "", `<a href="x.html" target="_BLANK" rel="external nofollow">w</a>`},
		{`<a href="x.html" rel="nofollow NoReferrer">|w</a>`, with("target", "_blank"), "", `<a href="x.html" rel="nofollow NoReferrer" target="_blank">w</a>`},
		{`<a href="x.html" rel=external>|w</a>`, with("target", "_blank"), "", `<a href="x.html" rel="external noopener" target="_blank">w</a>`},
		{`<a href="x.html" target="_blank" rel="NOOPENER external">|w</a>`, without("target"), "", `<a href="x.html" rel="external">w</a>`},
		{`<a href="x.html" target="_blank" rel="noopener" title="t">|w</a>`, without("target"), "", `<a href="x.html" title="t">w</a>`},
		{`<a href="x.html">|w &amp; <b>more</b></a>`, same, "w & more", `<a href="x.html">w &amp; <b>more</b></a>`},
		{`<a href="x.html">|w</a>`, same, "a < b", `<a href="x.html">a &lt; b</a>`},
		{`<a href=x>|w <p>`, with("href", "y"), "", `<a href=y>w <p>`},
		{`<img src="p.png"| alt="A pod">`, with("alt", ""), "", `<img src="p.png" alt="">`},
		{`<img |src="p.png" />`, with("alt", "A pod"), "", `<img src="p.png" alt="A pod" />`},
		{`<h2 |class="x">Beans</h2>`, with("id", "beans"), "", `<h2 id="beans" class="x">Beans</h2>`},
		{`<iframe src=|a.html></iframe>`, with("title", "The dates"), "", `<iframe src=a.html title="The dates"></iframe>`},
	} {
		p, at, _ := on("index.html", c.text)
		e, ok := p.ElementAt(at, at)
		require.True(t, ok, c.text)
		var words *string
		if c.words != "" {
			words = &c.words
		}
		edits, err := p.Rewrite(&e, c.change(e.Attributes).WithOpener(e.Attributes), words)
		assert.Equal(t, c.want, applied(t, string(p.Text), edits, err))
	}
	p, at, _ := on("index.html", `<a href="x.html">|see <img src="i"> w</a>`)
	e, _ := p.ElementAt(at, at)
	words := "see it"
	_, err := p.Rewrite(&e, e.Attributes, &words)
	assert.ErrorContains(t, err, "hold `<img src=\"i\">`")
}

func TestTheElementThatIsMeant(t *testing.T) {
	for text, want := range map[string]string{
		`<p><a href="x">|w</a>`: "a w", `<p><a hr|ef="x">w</a>`: "a w", `<p><a href="x">w</|a>`: "a w", `<p><a href="x">w</a>|`: "", `|<a href="x">w</a>`: "",
		`<a href="x">a <i|mg src="y"> b</a>`: "img ", `<a href="x">|<img src="y">|</a>`: "img ", `<h2>|Peas</h2>`: "", `<h2| id=x>Peas</h2>`: "h2 Peas",
		`<a href="x">one</a> | two`: "",
	} {
		p, from, to := on("index.html", text)
		e, ok := p.ElementAt(from, to)
		got := ""
		if ok {
			got = e.Name + " " + e.Words
		}
		assert.Equal(t, want, got, text)
	}
}

func TestWhatCanBeWrittenDependsOnThePlace(t *testing.T) {
	for text, want := range map[string][]string{
		`<p>|two words|</p>`:                                   {"link", "e-mail", "id", "page"},
		`<p>|</p>`:                                             {"link", "e-mail", "picture", "frame", "id", "page"},
		"<body>\n|\n</body>":                                   {"link", "e-mail", "picture", "frame", "list", "page"},
		"<body><h1>A</h1><h2>B</h2>|\n</body>":                 {"link", "e-mail", "picture", "frame", "list", "contents", "top", "page"},
		`<p><a href="x">wo|rds</a></p>`:                        {"tag", "unlink", "picture", "frame", "id", "page"},
		`<p><a href="x"><im|g src="y"></a></p>`:                {"tag", "tag", "unlink", "page"},
		`<p><i|mg src="y"></p>`:                                {"tag", "link", "e-mail", "page"},
		`<p>|<a href="x">a</a> <a href="y">b</a>|</p>`:         {"tags", "id", "menu", "page"},
		`<p>write to |seeds@library.example| now`:              {"e-mail", "link", "id", "page"},
		`<p>write to seeds@lib|rary.example, now`:              {"e-mail", "link", "id", "page"},
		`<head><title>|x|</title></head>`:                      {"page"},
		`<ul><li><a href="x">a</a>|<li><a href="y">b</a></ul>`: {"link", "e-mail", "picture", "frame", "list", "id", "menu", "page"},
	} {
		p, from, to := on("index.html", text)
		var got []string
		for _, c := range p.Choices(from, to) {
			got = append(got, c.What)
		}
		assert.Equal(t, want, got, text)
	}
}

// For any text of tags and any change of a tag: what was not changed reads the same, and so does every other tag.
func TestRewritingATagLeavesTheOthers(t *testing.T) {
	names := []string{"href", "title", "target", "class", "data-x", "rel"}
	values := []string{"", "x", "a b", `"`, "'", "&amp;", "<", "ü", "a=b", "x/"}
	rapid.Check(t, func(t *rapid.T) {
		text := "<p>"
		for range rapid.IntRange(1, 4).Draw(t, "attributes") {
			quote := rapid.SampledFrom([]string{`"`, "'"}).Draw(t, "quote")
			text += " "
			if text == "<p> " {
				text = "<p><a "
			}
			value := rapid.SampledFrom([]string{"x", "a b", "&lt;", ""}).Draw(t, "value")
			text += rapid.SampledFrom(names).Draw(t, "name") + "=" + quote + value + quote
		}
		text += ">w</a><a title=t href=h>v</a>"
		p := compose.Open(library(seeds), "index.html", []byte(text))
		e, ok := p.ElementAt(4, 4)
		require.True(t, ok)
		as := e.Attributes
		name := rapid.SampledFrom(names).Draw(t, "changed")
		value := rapid.SampledFrom(values).Draw(t, "to")
		if rapid.Bool().Draw(t, "away") {
			as = as.Without(name)
		} else {
			as = as.With(name, value)
		}
		edits, err := p.Rewrite(&e, as, nil)
		after := compose.Open(library(seeds), "index.html", []byte(applied(t, text, edits, err)))
		fresh, ok := after.ElementAt(4, 4)
		require.True(t, ok)
		require.ElementsMatch(t, as, fresh.Attributes, string(after.Text))
		require.Equal(t, "w", fresh.Words)
		tags := markup.Tags(after.Text)
		require.Equal(t, "<a title=t href=h>", string(after.Text[tags[3].Start:tags[3].End]))
		require.Len(t, site.Scan(markup.NewTextScanner(), "index.html", after.Text).Faults, len(p.Doc.Faults))
	})
}
