package compose_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/compose"
	"arvel/core/site"
	_ "arvel/test/seed" // rapid takes it
)

// bring brings the innermost block at the bar on one page to another one and returns that one's text.
func bring(t require.TestingT, page, text, to, theirs string) (string, compose.SyncedBlock) {
	p, at, _ := on(page, text)
	blocks := p.Blocks(at)
	require.NotEmpty(t, blocks)
	other := compose.Open(p.Snapshot, to, []byte(theirs))
	b, err := p.SyncBlock(blocks[0], other)
	require.NoError(t, err)
	return applied(t, theirs, b.Edits, nil), b
}

func TestAMenuIsBroughtToOtherPages(t *testing.T) {
	for name, c := range map[string]struct{ page, text, to, theirs, want string }{
		"in place of the only nav, with each path made right": {
			"index.html", "<body>\n  <nav>|\n    <a href=\"index.html\">Home</a>\n    <a href=\"guides/sowing.html#peas\">Sowing</a> <img src=images/packet.png>\n  </nav>",
			"guides/sowing.html", "<body>\n    <nav class=old><a href=x>x</a><a href=y>y</a></nav>\n<h1>S</h1>",
			"<body>\n    <nav>\n      <a href=\"../index.html\">Home</a>\n      <a href=\"sowing.html#peas\">Sowing</a> <img src=../images/packet.png>\n    </nav>\n<h1>S</h1>",
		},
		"by its id among others": {
			"index.html", `<ul id=m><li>|<a href=index.html>H</a><li><a href=catalogue/>C</a></ul>`,
			"guides/sowing.html", `<ul><li><a href=a>a</a><a href=b>b</a></ul><ul id=m></ul>`,
			`<ul><li><a href=a>a</a><a href=b>b</a></ul><ul id=m><li><a href=../index.html>H</a><li><a href=../catalogue/>C</a></ul>`,
		},
		"by where its links lead": {
			"index.html", `<p>|<a href="./">H</a> <a href="catalogue/">C</a> <a href="guides/sowing.html">S</a></p>`,
			"guides/sowing.html", `<p>Sow <a href="x">x</a></p><p><a href="../">H</a> <a href="../catalogue/">Catalogue</a></p>`,
			`<p>Sow <a href="x">x</a></p><p><a href="../">H</a> <a href="../catalogue/">C</a> <a href="sowing.html">S</a></p>`,
		},
		"where there is none, before what is shown": {
			"index.html", "<body>\n<nav>|<a href=index.html>H</a><a href=catalogue/>C</a></nav>\n<h1>x</h1>",
			"guides/sowing.html", "<body class=x>\n  <h1>S</h1>\n</body>",
			"<body class=x>\n  <nav><a href=../index.html>H</a><a href=../catalogue/>C</a></nav>\n  <h1>S</h1>\n</body>",
		},
		"or at its end, as on the page": {
			"index.html", "<body>\n<h1>x</h1>\n<p>|<a href=index.html>H</a><a href=catalogue/>C</a></p>",
			"guides/sowing.html", "<body>\n<h1>S</h1>\n<footer>f</footer>",
			"<body>\n<h1>S</h1>\n<p><a href=../index.html>H</a><a href=../catalogue/>C</a></p>\n<footer>f</footer>",
		},
		"with the mark on the entry of the page": {
			"index.html", `<nav>|<a href="index.html" class="here" aria-current="page">H</a> <a href="guides/sowing.html">S</a></nav>`,
			"guides/sowing.html", `<nav><a></a></nav>`,
			`<nav><a href="../index.html">H</a> <a href="sowing.html" class="here" aria-current="page">S</a></nav>`,
		},
		"or on the item around it": {
			"index.html", `<ul id=m>|<li class=on><a href="./" class=e>H</a></li><li><a href="guides/sowing.html" class=e>S</a></li></ul>`,
			"guides/sowing.html", `<ul id=m></ul>`,
			`<ul id=m><li><a href="../" class=e>H</a></li><li class=on><a href="sowing.html" class=e>S</a></li></ul>`,
		},
		"or on what is no link": {
			"index.html", `<ul id=m>|<li><strong>Home</strong></li><li><a href="guides/sowing.html">S</a></li><li><a href="catalogue/">C</a></li></ul>`,
			"guides/sowing.html", `<ul id=m></ul>`,
			`<ul id=m><li><a href="../">Home</a></li><li><strong>S</strong></li><li><a href="../catalogue/">C</a></li></ul>`,
		},
		"with fragments of the page itself": {
			"index.html", `<nav>|<a href="#seeds">Seeds</a><a href="#top">Top</a><a href="#here">Here</a><a href="">Home</a></nav>`,
			"guides/sowing.html", `<nav></nav><p id=here>`,
			`<nav><a href="../#seeds">Seeds</a><a href="#top">Top</a><a href="#here">Here</a><a href="../">Home</a></nav><p id=here>`,
		},
		"with the base of either": {
			"index.html", `<base href="catalogue/"><nav>|<a href="../index.html">H</a><a href="über-uns.htm">U</a></nav>`,
			"guides/sowing.html", `<base href="../images/"><nav></nav>`,
			`<base href="../images/"><nav><a href="../index.html">H</a><a href="../catalogue/über-uns.htm">U</a></nav>`,
		},
	} {
		got, _ := bring(t, c.page, c.text, c.to, c.theirs)
		assert.Equal(t, c.want, got, name)
		again, b := bring(t, c.page, c.text, c.to, got)
		assert.Equal(t, got, again, "%s: brought once more, nothing changes", name)
		assert.True(t, b.Replaces, name)
	}
}

