package change_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/change"
	_ "arvel/test/seed" // rapid takes it
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
		recorded, err := change.Recorded(src, es)
		require.NoError(t, err)
		back, err := change.Apply(out, change.Inverse(recorded))
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

func TestUnifiedIsADiffThatGitTakes(t *testing.T) {
	for want, f := range map[string]change.File{
		"diff --git a/x.html b/x.html\n--- a/x.html\n+++ b/x.html\n@@ -1,2 +1,2 @@\n one\n-two\n+2\n": {
			Path: "x.html", Edits: []change.Edit{{Start: 4, End: 7, New: []byte("2")}},
		},
		"diff --git a/x.html b/d/y.html\nrename from x.html\nrename to d/y.html\n": {Kind: change.Moved, From: "x.html", Path: "d/y.html"},
		"diff --git \"a/\\303\\251.html\" \"b/\\303\\251.html\"\nnew file mode 100644\n--- /dev/null\n+++ \"b/\\303\\251.html\"\n@@ -0,0 +1 @@\n+new\n": {
			Kind: change.Made, Path: "\u00e9.html", Content: []byte("new\n"),
		},
		"diff --git a/x.html b/x.html\ndeleted file mode 100644\n--- a/x.html\n+++ /dev/null\n@@ -1,2 +0,0 @@\n-one\n-two\n": {Kind: change.Deleted, Path: "x.html"},
		"diff --git a/p.png b/p.png\nnew file mode 100644\nBinary files a/p.png and b/p.png differ\n":                        {Kind: change.Made, Path: "p.png", Content: []byte("\x00")},
	} {
		got, err := f.Unified([]byte("one\ntwo\n"))
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
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
