package markup_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"arvel/core/markup"
)

// blocks are what pages are put together of at random.
var blocks = []string{
	"<p>text é</p>", "\n", "\r\n", "  ", "<a href='a&amp;b.html'>x</a>", "<img src=p.png alt='é'\n srcset='a.png 1x, b.png 2x'>", "<!-- <a href=no> -->",
	"<style>p { background: url( 'c.png' ) }\n</style>", "<p style=\"background: url(d.png)\">", "<script>'<a href=no>'</script>", "<h2 id='é x'>T</h2>",
	"<svg><a xlink:href='e.html'/></svg>", "<a>no</a>", "<base href=x/>", "<template><a href=t></template>", "<a title='é' href=\n\tunquoted>", "種",
}

// Every span holds what is written, and its line and column are those that counting from the front gives.
func TestSpansLinesAndColumnsOfRandomPages(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		page := strings.Join(rapid.SliceOfN(rapid.SampledFrom(blocks), 0, 25).Draw(t, "page"), "")
		src := []byte(page)
		d := markup.NewScanner().Page(src)
		assert.Equal(t, page, string(src), "reading changes no byte")
		last := uint32(0)
		for i := range d.References {
			r := &d.References[i]
			assert.Equal(t, r.Written, page[r.Start:r.End])
			assert.GreaterOrEqual(t, r.Start, last, "in reading order")
			last = r.Start
			before := page[:r.Start]
			line := strings.Count(before, "\n") + 1
			column := utf8.RuneCountInString(before[strings.LastIndexByte(before, '\n')+1:]) + 1
			assert.Equal(t, []int{line, column}, []int{int(r.Line), int(r.Column)}, r.Written)
		}
		for i := range d.Anchors {
			assert.Equal(t, d.Anchors[i].Name, page[d.Anchors[i].Start:d.Anchors[i].End])
		}
	})
}

func FuzzStyleSheet(f *testing.F) {
	f.Add([]byte(`@import "a.css"; p { background: url(b\)c.png) } /* url(x) */ @import url('d.css')`))
	f.Add([]byte("a { b: image-set(\"x\" 1x) } url("))
	f.Fuzz(func(t *testing.T, src []byte) {
		d := markup.NewScanner().StyleSheet(src)
		for i := range d.References {
			r := &d.References[i]
			if r.Start > r.End || int(r.End) > len(src) {
				t.Fatalf("span %d to %d in %d bytes", r.Start, r.End, len(src))
			}
			r.Value()
		}
	})
}
