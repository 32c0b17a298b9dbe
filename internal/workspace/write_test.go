package workspace_test

import (
	"bytes"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/internal/journal"
	"arvel/internal/workspace"
	"arvel/test/drive"
)

func hash(s string) change.Hash { return change.HashOf([]byte(s)) }

func TestSavingWritesTheEncodingAndTheLineEndsOfTheFile(t *testing.T) {
	for name, c := range map[string]struct{ file, text, want string }{
		"UTF-8 with CRLF":       {"<p>a</p>\r\n<p>b</p>\r\n", "<p>a</p>\n<p>x</p>\n<p>b</p>\n", "<p>a</p>\r\n<p>x</p>\r\n<p>b</p>\r\n"},
		"one CR among LFs":      {"<p>a\rb</p>\n<p>c</p>\n", "<p>a\nb</p>\n<p>d</p>\n", "<p>a\rb</p>\n<p>d</p>\n"},
		"UTF-8 with its mark":   {"\xEF\xBB\xBF<p>ü</p>", "<p>üü</p>", "\xEF\xBB\xBF<p>üü</p>"},
		"windows-1252":          {"<meta charset=latin1><p>\xfc</p>", "<meta charset=latin1><p>ü ö</p>", "<meta charset=latin1><p>\xfc \xf6</p>"},
		"Shift_JIS":             {"<meta charset=shift_jis><p>\x8e\xed</p>", "<meta charset=shift_jis><p>種種</p>", "<meta charset=shift_jis><p>\x8e\xed\x8e\xed</p>"},
		"UTF-16":                {"\xFF\xFE" + utf16("<p>a</p>\n"), "<p>a ü</p>\n", "\xFF\xFE" + utf16("<p>a ü</p>\n")},
		"what can't be decoded": {"<meta charset=utf-8><p>\xff!</p><p>a</p>", "<meta charset=utf-8><p>\uFFFD!</p><p>b</p>", "<meta charset=utf-8><p>\xff!</p><p>b</p>"},
	} {
		t.Run(name, func(t *testing.T) {
			b := newBench(t, map[string]string{"index.html": c.file})
			id, err := b.save("index.html", c.text, hash(c.file))
			require.NoError(t, err)
			assert.Equal(t, c.want, b.content("index.html"))
			_, _, err = b.undo(id, false)
			require.NoError(t, err)
			assert.Equal(t, c.file, b.content("index.html"))
		})
	}
}

func TestSavingSaysWhatCantBeWritten(t *testing.T) {
	latin := "<meta charset=latin1><p>a</p>"
	b := newBench(t, map[string]string{"index.html": latin})
	_, err := b.save("index.html", "<meta charset=latin1><p>種</p>", hash(latin))
	require.Error(t, err)
	assert.Equal(t, latin, b.content("index.html"), "nothing half written")
	_, err = b.save("index.html", "x", hash("another"))
	var conflict *journal.ConflictError
	require.ErrorAs(t, err, &conflict)
	require.NoError(t, os.Remove(filepath.Join(b.dir, "index.html")))
	_, err = b.save("index.html", "x", hash(latin))
	require.ErrorAs(t, err, &conflict, "a file that is gone is not written again")
}

func TestDraftsOutliveTheProgram(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": "<p>a"})
	require.NoError(t, b.Drafts.Keep("index.html", "<p>b", hash("<p>a")))
	b.stop()
	b.start()
	d, ok, err := b.Drafts.Get("index.html")
	require.NoError(t, err)
	require.True(t, ok)
	assert.Equal(t, "<p>b", d.Text)
	_, err = b.save("index.html", d.Text, d.Base)
	require.NoError(t, err)
	_, ok, err = b.Drafts.Get("index.html")
	require.NoError(t, err)
	assert.False(t, ok, "what is saved is no draft")
}

