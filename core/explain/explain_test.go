package explain_test

import (
	"fmt"
	"testing"

	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/explain"
	"arvel/core/site"
	"arvel/test/sample"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSentencesNameTheLetters(t *testing.T) {
	for link, want := range map[string]string{
		`<img src="../image/leek.png">`: "`image/leek.png` does not exist: there is no `image` at the top of the folder. `images` is one letter away.",
		`<a href="#Beans">`:             "The link stays on this page, but nothing on it has the id `Beans`. `beans` differs in letter case, which counts in ids.",
		`<a href="saving.html#drying">`: "`guides/saving.html` is there, but nothing on it has the id `drying`. It has no ids at all.",
		`<a href="../notes/">`:          "The folder is there, but it holds no `index.html` and no `index.htm`, so a visitor gets an error or a bare list of files.",
	} {
		c, findings, _ := sample.Link(sample.Root, link)
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
		c, findings, _ := sample.Link(sample.Root, link)
		headline, sentences := explain.Explain(c, findings)
		assert.NotEmpty(t, headline)
		for _, s := range sentences {
			assert.Regexp(t, `(?s)^[A-Z`+"`"+`].*\.$`, s, link)
			assert.NotContains(t, s, "!")
		}
	}
}

func TestStairBreaksOffAndListsWhatStands(t *testing.T) {
	c, _, _ := sample.Link(sample.Root, `<img src="../image/leek.png">`)
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
		`<a href="x.html">`:                        "leads to guides/x.html which does not exist",
		`<a href="mailto:a@b.example?subject=Hi">`: "writes to a@b.example with the subject “Hi”",
		`<a href="https://orchard.example/x">`:     "leads outside, to https://orchard.example/x not asked yet",
		`<a>x</a>`:                                 "leads nowhere  the link has no href",
		`<a href="tel:+15550100">`:                 "calls +15550100 ",
		`<img src="../images/Leek.png">`:           "leads to images/Leek.png which is images/leek.png on disk",
		`<template><a href="x.html"></template>`:   "is in a template  where nothing is followed",
		`<a href="#top">`:                          "lands on guides/sowing.html#top the top of the page",
	} {
		c, _, _ := sample.Link(sample.Root, link)
		verb, where, note := explain.Destination(c)
		assert.Equal(t, want, verb+" "+where+" "+note, link)
	}
}

func TestOutlineTellsWhoRefersToWhat(t *testing.T) {
	s := sample.Folder(sample.Root, map[string]string{
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
	s := sample.Folder(sample.Root, map[string]string{
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
