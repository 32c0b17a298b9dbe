package workspace_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/plan"
	"arvel/core/repair"
	"arvel/internal/journal"
	"arvel/internal/store"
	"arvel/internal/workspace"
)

var newPage = compose.New{Title: "New"}

// Text that is not saved follows a move, a rename and a repair, with what was typed in it.
func TestTextThatIsNotSavedFollows(t *testing.T) {
	start := map[string]string{
		"index.html": `<h1 id="top">T</h1><a href="guides/sowing.html">S</a>` + "\n<p>end", "guides/sowing.html": "<h2 id=dry>D</h2>", "visit.html": `<a href="Index.html">home</a>` + "\n<p>us",
	}
	b := newBench(t, start)
	typed := `<h1 id="top">T</h1><a href="guides/sowing.html">S</a>` + "\n<p>end and <a href=\"guides/sowing.html#dry\">typed</a>"
	keep := func(page, text string) { require.NoError(t, b.Drafts.Keep(page, text, hash(b.content(page)))) }
	draft := func(page string) string {
		d, ok, err := b.Drafts.Get(page)
		require.NoError(t, err)
		require.True(t, ok, page)
		require.True(t, d.Base.Is([]byte(b.content(page))), "it is of the file as it is now")
		return d.Text
	}
	keep("index.html", typed)
	_, _, err := b.move([]plan.Move{{From: "guides", To: "how/to"}}, plan.Options{})
	require.NoError(t, err)
	typed = strings.ReplaceAll(typed, "guides/", "how/to/")
	assert.Equal(t, typed, draft("index.html"))
	assert.Equal(t, strings.ReplaceAll(start["index.html"], "guides/", "how/to/"), b.content("index.html"), "what was typed is not saved by it")

	_, _, err = b.move([]plan.Move{{From: "index.html", To: "deep/start.html"}}, plan.Options{})
	require.NoError(t, err)
	typed = strings.ReplaceAll(typed, "how/to/", "../how/to/")
	assert.Equal(t, typed, draft("deep/start.html"))
	_, _, err = b.renameID("how/to/sowing.html", "dry", "drying")
	require.NoError(t, err)
	keep("deep/start.html", typed) // the page itself was not changed by it
	assert.Equal(t, map[string]bool{"deep/start.html": true}, b.Drafts.Pages())

	keep("visit.html", b.content("visit.html")+" and you")
	b.write("Index.html", "<p>") // so that nothing is repaired by itself
	key, _, _ := b.key("visit.html")
	_, _, err = b.rewrite("visit.html", key, "deep/start.html")
	require.NoError(t, err)
	assert.Equal(t, `<a href="deep/start.html">home</a>`+"\n<p>us and you", draft("visit.html"), "a repair goes over what is not saved, too")
}

// What is only in text that is not saved is followed by a move, and told of before a page is deleted.
func TestWhatIsOnlyInUnsavedTextCounts(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": "<p>Home", "a.html": "<p>A", "b.html": "<p>B"})
	require.NoError(t, b.Drafts.Keep("index.html", "<p>Home <a href=\"a.html\">A</a>", hash("<p>Home")))
	require.NoError(t, b.Drafts.Keep("b.html", "<p>B, longer", hash("<p>B")))
	_, _, err := b.move([]plan.Move{{From: "a.html", To: "d/a.html"}}, plan.Options{})
	require.NoError(t, err)
	d, ok, err := b.Drafts.Get("index.html")
	require.NoError(t, err)
	require.True(t, ok)
	assert.Equal(t, "<p>Home <a href=\"d/a.html\">A</a>", d.Text)
	assert.Equal(t, "<p>Home", b.content("index.html"))
	p, err := b.PlanDeletion([]plan.Deletion{{Path: "d/a.html"}, {Path: "b.html"}})
	require.NoError(t, err)
	var notes []string
	for _, n := range p.Notes {
		notes = append(notes, n.Page+" "+n.Written+" "+n.Why)
	}
	assert.ElementsMatch(t, []string{"index.html d/a.html is in text that is not saved, and will be broken", "b.html b.html has text that is not saved, which goes with it"}, notes)
}

