package plan_test

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"

	"arvel/core/change"
	"arvel/core/plan"
	"arvel/core/site"
)

// source returns the bytes of a file of the folder.
func (f folder) source(p string) ([]byte, error) { return []byte(f[p]), nil }

func TestReferencesToOneThingLeadToAnother(t *testing.T) {
	for name, c := range map[string]struct {
		from, to, page, before, after string
	}{
		"a file":                             {"beans.html", "peas.html", "d/x.html", `<a href="../beans.html">b</a><a href='../beans.html?q=1'>b</a>`, `<a href="../peas.html">b</a><a href='../peas.html?q=1'>b</a>`},
		"a fragment that is there, too":      {"beans.html", "peas.html", "x.html", `<a href="beans.html#sow">b</a>`, `<a href="peas.html#sow">b</a>`},
		"one that is not":                    {"beans.html", "peas.html", "x.html", `<a href="beans.html#dry">b</a>`, `<a href="peas.html">b</a>`},
		"one id to another":                  {"beans.html#dry", "beans.html#sow", "x.html", `<a href="beans.html#dry">b</a><a href="beans.html#sow">b</a><a href="beans.html">b</a>`, `<a href="beans.html#sow">b</a><a href="beans.html#sow">b</a><a href="beans.html">b</a>`},
		"an id on its own page":              {"beans.html#dry", "peas.html", "beans.html", `<p id=dry><p id=sow><a href="#dry">b</a>`, `<p id=dry><p id=sow><a href="peas.html">b</a>`},
		"to an id of the same page":          {"beans.html#dry", "beans.html#sow", "beans.html", `<p id=dry><p id=sow><a href="#dry">b</a>`, `<p id=dry><p id=sow><a href="#sow">b</a>`},
		"a folder's page":                    {"d/", "e/", "x.html", `<a href="d/">d</a><a href="d/index.html#top">d</a>`, `<a href="e/">d</a><a href="e/index.html#top">d</a>`},
		"from the root":                      {"beans.html", "d/index.html", "x.html", `<a href="/beans.html">b</a>`, `<a href="/d/index.html">b</a>`},
		"what is missing":                    {"gone.html", "beans.html", "d/x.html", `<a href="../gone.html#dry">b</a>`, `<a href="../beans.html#dry">b</a>`},
		"an address outside":                 {"https://seeds.example/old", "https://seeds.example/new", "x.html", `<a href="https://SEEDS.example/old#a">s</a><a href="https://seeds.example/older">s</a>`, `<a href="https://seeds.example/new#a">s</a><a href="https://seeds.example/older">s</a>`},
		"an address outside to a page":       {"https://seeds.example/beans", "beans.html#dry", "d/x.html", `<a href="https://seeds.example/beans">s</a>`, `<a href="../beans.html#dry">s</a>`},
		"a page to an address outside":       {"beans.html", "https://seeds.example/?a=1&b", "x.html", `<a href="beans.html#dry">s</a>`, `<a href="https://seeds.example/?a=1&b">s</a>`},
		"an e-mail address":                  {"old@seeds.example", "new@seeds.example", "x.html", `<a href="mailto:old@seeds.example?subject=Beans">m</a>`, `<a href="mailto:new@seeds.example?subject=Beans">m</a>`},
		"pictures and style sheets":          {"i/p.png", "i/q.svg", "x.html", `<img srcset="i/p.png 1x, i/p.png 2x"><p style="background:url('i/p.png')">`, `<img srcset="i/q.svg 1x, i/q.svg 2x"><p style="background:url('i/q.svg')">`},
		"a page with a base":                 {"beans.html", "peas.html", "x.html", `<base href="d/"><a href="../beans.html">b</a>`, `<base href="d/"><a href="../peas.html">b</a>`},
		"ids and maps are none of it":        {"beans.html", "peas.html", "beans.html", `<p id=dry><map name=m></map><img usemap="#m" src="i/p.png"><label for=dry>`, `<p id=dry><map name=m></map><img usemap="#m" src="i/p.png"><label for=dry>`},
		"a name with signs and spaces":       {"beans.html", "b & c.html", "x.html", `<a href=beans.html>b</a>`, `<a href=b%20&%20c.html>b</a>`},
		"the id that the percents stand for": {"beans.html#é", "beans.html#sow", "x.html", `<a href="beans.html#%C3%A9">b</a>`, `<a href="beans.html#sow">b</a>`},
	} {
		f := folder{
			"beans.html": "<p id=dry><p id=sow><p id=é>", "peas.html": "<p id=sow>", "d/index.html": "", "e/index.html": "", "i/p.png": "", "i/q.svg": "", "b & c.html": "",
		}
		f[c.page] = c.before
		p := plan.Retarget(f.snapshot(), c.from, c.to, nil)
		if c.before == c.after {
			assert.Empty(t, p.Set.Files, name)
			continue
		}
		assert.Equal(t, c.after, f.moved(t, p)[c.page], name)
	}
}

