package workspace_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/audit"
	"arvel/internal/journal"
	"arvel/internal/store"
	"arvel/internal/workspace"
)

// bench is a folder, a data directory and the workbench on them.
type bench struct {
	*testing.T
	dir, data string
	store     *store.Store
	acting
}

func newBench(t *testing.T, files map[string]string) *bench {
	b := &bench{T: t, dir: t.TempDir(), data: t.TempDir()}
	for p, src := range files {
		b.write(p, src)
	}
	b.start()
	t.Cleanup(b.stop)
	return b
}

func (b *bench) start() {
	b.Helper()
	var err error
	b.store, err = store.Open(b.data)
	require.NoError(b, err)
	b.Session, err = workspace.Open(b.store, b.dir, workspace.Options{})
	require.NoError(b, err)
	require.NoError(b, b.Recover())
	require.NoError(b, b.Watch())
	require.NoError(b, b.Read(b.Context()))
}

func (b *bench) stop() {
	b.Session.Close()
	b.store.Close()
}

func (b *bench) write(p, src string) {
	b.Helper()
	full := filepath.Join(b.dir, p)
	require.NoError(b, os.MkdirAll(filepath.Dir(full), 0o755))
	require.NoError(b, os.WriteFile(full, []byte(src), 0o644))
}

func (b *bench) content(p string) string {
	b.Helper()
	src, err := os.ReadFile(filepath.Join(b.dir, p))
	require.NoError(b, err)
	return string(src)
}

// key returns the key of the only reference on a page that is broken.
func (b *bench) key(page string) (key string, file int32, ref int) {
	b.Helper()
	file, ok := b.View().Snapshot.Find(page)
	require.True(b, ok)
	for i, s := range b.View().Report.States(file) {
		if s == audit.Broken {
			return workspace.Key(b.View().Snapshot.Files[file].Doc, i), file, i
		}
	}
	b.Fatalf("nothing is broken on %s", page)
	return
}

func (b *bench) broken() int { return b.View().Report.Counts.Broken }

var small = map[string]string{
	"index.html": `<p><a href="guides/Sowing.html">Sowing</a>`, "guides/sowing.html": "<p id=beans>\r\n<a href='../index.html'>Home</a>",
}

func TestRepairIsWrittenUndoneAndRemembered(t *testing.T) {
	b := newBench(t, small)
	key, file, ref := b.key("index.html")
	repairs := b.View().Repairs(file, ref)
	require.Equal(t, "guides/sowing.html", repairs[0].Written)
	id, fresh, err := b.rewrite("index.html", key, repairs[0].Written)
	require.NoError(t, err)
	assert.Equal(t, `<p><a href="guides/sowing.html">Sowing</a>`, b.content("index.html"))
	assert.Equal(t, 0, b.broken(), "the view is renewed at once")
	_, _, err = b.View().Find("index.html", fresh)
	require.NoError(t, err)

	b.stop()
	b.start()
	list, total, err := b.History.List("", 0, 10)
	require.NoError(t, err)
	require.Equal(t, 1, total)
	assert.Equal(t, "`guides/Sowing.html` became `guides/sowing.html` on `index.html`", list[0].Title)
	undo, _, err := b.undo(id, false)
	require.NoError(t, err)
	assert.Equal(t, small["index.html"], b.content("index.html"))
	assert.Equal(t, 1, b.broken())
	list, _, err = b.History.List("", 0, 10)
	require.NoError(t, err)
	assert.Equal(t, []int64{id, undo}, []int64{list[0].Undoes, list[1].UndoneBy})
	_, _, err = b.undo(id, false)
	assert.ErrorContains(t, err, "undone already")
	_, _, err = b.undo(undo, false)
	require.NoError(t, err, "an undo can be undone")
	assert.Equal(t, `<p><a href="guides/sowing.html">Sowing</a>`, b.content("index.html"))
}

func TestAFileEditedInBetweenIsNamedAndLeftAlone(t *testing.T) {
	b := newBench(t, small)
	key, _, _ := b.key("index.html")
	id, _, err := b.rewrite("index.html", key, "guides/sowing.html")
	require.NoError(t, err)
	b.write("index.html", "mine")
	_, _, err = b.undo(id, false)
	var conflict *journal.ConflictError
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, []string{"index.html"}, conflict.Paths)
	assert.Equal(t, "mine", b.content("index.html"))
}

func TestARepairOfAPageThatWasSavedMeanwhile(t *testing.T) {
	b := newBench(t, small)
	key, _, _ := b.key("index.html")
	// The watch may see the save first or the repair may; either way the other's bytes are kept.
	b.write("index.html", small["index.html"]+" and more")
	if _, _, err := b.rewrite("index.html", key, "guides/sowing.html"); err != nil {
		var conflict *journal.ConflictError
		require.ErrorAs(t, err, &conflict)
	}
	assert.True(t, strings.HasSuffix(b.content("index.html"), " and more"))
}