// On a full disk, what is said is what happened: the change was made, and is noted with the next one that can be.
func TestAChangeThatCannotBeNotedIsStillWhatHappened(t *testing.T) {
	b := newBench(t, map[string]string{"a.html": "one", "b.html": "two"})
	db, err := sql.Open("sqlite", filepath.Join(b.data, "arvel.db"))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(`CREATE TRIGGER full BEFORE UPDATE OF state ON changes BEGIN SELECT RAISE(FAIL, 'database or disk is full'); END`)
	require.NoError(t, err)
	set := func(p, before, after string) change.Set {
		return change.Set{Title: p, Files: []change.File{{Path: p, Before: hash(before), Edits: []change.Edit{{Start: 0, End: len(before), New: []byte(after)}}}}}
	}
	id, err := b.carry(set("a.html", "one", "ONE"))
	require.NoError(t, err)
	assert.Equal(t, "ONE", b.content("a.html"))
	_, err = db.Exec(`DROP TRIGGER full`)
	require.NoError(t, err)
	second, err := b.carry(set("b.html", "two", "TWO"))
	require.NoError(t, err)
	c, err := b.History.Change(id)
	require.NoError(t, err)
	assert.Equal(t, store.Done, c.State, "the journal is settled at the next write that works")

	// It is also settled at the next start, which takes nothing back, although another file was edited since.
	_, err = db.Exec(`UPDATE changes SET state = 'writing' WHERE id = ?`, second)
	require.NoError(t, err)
	b.stop()
	b.write("b.html", "edited since")
	b.start()
	assert.Equal(t, []string{"ONE", "edited since"}, []string{b.content("a.html"), b.content("b.html")})
}

// Undo and redo are two things: U takes back what is in effect, and Shift U does again what was taken back.
func TestUndoAndRedoAreTwoThings(t *testing.T) {
	b := newBench(t, map[string]string{"a.html": "0"})
	for i := range 3 {
		_, err := b.carry(change.Set{Title: fmt.Sprint("to ", i+1), Files: []change.File{{
			Path: "a.html", Before: hash(fmt.Sprint(i)), Edits: []change.Edit{{Start: 0, End: 1, New: fmt.Append(nil, i+1)}},
		}}})
		require.NoError(t, err)
	}
	is := func(want string) { t.Helper(); assert.Equal(t, want, b.content("a.html")) }
	undo := func() error { _, err := b.undoLast(); return err }
	redo := func() error { _, err := b.redo(); return err }
	require.NoError(t, undo())
	is("2")
	require.NoError(t, undo())
	is("1")
	require.NoError(t, redo())
	is("2")
	require.NoError(t, redo())
	is("3")
	var gone *workspace.GoneError
	require.ErrorAs(t, redo(), &gone, "there is nothing more to do again")
	for range 3 {
		require.NoError(t, undo())
	}
	is("0")
	require.ErrorAs(t, undo(), &gone)
	list, _, err := b.History.List("", 0, 100)
	require.NoError(t, err)
	titles := map[string]int{}
	for _, c := range list {
		titles[c.Title]++
		assert.Empty(t, c.Files, "a list holds no bytes")
		assert.Equal(t, 1, c.Count)
	}
	assert.Equal(t, map[string]int{
		"to 1": 1, "to 2": 1, "to 3": 1, "Undone: to 1": 1, "Undone: to 2": 2, "Undone: to 3": 2, "Done again: to 2": 1, "Done again: to 3": 1,
	}, titles, "no title is of an undoing of an undoing")
	require.NoError(t, redo())
	_, err = b.carry(change.Set{Title: "another", Files: []change.File{{Kind: change.Made, Path: "n.html"}}})
	require.NoError(t, err)
	require.ErrorAs(t, redo(), &gone, "something else was changed since")
}

