package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/test/seed"
)

// holders are elements as they are written with a reference in them: %s is the attribute's value with its quotes.
var holders = []string{
	"<a href=%s>x</a>", "<A HREF=%s>x", "<a title='a > b' href = %s>x</a>", "<area href=%s>", "<link rel=stylesheet href=%s>", "<img src=%s>", "<IMG alt=x SRC=%s/>",
	"<script src=%s></script>", "<iframe src=%s></iframe>", "<embed src=%s>", "<video src=%s></video>", "<audio src=%s></audio>", "<object data=%s></object>",
	"<form action=%s></form>", "<table background=%s></table>", "<table><tr><td background=%s>x</table>", "<p><video poster=%s></video>", "<video><source src=%s></video>",
	"<video><track src=%s></video>", "<noscript><a href=%s>x</a></noscript>", "<div><a href=%s><p>x</div>", "<h2><a href=%s>x</h2>",
}

// clutter is what is between them: what is no markup, or no good one.
var clutter = []string{
	"<!-- <a href=no> -->", "<!-->", "<!--x--!>", "<script>'<a href=no>'</script>", "<script><!-- <script></script> <a href=no> --></script>", "<textarea><a href=no></textarea>",
	"<style>a{}<a href=no></style>", "<xmp><a href=no></xmp>", "</a>", "</p></b>", "<b><i>", "<p id=%[1]s>", "<a name=%[1]s>x</a>", "<h3 ID='%[1]s'>t</h3>", "<template><a href=no></a></template>",
	"<svg><title>t</title><g id=%[1]s></g></svg>", "<>", "< a href=no>", "<a/ >", "<?php <a href=no> ?>", "</>", "<p class=x id=%[1]s id=no>", "text & more", "<br/>", "<a href>x</a>", "\n", "\r\n",
}

// named are the encodings in which pages are written, each with words that it can hold.
var named = map[string][]string{
	"utf-8": {"é", "種", "a"}, "windows-1252": {"é", "ß", "a"}, "shift_jis": {"種", "ソ", "a"}, "euc-jp": {"種", "a"}, "iso-2022-jp": {"種", "a"},
	"gbk": {"种", "a"}, "big5": {"種", "許", "a"}, "koi8-r": {"я", "a"}, "utf-16le": {"é", "種", "a"}, "utf-16be": {"é", "a"},
}

// generated writes a page at random in one of the encodings.
func generated(r *rand.Rand, encoding string) []byte {
	words := named[encoding]
	word := func() string { return words[r.IntN(len(words))] + fmt.Sprint(r.IntN(4)) }
	value := func() string {
		parts := []string{"../", "./", "d/", "/", word() + ".html", word() + "/", "#" + word(), word() + ".html#" + word(), "https://a.example/" + word(), "a&amp;b.html", "a%20b.html", "x.html?q=1&amp;r=2#z"}
		v := parts[r.IntN(len(parts))]
		if r.IntN(2) == 0 {
			v = parts[r.IntN(4)] + v
		}
		switch r.IntN(3) {
		case 0:
			return `"` + v + `"`
		case 1:
			return "'" + v + "'"
		}
		return v
	}
	var b strings.Builder
	switch {
	case strings.HasPrefix(encoding, "utf-16"):
		b.WriteString("\ufeff")
	case r.IntN(2) == 0:
		b.WriteString("<!doctype html><meta charset=" + encoding + ">")
	default:
		b.WriteString("<meta http-equiv=content-type content='text/html; charset=" + encoding + "'>")
	}
	if r.IntN(4) == 0 {
		// Of a base that is malformed Chromium makes something of its own; see TestTheBrowserResolvesAsCoreDoes.
		fmt.Fprintf(&b, "<base href=%s>", []string{"d/", "../", "/" + word() + "/", word() + "/x.html"}[r.IntN(4)])
	}
	for range 30 {
		if r.IntN(3) == 0 {
			piece := clutter[r.IntN(len(clutter))]
			if strings.Contains(piece, "%[1]s") {
				piece = fmt.Sprintf(piece, word())
			}
			b.WriteString(piece)
		} else {
			fmt.Fprintf(&b, holders[r.IntN(len(holders))], value())
		}
	}
	src, err := markup.Encode(b.String(), encoding)
	if err != nil {
		panic(err) // every word fits its encoding
	}
	return src
}