func TestWhatCantBeLedIsTold(t *testing.T) {
	f := folder{"a.html": `<a href=b.html#x>b</a><a href="mailto:old@seeds.example">write to old@seeds.example</a>`, "b.html": "<p id=x>", "c.html": "", "d/e.html": ""}
	for says, c := range map[string][2]string{
		"There is no `none.html` in the folder":         {"b.html", "none.html"},
		"`c.html` has no id `x`":                        {"b.html", "c.html#x"},
		"They lead there already":                       {"b.html", " b.html"},
		"Nothing in the folder leads to `c.html`":       {"c.html", "b.html"},
		"The folder `d` has no index page":              {"b.html", "d/"},
		"A mail program would not read":                 {"b.html", "mailto:no one"},
		"Say where they will lead":                      {"b.html", ""},
		"Say what they lead to now":                     {" ", "b.html"},
		"is not an address that a browser can follow":   {"b.html", "https://[seeds"},
		"There is no `seeds.example/beans` in the fold": {"b.html", "seeds.example/beans"},
	} {
		p := plan.Retarget(f.snapshot(), c[0], c[1], nil)
		assert.Contains(t, strings.Join(p.Clashes, " "), says)
		assert.Empty(t, p.Set.Files, says)
	}
	assert.Contains(t, plan.Retarget(f.snapshot(), "b.html", "c.html", nil).Notes[0].Why, "loses its `#x`, which `c.html` does not have")
	assert.Contains(t, plan.Retarget(f.snapshot(), "old@seeds.example", "new@seeds.example", nil).Notes[0].Why, "its words still say `old@seeds.example`")
}

// After references are led elsewhere, those that led to the one land on the other, and all others are as they were.
func TestOnlyWhatLedThereIsLedElsewhere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := drawFolder(t)
		all := slices.Sorted(maps.Keys(f))
		if len(all) < 2 {
			return
		}
		from, to := rapid.SampledFrom(append(all, "none.html")).Draw(t, "from"), rapid.SampledFrom(all).Draw(t, "to")
		before := f.snapshot()
		p := plan.Retarget(before, from, to, nil)
		if len(p.Clashes) > 0 {
			return
		}
		after := f.moved(t, p)
		is := landings(after.snapshot())
		for page, was := range landings(before) {
			for i := range was {
				led := strings.HasPrefix(was[i], from+" ")
				if own, _ := before.Find(page); page == from && led && strings.Contains(before.Files[own].Doc.References[i].Written, "#") {
					assert.Equal(t, was[i], is[page][i], "a page's links within itself stay")
					continue
				}
				if now := is[page][i]; from == "none.html" && was[i] != now {
					assert.True(t, strings.HasPrefix(was[i], "broken "), "what landed is left alone")
					assert.Equal(t, to+" 0", now)
				} else if led {
					assert.Equal(t, to+" 0", now, "%s, reference %d", page, i)
				} else if from != "none.html" {
					assert.Equal(t, was[i], now)
				}
			}
		}
		if _, within := landings(after.snapshot())[from]; from != "none.html" && !within {
			again := plan.Retarget(after.snapshot(), from, to, nil)
			assert.NotEmpty(t, again.Clashes, "nothing leads there any more")
		}
	})
}

