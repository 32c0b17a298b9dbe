package audit_test

import (
	"fmt"
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

// folder makes a snapshot of files given as path and content.
func folder(place address.Place, files map[string]string) *site.Snapshot {
	var list []site.File
	for p, src := range files {
		f := site.File{Path: p, Kind: site.KindOf(p)}
		if f.Kind == site.Page {
			f.Doc = markup.NewScanner().Page([]byte(src))
		}
		list = append(list, f)
	}
	return site.Build(list, site.Options{Place: place})
}

// judged judges one link on guides/sowing.html of a small seed library.
func judged(t *testing.T, place address.Place, link string) (rules []string, state audit.State, c *audit.Case) {
	t.Helper()
	if strings.HasPrefix(link, "<a ") && !strings.HasSuffix(link, "</a>") {
		link += "words</a>"
	}
	link = strings.Replace(link, "<img ", `<img alt="x" `, 1)
	s := folder(place, map[string]string{
		"index.html": "", "guides/sowing.html": "<h2 id=beans>Beans</h2>" + link, "guides/saving.html": "<title>Saving</title>",
		"images/leek.png": "", "notes/x.html": "", "files/table.pdf": "", "files/a table.pdf": "", "files/100%.pdf": "", "C/index.html": "",
	})
	r := audit.Judge(s, rule.All, audit.Terms{})
	file, _ := s.Find("guides/sowing.html")
	for _, f := range r.Of(file, 0) {
		rules = append(rules, f.Rule.Name)
	}
	require.Len(t, r.States(file), 1, link)
	return rules, r.States(file)[0], audit.NewCase(s, file, 0)
}

var root = address.Place{Mount: "/"}

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
		rules, state, _ := judged(t, root, link)
		assert.Equal(t, rule, strings.Join(rules, " "), link)
		if rule == "" {
			assert.Less(t, state, audit.Fragile, link)
		}
	}
}

func TestTwoMistakesAreTwoFindings(t *testing.T) {
	rules, state, _ := judged(t, root, `<a href="..\image\leek.png">`)
	assert.Equal(t, []string{"missing-file", "backslash"}, rules)
	assert.Equal(t, audit.Broken, state)
}

func TestLetterCaseCountsByPlace(t *testing.T) {
	ignoring := address.Place{Mount: "/", IgnoreCase: true}
	rules, state, _ := judged(t, ignoring, `<a href="Saving.html">`)
	assert.Equal(t, []string{"case-mismatch"}, rules)
	assert.Equal(t, audit.Fragile, state)
	rules, state, _ = judged(t, ignoring, `<a href="Saving.html#drying">`)
	assert.Equal(t, []string{"missing-fragment"}, rules)
	assert.Equal(t, audit.Broken, state)
}

func TestLeadingSlashByPlace(t *testing.T) {
	for place, state := range map[address.Place]audit.State{
		root:                                   audit.Sound,
		{Kind: address.Below, Mount: "/club/"}: audit.Fragile,
		{Kind: address.Disk, Mount: "/home/ines/"}: audit.Fragile,
	} {
		_, got, _ := judged(t, place, `<a href="/index.html">`)
		assert.Equal(t, state, got, place.Mount)
	}
}

func TestSentencesNameTheLetters(t *testing.T) {
	for link, want := range map[string]string{
		`<img src="../image/leek.png">`: "`image/leek.png` is not there: the top of the folder has no `image`. `images` is one letter away.",
		`<a href="#Beans">`:             "The link stays on this page, but nothing on it has the id `Beans`. `beans` differs in letter case, and letter case counts.",
		`<a href="saving.html#drying">`: "`guides/saving.html` is there, but nothing on it has the id `drying`. It has no ids at all.",
		`<a href="../notes/">`:          "The folder is there, but it holds no `index.html` and no `index.htm`, so a visitor gets an error or a bare list of files.",
	} {
		_, _, c := judged(t, root, link)
		findings, _ := rule.All.Judge(c)
		_, sentences := explain.Explain(c, findings)
		assert.Equal(t, []string{want}, sentences)
	}
}

// Every rule that applies has something to say, and says it in sentences.
func TestEveryRuleSpeaks(t *testing.T) {
	for _, r := range rule.All.List() {
		assert.Same(t, r, rule.All.Named(r.Name))
	}
	for _, link := range []string{
		`<a href="x">`, `<a href="../notes/">`, `<a href="Saving.html">`, `<a href="#x">`, `<a href="www.x.example">`, `<a href="mailto:x">`,
		`<a href="C:\x">`, `<a href="..\index.html">`, `<a>x</a>`, `<a href="#">x</a>`, `<img src="">`, `<a href="https://a b">`, `<a href="../../">`,
	} {
		_, _, c := judged(t, root, link)
		findings, _ := rule.All.Judge(c)
		headline, sentences := explain.Explain(c, findings)
		assert.NotEmpty(t, headline)
		for _, s := range sentences {
			assert.Regexp(t, `(?s)^[A-Z`+"`"+`].*\.$`, s, link)
			assert.NotContains(t, s, "!")
		}
	}
}

func TestStairBreaksOffAndListsWhatStands(t *testing.T) {
	_, _, c := judged(t, root, `<img src="../image/leek.png">`)
	stair := explain.Stair(c)
	require.Len(t, stair, 3)
	assert.Equal(t, []bool{true, false, false}, []bool{stair[0].Exists, stair[1].Exists, stair[2].Exists})
	assert.Equal(t, "images/", stair[1].Names[0])
	assert.Equal(t, 1, stair[1].Near)
	assert.Empty(t, stair[2].Names)
}