// On pages made at random, in every encoding and as broken as people write them, Chromium's DOM holds the same
// addresses, resolved to the same, and the same names to land on.
func TestTheBrowserReadsGeneratedPagesAsCoreDoes(t *testing.T) {
	random := rand.New(rand.NewPCG(seed.Of(t), 0))
	pages := map[string][]byte{}
	var paths []string
	encodings := make([]string, 0, len(named))
	for e := range named {
		encodings = append(encodings, e)
	}
	slices.Sort(encodings)
	for i := range 240 {
		p := []string{"", "d/", "d/e/"}[i%3] + fmt.Sprintf("p%d.html", i)
		pages[p] = generated(random, encodings[i%len(encodings)])
		paths = append(paths, p)
	}
	for _, mount := range []string{"", "/club"} {
		server := httptest.NewServer(http.StripPrefix(mount, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			w.Header().Set("Content-Type", "text/html")
			_, _ = w.Write(pages[strings.TrimPrefix(r.URL.Path, "/")])
		})))
		defer server.Close()
		b, err := browser()
		require.NoError(t, err)
		tab, err := b.Page(proto.TargetCreateTarget{URL: server.URL + mount + "/nothing"})
		require.NoError(t, err)
		defer tab.Close()
		asked := make([]string, len(paths))
		for i, p := range paths {
			asked[i] = mount + "/" + p
		}
		said, err := tab.Timeout(time.Minute).Eval(dom, asked)
		require.NoError(t, err)
		var list []domPage
		require.NoError(t, json.Unmarshal([]byte(said.Value.Str()), &list))
		place := address.Place{Mount: mount + "/"}
		if mount != "" {
			place.Kind = address.Below
		}
		n := 0
		for i, p := range paths {
			n += len(list[i].Refs)
			if !agree(t, p, pages[p], list[i], server.URL+mount, place) {
				return
			}
		}
		t.Logf("%d references at %s", n, place)
	}
}

// agree compares what Chromium's DOM says of one page with what core reads of it.
func agree(t *testing.T, path string, src []byte, said domPage, origin string, place address.Place) bool {
	t.Helper()
	doc := markup.NewScanner().Page(src)
	r := address.NewResolver(place)
	r.At(path, doc.Base, doc.HasBase)
	want, got := []string{}, []string{}
	for _, ref := range said.Refs {
		landing := "malformed"
		if ref[3] != "" {
			landing = oneSlash(inOurTerms(ref[3], origin, place))
		}
		want = append(want, strings.Join(append(ref[:3:3], landing), " "))
	}
	for i := range doc.References {
		ref := &doc.References[i]
		if ref.Flags&(markup.NoValue|markup.Inert) != 0 {
			continue
		}
		t := r.Resolve(ref.Value())
		got = append(got, fmt.Sprintf("%s %s %s %s", ref.Element, ref.Attribute, strings.ReplaceAll(ref.Value(), "\r\n", "\n"), oneSlash(spell(t, place))))
	}
	names := append([]string{}, said.Names...)
	ours := site.File{Doc: doc}
	landable := []string{}
	for i := range ours.Doc.Anchors {
		if a := &doc.Anchors[i]; !a.Inert {
			landable = append(landable, a.Name)
		}
	}
	for _, list := range [][]string{want, got, names, landable} {
		slices.Sort(list)
	}
	page := fmt.Sprintf("%s in %s:\n%s", path, doc.Encoding, src)
	return assert.Equal(t, slices.Compact(want), slices.Compact(got), page) && assert.Equal(t, slices.Compact(names), slices.Compact(landable), page)
}