func TestAnIDIsRenamedWithAllThatReferToIt(t *testing.T) {
	f := folder{
		"a.html": `<style>#dry { color: red } #dryer {}</style><h2 id="dry">D</h2><a href="#dry">d</a><label for=dry>d</label><p aria-labelledby="dry sow"><p id=sow><img usemap="#dry"><map name=dry></map>` +
			"\n<script>document.getElementById('dry')</script>",
		"d/x.html":   `<a href='../a.html?q#dry:~:text=x'>d</a><a href="../a.html#sow">s</a><a href="../a.html#new%20one">n</a>`,
		"s/site.css": "p {}\n#dry:hover {}",
		"y.html":     `<a name="dry" id="dry">here</a><a href="#%64ry">d</a><link rel=stylesheet href=s/site.css>`,
	}
	p := plan.RenameID(f.snapshot(), "a.html", "dry", "keep&dry", f.source)
	after := f.moved(t, p)
	assert.Contains(t, after["a.html"], `<h2 id="keep&amp;dry">D</h2><a href="#keep&dry">d</a><label for=keep&dry>d</label><p aria-labelledby="keep&dry sow">`)
	assert.Contains(t, after["a.html"], `<img usemap="#dry"><map name=dry>`, "a map's name is no id")
	assert.Contains(t, after["d/x.html"], `<a href='../a.html?q#keep&dry:~:text=x'>d</a><a href="../a.html#sow">`)
	assert.Equal(t, f["y.html"], after["y.html"], "the same id of another page is none of it")
	var told []string
	for _, told1 := range p.Notes {
		told = append(told, told1.Written)
	}
	assert.Equal(t, []string{"#dry", "getElementById('dry')"}, told)
	assert.Equal(t, 2, p.Notes[1].Line)

	p = plan.RenameID(f.snapshot(), "y.html", "dry", "é", f.source)
	assert.Equal(t, `<a name="é" id="é">here</a><a href="#é">d</a><link rel=stylesheet href=s/site.css>`, f.moved(t, p)["y.html"])
	assert.Equal(t, []plan.Note{{Page: "s/site.css", Line: 2, Written: "#dry", Why: p.Notes[0].Why}}, p.Notes)

	p = plan.RenameID(f.snapshot(), "a.html", "sow", "new", f.source)
	assert.Len(t, p.Rewrites, 3)
	for says, c := range map[string][2]string{
		"`a.html` has no id `none`": {"none", "x"}, "needs at least one letter": {"dry", ""}, "can’t have a space in it": {"dry", "a b"},
		"has the id `sow` already": {"dry", "sow"}, "It has this name already": {"dry", "dry"}, "control characters": {"dry", "a\x00b"},
	} {
		p := plan.RenameID(f.snapshot(), "a.html", c[0], c[1], f.source)
		assert.Contains(t, strings.Join(p.Clashes, " "), says)
		assert.Empty(t, p.Set.Files)
	}
	latin := folder{"a.html": `<meta charset=iso-8859-1><p id=x>`}
	assert.Contains(t, plan.RenameID(latin.snapshot(), "a.html", "x", "種", latin.source).Clashes[0], "has letters that windows-1252")
}

func TestFilesAreDeletedAndWhatRefersToThemIsTakenCareOf(t *testing.T) {
	f := folder{
		"index.html": "<ul>\n  <li><a href=\"old.html#x\" class=\"c\">The <b>old</b> page</a></li>\n  <li><a id=keep href='old.html' target=_blank>kept</a></li>\n</ul>\n" +
			"<link rel=icon href=i/p.png>\n<img src=i/p.png alt=\"a &amp; b\"><img src=i/p.png srcset=\"i/p.png 2x\"><script src=i/s.js></script>",
		"old.html": `<a href="index.html">h</a><img src="i/only.png">`,
		"i/p.png":  "", "i/s.js": "", "i/only.png": "",
		"sitemap.xml": "<urlset>\n<url>\n<loc>https://seeds.example/old.html</loc>\n</url>\n<url><loc>https://seeds.example/index.html</loc></url>\n</urlset>",
		"new.html":    "",
	}
	f["index.html"] = "<link rel=canonical href='https://seeds.example/'>" + f["index.html"]
	p := plan.Delete(f.snapshot(), []plan.Deletion{{Path: "old.html", Choice: plan.Unlink}}, f.source, nil)
	after := f.moved(t, p)
	assert.Contains(t, after["index.html"], "  <li>The <b>old</b> page</li>\n  <li><a id=keep>kept</a></li>\n")
	assert.Equal(t, "<urlset>\n<url><loc>https://seeds.example/index.html</loc></url>\n</urlset>", after["sitemap.xml"])
	assert.Equal(t, []plan.Deleted{{Path: "old.html", Referrers: 3}}, p.Deleted)
	assert.Equal(t, []string{"i/only.png"}, p.Unreferenced)
	assert.NotContains(t, after, "old.html")
	assert.Equal(t, `<a href="old.html#x" class="c">The <b>old</b> page</a>`, p.Rewrites[0].Before)
	assert.Equal(t, "The <b>old</b> page", p.Rewrites[0].After)

	p = plan.Delete(f.snapshot(), []plan.Deletion{{Path: "i", Choice: plan.Unlink}}, f.source, nil)
	after = f.moved(t, p)
	assert.Contains(t, after["index.html"], "</ul>\na &amp; b<img src=i/p.png srcset=\"i/p.png 2x\"><script src=i/s.js></script>")
	assert.Len(t, p.Notes, 3, "a set of pictures and a script are left")
	assert.Equal(t, `<a href="index.html">h</a>`, after["old.html"], "a picture without words leaves none")
	assert.Equal(t, []string{"i"}, p.Set.Emptied)

	p = plan.Delete(f.snapshot(), []plan.Deletion{{Path: "i", Choice: plan.Leave}, {Path: "old.html", Choice: plan.Elsewhere, To: "new.html"}}, f.source, nil)
	after = f.moved(t, p)
	assert.Contains(t, after["index.html"], `<a href="new.html" class="c">The <b>old</b> page</a></li>`)
	assert.Contains(t, after["sitemap.xml"], "<loc>https://seeds.example/new.html</loc>")
	for says, deletions := range map[string][]plan.Deletion{
		"There is no `none` in the folder":                  {{Path: "none"}},
		"`new.html` is to be deleted itself":                {{Path: "old.html", Choice: plan.Elsewhere, To: "new.html"}, {Path: "new.html"}},
		"There is no `none.html` in the folder. An address": {{Path: "old.html", Choice: plan.Elsewhere, To: "none.html"}},
	} {
		p := plan.Delete(f.snapshot(), deletions, f.source, nil)
		assert.Contains(t, strings.Join(p.Clashes, " "), says)
		assert.Empty(t, p.Set.Files)
	}
	stale := func(string) ([]byte, error) { return []byte("<a href=other.html>"), nil }
	assert.Contains(t, plan.Delete(f.snapshot(), []plan.Deletion{{Path: "old.html", Choice: plan.Unlink}}, stale, nil).Clashes[0], "was just changed by another program")
}

