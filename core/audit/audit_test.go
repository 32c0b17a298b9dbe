package audit_test

import (
	"strings"
	"testing"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/explain"
	"arvel/test/sample"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	disk = address.Place{Kind: address.Disk, Mount: "/home/ines/seeds/", IgnoreCase: true}
	club = address.Place{Kind: address.Below, Mount: "/club/"}
)

func TestATickedPlaceMakesFragileWhatFailsThere(t *testing.T) {
	s := sample.Folder(sample.Root, map[string]string{
		"index.html": "<a href=/a.html>1</a><a href=a.html>2</a><a href=A.html>3</a><a href=no.html>4</a><a href=https://x.example/>5</a>", "a.html": "",
	})
	assert.Equal(t, []string{"case-mismatch broken A.html", "missing-file broken no.html"}, sample.Found(s, audit.Judge(s, rule.All, audit.Terms{}), "index.html"))
	r := audit.Judge(s, rule.All, audit.Terms{Also: []address.Place{club}})
	assert.Equal(t, []string{"root-relative fragile /a.html", "case-mismatch broken A.html", "missing-file broken no.html"}, sample.Found(s, r, "index.html"))
	file, _ := s.Find("index.html")
	assert.Equal(t, 1, r.Tally(file, audit.Fragile))
	f := r.Of(file, 0)[0]
	_, sentence := f.Say(audit.CaseOf(s, f, file))
	assert.True(t, strings.HasPrefix(sentence, "It works here, but not published below /club/. `/a.html` starts at the top of the host"), sentence)

	s = sample.Folder(disk, map[string]string{"index.html": "<a href=A.html>3</a>", "a.html": ""})
	assert.Equal(t, []string{"case-mismatch fragile A.html"}, sample.Found(s, audit.Judge(s, rule.All, audit.Terms{Also: []address.Place{sample.Root}}), "index.html"), "told once")
}

func TestFatesDifferBetweenPlaces(t *testing.T) {
	s := sample.Folder(sample.Root, map[string]string{
		"d/index.html": "<a href=/d/a.html>1</a><a href=a.html>2</a><a href=A.html>3</a><a href=no.html>4</a><a href=../../d/a.html>5</a>", "d/a.html": "x",
	})
	fates, counts := audit.Judge(s, rule.All, audit.Terms{}).PlaceDifferences(s, []address.Place{sample.Root, club, disk})
	var got []string
	for _, f := range fates {
		line := s.Files[f.File].Doc.References[f.Ref].Written
		for _, st := range f.States {
			line += " " + st.String()
		}
		got = append(got, line)
	}
	assert.Equal(t, []string{"/d/a.html sound fragile fragile", "A.html broken broken fragile"}, got)
	assert.Equal(t, []int{2, 2, 1}, []int{counts[0].Broken, counts[1].Broken, counts[2].Broken})
	assert.Equal(t, "The leading slash leaves the folder", explain.AtPlace(s, fates[0], club))
	assert.Equal(t, "Lands on `d/a.html` ", explain.AtPlace(s, fates[0], sample.Root))
}

func TestRulesOffAndFindingsSetAside(t *testing.T) {
	files := map[string]string{"index.html": "<title>x</title><a href=no.html>1</a><a href=no.html>2</a><a href=nil.html>3</a><img src=p.png>", "p.png": "", "q.png": ""}
	s := sample.Folder(sample.Root, files)
	file, _ := s.Find("index.html")
	off := audit.Judge(s, rule.All, audit.Terms{Off: map[string]bool{"missing-file": true, "unused-file": true}})
	assert.Equal(t, []string{"missing-alt advice p.png"}, sample.Found(s, off, "index.html"))
	assert.Equal(t, 0, off.Counts.Broken)
	q, _ := s.Find("q.png")
	assert.Empty(t, off.Findings(q))

	mark := audit.Mark{Page: "index.html", Rule: "missing-file", Written: "no.html"}
	unused := audit.Mark{Page: "q.png", Rule: "unused-file"}
	aside := audit.Judge(s, rule.All, audit.Terms{Aside: map[audit.Mark]string{mark: "it comes in spring", unused: "for later"}})
	assert.Equal(t, []string{"missing-file broken nil.html", "missing-alt advice p.png"}, sample.Found(s, aside, "index.html"))
	assert.Equal(t, []int{1, 2}, []int{aside.Counts.Broken, aside.Counts.Inert}, "what is set aside is not judged")
	require.Len(t, aside.Aside(file), 2)
	assert.Equal(t, mark, audit.MarkOf(s, file, aside.Aside(file)[0]))
	assert.Equal(t, "it comes in spring", aside.Reason(mark))
	assert.Len(t, aside.Aside(q), 1)
	assert.Empty(t, aside.Findings(q))
}

func TestTheFoldersOwnAddress(t *testing.T) {
	home := `<link rel=canonical href="https://seeds.example/club/index.html"><meta property="og:image" content="https://seeds.example/club/p.png">` +
		`<a href="https://seeds.example/club/a.html#x">1</a><a href="http://seeds.example/club/no.html">2</a><a href="https://seeds.example/other/">3</a>`
	s := sample.Folder(sample.Root, map[string]string{"index.html": home, "a.html": "<p id=x>", "p.png": ""})
	assert.Equal(t, "seeds.example/club/", s.Place.Published)
	r := audit.Judge(s, rule.All, audit.Terms{})
	assert.Equal(t, []string{"own-address fragile https://seeds.example/club/a.html#x"}, sample.Found(s, r, "index.html"))
	file, _ := s.Find("index.html")
	assert.Equal(t, []audit.State{audit.Sound, audit.Sound, audit.Fragile, audit.Unchecked, audit.Unchecked}, r.States(file), "the host may have what the folder has not")
	_, err := address.ParsePublished("seeds.example")
	assert.ErrorContains(t, err, "begins with https://")
}

func TestImagineJudgesALinkThatIsNotThere(t *testing.T) {
	s := sample.Folder(sample.Root, map[string]string{"a/x.html": "", "b.html": ""})
	file, _ := s.Find("a/x.html")
	c := audit.Imagine(s, file, "../b.html")
	_, state := rule.All.Judge(c)
	assert.Equal(t, audit.Sound, state)
	assert.Equal(t, []string{"from a/", "..               climbs to the top of the folder", "b.html           names b.html"}, explain.Words(c))
}