// The history keeps to its limits and says what it let go; what was made today stays.
func TestTheHistoryKeepsToItsLimits(t *testing.T) {
	b := newBench(t, map[string]string{"a.html": strings.Repeat("x", 1<<19)})
	for i := range 4 {
		now := []byte(b.content("a.html"))
		_, err := b.carry(change.Set{Title: fmt.Sprint(i), Files: []change.File{{Path: "a.html", Before: hash(string(now)), Edits: []change.Edit{{Start: 0, End: len(now), New: now[1:]}}}}})
		require.NoError(t, err)
	}
	set := b.Settings()
	set.HistoryMegabytes = 2
	require.NoError(t, b.SetSettings(set))
	_, total, err := b.History.List("", 0, 10)
	require.NoError(t, err)
	assert.Equal(t, 4, total, "all of them are from today")
	db, err := sql.Open("sqlite", filepath.Join(b.data, "arvel.db"))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(`UPDATE changes SET made = made - ?`, int64(48*time.Hour))
	require.NoError(t, err)
	require.NoError(t, b.SetSettings(set))
	list, total, err := b.History.List("", 0, 10)
	require.NoError(t, err)
	assert.Equal(t, 1, total)
	assert.Equal(t, "3", list[0].Title)
	assert.Error(t, b.SetSettings(store.Settings{HistoryDays: -1}))
}

// Readers never wait for a writer: settings and lists are answered while a change is on its way.
func TestReadersNeverWaitForTheDisk(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": `<a href="Index.html">x</a>`})
	t.Cleanup(func() { journal.Step = func() {} })
	reached, release := make(chan struct{}), make(chan struct{})
	first := true
	journal.Step = func() {
		if first {
			first = false
			close(reached)
			<-release
		}
	}
	done := make(chan error, 1)
	go func() {
		_, _, err := b.repair(repair.Possible)
		done <- err
	}()
	<-reached
	read := make(chan struct{})
	go func() {
		defer close(read)
		b.Settings()
		b.View().PlaceDifferences()
		b.View().Causes()
		_, _, _ = b.History.List("", 0, 10)
		assert.NotNil(t, b.Work(), "and can be told what is being done")
	}()
	select {
	case <-read:
	case <-time.After(5 * time.Second):
		t.Error("a reader waits for the change")
	}
	close(release)
	require.NoError(t, <-done)
	assert.Nil(t, b.Work())
}

// A view owns the settings that it was made by, whatever is set since.
func TestAViewOwnsItsSettings(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": `<a href="/index.html">x</a>`})
	set := b.Settings()
	for i := range set.Places {
		set.Places[i].Ticked = true
	}
	require.NoError(t, b.SetSettings(set))
	v := b.View()
	require.NoError(t, b.SetSettings(store.Settings{Places: []store.PlaceSetting{{Place: "root", Chosen: true}}}))
	places, _, counts := v.PlaceDifferences()
	assert.Len(t, places, 3)
	assert.Len(t, counts, 3)
	places, _, counts = b.View().PlaceDifferences()
	assert.Len(t, places, 1)
	assert.Len(t, counts, 1)
}

// A row of the cache that was damaged leads to no edit in the wrong place: it is noticed, and the file is read anew.
func TestADamagedCacheLeadsToNoWrongEdit(t *testing.T) {
	files := map[string]string{}
	for i := range 20 {
		files[fmt.Sprintf("p%02d.html", i)] = fmt.Sprintf(`<p>%s<a href="Index.html">home</a> and <a href="p00.html">first</a>`, strings.Repeat("x", i))
	}
	files["index.html"] = "<p>"
	b := newBench(t, files)
	b.stop()
	db, err := sql.Open("sqlite", filepath.Join(b.data, "arvel.db"))
	require.NoError(t, err)
	defer db.Close()
	rows, err := db.Query(`SELECT id, doc FROM files WHERE doc IS NOT NULL`)
	require.NoError(t, err)
	docs := map[int64][]byte{}
	for rows.Next() {
		var id int64
		var doc []byte
		require.NoError(t, rows.Scan(&id, &doc))
		docs[id] = doc
	}
	require.NoError(t, rows.Err())
	rows.Close()
	damaged := 0
	for id, doc := range docs {
		for i := range doc { // some byte of it is another one
			if i%7 == int(id)%7 && doc[i] > 0 && doc[i] < 60 {
				doc[i]++
				damaged++
				break
			}
		}
		_, err = db.Exec(`UPDATE files SET doc = ? WHERE id = ?`, doc, id)
		require.NoError(t, err)
	}
	require.Greater(t, damaged, 15)
	b.start()
	n, _, err := b.repair(repair.Certain)
	require.NoError(t, err)
	assert.Equal(t, 20, n)
	for p, src := range files {
		assert.Equal(t, strings.Replace(src, "Index.html", "index.html", 1), b.content(p))
	}
}