func TestEncodingsQuotesAndLineEndsAreKept(t *testing.T) {
	for name, page := range map[string]string{
		"windows-1252": "<meta charset=windows-1252><p>caf\xe9\r\n<a href='Caf\xe9.html'>x\r</a>",
		"shift_jis":    "<meta charset=shift_jis><p>\x95\x5c\n<A HREF=\x95\x5c.htm >", // a letter that ends in the byte of a backslash
		"utf-16le":     "\xff\xfe" + utf16("<p>\r\n<a href=\"café.HTML\">x</a>"),
	} {
		t.Run(name, func(t *testing.T) {
			b := newBench(t, map[string]string{"p.html": page, "café.html": "", "表.html": ""})
			key, file, ref := b.key("p.html")
			repairs := b.View().Repairs(file, ref)
			require.NotEmpty(t, repairs)
			id, _, err := b.rewrite("p.html", key, repairs[0].Written)
			require.NoError(t, err)
			after := b.content("p.html")
			assert.NotEqual(t, page, after)
			assert.Equal(t, 0, b.broken())
			r := b.View().Snapshot.Files[file].Doc.References[ref]
			assert.Equal(t, page[:r.Start], after[:r.Start])
			assert.True(t, strings.HasSuffix(page, after[r.End:]))
			_, _, err = b.undo(id, false)
			require.NoError(t, err)
			assert.Equal(t, page, b.content("p.html"))
		})
	}
}

func utf16(s string) string {
	var out []byte
	for _, r := range s {
		out = append(out, byte(r), byte(r>>8))
	}
	return string(out)
}

func TestSavingIsToldWithWhatItBrokeAndMended(t *testing.T) {
	b := newBench(t, small)
	events, stop := b.Listen()
	defer stop()
	next := func() workspace.Event {
		t.Helper()
		select {
		case e := <-events:
			return e
		case <-time.After(2 * time.Second):
			t.Fatal("nothing was told")
			return workspace.Event{}
		}
	}
	b.write("index.html", `<p><a href="guides/sowing.html">Sowing</a>`)
	e := next()
	assert.Equal(t, []any{[]string{"index.html"}, 0, 1}, []any{e.Paths, e.Broke, e.Mended})
	b.write("guides/next.tmp", "<p>")
	require.NoError(t, os.Rename(filepath.Join(b.dir, "guides/next.tmp"), filepath.Join(b.dir, "guides/sowing.html")))
	assert.Equal(t, "guides/sowing.html", strings.Join(next().Paths, " "), "a save by renaming")
	require.NoError(t, os.Rename(filepath.Join(b.dir, "guides"), filepath.Join(b.dir, "guide")))
	assert.Eventually(t, func() bool {
		_, old := b.View().Snapshot.Find("guides/sowing.html")
		_, moved := b.View().Snapshot.Find("guide/sowing.html")
		return !old && moved && b.broken() == 1
	}, 2*time.Second, 5*time.Millisecond, "a renamed folder is followed")
}

func TestAThousandFilesChangedAtOnceAreFewRenewals(t *testing.T) {
	files := map[string]string{}
	for i := range 1000 {
		files[fmt.Sprintf("d%d/p%d.html", i%20, i)] = "<a href=nowhere.html>"
	}
	b := newBench(t, files)
	before := b.View().Version
	for p := range files {
		b.write(p, "<p>whole")
	}
	assert.Eventually(t, func() bool { return b.broken() == 0 }, 10*time.Second, 10*time.Millisecond)
	assert.Less(t, b.View().Version-before, uint64(20))
}

func TestOpenedAgainOnlyWhatChangedIsRead(t *testing.T) {
	b := newBench(t, small)
	past := time.Now().Add(-time.Hour)
	for p := range small {
		require.NoError(t, os.Chtimes(filepath.Join(b.dir, p), past, past))
	}
	b.stop()
	b.start() // the times are settled now, and kept
	b.stop()
	// Bytes that changed without a trace in size and time are taken as they were: the sign that they weren't read.
	b.write("index.html", strings.Replace(small["index.html"], "Sowing.html", "Nothing.htm", 1))
	require.NoError(t, os.Chtimes(filepath.Join(b.dir, "index.html"), past, past))
	b.start()
	assert.Equal(t, "guides/Sowing.html", b.View().Snapshot.Files[1].Doc.References[0].Written)
}

func TestBadFilesAreToldAndHangNothing(t *testing.T) {
	b := newBench(t, map[string]string{
		"binary.html": "\x00\x01\x02", "empty.html": "", "cut.html": "<a href='x", "good.html": "<a href=empty.html>", "secret.html": "x",
		"huge.html": strings.Repeat("<p>a line of text with a <a href=good.html>link</a>\n", 1_000_000),
	})
	require.NoError(t, os.Symlink("nowhere", filepath.Join(b.dir, "dangling.html")))
	all := strings.Join(b.View().Trouble, "\n")
	assert.Contains(t, all, "binary.html holds binary data")
	assert.Contains(t, all, "cut.html ends in the middle")
	assert.NotContains(t, all, "empty.html")
	assert.Equal(t, 1_000_001, b.View().Report.Counts.Sound)
}

func TestAChangeThatWasCutShortIsCompletedAtTheNextStart(t *testing.T) {
	b := newBench(t, small)
	key, _, _ := b.key("index.html")
	id, _, err := b.rewrite("index.html", key, "guides/sowing.html")
	require.NoError(t, err)
	b.stop()
	// As if the program had been killed when the new file was beside its place.
	st, err := store.Open(b.data)
	require.NoError(t, err)
	list, err := st.Change(1, id)
	require.NoError(t, err)
	b.write(".arvel-"+list.Token+"-0", b.content("index.html"))
	b.write("index.html", small["index.html"])
	require.NoError(t, st.SetState(id, store.Writing))
	st.Close()
	b.start()
	assert.Equal(t, `<p><a href="guides/sowing.html">Sowing</a>`, b.content("index.html"))
	done, _, err := b.History.List("", 0, 1)
	require.NoError(t, err)
	assert.Equal(t, store.Done, done[0].State)
}
