package markup_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"

	"arvel/core/markup"
	_ "arvel/test/seed" // rapid takes it
)

func scan(src string) *markup.Document { return markup.NewScanner().Page([]byte(src)) }

// written lists what the references of a page say, in reading order.
func written(d *markup.Document) []string {
	out := []string{}
	for i := range d.References {
		out = append(out, d.References[i].Written)
	}
	return out
}

func TestPageFindsReferencesWhereABrowserDoes(t *testing.T) {
	for name, c := range map[string]struct {
		page string
		want []string
	}{
		"quotes":                      {`<a href="a"><a href='b'><a href=c><a href = "d" >`, []string{"a", "b", "c", "d"}},
		"upper case":                  {`<A HREF="a"><IMG SRC=b>`, []string{"a", "b"}},
		"a > in a value":              {`<a title="x > y" href="a">`, []string{"a"}},
		"the first of doubled":        {`<a href="a" href="b">`, []string{"a"}},
		"no space between attributes": {`<a class="x"href="a">`, []string{"a"}},
		"slash between attributes":    {`<img/src="a"/alt="b"/>`, []string{"a"}},
		"unquoted with slash":         {`<a href=folder/>x</a>`, []string{"folder/"}},
		"line ends in a tag":          {"<a\n href\n=\n'a'\n>", []string{"a"}},
		"comment":                     {`<!-- <a href="no"> --><a href="a">`, []string{"a"}},
		"comment closed at once":      {`<!--><a href="a"><!---><a href="b">`, []string{"a", "b"}},
		"comment closed wrongly":      {`<!-- x --!><a href="a">`, []string{"a"}},
		"comment of dashes":           {`<!-----><a href="a">`, []string{"a"}},
		"declaration":                 {`<!doctype html><?php echo "<a href='no'>" ?><a href="a">`, []string{"a"}},
		"script":                      {`<script>'<a href="no">'</script><a href="a">`, []string{"a"}},
		"script in a comment in one":  {`<script><!-- <script> </script> <a href="no"> --></script><a href="a">`, []string{"a"}},
		"textarea and title":          {`<title><a href="no"></title><textarea><a href="no"></textarea><a href="a">`, []string{"a"}},
		"style":                       {`<style>a > b { } <a href="no"></style ><a href="a">`, []string{"a"}},
		"noscript is markup":          {`<noscript><a href="a"></noscript>`, []string{"a"}},
		"iframe holds raw text":       {`<iframe src="a"><a href="no"></iframe>`, []string{"a"}},
		"stray end tag":               {`</a></p><a href="a"></a></a>`, []string{"a"}},
		"cut off in a tag":            {`<a href="a">x</a><a href="no`, []string{"a"}},
		"not a tag":                   {`1 < 2 <3 </ > <a href="a">`, []string{"a"}},
		"frames":                      {`<frameset><frame src="a"><frame src="b"></frameset>`, []string{"a", "b"}},
		"area":                        {`<map><area href="a"></map>`, []string{"a"}},
		"style and script in SVG":     {`<svg><style><a href="a"></style></svg><a href="b">`, []string{"a", "b"}},
		"CDATA in SVG":                {`<svg><![CDATA[<a href="no">]]></svg><a href="a">`, []string{"a"}},
		"SVG links":                   {`<svg><a xlink:href="a"></a><image href="b" xlink:href="no"/></svg>`, []string{"a", "b"}},
		"xlink means nothing in HTML": {`<a id="x" xlink:href="no">`, []string{}},
		"srcset":                      {`<img srcset="a.png 1x, b.png 2x,c.png" src="d">`, []string{"a.png", "b.png", "c.png", "d"}},
		"srcset with data":            {`<img srcset="data:image/png,AA 1x, b 2x">`, []string{"data:image/png,AA", "b"}},
		"meta refresh":                {`<meta http-equiv=refresh content="5; URL='a'">`, []string{"a"}},
		"media and forms":             {`<video src=a poster=b><source src=c></video><form action=d>`, []string{"a", "b", "c", "d"}},
		"link without href":           {`<a>x</a><a name="n">y</a>`, []string{""}},
		"link after script with <":    {"<script>if (a<b) {}</script>\n<a href=a>", []string{"a"}},
		"image is img":                {`<image src="a">`, []string{"a"}},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, written(scan(c.page))) })
	}
}

