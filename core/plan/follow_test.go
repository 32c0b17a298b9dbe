package plan_test

import (
	"maps"
	"path"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"arvel/core/plan"
	"arvel/core/repair"
)

// departures are moves as the record of a folder tells them.
func departures(moves []plan.Move) (out []repair.Departure) {
	for _, m := range moves {
		out = append(out, repair.Departure{From: m.From, To: m.To, Same: true, Copies: 1})
	}
	return out
}

// Once moves that somebody else made are followed, every reference that landed before them lands on the same thing again:
// all at once, and one after the other in any order.
func TestWhatLandedLandsAgainOnceMovesElsewhereAreFollowed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := drawFolder(t)
		all := slices.Sorted(maps.Keys(f))
		if len(all) == 0 {
			return
		}
		var moves []plan.Move
		to, taken := map[string]string{}, map[string]bool{}
		for range rapid.IntRange(1, 4).Draw(t, "moves") {
			from := rapid.SampledFrom(all).Draw(t, "from")
			name := rapid.SampledFrom([]string{path.Base(from), "renamed" + path.Ext(from)}).Draw(t, "name")
			m := plan.Move{From: from, To: path.Join(rapid.SampledFrom([]string{"new", "new/deep", "d", "h", "."}).Draw(t, "dir"), name)}
			if to[from] != "" || taken[m.To] || f[m.To] != "" || slices.Contains(all, m.To) || path.Base(from) == "index.html" {
				continue
			}
			to[from], taken[m.To] = m.To, true
			moves = append(moves, m)
		}
		place := func(q string) string {
			if n, moved := to[q]; moved {
				return n
			}
			return q
		}
		moved := folder{}
		for q, src := range f {
			moved[place(q)] = src
		}
		landsAsBefore := func(after folder) {
			is := landings(after.snapshot())
			for page, was := range landings(f.snapshot()) {
				for i, want := range was {
					if strings.HasPrefix(want, "broken ") {
						continue
					}
					k := strings.LastIndex(want, " ")
					assert.Equal(t, place(want[:k])+want[k:], is[place(page)][i], "%s, reference %d, of %v", page, i, moves)
				}
			}
		}
		landsAsBefore(moved.moved(t, plan.Follow(moved.snapshot(), moves, departures(moves))))

		order := rapid.Permutation(moves).Draw(t, "order")
		known := departures(order)
		after := moved
		for i := range order {
			after = after.moved(t, plan.Follow(after.snapshot(), order[i:i+1], known))
			known[i].Followed = true
		}
		landsAsBefore(after)
		assert.Empty(t, plan.PendingMoves(after.snapshot(), known), "all is followed")
	})
}

func TestUnfollowedMovesAreToldByFolder(t *testing.T) {
	f := folder{
		"index.html": "<a href=g/a.html>a</a><a href=g/b/c.html>c</a><img src=p.png>", "new/g/a.html": "<a href=../index.html>home</a>", "new/g/b/c.html": "<a href=../a.html>a</a>",
		"i/p.png": "",
	}
	off := plan.PendingMoves(f.snapshot(), []repair.Departure{
		{From: "g/a.html", To: "new/g/a.html", Same: true, Copies: 1},
		{From: "g/b/c.html", To: "new/g/b/c.html", Copies: 1},
		{From: "p.png", To: "i/p.png", Same: true, Copies: 2},
		{From: "gone.html"},
		{From: "x.html", To: "vanished.html", Copies: 1},
	})
	assert.Equal(t, []plan.Pending{
		{Move: plan.Move{From: "g", To: "new/g"}, Files: 2, Certain: true, Behind: 2, Inside: 1},
		{Move: plan.Move{From: "p.png", To: "i/p.png"}, Identical: true, Behind: 1},
	}, off)
	assert.Equal(t, []string{"Nothing is at `x.html` now."}, plan.Follow(f.snapshot(), []plan.Move{{From: "y.html", To: "x.html"}}, nil).Clashes)
	assert.Empty(t, plan.Follow(f.snapshot(), nil, nil).Set.Files)
}
