package plan_test

import (
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/plan"
	"arvel/core/site"
	_ "arvel/test/seed" // rapid takes it
)

type folder map[string]string

func (f folder) snapshot() *site.Snapshot {
	var files []site.File
	for p, src := range f {
		file := site.File{Path: p, Kind: site.KindOf(p), Hash: change.HashOf([]byte(src))}
		if site.IsRead(p) {
			file.Doc = site.Scan(markup.NewScanner(), p, []byte(src))
		}
		files = append(files, file)
	}
	return site.Build(files, site.Options{Place: address.Place{Mount: "/"}})
}

type failer interface {
	Errorf(format string, args ...any)
	FailNow()
}

// moved returns the folder as a plan leaves it.
func (f folder) moved(t failer, plan *plan.Plan) folder {
	require.Empty(t, plan.Clashes)
	out := maps.Clone(f)
	for i := range plan.Set.Files {
		if p := plan.Set.Files[i].Source(); p != "" {
			delete(out, p)
		}
	}
	for _, c := range plan.Set.Files {
		src, err := change.Apply([]byte(f[c.Source()]), c.Edits)
		require.NoError(t, err)
		if c.Kind == change.Made {
			src = c.Content
		}
		if c.Kind != change.Deleted {
			out[c.Path] = string(src)
		}
	}
	return out
}

func planned(f folder, pairs ...string) *plan.Plan {
	var moves []plan.Move
	for i := 0; i+1 < len(pairs); i += 2 {
		moves = append(moves, plan.Move{From: pairs[i], To: pairs[i+1]})
	}
	return plan.Moves(f.snapshot(), moves, plan.Options{})
}

func TestMovesRewriteWhatTheyHaveTo(t *testing.T) {
	for name, c := range map[string]struct {
		before, after folder
		moves         []string
	}{
		"a page into a folder": {
			folder{"index.html": `<a href="beans.html?a=1#moon">b</a>`, "beans.html": `<a href='index.html'>h</a><img src=img/b.png><a href=#moon>m</a>`, "img/b.png": ""},
			folder{"index.html": `<a href="guides/beans.html?a=1#moon">b</a>`, "guides/beans.html": `<a href='../index.html'>h</a><img src=../img/b.png><a href=#moon>m</a>`, "img/b.png": ""},
			[]string{"beans.html", "guides/beans.html"},
		},
		"a folder with all in it": {
			folder{"index.html": `<a href="g/a.html">a</a><a href="g/">g</a>`, "g/index.html": `<a href=a.html>a</a><a href=../index.html>h</a>`, "g/a.html": `<a href="./">g</a>`},
			folder{"index.html": `<a href="x/y/a.html">a</a><a href="x/y/">g</a>`, "x/y/index.html": `<a href=a.html>a</a><a href=../../index.html>h</a>`, "x/y/a.html": `<a href="./">g</a>`},
			[]string{"g", "x/y"},
		},
		"a swap": {
			folder{"a.html": `<a href=b.html>b</a>`, "b.html": `<a href=a.html>a</a>`, "c.html": `<a href=a.html>a</a><a href=b.html>b</a>`},
			folder{"b.html": `<a href=a.html>b</a>`, "a.html": `<a href=b.html>a</a>`, "c.html": `<a href=b.html>a</a><a href=a.html>b</a>`},
			[]string{"a.html", "b.html", "b.html", "a.html"},
		},
		"a chain": {
			folder{"a.html": ``, "b.html": ``, "i.html": `<a href=a.html>a</a><a href=b.html>b</a>`},
			folder{"b.html": ``, "c.html": ``, "i.html": `<a href=b.html>a</a><a href=c.html>b</a>`},
			[]string{"a.html", "b.html", "b.html", "c.html"},
		},
		"style sheets and sets of pictures": {
			folder{"s/a.css": `p{background:url(../i/p.png)} @import "b.css";`, "s/b.css": "", "i/p.png": "", "i/q.png": "", "x.html": `<img srcset="i/p.png 1x, i/q.png 2x"><p style="background:url('i/p.png')">`},
			folder{"t/u/a.css": `p{background:url(../../j/p.png)} @import "../../s/b.css";`, "s/b.css": "", "j/p.png": "", "i/q.png": "", "x.html": `<img srcset="j/p.png 1x, i/q.png 2x"><p style="background:url('j/p.png')">`},
			[]string{"s/a.css", "t/u/a.css", "i/p.png", "j/p.png"},
		},
		"a page with a base": {
			folder{"old/a.html": `<base href="../new/"><a href=b.html>b</a><a href="#x">x</a>`, "new/b.html": ``},
			folder{"older/still/a.html": `<base href="../../new/"><a href=b.html>b</a><a href="#x">x</a>`, "new/b.html": ``},
			[]string{"old/a.html", "older/still/a.html"},
		},
		"root-relative and the letter case of a name": {
			folder{"Beans.html": ``, "d/x.html": `<a href="/Beans.html">b</a><a href="../Beans.html">b</a>`},
			folder{"beans.html": ``, "d/x.html": `<a href="/beans.html">b</a><a href="../beans.html">b</a>`},
			[]string{"Beans.html", "beans.html"},
		},
		"an index page that becomes another one": {
			folder{"g/index.html": ``, "x.html": `<a href="g/">g</a><a href="g/index.html">g</a>`},
			folder{"g/home.html": ``, "x.html": `<a href="g/home.html">g</a><a href="g/home.html">g</a>`},
			[]string{"g/index.html", "g/home.html"},
		},
		"an index page that comes before another": {
			folder{"g/index.htm": ``, "n.html": ``, "x.html": `<a href="g/">g</a>`},
			folder{"g/index.htm": ``, "g/index.html": ``, "x.html": `<a href="g/index.htm">g</a>`},
			[]string{"n.html", "g/index.html"},
		},
		"what is broken stays as it is": {
			folder{"a.html": `<a href=none.html>n</a><a href="../up.html">u</a>`, "d/x.html": ``},
			folder{"d/a.html": `<a href=none.html>n</a><a href="../up.html">u</a>`, "d/x.html": ``},
			[]string{"a.html", "d/a.html"},
		},
		"and does not land by chance": {
			folder{"a.html": `<a href=x.html>n</a>`, "d/x.html": ``},
			folder{"d/a.html": `<a href=../x.html>n</a>`, "d/x.html": ``},
			[]string{"a.html", "d/a.html"},
		},
		"a page in the folder that its links name": {
			folder{"g/a.html": `<a href="../g/b.html">b</a>`, "g/b.html": ``},
			folder{"h/a.html": `<a href="../h/b.html">b</a>`, "h/b.html": ``},
			[]string{"g", "h"},
		},
	} {
		p := planned(c.before, c.moves...)
		assert.Equal(t, c.after, c.before.moved(t, p), name)
	}
}

