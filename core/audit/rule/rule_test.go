package rule_test

import (
	"strings"
	"testing"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/explain"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/test/sample"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEachRuleFindsItsMistake(t *testing.T) {
	for link, rule := range map[string]string{
		`<a href="../index.html">`:                          "",
		`<a href="saving.html">`:                            "",
		`<img src="../images/leek.png">`:                    "",
		`<a href="../C/">`:                                  "",
		`<a href="https://orchard.example/">`:               "",
		`<a href="mailto:a@b.example?subject=Seed%20swap">`: "",
		`<a href="tel:+15550100">`:                          "",
		`<a href="#beans">`:                                 "",
		`<a href="#">Back to the top</a>`:                   "",
		`<a href="#" onclick="x()">Menu</a>`:                "",
		`<form action="">`:                                  "",
		`<a href="javascript:void(0)">`:                     "",
		`<template><a href="nowhere.html"></template>`:      "",
		`<a href="savings.html">`:                           "missing-file",
		`<img src="../image/leek.png">`:                     "missing-file",
		`<script src="x.js">`:                               "missing-file",
		`<iframe src="x.html">`:                             "missing-file",
		`<source src="x.mp4">`:                              "missing-file",
		`<a href="notes.md">`:                               "missing-file",
		`<a href="guide.pl">`:                               "missing-file",
		`<a href="../notes/">`:                              "missing-index",
		`<a href="../notes">`:                               "missing-index",
		`<img src="../images/Leek.png">`:                    "case-mismatch",
		`<a href="Saving.html#x">`:                          "case-mismatch",
		`<a href="#Beans">`:                                 "missing-fragment",
		`<a href="saving.html#drying">`:                     "missing-fragment",
		`<a href="www.orchard.example">`:                    "missing-scheme",
		`<a href="orchard.example/pears">`:                  "missing-scheme",
		`<a href="orchard.com">`:                            "missing-scheme",
		`<a href="ines@seedlibrary.example">`:               "missing-scheme",
		`<a href="ines@seedlibrary.example?subject=x">`:     "missing-scheme",
		`<a href="mailto:ines">`:                            "malformed-email",
		`<a href="mailto:a@b.example?subject=Seed swap">`:   "malformed-email",
		`<a href="C:\Users\ines\x.html">`:                   "disk-path",
		`<a href="file:///home/ines/x.html">`:               "disk-path",
		`<a href="c:/x.html">`:                              "disk-path",
		`<a href="..\index.html">`:                          "backslash",
		`<a href="http:\\orchard.example\x">`:               "backslash",
		`<a>x</a>`:                                          "no-destination",
		`<a href="">x</a>`:                                  "no-destination",
		`<a href=" ">x</a>`:                                 "no-destination",
		`<a href="#">More soup</a>`:                         "no-destination",
		`<img src="">`:                                      "no-destination",
		`<a href="` + strings.Repeat("x/", 5000) + `">`:     "too-long",
		`<a href="https://a b/">`:                           "malformed-url",
		`<a href="../../index.html">`:                       "climbs-out",
	} {
		_, findings, state := sample.Link(sample.Root, link)
		assert.Equal(t, rule, strings.Join(sample.Rules(findings), " "), link)
		if rule == "" {
			assert.Less(t, state, audit.Fragile, link)
		}
	}
}

func TestTwoMistakesAreTwoFindings(t *testing.T) {
	_, findings, state := sample.Link(sample.Root, `<a href="..\image\leek.png">`)
	assert.Equal(t, []string{"missing-file", "backslash"}, sample.Rules(findings))
	assert.Equal(t, audit.Broken, state)
}

func TestLetterCaseCountsByPlace(t *testing.T) {
	ignoring := address.Place{Mount: "/", IgnoreCase: true}
	_, findings, state := sample.Link(ignoring, `<a href="Saving.html">`)
	assert.Equal(t, []string{"case-mismatch"}, sample.Rules(findings))
	assert.Equal(t, audit.Fragile, state)
	_, findings, state = sample.Link(ignoring, `<a href="Saving.html#drying">`)
	assert.Equal(t, []string{"missing-fragment"}, sample.Rules(findings))
	assert.Equal(t, audit.Broken, state)
}

func TestLeadingSlashByPlace(t *testing.T) {
	for place, state := range map[address.Place]audit.State{
		sample.Root:                                audit.Sound,
		{Kind: address.Below, Mount: "/club/"}:     audit.Fragile,
		{Kind: address.Disk, Mount: "/home/ines/"}: audit.Fragile,
	} {
		_, _, got := sample.Link(place, `<a href="/index.html">`)
		assert.Equal(t, state, got, place.Mount)
	}
}

// wholeFile lists the findings of a folder that are about no reference, as "path rule".
func whole(files map[string]string) (out []string) {
	s := sample.Folder(sample.Root, files)
	r := audit.Judge(s, rule.All, audit.Terms{})
	for i := range s.Files {
		for _, f := range r.Findings(int32(i)) {
			if f.Ref < 0 {
				c := audit.CaseOf(s, f, int32(i))
				what := s.Files[i].Path + " " + f.Rule.Name
				if c.Anchor != nil {
					what += " " + c.Anchor.Name
				}
				out = append(out, what)
			}
		}
	}
	return out
}

func TestRulesAboutPagesIdsAndNames(t *testing.T) {
	home := "<title>Home</title><a href=a.html>a</a>"
	for want, page := range map[string]string{
		"":                       "<title>A</title><a href=index.html>home</a>",
		"a.html duplicate-id x":  "<title>A</title><a href=index.html>home</a><p id=x><p id=x>",
		"a.html space-in-id a b": "<title>A</title><a href=index.html>home</a><p id='a b'>",
		"a.html hash-in-id #x":   "<title>A</title><a href=index.html>home</a><p id='#x'>",
		"a.html missing-title":   "<a href=index.html>home</a>",
		"a.html empty-page":      "<title>A</title><p> </p>",
		"a.html dead-end":        "<title>A</title>A page",
	} {
		assert.Equal(t, want, strings.Join(whole(map[string]string{"index.html": home, "a.html": page}), "; "), page)
	}
	assert.Equal(t, []string{"rules.html.txt second-extension", "rules.html.txt unused-file", "style.css.map unused-file"},
		whole(map[string]string{"index.html": home, "a.html": "<title>A</title><a href=.>x</a>", "rules.html.txt": "", "style.css.map": "", "index.html.txt": ""})[1:])
	assert.Equal(t, []string{"B c.html file-name", "B c.html unreached", "x.png unused-file"},
		whole(map[string]string{"index.html": home, "a.html": "<title>A</title><a href=.>x</a>", "B c.html": "<title>B</title><a href=.>x</a>", "x.png": ""}))
	for page, want := range map[string][]string{
		"<title>B</title><meta http-equiv=refresh content='0; url=a.html'><a href=a.html>on</a>":  nil,
		"<title>B</title><meta http-equiv=refresh content='60; url=b.html'><a href=a.html>on</a>": {"b.html unreached"},
		"<title>B</title><meta property=og:image content=a.html><a href=a.html>on</a>":            {"b.html unreached"},
	} {
		assert.Equal(t, want, whole(map[string]string{"index.html": home, "a.html": "<title>A</title><a href=.>x</a>", "b.html": page}), page)
	}
}

// Two pages that lead only to each other, and one with nothing but outside links, have no way home; what is shown in a frame has
// that of the page around it.
func TestPagesFromWhichNoLinkLeadsHome(t *testing.T) {
	got := whole(map[string]string{
		"index.html": "<title>H</title><a href=a.html>a</a><a href=d.html>d</a><iframe src=f.html title=f></iframe><a href=g.html>g</a>",
		"a.html":     "<title>A</title><a href=b.html>b</a>", "b.html": "<title>B</title><a href=a.html>a</a><a href=c.html>c</a>",
		"c.html": "<title>C</title><a href=a.html>a</a>", "d.html": "<title>D</title><a href=https://plots.example/>out</a>",
		"f.html": "<title>F</title><a href=https://plots.example/>out</a>", "g.html": "<title>G</title>no link", "h.html": "<title>H</title><a href=.>h</a>",
	})
	assert.Equal(t, []string{"a.html no-way-home", "b.html no-way-home", "c.html no-way-home", "d.html no-way-home", "g.html dead-end", "h.html unreached"}, got)
}

func TestSpacesAtTheEdgesOfALinksWords(t *testing.T) {
	for link, has := range map[string]bool{
		"<a href=.> w</a>": true, "<a href=.>w </a>": true, "<a href=.>w&nbsp;</a>": true, "<a href=.>\u00a0w</a>": true, "<a href=.>w&#160;&#160;</a>": true,
		"<a href=.>w</a>": false, "<a href=.>\n  w\n</a>": false, "<a href=.> <b>w</b> </a>": false, "<a href=.> </a>": false, "<a href=.>a b</a>": false,
	} {
		c, findings, _ := sample.Link(sample.Root, link)
		got := false
		for _, f := range findings {
			got = got || f.Rule.Name == "space-in-link-text"
		}
		assert.Equal(t, has, got, "%s %v", link, c.Ref)
	}
}

// The words of a link can be an address on the same host, but of another page.
func TestWordsThatAreAnotherAddress(t *testing.T) {
	for link, has := range map[string]bool{
		`<a href="https://plots.example/a">https://plots.example/b</a>`:      true,
		`<a href="https://plots.example/a">plots.example/b</a>`:              true,
		`<a href="https://plots.example/a/">www.plots.example/a</a>`:         false,
		`<a href="https://plots.example/a#x">https://plots.example/a</a>`:    false,
		`<a href="https://plots.example/a">plots.example</a>`:                false,
		`<a href="https://other.example/a">plots.example</a>`:                true,
		`<a href="https://plots.example/%C3%A4">https://plots.example/ä</a>`: false,
		`<a href="mailto:a@plots.example">b@plots.example</a>`:               true,
	} {
		_, findings, _ := sample.Link(sample.Root, link)
		got := false
		for _, f := range findings {
			got = got || f.Rule.Name == "address-in-text"
		}
		assert.Equal(t, has, got, link)
	}
}

func TestReferencesBetweenElementsAreLookedUp(t *testing.T) {
	s := sample.Folder(sample.Root, map[string]string{
		"index.html": "<label for=name>x</label><input id=name><label for=Name>x</label><img src=index.html usemap='#beds' alt=x><img src=index.html usemap='#none' alt=x><map name=beds></map><a name=old></a><div aria-labelledby='old'>",
	})
	r := audit.Judge(s, rule.All, audit.Terms{})
	assert.Equal(t, []string{"missing-fragment broken Name", "missing-fragment broken #none", "missing-fragment broken old"}, sample.Found(s, r, "index.html"))
	c := audit.NewCase(s, 0, 1)
	headline, sentences := explain.Explain(c, r.Of(0, 1))
	assert.Equal(t, "No element has the id `Name`", headline)
	assert.Equal(t, "`for` names an element of this page, but nothing on it has the id `Name`. `name` differs in letter case, which counts in ids.", sentences[0])
	assert.Equal(t, []string{"name"}, explain.Stair(c)[0].Names[:1])
}

// A reference that is not meant for this folder gets a sentence that says what it is.
func TestWhatIsNotMeantForTheFolderSaysWhatItIs(t *testing.T) {
	for link, says := range map[string]string{
		`<a href="{{root}}/visit.html">`:   "A template fills this in",
		`<a href="%ROOT%/visit.html">`:     "A template fills this in",
		`<a href="$base/visit.html">`:      "A template fills this in",
		`<a href="@root@/visit.html">`:     "A template fills this in",
		`<a href="#/about">`:               "A script on the page takes this",
		`<a href="#!about">`:               "A script on the page takes this",
		`<a href="/cgi-bin/order.pl?x=1">`: "A program on the server answers this",
		`<form action="guestbook.php">`:    "A program on the server answers this",
		`<a href="%C3%A4.html">`:           "Nothing is at `guides/ä.html`",
		`<a href="price$list.html">`:       "Nothing is at `guides/price$list.html`",
		`<a href="#about">`:                "No element has the id `about`",
	} {
		c, findings, _ := sample.Link(sample.Root, link)
		headline, _ := findings[0].Say(c)
		assert.Equal(t, says, headline, link)
	}
	for _, scheme := range []string{"rtsp", "rtmp", "nntp", "gopher", "magnet"} {
		_, findings, _ := sample.Link(sample.Root, `<a href="`+scheme+`://x.example/y">`)
		assert.Empty(t, findings, scheme)
	}
}

// A reference that lands is reported all the same if what it led to before is somewhere else now.
func TestWhatLandsOnSomethingElseThanBefore(t *testing.T) {
	s := sample.Folder(sample.Root, map[string]string{"index.html": "<a href=a.html>x</a>", "a.html": "", "b.html": ""})
	terms := audit.Terms{Displaced: audit.Displaced{"index.html": {"a.html": "b.html"}}}
	r := audit.Judge(s, rule.All, terms)
	assert.Equal(t, []string{"changed-place fragile a.html"}, sample.Found(s, r, "index.html"))
	file, _ := s.Find("index.html")
	_, sentence := r.Of(file, 0)[0].Say(audit.CaseOf(s, r.Of(file, 0)[0], file))
	assert.Equal(t, "`a.html` leads to `a.html`, but the page that it led to when the folder was last read is now `b.html`.", sentence)
	assert.Empty(t, sample.Found(s, r.Renew(s, []int32{}, nil), "index.html"), "it is back")
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
	s := site.Build([]site.File{png, {Path: "index.html", Kind: site.Page, Doc: markup.NewScanner().Page([]byte("<a href=a.jpg>x</a>"))}}, site.Options{Place: sample.Root})
	r := audit.Judge(s, rule.All, audit.Terms{})
	require.Len(t, r.Findings(0), 1)
	_, sentence := r.Findings(0)[0].Say(audit.CaseOf(s, r.Findings(0)[0], 0))
	assert.Contains(t, sentence, "Its first bytes are those of a `.png` file.")
}
