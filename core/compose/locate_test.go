package compose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/compose"
	"arvel/core/markup"
	"arvel/core/site"
)

func located(text string) *compose.Page {
	s := site.Build([]site.File{{Path: "index.html", Kind: site.Page, Doc: markup.NewTextScanner().Page([]byte(text))}}, site.Options{})
	return compose.Open(s, "index.html", []byte(text))
}

func TestWritingBeginsBehindTheHeading(t *testing.T) {
	for text, want := range map[string]string{
		"<!-- <h1>no</h1> --><body class='x'>\n<h1>Beans</h1>\n<p>x": "\n<p>x", "<body>\n<p>x": "\n<p>x", "<p>x": "<p>x", "": "",
		"<title></h1></title><BODY><H1 >A</H1 ><h1>B</h1>": "<h1>B</h1>",
	} {
		assert.Equal(t, want, text[located(text).Begin():], text)
	}
}

func TestWordsAreFoundAsAVisitorSeesThem(t *testing.T) {
	text := "<title>When to sow</title><body><!-- to sow --><p>When to\n  <b>so</b>w, and <i>to</i> sow <script>'to sow'</script>again: to sow."
	p := located(text)
	for n, want := range []string{"to\n  <b>so</b>w", "to</i> sow", "to sow"} {
		from, to, ok := p.Find(" to  sow", n)
		require.True(t, ok)
		assert.Equal(t, want, text[from:to])
	}
	from, to, _ := p.Find("to sow", 9)
	assert.Equal(t, "to sow", text[from:to], "the last one")
	for _, words := range []string{"", " ", "beans", "again: to sow.."} {
		_, _, ok := p.Find(words, 0)
		assert.False(t, ok, words)
	}
}

func TestATagIsFoundByItsReference(t *testing.T) {
	text := `<p><img alt="a > b" src=pod.png><a href="x.html">x</a>`
	p := located(text)
	from, to, ok := p.Tag(&p.Doc.References[0])
	require.True(t, ok)
	assert.Equal(t, `<img alt="a > b" src=pod.png>`, text[from:to])
	_, _, ok = p.Tag(&markup.Reference{Start: 9999})
	assert.False(t, ok)
}

func TestWhatIsBeingTypedIsAReference(t *testing.T) {
	for text, want := range map[string]compose.Typing{
		`<p><a href="../gui`: {From: 12, Value: "../gui", Element: "a"}, `<a href='a&amp;b`: {From: 9, Value: "a&b", Element: "a"}, `<IMG SRC = "`: {From: 12, Element: "img"},
		`<i style="background: url( pod`: {From: 27, Value: "pod", InStyle: true},
	} {
		got, ok := located(text).TypingAt(len(text))
		require.True(t, ok, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "<p>href=", `<a href="x">`, `<a href="x" title="y`, "<a href=\"x\ny"} {
		_, ok := located(text).TypingAt(len(text))
		assert.False(t, ok, text)
	}
	assert.Equal(t, "a&amp;b&quot;c", compose.Typing{}.Insert(`a&b"c`))
	assert.Equal(t, `a&b"c`, compose.Typing{InStyle: true}.Insert(`a&b"c`))
}
