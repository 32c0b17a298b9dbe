package naming_test

import (
	"testing"

	"arvel/core/naming"

	"github.com/stretchr/testify/assert"
)

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

func TestWhatIsWrongWithANameIsSaid(t *testing.T) {
	for name, fault := range map[string]string{
		"a-b_c.html": "", "A.html": "capital", "a b.html": "space", "é.html": "other than", "a&b.html": "`&`", "1.html": "digit", "d/2/x.html": "",
	} {
		if got := naming.FileFault(name); fault == "" {
			assert.Empty(t, got, name)
		} else {
			assert.Contains(t, got, fault, name)
		}
	}
}

func TestASecondExtensionHidesAnother(t *testing.T) {
	for p, want := range map[string]string{
		"a/rules.html.txt": "a/rules.html", "news.html.html": "news.html", "photo.png.jpg": "photo.png", "p.HTM.txt": "p.HTM", "club.css.txt": "club.css", "club.css.css": "club.css", "list.pdf.pdf": "list.pdf",
		"club.css.map": "", "script.js.html": "", "photo.jpg.html": "", "list.tar.gz": "", ".html.txt": "", "page.html": "", "a.b.html": "", "notes.txt.html": "",
	} {
		assert.Equal(t, want, naming.WithoutSecondExtension(p), p)
	}
}