func TestUnsavedTextIsJudgedAndTouchesNothing(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": "<a href=b.html>b</a>", "b.html": "<a href=index.html#x>x</a>"})
	before := b.View()
	judged, file, err := before.WithText("index.html", []byte("<a href=b.html>b</a><a href=c.html>c</a>"))
	require.NoError(t, err)
	assert.Equal(t, []audit.State{audit.Sound, audit.Broken}, judged.Report.States(file))
	assert.Same(t, before, b.View())
	assert.Equal(t, 1, b.broken())
}

func TestPicturesAreTakenInUnderGoodNames(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 7, 5))))
	picture := b.String()
	w := newBench(t, map[string]string{"index.html": "<p>", "pics/old.png": picture, "pics/My-Seed.png": picture})
	p, width, height, err := w.addPicture("My seed.png", b.Bytes())
	require.NoError(t, err)
	assert.Equal(t, "pics/my-seed-2.png", p, "one in other letter case stands there")
	assert.Equal(t, [2]int{7, 5}, [2]int{width, height})
	assert.Equal(t, picture, w.content(p))

	for name, content := range map[string]string{"notes.png": "no picture", "page.png": "<!DOCTYPE html><p>", "empty.png": ""} {
		_, _, _, err := w.addPicture(name, []byte(content))
		require.ErrorContains(t, err, "is not a picture", name)
	}
	_, _, _, err = w.addPicture("large.png", append([]byte(picture), make([]byte, workspace.PictureLimit)...))
	require.ErrorContains(t, err, "smaller")
	assert.Equal(t, 0, strings.Count(strings.Join(names(t, w.dir), " "), "large"))
}

func names(t *testing.T, dir string) (out []string) {
	for name := range drive.Files(t, dir) {
		out = append(out, name)
	}
	return out
}

func TestNewPagesAreMadeOrNothingIs(t *testing.T) {
	w := newBench(t, map[string]string{"index.html": "<title>Home</title><h1>Home</h1>", "sjis.html": "<meta charset=shift_jis><title>\x8e\xed</title><h1>\x8e\xed</h1>"})
	p, _, err := w.newPage("sjis.html", "guides/new", compose.New{Title: "種"})
	require.NoError(t, err)
	assert.Equal(t, "guides/new.html", p)
	assert.Equal(t, "<meta charset=shift_jis><title>\x8e\xed</title><h1>\x8e\xed</h1>\n", w.content(p))
	before := drive.Files(t, w.dir)
	for path, why := range map[string]string{"index.html": "exists already", "INDEX.html": "letter case", "../out.html": "outside of the folder"} {
		if _, _, err := w.newPage("index.html", path, compose.New{Title: "x"}); why != "" {
			require.ErrorContains(t, err, why)
		}
	}
	_, _, err = w.newPage("sjis.html", "b.html", compose.New{Title: "ü"})
	require.Error(t, err, "what the encoding has no letter for")
	_, _, err = w.newPage("gone.html", "b.html", compose.New{Title: "x"})
	require.Error(t, err)
	delete(before, "out.html")
	after := drive.Files(t, w.dir)
	delete(after, "out.html")
	assert.Equal(t, before, after)
}

func TestALinkIsTriedUntilItOrItsTargetChanges(t *testing.T) {
	w := newBench(t, map[string]string{"index.html": "<a href=b.html>b</a><a href=c.html>c</a>", "b.html": "b", "c.html": "c"})
	file, _ := w.View().Snapshot.Find("index.html")
	key := workspace.Key(w.View().Snapshot.Files[file].Doc, 0)
	require.NoError(t, w.MarkTried("index.html", key))
	assert.Equal(t, []bool{true, false}, w.Tried(w.View(), file))
	w.stop()
	w.start()
	assert.Equal(t, []bool{true, false}, w.Tried(w.View(), file), "also after a restart")
	_, err := w.save("b.html", "bb", hash("b"))
	require.NoError(t, err)
	assert.Equal(t, []bool{false, false}, w.Tried(w.View(), file))
}
