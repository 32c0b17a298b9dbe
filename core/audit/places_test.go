package audit_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/explain"
	"arvel/core/markup"
	"arvel/core/naming"
	"arvel/core/site"
)

var (
	disk = address.Place{Kind: address.Disk, Mount: "/home/ines/seeds/", IgnoreCase: true}
	club = address.Place{Kind: address.Below, Mount: "/club/"}
)

// found lists the findings about the references of a page, as "rule state written".
func found(s *site.Snapshot, r *audit.Report, page string) (out []string) {
	file, _ := s.Find(page)
	for _, f := range r.Findings(file) {
		if f.Ref >= 0 {
			out = append(out, f.Rule.Name+" "+f.State.String()+" "+s.Files[file].Doc.References[f.Ref].Written)
		}
	}
	return out
}

func TestATickedPlaceMakesFragileWhatFailsThere(t *testing.T) {
	s := folder(root, map[string]string{
		"index.html": "<a href=/a.html>1</a><a href=a.html>2</a><a href=A.html>3</a><a href=no.html>4</a><a href=https://x.example/>5</a>", "a.html": "",
	})
	assert.Equal(t, []string{"case-mismatch broken A.html", "missing-file broken no.html"}, found(s, audit.Judge(s, rule.All, audit.Terms{}), "index.html"))
	r := audit.Judge(s, rule.All, audit.Terms{Also: []address.Place{club}})
	assert.Equal(t, []string{"root-relative fragile /a.html", "case-mismatch broken A.html", "missing-file broken no.html"}, found(s, r, "index.html"))
	file, _ := s.Find("index.html")
	assert.Equal(t, 1, r.Tally(file, audit.Fragile))
	f := r.Of(file, 0)[0]
	_, sentence := f.Say(audit.CaseOf(s, f, file))
	assert.True(t, strings.HasPrefix(sentence, "It lands here, but not published below /club/. `/a.html` starts at the top of the host"), sentence)

	s = folder(disk, map[string]string{"index.html": "<a href=A.html>3</a>", "a.html": ""})
	assert.Equal(t, []string{"case-mismatch fragile A.html"}, found(s, audit.Judge(s, rule.All, audit.Terms{Also: []address.Place{root}}), "index.html"), "told once")
}

func TestFatesDifferBetweenPlaces(t *testing.T) {
	s := folder(root, map[string]string{
		"d/index.html": "<a href=/d/a.html>1</a><a href=a.html>2</a><a href=A.html>3</a><a href=no.html>4</a><a href=../../d/a.html>5</a>", "d/a.html": "",
	})
	fates, counts := audit.Judge(s, rule.All, audit.Terms{}).PlaceDifferences(s, []address.Place{root, club, disk})
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
	assert.Equal(t, "Lands on `d/a.html` ", explain.AtPlace(s, fates[0], root))
}

func TestRulesOffAndFindingsSetAside(t *testing.T) {
	files := map[string]string{"index.html": "<title>x</title><a href=no.html>1</a><a href=no.html>2</a><a href=nil.html>3</a><img src=p.png>", "p.png": "", "q.png": ""}
	s := folder(root, files)
	file, _ := s.Find("index.html")
	off := audit.Judge(s, rule.All, audit.Terms{Off: map[string]bool{"missing-file": true, "unused-file": true}})
	assert.Equal(t, []string{"missing-alt advice p.png"}, found(s, off, "index.html"))
	assert.Equal(t, 0, off.Counts.Broken)
	q, _ := s.Find("q.png")
	assert.Empty(t, off.Findings(q))

	mark := audit.Mark{Page: "index.html", Rule: "missing-file", Written: "no.html"}
	unused := audit.Mark{Page: "q.png", Rule: "unused-file"}
	aside := audit.Judge(s, rule.All, audit.Terms{Aside: map[audit.Mark]string{mark: "it comes in spring", unused: "for later"}})
	assert.Equal(t, []string{"missing-file broken nil.html", "missing-alt advice p.png"}, found(s, aside, "index.html"))
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
	s := folder(root, map[string]string{"index.html": home, "a.html": "<p id=x>", "p.png": ""})
	assert.Equal(t, "seeds.example/club/", s.Place.Published)
	r := audit.Judge(s, rule.All, audit.Terms{})
	assert.Equal(t, []string{"own-address fragile https://seeds.example/club/a.html#x"}, found(s, r, "index.html"))
	file, _ := s.Find("index.html")
	assert.Equal(t, []audit.State{audit.Sound, audit.Sound, audit.Fragile, audit.Unchecked, audit.Unchecked}, r.States(file), "the host may have what the folder has not")
	_, err := address.ParsePublished("seeds.example")
	assert.ErrorContains(t, err, "begins with https://")
}