func TestDestinationReadsAsASentence(t *testing.T) {
	for link, want := range map[string]string{
		`<a href="saving.html">`:                   "lands on guides/saving.html ",
		`<a href="#beans">`:                        "lands on guides/sowing.html#beans ",
		`<a href="x.html">`:                        "leads to guides/x.html which is not there",
		`<a href="mailto:a@b.example?subject=Hi">`: "writes to a@b.example with the subject “Hi”",
		`<a href="https://orchard.example/x">`:     "leads outside, to https://orchard.example/x not asked yet",
		`<a>x</a>`:                                 "leads nowhere  the link has no href",
		`<a href="tel:+15550100">`:                 "calls +15550100 ",
		`<img src="../images/Leek.png">`:           "leads to images/Leek.png which is images/leek.png on disk",
		`<template><a href="x.html"></template>`:   "stands in a template  where nothing is followed",
		`<a href="#top">`:                          "lands on guides/sowing.html#top the top of the page",
	} {
		_, _, c := judged(t, root, link)
		verb, where, note := explain.Destination(c)
		assert.Equal(t, want, verb+" "+where+" "+note, link)
	}
}

func TestImagineJudgesALinkThatIsNotThere(t *testing.T) {
	s := folder(root, map[string]string{"a/x.html": "", "b.html": ""})
	file, _ := s.Find("a/x.html")
	c := audit.Imagine(s, file, "../b.html")
	_, state := rule.All.Judge(c)
	assert.Equal(t, audit.Sound, state)
	assert.Equal(t, []string{"from a/", "..               climbs to the top of the folder", "b.html           names b.html"}, explain.Words(c))
}

// wholeFile lists the findings of a folder that are about no reference, as "path rule".
func whole(files map[string]string) (out []string) {
	s := folder(root, files)
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
	assert.Equal(t, []string{"B c.html file-name", "B c.html unreached", "x.png unused-file"},
		whole(map[string]string{"index.html": home, "a.html": "<title>A</title><a href=.>x</a>", "B c.html": "<title>B</title><a href=.>x</a>", "x.png": ""}))
	for page, want := range map[string][]string{
		"<title>B</title><meta http-equiv=refresh content='0; url=a.html'><a href=a.html>on</a>":  nil,
		"<title>B</title><meta http-equiv=refresh content='60; url=b.html'><a href=a.html>on</a>": {"b.html unreached"},
		"<title>B</title><meta property=og:image content=a.html><a href=a.html>on</a>":            {"b.html unreached"},
	} {
		assert.Equal(t, want, whole(map[string]string{"index.html": home, "a.html": "<title>A</title><a href=.>x</a>", "b.html": page}), page)
	}
	for name, fault := range map[string]string{
		"a-b_c.html": "", "A.html": "capital", "a b.html": "space", "é.html": "beyond", "a&b.html": "`&`", "1.html": "digit", "d/2/x.html": "",
	} {
		if got := naming.FileFault(name); fault == "" {
			assert.Empty(t, got, name)
		} else {
			assert.Contains(t, got, fault, name)
		}
	}
}

func TestOutlineTellsWhoRefersToWhat(t *testing.T) {
	s := folder(root, map[string]string{
		"a.html": "<h1 id=one>One</h1><h2>Two</h2><p id=x><p id=x><a name=old></a><a href=#one>1</a><a href=#top>2</a><a href=#none>3</a>",
		"b.html": "<a href=a.html#one>1</a><a href=a.html>2</a><a href=a.html#old>3</a><a href='a.html#n%6Fne'>4</a>",
	})
	file, _ := s.Find("a.html")
	var got []string
	for _, l := range explain.Outline(audit.Judge(s, rule.All, audit.Terms{}), s, file) {
		got = append(got, fmt.Sprintf("%s|%s|%d|%d from|%d wrong", l.Name, l.Text, l.Level, len(l.Referrers), len(l.Findings)))
	}
	assert.Equal(t, []string{
		"none||0|2 from|0 wrong", "one|One|1|2 from|0 wrong", "|Two|2|0 from|0 wrong", "x||0|0 from|0 wrong", "x||0|0 from|1 wrong", "old||0|1 from|0 wrong",
	}, got)
}

func TestSurveyCountsTheWays(t *testing.T) {
	s := folder(root, map[string]string{
		"index.html": "<a href=b.html>1</a><a href=d/c.html>2</a><a href=#x>3</a><img src=p.png alt=x><a href=https://x.example/>4</a><a href=https://x.example/y>5</a><a href=mailto:a@b.example>6</a>",
		"b.html":     "<a href=/b.html>1</a>", "d/c.html": "<a href=../index.html>1</a><a href=../e/f.html>2</a><a href=../b.html#x>3</a>", "e/f.html": "",
	})
	v := explain.SurveyOf(audit.Judge(s, rule.All, audit.Terms{}), s)
	counts := map[string]int{}
	for way, n := range v.LinkKinds {
		for _, c := range n {
			counts[site.LinkKind(way).String()] += c
		}
	}
	for way, n := range map[string]int{
		"beside": 1, "down": 1, "on-page": 1, "image": 1, "site": 2, "e-mail": 1, "top": 1, "up": 1, "across": 1, "fragment": 1, "down ": 0,
	} {
		assert.Equal(t, n, counts[way], way)
	}
	assert.Equal(t, []int{2, 1, 1}, []int{v.BrokenPages, v.Sites, v.Mailboxes})
	assert.Equal(t, explain.FolderCount{Path: "d", Pages: 1, References: 3, Broken: 1}, v.Folders[1])
	assert.Equal(t, audit.Broken, v.Rules[0].State)
}