func TestLinksAreTakenAwayInAnyEncoding(t *testing.T) {
	utf16, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String("<p>\r\nsee <a href=old.html>the old ü</a> 種")
	require.NoError(t, err)
	f := folder{"a.html": utf16, "b.html": "<meta charset=windows-1252>\r\n\xFC<a href=old.html>\xFC</a>\r\n", "old.html": ""}
	p := plan.Delete(f.snapshot(), []plan.Deletion{{Path: "old.html", Choice: plan.Unlink}}, f.source, nil)
	after := f.moved(t, p)
	want, _ := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String("<p>\r\nsee the old ü 種")
	assert.Equal(t, want, after["a.html"])
	assert.Equal(t, "<meta charset=windows-1252>\r\n\xFC\xFC\r\n", after["b.html"])
}

// Whatever is deleted, what does not refer to it is as it was, and nothing that was taken away or led elsewhere is broken.
func TestDeletingBreaksNothingThatIsTakenCareOf(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := drawFolder(t)
		all := slices.Sorted(maps.Keys(f))
		if len(all) < 3 {
			return
		}
		gone := rapid.SampledFrom(all).Draw(t, "gone")
		then := rapid.SampledFrom([]plan.Choice{plan.Leave, plan.Elsewhere, plan.Unlink}).Draw(t, "then")
		to := rapid.SampledFrom(all).Draw(t, "to")
		before := f.snapshot()
		p := plan.Delete(before, []plan.Deletion{{Path: gone, Choice: then, To: to}}, f.source, nil)
		if len(p.Clashes) > 0 {
			assert.Equal(t, gone, to)
			return
		}
		after := f.moved(t, p)
		for i := range p.Set.Files {
			if f := &p.Set.Files[i]; f.Kind == change.Edited {
				assert.NotEmpty(t, f.Edits)
			}
		}
		broken := func(s *site.Snapshot) (n int) {
			for i := range s.Files {
				for _, l := range s.Links(int32(i)) {
					if l.Outcome == site.NoFile || l.Outcome == site.NoIndex || l.Outcome == site.NoFragment {
						n++
					}
				}
			}
			return n
		}
		was := broken(before)
		if i, ok := before.Find(gone); ok {
			for _, l := range before.Links(i) {
				if l.Outcome == site.NoFile || l.Outcome == site.NoIndex || l.Outcome == site.NoFragment {
					was-- // it goes with the page
				}
			}
		}
		fresh := 0
		for _, told := range p.Notes {
			if strings.Contains(told.Why, "will be broken") {
				fresh++
			}
		}
		assert.Equal(t, was+fresh, broken(after.snapshot()), "all that is broken after was told")
	})
}
