package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

func TestAMovedPageIsMendedInOneDecision(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Repairs")
	u.choose("Causes", "catalogue/Tomatoes.htm seems to have been moved here from the top of the folder")
	u.reads("6 of its 6 failing references land when read from there.")
	u.choose("What changes", "images/brandywine.png")
	u.below("images/brandywine.png leads to catalogue/images/brandywine.png which is not there")
	u.option("What changes", "news/autumn.html").MustHover()
	u.below("news/autumn.html line")
	u.tick("Repair ../Tomatoes.htm on news/autumn.html")
	u.press("button", "Repair 9 of 10")
	u.reads("9 references repaired: 9 broken.")
	tomatoes := u.file("catalogue/Tomatoes.htm")
	assert.Contains(t, tomatoes, `"../css/club.css"`)
	assert.Contains(t, tomatoes, `"leaves.html"`)
	assert.Contains(t, u.file("index.html"), `href="catalogue/Tomatoes.htm"`)
	assert.Contains(t, u.file("news/autumn.html"), `"../Tomatoes.htm"`, "what was left out is left as it is")
	u.press("link", "History")
	u.press("button", "Undo")
	require.True(t, drive.Eventually(func() bool { return u.file("catalogue/Tomatoes.htm") != tomatoes }))
}

func TestAllThatIsCertainByKeyboard(t *testing.T) {
	u := sitDown(t)
	before := u.file("guides/saving.html")
	u.option("Pages", "Seed library")
	u.page.Keyboard.MustType(input.KeyG)
	u.page.Keyboard.MustType(input.KeyR)
	u.option("Causes", "The folder images is written image")
	u.page.Keyboard.MustType(input.KeyC)
	u.reads("fragile. It can be undone in History")
	assert.NotContains(t, u.file("guides/sowing.html"), "../image/")
	c := drive.Check(t, u.dir)
	for _, f := range c.Findings {
		for _, r := range f.Repairs {
			assert.False(t, f.State == "broken" && r.Certainty == "certain", "%s on %s is left", f.Written, f.Page)
		}
	}
	require.NoError(t, u.Stop())
	u.start(u.dir)
	u.open("folder/1/history")
	u.option("Changes", "references repaired, certain")
	u.page.Keyboard.MustType(input.KeyU)
	u.becomes("guides/saving.html", before)
}

func TestASaveElsewhereWithdrawsARepair(t *testing.T) {
	u := sitDown(t)
	u.press("link", "Repairs")
	u.choose("Causes", "What is written notes/no_dig.html is notes/no-dig.html")
	page := strings.Replace(u.file("catalogue/squash.html"), "no_dig", "no-dig", 1)
	require.NoError(t, os.WriteFile(filepath.Join(u.dir, "catalogue/squash.html"), []byte(page), 0o644))
	require.True(t, drive.Eventually(func() bool { return !contains(u.text(), "notes/no_dig.html") }), u.text())
	u.reads("catalogue/squash.html changed: 1 broken one mended")
}
