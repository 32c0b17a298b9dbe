package change_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/change"
)

func text(b []byte) string { return string(b) }

// edits draws edits that fit src and do not lie over each other.
func edits(t *rapid.T, src []byte) []change.Edit {
	var out []change.Edit
	for at := 0; at <= len(src); {
		start := rapid.IntRange(at, len(src)).Draw(t, "start")
		end := rapid.IntRange(start, len(src)).Draw(t, "end")
		out = append(out, change.Edit{Start: start, End: end, New: rapid.SliceOfN(rapid.Byte(), 0, 5).Draw(t, "new")})
		if at = end + 1; rapid.Bool().Draw(t, "enough") {
			break
		}
	}
	return out
}

func TestAppliedAndInvertedIsTheSameBytes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		src := rapid.SliceOf(rapid.Byte()).Draw(t, "src")
		es := edits(t, src)
		out, err := change.Apply(src, es)
		require.NoError(t, err)
		inverse, err := change.Invert(src, es)
		require.NoError(t, err)
		back, err := change.Apply(out, inverse)
		require.NoError(t, err)
		assert.Equal(t, append([]byte{}, src...), append([]byte{}, back...))
	})
}

func TestApplyRefusesWhatDoesNotFit(t *testing.T) {
	for _, es := range [][]change.Edit{
		{{Start: -1, End: 0}},
		{{Start: 2, End: 1}},
		{{Start: 0, End: 4}},
		{{Start: 0, End: 2}, {Start: 1, End: 3}},
	} {
		_, err := change.Apply([]byte("abc"), es)
		var bad *change.EditError
		assert.ErrorAs(t, err, &bad)
	}
}

func TestUnifiedIsADiff(t *testing.T) {
	got, err := change.Unified("x.html", []byte("one\ntwo\n"), []change.Edit{{Start: 4, End: 7, New: []byte("2")}})
	require.NoError(t, err)
	assert.Equal(t, "--- a/x.html\n+++ b/x.html\n@@ -1,2 +1,2 @@\n one\n-two\n+2\n", got)
}

func TestLinesShowWhatAnEditTouches(t *testing.T) {
	src := []byte("one\r\ntwo two\r\nthree\n")
	got, err := change.Lines(src, []change.Edit{{Start: 9, End: 12, New: []byte("2")}, {Start: 5, End: 8, New: []byte("1")}, {Start: 19, End: 19, New: []byte("!")}}, 1, text)
	require.NoError(t, err)
	assert.Equal(t, []change.Line{{2, "two two", "1 2"}, {3, "three", "three!"}}, got)
}

func TestLinesShortensALongOne(t *testing.T) {
	src := make([]byte, 1000)
	for i := range src {
		src[i] = 'x'
	}
	got, err := change.Lines(src, []change.Edit{{Start: 500, End: 501, New: []byte("y")}}, 1, text)
	require.NoError(t, err)
	assert.Len(t, got[0].Before, 321)
	assert.Equal(t, byte('y'), got[0].After[160])
}