func TestReferencesBetweenElementsAreLookedUp(t *testing.T) {
	s := folder(root, map[string]string{
		"index.html": "<label for=name>x</label><input id=name><label for=Name>x</label><img src=index.html usemap='#beds' alt=x><img src=index.html usemap='#none' alt=x><map name=beds></map><a name=old></a><div aria-labelledby='old'>",
	})
	r := audit.Judge(s, rule.All, audit.Terms{})
	assert.Equal(t, []string{"missing-fragment broken Name", "missing-fragment broken #none", "missing-fragment broken old"}, found(s, r, "index.html"))
	c := audit.NewCase(s, 0, 1)
	headline, sentences := explain.Explain(c, r.Of(0, 1))
	assert.Equal(t, "No element has the id `Name`", headline)
	assert.Equal(t, "`for` names an element of this page, but nothing on it has the id `Name`. `name` differs in letter case, and letter case counts.", sentences[0])
	assert.Equal(t, []string{"name"}, explain.Stair(c)[0].Names[:1])
}

func TestNamesAsTheRulesWouldHaveThem(t *testing.T) {
	for name, better := range map[string]string{
		"My Page.HTML": "my-page.html", "d/Möhren & Rüben.htm": "mohren-and-ruben.htm", "2017.html": "page-2017.html", "3 leeks.PNG": "picture-3-leeks.png",
		"a%20b.html": "a-b.html", "種.html": "", "it's.html": "its.html", "Straße.html": "strasse.html", "a_b-c.html": "a_b-c.html", "--x--.html": "x.html",
	} {
		assert.Equal(t, better, naming.BetterFile(name), name)
		if better != "" {
			assert.Empty(t, naming.FileFault(better))
		}
	}
}

func TestAnExtensionThatDoesNotFitTheContent(t *testing.T) {
	png := site.File{Path: "a.jpg", Kind: site.Image, Content: site.ContentOf([]byte("\x89PNG\r\n\x1a\n...."))}
	ext, disguised := png.Disguised()
	assert.True(t, disguised)
	assert.Equal(t, ".png", ext)
	for name, head := range map[string]string{
		"a.jpeg": "\xFF\xD8\xFF", "a.html": "<!DOCTYPE html>", "a.htm": "text", "a.svg": "<?xml version", "a.docx": "PK\x03\x04", "notes.txt": "BM is a letter pair", "a.svg ": "<svg",
	} {
		f := site.File{Path: name, Content: site.ContentOf([]byte(head))}
		_, disguised := f.Disguised()
		assert.False(t, disguised, name)
	}
	s := site.Build([]site.File{png, {Path: "index.html", Kind: site.Page, Doc: markup.NewScanner().Page([]byte("<a href=a.jpg>x</a>"))}}, site.Options{Place: root})
	r := audit.Judge(s, rule.All, audit.Terms{})
	require.Len(t, r.Findings(0), 1)
	_, sentence := r.Findings(0)[0].Say(audit.CaseOf(s, r.Findings(0)[0], 0))
	assert.Contains(t, sentence, "Its first bytes are those of a `.png` file.")
}