// A folder that is read for a long time can be let go of at once.
func TestReadingCanBeStopped(t *testing.T) {
	dir := t.TempDir()
	for i := range 3000 {
		require.NoError(t, os.WriteFile(filepath.Join(dir, fmt.Sprintf("%d.html", i)), []byte("<p>"), 0o644))
	}
	st, err := store.Open(t.TempDir())
	require.NoError(t, err)
	defer st.Close()
	w, err := workspace.Open(st, dir, workspace.Options{})
	require.NoError(t, err)
	events, stop := w.Listen()
	defer stop()
	done := make(chan error, 1)
	go func() { done <- w.Read(context.Background()) }()
	<-events // it has begun
	w.Close()
	if err := <-done; err != nil {
		require.ErrorIs(t, err, context.Canceled)
	}
}

// What the disk can't take is said in the plan, and nothing is begun.
func TestNamesThatADiskCannotTakeAreToldInThePlan(t *testing.T) {
	b := newBench(t, map[string]string{"a.html": "<p>", "d/b.html": "<p>"})
	for to, says := range map[string]string{
		strings.Repeat("x", 260) + ".html": "disks take 255 at most", "con.html": "Windows reserves for a device", "d/end. ": "ends in a dot or a space", "end.": "ends in a dot",
		strings.Repeat("deep/", 700) + "a.html": "disks take",
	} {
		p := b.planMoves([]plan.Move{{From: "a.html", To: to}}, plan.Options{})
		require.NotEmpty(t, p.Clashes, to[:min(len(to), 20)])
		assert.Contains(t, p.Clashes[0], says)
		_, err := b.makeFolder(strings.TrimSuffix(to, ".html"))
		assert.Error(t, err)
		_, _, err = b.newPage("", to, newPage)
		assert.Error(t, err)
	}
	_, _, err := b.newPage("", ".git/hooks.html", newPage)
	assert.ErrorContains(t, err, "begins with a dot")
	assert.NoDirExists(t, filepath.Join(b.dir, ".git"))
}

// Whatever clings to a page as one that nothing refers to, what broken references surely mean is not offered for deletion.
func TestWhatBrokenReferencesMeanIsNotLonely(t *testing.T) {
	b := newBench(t, map[string]string{
		"index.html": `<a href="old.html">O</a><img src="Pod.png" alt="">`, "old.html": `<img src="pod.png" alt=""><img src="leek.png" alt="">`, "pod.png": "\x89PNG", "leek.png": "\x89PNG1",
	})
	p, err := b.PlanDeletion([]plan.Deletion{{Path: "old.html", Choice: plan.Leave}})
	require.NoError(t, err)
	assert.Equal(t, []string{"leek.png"}, p.Unreferenced)
}

// One number, one meaning: whoever counts what is broken comes to the same.
func TestCountsAgree(t *testing.T) {
	b := newBench(t, map[string]string{
		"index.html": `<a href="Visit.html">1</a><a href="visit.html#no">2</a><label for="x">l</label><a href="www.orchard.example">3</a>`,
		"visit.html": `<p id="a b"><a href="index.html">i</a>`, "c.css": "p{background:url(no.png)}", "sitemap.xml": "<urlset><url><loc>none.html</loc></url></urlset>",
	})
	v := b.View()
	sum, broken := 0, 0
	for i := range v.Snapshot.Files {
		sum += v.Report.Tally(int32(i), audit.Broken)
	}
	for _, c := range v.Causes() {
		broken += c.Broken
	}
	survey := v.Survey()
	ways := 0
	for _, w := range survey.LinkKinds {
		ways += w[audit.Broken]
	}
	_, _, at := v.PlaceDifferences()
	assert.Equal(t, []int{v.Report.Counts.Broken, v.Report.Counts.Broken, v.Report.Counts.Broken, v.Report.Counts.Broken}, []int{sum, broken, ways, at[0].Broken})
	n, wereBroken, err := b.repair(repair.Certain)
	require.NoError(t, err)
	certain, fragile := v.Certain()
	assert.Equal(t, []int{certain, certain + fragile}, []int{wereBroken, n})
	assert.Equal(t, v.Report.Counts.Broken-wereBroken, b.View().Report.Counts.Broken)
}