func TestPageSpansLinesAndColumns(t *testing.T) {
	src := "<p>ä\r\n  <a href=\"x&amp;y\">B<b>ea</b>ns &amp;\n peas</a>\r\n<img alt='Pod' src=p.png>"
	d := scan(src)
	require.Len(t, d.References, 2)
	a, img := d.References[0], d.References[1]
	assert.Equal(t, "x&amp;y", src[a.Start:a.End])
	assert.Equal(t, "x&y", a.Value())
	assert.Equal(t, "Beans & peas", a.Text)
	assert.Equal(t, []uint32{2, 12}, []uint32{a.Line, a.Column})
	assert.Equal(t, byte('"'), a.Quote)
	assert.Equal(t, "p.png", src[img.Start:img.End])
	assert.Equal(t, []uint32{4, 20}, []uint32{img.Line, img.Column})
	assert.Equal(t, "Pod", img.Text)
}

func TestPageCountsLinesOfOldFiles(t *testing.T) {
	d := scan("<p>one\r<p>two\r<a href=x>")
	assert.Equal(t, []uint32{3, 9}, []uint32{d.References[0].Line, d.References[0].Column})
}

func TestPageAnchorsAndHeadings(t *testing.T) {
	d := scan(`<title> Sowing &amp;
	saving </title><h2 id="beans">When to <i>sow</i></h2><a name=old></a><p id="">x<template><p id=t></template>` +
		`<h3>No id</h3><base href="../x/"><base href="no">`)
	assert.Equal(t, "Sowing & saving", d.Title)
	assert.Equal(t, "../x/", d.Base)
	require.Len(t, d.Anchors, 3)
	assert.Equal(t, "beans", d.Anchors[0].Name)
	assert.True(t, d.Anchors[1].ByName)
	assert.True(t, d.Anchors[2].Inert)
	require.Len(t, d.Headings, 2)
	assert.Equal(t, "When to sow", d.Headings[0].Text)
	assert.Equal(t, "beans", d.Headings[0].ID)
	assert.Nil(t, d.Anchor("t"))
	assert.NotNil(t, d.Anchor("old"))
}

// pageIn is a page with a link and an id in letters that the encoding has, and it says so.
func pageIn(label, letters string) string {
	return `<meta charset="` + label + `"><p>` + letters + `<a href="` + letters + `.html">` + letters + `</a><i id="` + letters + `">`
}

func TestPageReadsEveryEncoding(t *testing.T) {
	for label, letters := range map[string]string{
		"utf-8": "種é", "windows-1252": "café", "iso-8859-1": "café", "shift_jis": "表ソ能大根", "euc-jp": "大根の種",
		"iso-2022-jp": "大根の種", "gbk": "种子", "big5": "種許功", "koi8-r": "семена", "utf-16le": "種é", "utf-16be": "種é",
	} {
		t.Run(label, func(t *testing.T) {
			src := encode(t, label, pageIn(label, letters))
			d := markup.NewScanner().Page(src)
			require.Len(t, d.References, 1)
			r := d.References[0]
			assert.Equal(t, letters+".html", r.Written)
			assert.Equal(t, letters, r.Text)
			assert.Equal(t, letters, d.Anchors[0].Name)
			want, err := markup.Encode(letters+".html", d.Encoding)
			require.NoError(t, err)
			if label != "iso-2022-jp" { // its bytes in the file lack the way back to ASCII, which comes after
				assert.Equal(t, want, src[r.Start:r.End], "the span holds the value's bytes")
			}
			assert.Equal(t, uint32(1), r.Line)
		})
	}
}

