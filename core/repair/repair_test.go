package repair_test

import (
	"maps"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
)

var library = map[string]string{
	"index.html": "<title>Seed library</title>", "visit.html": "<title>Visit us</title>", "borrow.html": "<p id=rules>",
	"guides/saving.html": "<title>Saving your own seed</title><h2 id=drying>Drying</h2><h2 id='hand-pollination'>By hand</h2>",
	"guides/pests.html":  "", "guides/index.html": "", "catalogue/index.html": "", "catalogue/squash.html": "", "catalogue/leaves.html": "",
	"images/bean-pods.png": "", "images/leek.png": "", "images/old/leek.png": "", "files/table 2026.pdf": "", "news/2017.html": "", "news/2018.html": "",
}

// repairs returns the repairs of a link on guides/sowing.html, and the page they are written on.
func repairs(t *testing.T, link string) ([]repair.Repair, *audit.Case, string) {
	t.Helper()
	page := `<h2 id="beans">Beans</h2><h2 id="squash">Squash</h2>` + link
	files := maps.Clone(library)
	files["guides/sowing.html"] = page
	s, past := folder(files, nil)
	file, _ := s.Find("guides/sowing.html")
	c := audit.NewCase(s, file, 0)
	findings, _ := rule.All.Judge(c)
	return repair.NewPlanner(s, past).For(c, findings), c, page
}

func doc(path, src string) *markup.Document {
	if site.KindOf(path) != site.Page {
		return nil
	}
	return markup.NewScanner().Page([]byte(src))
}

func TestTheBestRepair(t *testing.T) {
	for _, c := range []struct {
		link, written string
		certainty     repair.Certainty
	}{
		{`<a href="Saving.html#drying">`, "saving.html#drying", repair.Certain},
		{`<a href="../Catalogue/squash.html">`, "../catalogue/squash.html", repair.Certain},
		{`<a href="saving.htm">`, "saving.html", repair.Certain},
		{`<a href="saving">`, "saving.html", repair.Certain},
		{`<img src="../images/bean_pods.png">`, "../images/bean-pods.png", repair.Certain},
		{`<img src="../images/bean-pods.jpg">`, "../images/bean-pods.png", repair.Certain},
		{`<a href="../files/table_2026.pdf">`, "../files/table%202026.pdf", repair.Certain},
		{`<img src="../image/bean-pods.png">`, "../images/bean-pods.png", repair.Certain},
		{`<a href="pest.html">`, "pests.html", repair.Likely},
		{`<a href="../vist.html">`, "../visit.html", repair.Likely},
		{`<a href="squash.html">`, "../catalogue/squash.html", repair.Likely},
		{`<a href="visit.html">`, "../visit.html", repair.Certain},
		{`<a href="../../images/bean-pods.png">`, "../images/bean-pods.png", repair.Certain},
		{`<a href="../guides/saving.html#Drying">`, "../guides/saving.html#drying", repair.Certain},
		{`<a href="#Squash">`, "#squash", repair.Certain},
		{`<a href="saving.html#hand_pollination">`, "saving.html#hand-pollination", repair.Certain},
		{`<a href="#bean">`, "#beans", repair.Likely},
		{`<a href="#drying">`, "saving.html#drying", repair.Possible},
		{`<a href="www.orchard.example/x?a=1&b=2">`, "https://www.orchard.example/x?a=1&b=2", repair.Certain},
		{`<a href="ines@seedlibrary.example?subject=Seed swap">`, "mailto:ines@seedlibrary.example?subject=Seed%20swap", repair.Certain},
		{`<a href="mailto:a@b.example&amp;subject=x">`, "mailto:a@b.example?subject=x", repair.Certain},
		{`<a href="C:\My Site\guides\saving.html">`, "saving.html", repair.Certain},
		{`<a href="..\visit.html">`, "../visit.html", repair.Certain},
		{`<a href="..\Visit.html">`, "../visit.html", repair.Certain},
		{`<a href="saving.html\#Drying">`, "saving.html#Drying", repair.Possible},
		{`<a href="../../visit.html">`, "../visit.html", repair.Certain},
		{`<a href="">Visit us</a>`, "../visit.html", repair.Likely},
		{`<a>Squash</a>`, "#squash", repair.Likely},
		{`<a href="../news/2019.html">`, "../news/2017.html", repair.Possible},
		{`<a href="../news/">`, "../news/2017.html", repair.Possible},
		{`<a href="nothing-like-it.html">`, "", 0},
	} {
		got, _, _ := repairs(t, c.link)
		if c.written == "" {
			assert.Empty(t, got, c.link)
			continue
		}
		if assert.NotEmpty(t, got, c.link) {
			assert.Equal(t, c.written, got[0].Written, c.link)
			assert.Equal(t, c.certainty.String(), got[0].Certainty.String(), c.link)
		}
	}
}

