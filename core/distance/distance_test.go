package distance_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"arvel/core/distance"
	_ "arvel/test/seed" // rapid takes it
)

func TestAlignMarksTheLettersThatDiffer(t *testing.T) {
	for _, c := range []struct {
		written, real string
		want          []distance.Run
	}{
		{"../image/x", "../images/x", []distance.Run{{"../image", "../image", true}, {"", "s", false}, {"/x", "/x", true}}},
		{"#Squash", "#squash", []distance.Run{{"#", "#", true}, {"S", "s", false}, {"quash", "quash", true}}},
		{"a_b", "a-b", []distance.Run{{"a", "a", true}, {"_", "-", false}, {"b", "b", true}}},
		{"", "x", []distance.Run{{"", "x", false}}},
		{`<a href="swap">swap</a>`, "swap", []distance.Run{{`<a href="swap">`, "", false}, {"swap", "swap", true}, {"</a>", "", false}}},
		{"b.html", "club/b.html#b", []distance.Run{{"", "club/", false}, {"b.html", "b.html", true}, {"", "#b", false}}},
		{"x", "x", []distance.Run{{"x", "x", true}}},
	} {
		assert.Equal(t, c.want, distance.Align(c.written, c.real))
	}
}

func TestAlignKeepsBothTexts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.StringMatching(`[abé/]{0,12}`)
		a, b := word.Draw(t, "a"), word.Draw(t, "b")
		gotA, gotB := "", ""
		for _, r := range distance.Align(a, b) {
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
		assert.Equal(t, c.d, distance.Distance(c.a, c.b, 2), c.a+" "+c.b)
	}
}

func TestNearPutsTheNearestFirst(t *testing.T) {
	assert.Equal(t, []string{"Leek-Flower.png", "leek-flowers.png"}, distance.NewIndex([]string{"leek-flowers.png", "Leek-Flower.png", "packet.svg"}).Near("leek_flower.png", 5))
}
