package letters_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"arvel/core/letters"
	_ "arvel/test/seed" // rapid takes it
)

func TestAlignMarksTheLettersThatDiffer(t *testing.T) {
	for _, c := range []struct {
		written, real string
		want          []letters.Run
	}{
		{"../image/x", "../images/x", []letters.Run{{"../image", "../image", true}, {"", "s", false}, {"/x", "/x", true}}},
		{"#Squash", "#squash", []letters.Run{{"#", "#", true}, {"S", "s", false}, {"quash", "quash", true}}},
		{"a_b", "a-b", []letters.Run{{"a", "a", true}, {"_", "-", false}, {"b", "b", true}}},
		{"", "x", []letters.Run{{"", "x", false}}},
		{`<a href="swap">swap</a>`, "swap", []letters.Run{{`<a href="swap">`, "", false}, {"swap", "swap", true}, {"</a>", "", false}}},
		{"b.html", "club/b.html#b", []letters.Run{{"", "club/", false}, {"b.html", "b.html", true}, {"", "#b", false}}},
		{"x", "x", []letters.Run{{"x", "x", true}}},
	} {
		assert.Equal(t, c.want, letters.Align(c.written, c.real))
	}
}

func TestAlignKeepsBothTexts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.StringMatching(`[abé/]{0,12}`)
		a, b := word.Draw(t, "a"), word.Draw(t, "b")
		gotA, gotB := "", ""
		for _, r := range letters.Align(a, b) {
			gotA += r.Written
			gotB += r.Real
			assert.Equal(t, r.Same, r.Written == r.Real)
		}
		assert.Equal(t, []string{a, b}, []string{gotA, gotB})
	})
}

func TestDistance(t *testing.T) {
	for _, c := range []struct {
		a, b string
		d    int
	}{{"pest", "pests", 1}, {"squahs", "squash", 1}, {"bean", "been", 1}, {"bean", "bean", 0}, {"bean", "corn", 3}, {"", "abc", 3}} {
		assert.Equal(t, c.d, letters.Distance(c.a, c.b, 2), c.a+" "+c.b)
	}
}

func TestNearPutsTheNearestFirst(t *testing.T) {
	assert.Equal(t, []string{"Leek-Flower.png", "leek-flowers.png"}, letters.NewIndex([]string{"leek-flowers.png", "Leek-Flower.png", "packet.svg"}).Near("leek_flower.png", 5))
}