func encode(t *testing.T, label, text string) []byte {
	t.Helper()
	switch label {
	case "utf-16le", "utf-16be":
		order := map[string]unicode.Endianness{"utf-16le": unicode.LittleEndian, "utf-16be": unicode.BigEndian}[label]
		out, err := unicode.UTF16(order, unicode.UseBOM).NewEncoder().Bytes([]byte(text))
		require.NoError(t, err)
		return out
	}
	enc, err := htmlindex.Get(label)
	require.NoError(t, err)
	out, err := enc.NewEncoder().Bytes([]byte(text))
	require.NoError(t, err)
	return out
}

func TestPageWithoutDeclaredEncoding(t *testing.T) {
	assert.Equal(t, "utf-8", scan("<a href=é>").Encoding)
	d := scan("<a href=\"caf\xe9\">")
	assert.Equal(t, "windows-1252", d.Encoding)
	assert.Equal(t, "café", d.References[0].Written)
}

func TestPageTellsWhatIsWrongWithTheFile(t *testing.T) {
	assert.Equal(t, []markup.Fault{markup.Binary}, scan("\x89PNG\x00\x00<a href=x>").Faults)
	assert.Equal(t, []markup.Fault{markup.CutOff}, scan("<p><a href='x").Faults)
	assert.Equal(t, []markup.Fault{markup.CutOff}, scan("<script>x").Faults)
	assert.Equal(t, []markup.Fault{markup.BadBytes}, scan("<meta charset=utf-8>caf\xe9").Faults)
	assert.Empty(t, scan("").Faults)
}

func TestPageOfAnySizeAndShape(t *testing.T) {
	const n = 200_000
	one := scan(strings.Repeat("<a href=x>y</a>", n))
	require.Len(t, one.References, n, "a page of one line")
	assert.Equal(t, uint32(1), one.References[n-1].Line)
	assert.Equal(t, uint32((n-1)*len("<a href=x>y</a>")+9), one.References[n-1].Column)
	ids := scan(strings.Repeat("<i id=x>", n))
	assert.NotNil(t, ids.Anchor("x"))
	assert.Len(t, scan(strings.Repeat("<div>", 5000)+"<a href=x>").References, 1, "nested deep")
	assert.Len(t, scan("<a "+strings.Repeat("b=c ", n)+"href=x>").References, 1, "a tag of many attributes")
}

func TestPackKeepsADocument(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		src := rapid.SampledFrom([]string{"<a href=x>y</a>", "<h1 id=a>b</h1>", "é<img src='p&amp;q' alt=z>", "<title>t</title>", "<a>", "<base href=y>", "\n"})
		page := strings.Join(rapid.SliceOf(src).Draw(t, "page"), "")
		d := scan(page)
		back, err := markup.Unpack(markup.Pack(d))
		require.NoError(t, err)
		assert.Equal(t, written(d), written(back))
		assert.Equal(t, d.References, append([]markup.Reference(nil), back.References...))
		assert.ElementsMatch(t, d.Anchors, back.Anchors)
		assert.ElementsMatch(t, d.Headings, back.Headings)
		assert.Equal(t, []any{d.Title, d.Base, d.HasBase, d.Encoding}, []any{back.Title, back.Base, back.HasBase, back.Encoding})
	})
}

func FuzzUnpack(f *testing.F) {
	f.Add(markup.Pack(scan(`<a href="x">y</a><h1 id=a>b`)))
	f.Fuzz(func(t *testing.T, b []byte) {
		if d, err := markup.Unpack(b); err == nil {
			markup.Pack(d)
		}
	})
}

func TestExcerptShowsWhatAReaderSees(t *testing.T) {
	src := `<h2 id=a>When &amp; how</h2><script>no</script><!-- no --><p>In <b>May</b>.`
	assert.Equal(t, "When & how In May .", markup.Excerpt([]byte(src), strings.Index(src, "When")))
}

func TestEscapeAttributeReadsBackAsItself(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		value := rapid.StringMatching(`[a-z&;#="'<> 0-9]{0,20}`).Draw(t, "value")
		quote := rapid.SampledFrom([]byte{'"', '\'', 0}).Draw(t, "quote")
		if quote == 0 && value == "" {
			return
		}
		q := strings.Trim(string(rune(quote)), "\x00")
		d := scan("<a href=" + q + markup.EscapeAttribute(value, quote, rapid.Bool().Draw(t, "fussy")) + q + ">")
		require.Len(t, d.References, 1)
		assert.Equal(t, value, d.References[0].Value())
	})
}