func TestBlocksAroundAPlace(t *testing.T) {
	p, at, _ := on("index.html", `<header class="top"><nav><ul id=m><li><a href=a>|a</a><li><a href=b>b</a></ul></nav></header><div><a href=c>c</a>`)
	var names []string
	for _, b := range p.Blocks(at) {
		names = append(names, b.Name)
	}
	assert.Equal(t, []string{`<ul id="m">`, "<nav>", `<header class="top">`}, names)
	all, likely := p.Menu(at)
	assert.Equal(t, "<nav>", all[likely].Name)
	all, _ = p.Menu(len(p.Text))
	assert.Equal(t, "<nav>", all[0].Name, "the page's first nav, where nothing is around the place")
	p, at, _ = on("index.html", `<p>no links|`)
	all, _ = p.Menu(at)
	assert.Empty(t, all)

	_, b := bring(t, "index.html", `<ul id=m>|<li id=x><a href=a>a</a><li><a href=b>b</a></ul>`, "guides/sowing.html", `<ul id=m></ul><p id=x>`)
	assert.Equal(t, []string{"has the id `x` in another place, so it will have it twice"}, b.Notes)
	assert.Equal(t, 1, b.Line)
}

// What a block's links land on, they land on from every page that it is brought to.
func TestLinksOfABroughtBlockLandOnTheSame(t *testing.T) {
	paths := []string{"index.html", "guides/sowing.html", "guides/R&D notes.html", "catalogue/index.html", "catalogue/über-uns.htm", "deep/er/still.html"}
	pages := map[string]string{"images/packet.png": ""}
	for _, p := range paths {
		pages[p] = `<p id="x"><nav></nav>`
	}
	s := library(pages)
	rapid.Check(t, func(t *rapid.T) {
		from, to := rapid.SampledFrom(paths).Draw(t, "from"), rapid.SampledFrom(paths).Draw(t, "to")
		if from == to {
			return
		}
		base := rapid.SampledFrom([]string{"", `<base href="../catalogue/">`}).Draw(t, "base")
		page := compose.Open(s, from, nil)
		text := `<p id="x"><nav>`
		for range rapid.IntRange(2, 6).Draw(t, "links") {
			way := page.AddressOf(rapid.SampledFrom(append(paths, "images/packet.png")).Draw(t, "target"))
			text += `<a href="` + strings.ReplaceAll(way, "&", "&amp;") + rapid.SampledFrom([]string{"", "#x", "?q"}).Draw(t, "tail") + `">x</a>`
		}
		page = compose.Open(s, from, []byte(text+"</nav>"))
		target := base + pages[to]
		menu, _ := page.Menu(0)
		b, err := page.SyncBlock(menu[0], compose.Open(s, to, []byte(target)))
		require.NoError(t, err)
		after := compose.Open(s, to, []byte(applied(t, target, b.Edits, nil)))
		lands := func(p *compose.Page, file string) (out []string) {
			i, _ := s.Find(file)
			f := s.Files[i]
			f.Doc = p.Doc
			next, _ := s.Renew([]site.File{f}, nil)
			i, _ = next.Find(file)
			for k, l := range next.Links(i) {
				if p.Doc.References[k].Element.String() == "a" {
					require.GreaterOrEqual(t, l.File, int32(0))
					out = append(out, next.Files[l.File].Path+" "+p.Doc.References[k].Text)
				}
			}
			return out
		}
		assert.Equal(t, lands(page, from), lands(after, to))
	})
}