func TestTwoThatFitAreNotCertain(t *testing.T) {
	got, _, _ := repairs(t, `<img src="leek.png">`)
	require.Len(t, got, 2)
	for _, r := range got {
		assert.NotEqual(t, repair.Certain, r.Certainty, r.Written)
	}
}

// What a repair writes lands, leaves the rest of the page alone, and is undone to the same bytes.
func TestRepairsLandAndTouchNothingElse(t *testing.T) {
	for _, link := range []string{
		`<a href="Saving.html">`, `<a href='../vist.html?a=1&amp;b=2#x'>`, `<img src=../image/bean-pods.png>`, `<a href=#Squash>`, `<a>Squash</a>`,
		`<a href="..\files\table_2026.pdf">`, `<a href=>Visit us</a>`, `<A HREF = "pest.html" >`,
	} {
		got, c, page := repairs(t, link)
		require.NotEmpty(t, got, link)
		edit, err := repair.Edit("utf-8", c.Ref, got[0].Written)
		require.NoError(t, err)
		after, err := change.Apply([]byte(page), []change.Edit{edit})
		require.NoError(t, err)
		recorded, err := change.Recorded([]byte(page), []change.Edit{edit})
		require.NoError(t, err)
		back, err := change.Apply(after, change.Inverse(recorded))
		require.NoError(t, err)
		assert.Equal(t, page, string(back))
		now := markup.NewScanner().Page(after)
		require.Len(t, now.References, 1, "%s", after)
		target := address.NewResolver(c.Snapshot.Place)
		target.At(c.File.Path, "", false)
		to := target.Resolve(now.References[0].Value())
		l := c.Snapshot.Land(&to)
		require.GreaterOrEqual(t, l.File, int32(0), "%s", after)
		assert.Equal(t, got[0].Target, c.Snapshot.Files[l.File].Path, "%s", after)
	}
}

func TestWrittenFitsTheEncoding(t *testing.T) {
	ref := &markup.Reference{Written: "x", Quote: '"'}
	assert.Equal(t, "café.html", repair.Written("windows-1252", ref, "café.html"))
	assert.Equal(t, "%E5%A4%A7.html", repair.Written("windows-1252", ref, "大.html"))
	assert.Equal(t, "大.html", repair.Written("shift_jis", ref, "大.html"))
	inSheet := &markup.Reference{Written: "x", Quote: '"', Flags: markup.InStyle, Element: markup.Other}
	assert.Equal(t, "caf%C3%A9.png", repair.Written("utf-8", inSheet, "café.png"), "a style sheet is read in the encoding of its page")
	inSheet.Written = "café/x.png"
	assert.Equal(t, "café/%C3%BC.png", repair.Written("utf-8", inSheet, "café/ü.png"), "what was written so is left")
	onPage := &markup.Reference{Written: "x", Quote: '"', Flags: markup.InStyle, Element: markup.P, Attribute: markup.AttrStyle}
	assert.Equal(t, "café.png", repair.Written("utf-8", onPage, "café.png"))
	edit, err := repair.Edit("utf-16le", ref, "a")
	require.NoError(t, err)
	assert.Equal(t, []byte{'a', 0}, edit.New)
}