func TestPageReadsStyles(t *testing.T) {
	for name, c := range map[string]struct {
		page string
		want []string
	}{
		"style element":     {`<style>@import "a.css"; b { background: url(c.png) url('d.png') } /* url(no) */ i { content: "no" }</style>`, []string{"a.css", "c.png", "d.png"}},
		"a namespace":       {`<style>@namespace svg url(http://www.w3.org/2000/svg); b { background: url(c.png) }</style>`, []string{"c.png"}},
		"import by url":     {`<style>@import url(a.css) screen;</style>`, []string{"a.css"}},
		"style attribute":   {`<p style="background:url(a.png)"><p style='background:url("b.png")'>`, []string{"a.png", "b.png"}},
		"escaped quotes":    {`<p style="background:url(&quot;a.png&quot;)">`, []string{"a.png"}},
		"image-set":         {`<style>p { background: image-set("a.png" 1x, url(b.png) 2x) }</style>`, []string{"a.png", "b.png"}},
		"style in SVG":      {`<svg><style><![CDATA[p { fill: url(#a) }]]></style></svg>`, []string{"#a"}},
		"unclosed url":      {`<style>p { background: url(a.png`, []string{}},
		"nothing but words": {`<p style="color: red">`, []string{}},
	} {
		t.Run(name, func(t *testing.T) {
			d := scan(c.page)
			assert.Equal(t, c.want, written(d))
			for _, r := range d.References {
				assert.Equal(t, r.Written, c.page[r.Start:r.End])
			}
		})
	}
}

func TestStyleSheetAndSVG(t *testing.T) {
	src := "\xef\xbb\xbf@charset \"utf-8\";\n@import 'p\\72int.css';\np { background: url( \"../images/a\\ b.png\" ) }\n@font-face { src: url(f.woff) format(\"woff\") }"
	d := markup.NewScanner().StyleSheet([]byte(src))
	require.Equal(t, []string{"p\\72int.css", "../images/a\\ b.png", "f.woff"}, written(d))
	assert.Equal(t, "print.css", d.References[0].Value())
	assert.Equal(t, markup.RoleStyle, d.References[0].Role)
	assert.Equal(t, "../images/a b.png", d.References[1].Value())
	assert.Equal(t, []uint32{3, 23}, []uint32{d.References[1].Line, d.References[1].Column})
	svg := markup.NewScanner().SVG([]byte(`<svg><title>Map</title><a href="a.html"><image xlink:href="b.png"/></a><use href="#c"/></svg>`))
	assert.Equal(t, []string{"a.html", "b.png", "#c"}, written(svg))
	assert.Equal(t, "Map", svg.Title)
	src = `<?xml version="1.0"?><?xml-stylesheet type='text/css' href='a.css?x&amp;y'?><?other href="no.css"?><svg/>`
	svg = markup.NewScanner().SVG([]byte(src))
	require.Equal(t, []string{"a.css?x&amp;y"}, written(svg))
	assert.Equal(t, "a.css?x&y", svg.References[0].Value())
	assert.Equal(t, markup.RoleStyle, svg.References[0].Role)
	assert.Equal(t, svg.References[0].Written, src[svg.References[0].Start:svg.References[0].End])
	assert.Empty(t, markup.NewScanner().Page([]byte(src)).References, "in a page it is a comment")
}

// What repeats without an end is read once, not again from each place where it might begin.
func TestPageOfUnendedThingsTakesNoLonger(t *testing.T) {
	const n = 100_000
	for _, part := range []string{"<style>", "<title>", "<style>p{}"} {
		assert.Empty(t, scan("<svg>"+strings.Repeat(part, n)).References)
		assert.Empty(t, scan("<svg>"+strings.Repeat(part, n)+"</style></title>").References)
	}
	names := scan(strings.Repeat("<a name=x></a>", n) + "<i id=x>" + strings.Repeat("<a name=x></a>", n))
	assert.False(t, names.Anchor("x").ByName, "an id counts before every name")
}
