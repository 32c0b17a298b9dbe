package site_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/site"
	_ "arvel/test/seed" // rapid takes it
)

func file(path, src string) site.File {
	f := site.File{Path: path, Kind: site.KindOf(path), Size: int64(len(src)), Hash: change.HashOf([]byte(src))}
	if f.Kind == site.Page {
		f.Doc = markup.NewScanner().Page([]byte(src))
	}
	return f
}

func build(files ...site.File) *site.Snapshot {
	return site.Build(files, site.Options{Place: address.Place{Mount: "/"}})
}

// land says how a link on guides/sowing.html ends.
func land(t *testing.T, s *site.Snapshot, value string) (string, site.Outcome) {
	t.Helper()
	r := address.NewResolver(s.Place)
	r.At("guides/sowing.html", "", false)
	target := r.Resolve(value)
	l := s.Land(&target)
	if l.File < 0 {
		return "", l.Outcome
	}
	return s.Files[l.File].Path, l.Outcome
}

func TestLand(t *testing.T) {
	s := build(
		file("index.html", ""), file("guides/sowing.html", "<p id=moon><a name=old></a><p id='a b'><p id=é>"),
		file("catalogue/index.htm", ""), file("catalogue/INDEX.html", ""), file("images/Leek.png", ""), file("news/a.html", ""),
		file("Nöte/x.html", ""), file("files/x.pdf", ""),
	)
	for value, want := range map[string]struct {
		path    string
		outcome site.Outcome
	}{
		"../index.html":          {"index.html", site.Lands},
		"../":                    {"index.html", site.Lands},
		"../catalogue/":          {"catalogue/index.htm", site.Lands},
		"../catalogue":           {"catalogue/index.htm", site.Lands},
		"../news/":               {"", site.NoIndex},
		"../nothing.html":        {"", site.NoFile},
		"../index.html/":         {"", site.NoFile},
		"../images/leek.png":     {"images/Leek.png", site.OtherCase},
		"../Catalogue/":          {"catalogue/index.htm", site.OtherCase},
		"../No\u0308te/x.html":   {"Nöte/x.html", site.OtherForm},
		"#moon":                  {"guides/sowing.html", site.Lands},
		"#Moon":                  {"guides/sowing.html", site.NoFragment},
		"#old":                   {"guides/sowing.html", site.Lands},
		"#":                      {"guides/sowing.html", site.Lands},
		"#TOP":                   {"guides/sowing.html", site.Lands},
		"#a%20b":                 {"guides/sowing.html", site.Lands},
		"#%C3%A9":                {"guides/sowing.html", site.Lands},
		"#é":                     {"guides/sowing.html", site.Lands},
		"#moon:~:text=x":         {"guides/sowing.html", site.Lands},
		"#:~:text=x":             {"guides/sowing.html", site.Lands},
		"../files/x.pdf#page=2":  {"files/x.pdf", site.Lands},
		"https://x.example/":     {"", site.Elsewhere},
		"mailto:a@b.example":     {"", site.Elsewhere},
		"tel:1":                  {"", site.Handed},
		"javascript:x":           {"", site.NotJudged},
		"C:\\x":                  {"", site.Nowhere},
		"../index.html?x=1#none": {"index.html", site.NoFragment},
	} {
		path, outcome := land(t, s, value)
		assert.Equal(t, want.path, path, value)
		assert.Equal(t, want.outcome, outcome, value)
	}
}

func TestFromTellsWhoRefers(t *testing.T) {
	s := build(file("a.html", "<a href=b.html><a href=b.html#x>"), file("b.html", "<a href=a.html>"), file("c.html", "<img src=b.html>"))
	b, _ := s.Find("b.html")
	assert.Equal(t, []int32{0, 2}, s.Referrers(b))
}

func TestBreaksFindsWhereAPathBreaksOff(t *testing.T) {
	s := build(file("guides/deep/x.html", ""), file("guides/y.html", ""))
	folder, missing, names := s.FirstMissing("guides/depe/x.html")
	assert.Equal(t, []string{"guides", "depe"}, []string{folder, missing})
	assert.Equal(t, []string{"deep/", "y.html"}, names)
}

// A renewed snapshot is the one that would be built anew.
func TestRenewEqualsBuild(t *testing.T) {
	paths := []string{"index.html", "a.html", "d/b.html", "d/index.html", "d/e/c.html"}
	values := []string{"index.html", "../a.html", "b.html#x", "d/", "e/c.html#y", "#x", "../../A.html"}
	page := func(t *rapid.T) string {
		src := rapid.SampledFrom([]string{"", "<p id=x>", "<p id=y>"}).Draw(t, "id")
		for _, v := range rapid.SliceOfN(rapid.SampledFrom(values), 0, 4).Draw(t, "links") {
			src += fmt.Sprintf("<a href=%q>", v)
		}
		return src
	}
	rapid.Check(t, func(t *rapid.T) {
		var files []site.File
		for _, p := range paths {
			if rapid.Bool().Draw(t, "there") {
				files = append(files, file(p, page(t)))
			}
		}
		s := build(files...)
		now := map[string]site.File{}
		for _, f := range files {
			now[f.Path] = f
		}
		for range rapid.IntRange(1, 3).Draw(t, "rounds") {
			var changed []site.File
			var removed []string
			for _, p := range paths {
				switch rapid.SampledFrom([]string{"", "", "change", "remove"}).Draw(t, "what") {
				case "change":
					f := file(p, page(t))
					changed, now[p] = append(changed, f), f
				case "remove":
					if _, there := now[p]; there {
						removed = append(removed, p)
						delete(now, p)
					}
				}
			}
			s, _ = s.Renew(changed, removed)
			var all []site.File
			for _, f := range now {
				all = append(all, f)
			}
			fresh := build(all...)
			require.Equal(t, len(fresh.Files), len(s.Files))
			for i := range fresh.Files {
				assert.Equal(t, fresh.Files[i].Path, s.Files[i].Path)
				assert.Equal(t, fresh.Links(int32(i)), s.Links(int32(i)), s.Files[i].Path)
				assert.Equal(t, append([]int32{}, fresh.Referrers(int32(i))...), append([]int32{}, s.Referrers(int32(i))...))
			}
		}
	})
}