func TestClashesAreTold(t *testing.T) {
	f := folder{"a.html": "", "b.html": "", "d/c.html": "", "Leek.html": ""}
	for says, moves := range map[string][]string{
		"`b.html` exists already":                             {"a.html", "b.html"},
		"can't both be moved to":                              {"a.html", "x.html", "b.html", "x.html"},
		"can't be moved into itself":                          {"d", "d/e"},
		"differs from `Leek.html` only in letter case":        {"a.html", "leek.html"},
		"`b.html` is a file, so nothing can be in it":         {"a.html", "b.html/a.html"},
		"There is no `none.html` in the folder":               {"none.html", "x.html"},
		"is outside of the folder":                            {"a.html", "../x.html"},
		"is a folder already":                                 {"a.html", "d"},
		"has characters that no host accepts":                 {"a.html", "x\ny.html"},
		"begins with a dot":                                   {"a.html", ".x/a.html"},
		"`a.html` can't be moved to `x.html` and to `y.html`": {"a.html", "x.html", "a.html", "y.html"},
	} {
		p := planned(f, moves...)
		assert.Contains(t, strings.Join(p.Clashes, " "), says)
		assert.Empty(t, p.Set.Files, says)
	}
}

func TestAPageIsLeftBehind(t *testing.T) {
	f := folder{"a.html": "<title>Beans & peas</title>", "i.html": "<a href=a.html>a</a>"}
	p := plan.Moves(f.snapshot(), []plan.Move{{From: "a.html", To: "g/b c.html"}}, plan.Options{LeavePages: true})
	after := f.moved(t, p)
	assert.Equal(t, "<a href=g/b%20c.html>a</a>", after["i.html"], "links never lead to it")
	assert.Contains(t, after["a.html"], `<meta http-equiv="refresh" content="0; url=g/b%20c.html">`)
	assert.Contains(t, after["a.html"], `<a href="g/b%20c.html">Beans &amp; peas</a>`)
}

// values are written on the pages of random folders; %s is the way to a file.
var values = []string{"<a href=\"%s\">x</a>", "<img src='%s'>", "<a href=\"%s#x\">x</a>", "<link href=%s>", "<a href=\"%s?q=1&amp;r\">x</a>", "<img srcset=\"%s 1x, %[1]s 2x\">", "<p style=\"background:url(%s)\">"}

var paths = []string{
	"index.html", "a.html", "b c.html", "d/index.html", "d/a.html", "d/e/a.html", "d/e/f/g.html", "h/a.html", "i/p.png", "i/q.svg", "s/x.css", "é/ü.html",
}

