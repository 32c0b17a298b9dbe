package markup_test

import (
	"bytes"
	"strings"
	"testing"

	"golang.org/x/net/html"

	"arvel/core/markup"
)

// outside are names of elements about which the tokenizer of x/net/html knows less than a browser does: foreign
// content needs a tree, and noscript depends on whether scripts run.
var outside = []string{"svg", "math", "noscript", "plaintext", "template", "\x00", "charset", "http-equiv", "image"}

// FuzzPage compares the links and images that the scanner finds with those of x/net/html's tokenizer.
func FuzzPage(f *testing.F) {
	for _, s := range []string{
		`<a href="a">x</a><img src=b>`, `<a href='a&amp;b&copy=1'>`, `<!-- <a href=x> --><a href=y>`, `<!--><a href=y>`,
		`<script><!--<script></script><a href=n>--></script><a href=y>`, `<title><a href=n></title>`, `<a/href=x/>`, `<a href==x>`,
		`<a ="x" href=y>`, "<a\thref\n=\r'x'>", `<textarea></textareaa><a href=n></textarea x><a href=y>`, `</ a><a href=y>`, `<a href=x`,
		`<style></style/><a href=y>`, `<a b='c'd="e"href=f>`, `<xmp><a href=n></xmp>`, `<![CDATA[<a href=y>]]>`, `<?x <a href=n> ><a href=y>`,
	} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, src []byte) {
		low := strings.ToLower(string(src))
		for _, word := range outside {
			if strings.Contains(low, word) {
				return
			}
		}
		if got, want := ours(src), theirs(src); strings.Join(got, "\n") != strings.Join(want, "\n") {
			t.Errorf("%q\nscanner   %q\ntokenizer %q", src, got, want)
		}
	})
}

func ours(src []byte) (out []string) {
	d := scan(string(src))
	for i := range d.References {
		r := &d.References[i]
		if name := r.Element.String() + " " + r.Attribute.String(); name == "a href" || name == "img src" {
			if int(r.End) > len(src) || r.Start > r.End {
				panic("a span outside of the page")
			}
			if r.Start < r.End {
				out = append(out, name+" "+plainSpace(r.Value()))
			}
		}
	}
	return out
}

func theirs(src []byte) (out []string) {
	z := html.NewTokenizer(bytes.NewReader(toText(src)))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return out
		case html.StartTagToken, html.SelfClosingTagToken:
			tok := z.Token()
			for _, want := range []string{"href", "src"} {
				if tok.Data+" "+want != "a href" && tok.Data+" "+want != "img src" {
					continue
				}
				for _, a := range tok.Attr {
					if a.Key == want {
						if a.Val != "" {
							out = append(out, tok.Data+" "+want+" "+plainSpace(a.Val))
						}
						break
					}
				}
			}
		}
	}
}

// toText decodes a page as the scanner does, since the tokenizer takes its bytes for UTF-8.
func toText(src []byte) []byte {
	text, _ := markup.Text(src)
	return []byte(text)
}

// plainSpace takes line ends as the tokenizer writes them.
func plainSpace(s string) string {
	return strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(s)
}