func drawFolder(t *rapid.T) folder {
	f := folder{}
	for _, p := range paths {
		if rapid.IntRange(0, 4).Draw(t, "there") > 0 {
			f[p] = ""
		}
	}
	all := slices.Sorted(maps.Keys(f))
	for _, p := range all {
		if !strings.HasSuffix(p, ".html") {
			continue
		}
		var b strings.Builder
		b.WriteString("<p id=x>")
		for range rapid.IntRange(0, 5).Draw(t, "links") {
			to := address.Relative(address.FolderOf(p), rapid.SampledFrom(append(all, "none.html", "d/none.png")).Draw(t, "to"))
			if dir, isIndex := strings.CutSuffix(to, "index.html"); isIndex && dir != "" && dir != "./" && rapid.Bool().Draw(t, "as folder") {
				to = dir
			}
			fmt.Fprintf(&b, rapid.SampledFrom(values).Draw(t, "value"), to)
		}
		f[p] = b.String()
	}
	if _, ok := f["s/x.css"]; ok {
		f["s/x.css"] = "p { background: url(../i/p.png) } @import '../d/none.css';"
	}
	return f
}

// landings returns where every reference of a folder lands, and what is written, by page and number.
func landings(s *site.Snapshot) map[string][]string {
	out := map[string][]string{}
	for i := range s.Files {
		f := &s.Files[i]
		for k, l := range s.Links(int32(i)) {
			to := "broken " + f.Doc.References[k].Written
			if l.File >= 0 {
				to = fmt.Sprint(s.Files[l.File].Path, " ", l.Outcome)
			}
			out[f.Path] = append(out[f.Path], to)
		}
	}
	return out
}

// After any moves, every reference that landed lands on the same thing; every broken one is broken and unchanged, but
// where it would land by chance; and there and back are the same bytes.
func TestWhatLandedLandsAfterAnyMoves(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := drawFolder(t)
		all := slices.Sorted(maps.Keys(f))
		if len(all) == 0 {
			return
		}
		var moves, back []plan.Move
		to := map[string]string{}
		targets := append([]string{"new/a.html", "new/deep/b.html", "z.html", "d/z.png", "é/y.html"}, all...)
		for range rapid.IntRange(1, 4).Draw(t, "moves") {
			m := plan.Move{From: rapid.SampledFrom(all).Draw(t, "from"), To: rapid.SampledFrom(targets).Draw(t, "to")}
			// What is written for a folder is written for its page once that is no index page any more.
			index := path.Base(m.From) == "index.html" || path.Base(m.To) == "index.html"
			if to[m.From] != "" || path.Ext(m.From) != path.Ext(m.To) || index && path.Base(m.From) != path.Base(m.To) {
				continue
			}
			to[m.From] = m.To
			moves = append(moves, m)
			back = append(back, plan.Move{From: m.To, To: m.From})
		}
		before := f.snapshot()
		p := plan.Moves(before, moves, plan.Options{})
		if len(p.Clashes) > 0 {
			return
		}
		after := f.moved(t, p)
		now := after.snapshot()
		place := func(q string) string {
			if n, ok := to[q]; ok {
				return n
			}
			return q
		}
		is := landings(now)
		chance := map[string]bool{}
		for _, told := range p.Notes {
			if strings.Contains(told.Why, "land by chance") || strings.Contains(told.Why, "lands on what is moved there") {
				chance[told.Page] = true
			}
		}
		for page, was := range landings(before) {
			got := is[place(page)]
			require.Len(t, got, len(was))
			for i := range was {
				want := was[i]
				if q, outcome, ok := strings.Cut(want, " "); ok && q != "broken" {
					if k := strings.LastIndex(want, " "); k > 0 {
						q, outcome = want[:k], want[k+1:]
					}
					want = place(q) + " " + outcome
				} else if chance[page] {
					continue
				}
				assert.Equal(t, want, got[i], "%s, reference %d, of %v", page, i, moves)
			}
		}
		if len(chance) > 0 {
			return
		}
		again := after.moved(t, plan.Moves(now, back, plan.Options{}))
		assert.Equal(t, f, again, "there and back: %v", moves)
	})
}

// Moves made at once leave the same bytes as the same moves one by one.
func TestOnePlanEqualsMovesOneByOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := drawFolder(t)
		moves := []plan.Move{{From: "a.html", To: "new/a.html"}, {From: "d", To: "new/dd"}, {From: "i/p.png", To: "i/r.png"}}
		moves = slices.DeleteFunc(moves, func(m plan.Move) bool {
			s := f.snapshot()
			return !s.Exists(m.From)
		})
		if len(moves) == 0 {
			return
		}
		together := f.moved(t, plan.Moves(f.snapshot(), moves, plan.Options{}))
		oneByOne := f
		for _, m := range moves {
			oneByOne = oneByOne.moved(t, plan.Moves(oneByOne.snapshot(), []plan.Move{m}, plan.Options{}))
		}
		assert.Equal(t, together, oneByOne)
	})
}
