package workspace_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/plan"
	"arvel/core/repair"
	"arvel/internal/disk"
	"arvel/internal/journal"
	"arvel/internal/store"
	"arvel/internal/workspace"
	"arvel/test/drive"
)

// notebook is a folder of pages that refer to each other, from r.
func notebook(r *rand.Rand) map[string]string {
	words := strings.Fields("seed bean pea squash leek chard parsnip sow harvest dry clean label drawer packet garden bed frost spring autumn members")
	var paths []string
	for i := range 30 {
		dir := []string{"", "guides/", "guides/late/", "news/", "catalogue/roots/"}[i%5]
		paths = append(paths, fmt.Sprintf("%s%s-%d.html", dir, words[i%len(words)], i))
	}
	files := map[string]string{"images/packet.png": "\x89PNG packet", "images/pod.png": "\x89PNG pod", "index.html": "<title>Seed library</title>"}
	for i, p := range paths {
		up := strings.Repeat("../", strings.Count(p, "/"))
		var b strings.Builder
		fmt.Fprintf(&b, "<title>Page %d of %s</title>\n<h1 id=top-%d>%s</h1>\n<a href=\"%sindex.html\">Home</a>\n", i, words[i%20], i, words[i*7%20], up)
		for k := range 6 {
			to := paths[r.IntN(len(paths))]
			fmt.Fprintf(&b, "<p>%s %d <a href=\"%s%s\">%s of %d</a>\n", words[r.IntN(20)], k, up, to, words[r.IntN(20)], r.IntN(1000))
		}
		fmt.Fprintf(&b, "<img src=\"%simages/%s.png\" alt=\"\">\n", up, []string{"packet", "pod"}[i%2])
		files[p] = b.String()
	}
	files["index.html"] += "<p>"
	for _, p := range paths {
		files["index.html"] += "<a href=\"" + p + "\">" + p + "</a>\n"
	}
	return files
}

// elsewhere are the ways in which files come to be elsewhere, each of one page or folder. They return where what
// was where.
var elsewhere = map[string]func(b *bench, page string, r *rand.Rand) (from, to string){
	"mv": func(b *bench, page string, _ *rand.Rand) (string, string) {
		return page, b.renames(page, "moved/"+filepath.Base(page))
	},
	"renamed": func(b *bench, page string, _ *rand.Rand) (string, string) {
		return page, b.renames(page, filepath.Join(filepath.Dir(page), "now-"+filepath.Base(page)))
	},
	"moved and renamed": func(b *bench, page string, r *rand.Rand) (string, string) {
		return page, b.renames(page, fmt.Sprintf("else/where/x%d.html", r.IntN(1e6)))
	},
	"git mv": func(b *bench, page string, _ *rand.Rand) (string, string) {
		to := "git/" + filepath.Base(page)
		require.NoError(b, os.MkdirAll(filepath.Join(b.dir, "git"), 0o755))
		for _, args := range [][]string{{"init", "-q"}, {"add", "."}, {"mv", page, to}} {
			cmd := exec.Command("git", args...)
			cmd.Dir = b.dir
			out, err := cmd.CombinedOutput()
			require.NoError(b, err, "%s", out)
		}
		return page, to
	},
	"copied and deleted": func(b *bench, page string, _ *rand.Rand) (string, string) {
		b.write("copied/"+filepath.Base(page), b.content(page))
		require.NoError(b, os.Remove(filepath.Join(b.dir, page)))
		return page, "copied/" + filepath.Base(page)
	},
	"parent renamed": func(b *bench, page string, _ *rand.Rand) (string, string) {
		dir := filepath.Dir(page)
		if dir == "." {
			return page, b.renames(page, "top/"+page)
		}
		return page, filepath.Join(b.renames(dir, dir+"-of-old"), filepath.Base(page))
	},
	"edited after": func(b *bench, page string, _ *rand.Rand) (string, string) {
		to := b.renames(page, "edited/"+filepath.Base(page))
		b.write(to, strings.Replace(b.content(to), "<p>", "<p>A line more, put in later. ", 1)+"<p>And one at the end.\n")
		return page, to
	},
}

func (b *bench) renames(from, to string) string {
	b.Helper()
	require.NoError(b, os.MkdirAll(filepath.Dir(filepath.Join(b.dir, to)), 0o755))
	require.NoError(b, os.Rename(filepath.Join(b.dir, from), filepath.Join(b.dir, to)))
	return to
}

// brokenReference lists what leads nowhere, by page and as written.
func brokenIn(v *workspace.View) (out []string) {
	for i := range v.Snapshot.Files {
		for k, s := range v.Report.States(int32(i)) {
			if s == audit.Broken {
				out = append(out, v.Snapshot.Files[i].Path+" "+v.Snapshot.Files[i].Doc.References[k].Written)
			}
		}
	}
	return out
}

// What is moved by other programs is found by what is in it, and following it mends all that it broke: with Arvel running
// and closed.
func TestMovesMadeElsewhereAreNoticed(t *testing.T) {
	if _, err := exec.LookPath("git"); err != nil {
		t.Fatal("git is needed for this test: apt-get install git")
	}
	const rounds = 3
	for _, running := range []bool{true, false} {
		for way, move := range elsewhere {
			found, missed, wrong := 0, 0, 0
			for round := range rounds {
				r := rand.New(rand.NewPCG(uint64(round), 7))
				files := notebook(r)
				b := newBench(t, files)
				require.Empty(t, brokenIn(b.View()))
				var page string
				for page == "" || page == "index.html" || !strings.HasSuffix(page, ".html") {
					page = b.View().Snapshot.Files[r.IntN(len(files))].Path
				}
				if !running {
					b.stop()
				}
				from, to := move(b, page, r)
				if !running {
					b.start()
				}
				require.Eventually(t, func() bool {
					_, old := b.View().Snapshot.Find(from)
					_, fresh := b.View().Snapshot.Find(to)
					return !old && fresh
				}, 5*time.Second, 5*time.Millisecond)
				b.settle()
				var follow []plan.Move
				for _, o := range b.View().PendingMoves() {
					right := o.Move == plan.Move{From: from, To: to} || o.Files > 0 && strings.TrimPrefix(from, o.From) == strings.TrimPrefix(to, o.To)
					if right && o.Behind+o.Inside > 0 {
						found++
						follow = append(follow, o.Move)
					} else {
						wrong++
					}
				}
				if follow == nil {
					missed++
					continue
				}
				_, _, err := b.follow(follow)
				require.NoError(t, err)
				assert.Empty(t, brokenIn(b.View()), "%s, running %v", way, running)
				assert.Empty(t, b.View().PendingMoves())
			}
			t.Logf("%-20s running %-5v  found %d, missed %d, wrong %d", way, running, found, missed, wrong)
			assert.Equal(t, []int{rounds, 0, 0}, []int{found, missed, wrong}, way)
		}
	}
}

// settle waits until the folder has been quiet for a while.
func (b *bench) settle() {
	b.Helper()
	events, stop := b.Listen()
	defer stop()
	for {
		select {
		case <-events:
		case <-time.After(3 * disk.QuietFor):
			return
		}
	}
}

// Moves that were made together can be followed one after the other, in any order.
func TestMovesMadeElsewhereAreFollowedOneByOne(t *testing.T) {
	files := notebook(rand.New(rand.NewPCG(3, 3)))
	b := newBench(t, files)
	b.stop()
	b.renames("guides", "manual")
	b.renames("news", "letters/news")
	b.renames("images/pod.png", "pictures/pod.png")
	b.start()
	var off []plan.Pending
	for range 10 {
		if off = b.View().PendingMoves(); len(off) == 0 {
			break
		}
		o := off[len(off)-1]
		_, _, err := b.follow([]plan.Move{o.Move})
		require.NoError(t, err)
	}
	assert.Empty(t, off)
	assert.Empty(t, brokenIn(b.View()))
}

// What was moved here, and followed at once, is not taken for moved elsewhere, even where what is written in it now could be
// read from the old place, too; what is written for the old place later still is.
func TestWhatWasMovedHereIsFollowedAlready(t *testing.T) {
	b := newBench(t, map[string]string{"a.html": "<a href=a.html>self</a><a href=d/a.html>other</a>", "d/a.html": "<p>", "index.html": "<a href=a.html>a</a>"})
	for _, m := range []plan.Move{{From: "a.html", To: "d/b.html"}, {From: "d/b.html", To: "d/c.html"}} {
		_, _, err := b.move([]plan.Move{m}, plan.Options{})
		require.NoError(t, err)
	}
	assert.Equal(t, "<a href=c.html>self</a><a href=a.html>other</a>", b.content("d/c.html"))
	assert.Empty(t, b.View().PendingMoves())
	b.stop()
	b.write("index.html", "<a href=a.html>written from memory</a>")
	b.start()
	assert.Equal(t, []plan.Pending{{Move: plan.Move{From: "a.html", To: "d/c.html"}, Certain: true, Behind: 1}}, b.View().PendingMoves())
	_, _, err := b.follow([]plan.Move{{From: "a.html", To: "d/c.html"}})
	require.NoError(t, err)
	assert.Equal(t, "<a href=d/c.html>written from memory</a>", b.content("index.html"))
	assert.Empty(t, b.View().PendingMoves())
}

func TestAFolderMovedElsewhereIsOneMove(t *testing.T) {
	b := newBench(t, notebook(rand.New(rand.NewPCG(1, 1))))
	b.stop()
	b.renames("guides", "archive/guides")
	b.start()
	off := b.View().PendingMoves()
	require.Len(t, off, 1)
	assert.Equal(t, plan.Move{From: "guides", To: "archive/guides"}, off[0].Move)
	assert.Equal(t, 12, off[0].Files)
	assert.True(t, off[0].Identical && off[0].Certain)
	_, id, err := b.follow([]plan.Move{off[0].Move})
	require.NoError(t, err)
	assert.Empty(t, b.View().PendingMoves())
	undone, _, err := b.undo(id, false)
	require.NoError(t, err)
	assert.Equal(t, off, b.View().PendingMoves(), "undone, it is offered again")
	_, _, err = b.undo(undone, false)
	require.NoError(t, err)
	assert.Empty(t, b.View().PendingMoves())
	_, _, err = b.undo(id+2, false)
	require.NoError(t, err)
	assert.Equal(t, off, b.View().PendingMoves(), "and by undoing that it is done again")
	require.NoError(t, b.DismissMove("guides"))
	assert.Empty(t, b.View().PendingMoves(), "it was not moved")
	assert.NotEmpty(t, brokenIn(b.View()))
}

// A page that was copied is at both places: it is no move, and what is off in the copy is shown as what it is.
// Two pages that change places behind the references are noticed; two that change places here are followed, and nothing is said.
func TestPagesThatChangePlaces(t *testing.T) {
	dir, data := t.TempDir(), t.TempDir()
	lay(t, dir, map[string]string{"index.html": `<a href="a.html">1</a><a href="b.html">2</a>`, "a.html": "<title>A</title>", "b.html": "<title>B</title>"})
	displaced := func(w acting) map[string]string { return w.View().Report.Displaced()["index.html"] }
	w := sit(t, dir, data)
	_, _, err := w.move([]plan.Move{{From: "a.html", To: "b.html"}, {From: "b.html", To: "a.html"}}, plan.Options{})
	require.NoError(t, err)
	assert.Equal(t, `<a href="b.html">1</a><a href="a.html">2</a>`, drive.Files(t, dir)["index.html"])
	assert.Empty(t, displaced(w))
	w.Close()
	assert.Empty(t, displaced(sit(t, dir, data)), "nor by the next start")
	lay(t, dir, map[string]string{"a.html": "<title>A</title>", "b.html": "<title>B</title>"})
	w = sit(t, dir, data)
	assert.Equal(t, map[string]string{"a.html": "b.html", "b.html": "a.html"}, displaced(w))
	causes := w.View().Causes()
	p, err := w.PlanRepairs(causes[0].Key, repair.Likely, nil)
	require.NoError(t, err)
	_, err = w.Apply(t.Context(), &p.Plan)
	require.NoError(t, err)
	assert.Empty(t, displaced(w), "what was written now is meant as it is")
	w.Close()
	assert.Empty(t, displaced(sit(t, dir, data)))
}

func TestACopiedPageIsNoMove(t *testing.T) {
	files := notebook(rand.New(rand.NewPCG(2, 2)))
	for page := range files {
		if !strings.HasPrefix(page, "news/") {
			continue
		}
		b := newBench(t, files)
		b.stop()
		b.write("catalogue/roots/copy.html", files[page])
		b.start()
		assert.Empty(t, b.View().PendingMoves())
		var said []string
		for _, c := range b.View().Causes() {
			said = append(said, c.Message)
		}
		assert.Contains(t, said, "The links on `catalogue/roots/copy.html` were copied from a page in `news/`", page)
	}
}

// A page that is deleted is not taken for moved to one that was beside it, however alike they are; nor to its very copy.
func TestADeletedPageIsNotTakenForItsLikes(t *testing.T) {
	page := func(title string) string {
		return "<title>" + title + "</title><h1 id=a>Packets</h1><h2 id=b>Where</h2><a href=index.html>Home</a><a href=c.html>Beans</a><a href=d.html>Peas</a><a href=e.html>Leeks</a>"
	}
	b := newBench(t, map[string]string{
		"index.html": "<a href=c.html>c</a><a href=d.html>d</a><a href=e.html>e</a>", "c.html": page("Beans"), "d.html": page("Peas"), "e.html": page("Peas"),
	})
	b.stop()
	require.NoError(t, os.Remove(filepath.Join(b.dir, "d.html")))
	require.NoError(t, os.Remove(filepath.Join(b.dir, "c.html")))
	b.start()
	assert.Empty(t, b.View().PendingMoves())
	b.write("f.html", page("Beans"))
	require.NoError(t, b.Read(t.Context()))
	assert.Equal(t, []plan.Pending{{Move: plan.Move{From: "c.html", To: "f.html"}, Identical: true, Certain: true, Behind: 2, Inside: 1}}, b.View().PendingMoves(), "one that came after it can be it")
}

func TestDeletingAFolderTakesWhatIsHiddenInItAndComesBackToTheByte(t *testing.T) {
	b := newBench(t, map[string]string{
		"index.html": "<ul>\r\n<li><a href='old/a.html#x'>A</a></li>\r\n</ul><a href='old/b.html'>B</a>", "old/a.html": "<p id=x>a", "old/b.html": "<p>b",
		"old/.notes": "hidden", "old/empty/.keep": "", "new.html": "<p id=y>",
	})
	before := drive.Files(t, b.dir)
	planned, err := b.PlanDeletion([]plan.Deletion{{Path: "old", Choice: plan.Unlink}})
	require.NoError(t, err)
	assert.Len(t, planned.Deleted, 4)
	assert.Equal(t, before, drive.Files(t, b.dir), "it was only planned")
	_, id, err := b.delete([]plan.Deletion{{Path: "old", Choice: plan.Leave}, {Path: "old/a.html", Choice: plan.Elsewhere, To: "new.html#y"}})
	require.NoError(t, err)
	assert.Equal(t, map[string]string{
		"index.html": "<ul>\r\n<li><a href='new.html#y'>A</a></li>\r\n</ul><a href='old/b.html'>B</a>", "new.html": "<p id=y>",
	}, drive.Files(t, b.dir))
	assert.NoDirExists(t, filepath.Join(b.dir, "old"))
	_, _, err = b.undo(id, false)
	require.NoError(t, err)
	assert.Equal(t, before, drive.Files(t, b.dir))
}

// A symbolic link is no reference that could be rewritten, so a move that would take it off its target is not made.
func TestAMoveTakesNoSymbolicLinkOffItsTarget(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": "<img src=pod.png>", "images/pod.png": "\x89PNG", "deep/er/a.html": "<p>"})
	require.NoError(t, os.Symlink("images/pod.png", filepath.Join(b.dir, "pod.png")))
	require.NoError(t, os.Symlink("../er/a.html", filepath.Join(b.dir, "deep/er/same.html")))
	require.NoError(t, b.Read(t.Context()))
	for says, moves := range map[string][]plan.Move{
		"":                          {{From: "deep", To: "deeper"}},
		"`pod.png` is a symbolic":   {{From: "images", To: "pictures"}},
		"`pod.png` is a symbolic l": {{From: "pod.png", To: "deep/pod.png"}},
	} {
		p := b.planMoves(moves, plan.Options{})
		assert.Contains(t, strings.Join(p.Clashes, " "), says)
		assert.Equal(t, says == "", len(p.Clashes) == 0)
	}
	p, err := b.PlanDeletion([]plan.Deletion{{Path: "images", Choice: plan.Leave}})
	require.NoError(t, err)
	assert.Equal(t, "is the target of a symbolic link, which will be broken", p.Notes[len(p.Notes)-1].Why)
}

// What is seen through a symbolic link to a folder is elsewhere, and is not moved or deleted from there.
func TestNothingIsTakenThroughASymbolicLink(t *testing.T) {
	b := newBench(t, map[string]string{"index.html": "<img src=old/pictures/pod.png>", "images/pod.png": "\x89PNG", "old/a.html": "<p>"})
	require.NoError(t, os.Symlink("../images", filepath.Join(b.dir, "old/pictures")))
	require.NoError(t, b.Read(t.Context()))
	before := drive.Files(t, b.dir)
	for _, path := range []string{"old", "old/pictures", "old/pictures/pod.png"} {
		_, _, err := b.delete([]plan.Deletion{{Path: path, Choice: plan.Leave}})
		assert.ErrorContains(t, err, "`old/pictures` is a symbolic link to a folder")
		_, _, err = b.move([]plan.Move{{From: path, To: "new"}}, plan.Options{})
		assert.ErrorContains(t, err, "`old/pictures` is a symbolic link to a folder")
	}
	_, _, err := b.delete([]plan.Deletion{{Path: "old/a.html", Choice: plan.Leave}})
	require.NoError(t, err)
	delete(before, "old/a.html")
	assert.Equal(t, before, drive.Files(t, b.dir))
}

// What is edited between the look at a plan and its carrying out is a conflict, and nothing is half done.
func TestNothingIsHalfDoneWhenAFileIsEditedInBetween(t *testing.T) {
	begin := func() (acting, string) {
		st, err := store.Open(t.TempDir())
		require.NoError(t, err)
		t.Cleanup(func() { st.Close() })
		dir := t.TempDir()
		lay(t, dir, map[string]string{"index.html": "<a href=old/a.html>A</a>", "old/a.html": "<a href=../index.html>home</a>", "b.html": "<p>"})
		w, err := workspace.Open(st, dir, workspace.Options{}) // which is not watched, so it knows of nothing
		require.NoError(t, err)
		t.Cleanup(w.Close)
		require.NoError(t, w.Read(t.Context()))
		return acting{w}, dir
	}
	for name, carry := range map[string]func(acting) error{
		"moved": func(w acting) error {
			_, _, err := w.move([]plan.Move{{From: "old", To: "new/old"}}, plan.Options{})
			return err
		},
		"deleted, links taken away": func(w acting) error {
			_, _, err := w.delete([]plan.Deletion{{Path: "old", Choice: plan.Unlink}})
			return err
		},
		"led elsewhere": func(w acting) error { _, _, err := w.retarget("old/a.html", "b.html"); return err },
	} {
		w, dir := begin()
		edited := "<p>Edited just now.<a href=old/a.html>A</a>"
		require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"), []byte(edited), 0o644))
		before := drive.Files(t, dir)
		err := carry(w)
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), "index.html", name)
		assert.Equal(t, before, drive.Files(t, dir), name)
		if name != "deleted, links taken away" { // the plan says so
			require.NoError(t, carry(w), "the file is known as it is now")
		}
	}
	w, dir := begin()
	require.NoError(t, os.Remove(filepath.Join(dir, "index.html")))
	_, _, err := w.move([]plan.Move{{From: "index.html", To: "start.html"}}, plan.Options{})
	var conflict *journal.ConflictError
	assert.ErrorAs(t, err, &conflict, "what vanished meanwhile")
}

// A file that is written by another program after the check, while the change is on its way, is kept as that left it.
func TestAFileEditedWhileAChangeIsOnItsWayIsKept(t *testing.T) {
	b := newBench(t, map[string]string{"a.html": "<p>a", "b.html": "<p>b"})
	first := true
	journal.Step = func() {
		if first {
			first = false
			b.write("a.html", "<p>edited")
		}
	}
	t.Cleanup(func() { journal.Step = func() {} })
	edit := func(p, before string) change.File {
		return change.File{Kind: change.Edited, Path: p, Before: hash(before), Edits: []change.Edit{{Start: 3, End: 4, New: []byte("X")}}}
	}
	_, err := b.carry(change.Set{Title: "x", Files: []change.File{edit("a.html", "<p>a"), edit("b.html", "<p>b")}})
	var conflict *journal.ConflictError
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, []string{"a.html"}, conflict.Paths)
	assert.Equal(t, map[string]string{"a.html": "<p>edited", "b.html": "<p>b"}, drive.Files(t, b.dir))
}

func TestAMenuIsBroughtAsEachPageIsWritten(t *testing.T) {
	menu := "<ul id=menu>\n<li><a href=index.html>Home</a>\n<li><a href=guides/a.html>Säen 種</a>\n</ul>\n"
	old := "<ul id=menu>\r\n<li><a href=../index.html>Home</a>\r\n</ul>\r\n"
	b := newBench(t, map[string]string{
		"index.html": "<meta charset=utf-8>" + menu, "guides/a.html": "\xFF\xFE" + utf16("<p>\r\n"+old), "guides/latin.html": "<meta charset=windows-1252>\r\n\xFC" + old,
		"guides/done.html": strings.ReplaceAll(strings.ReplaceAll(menu, "index", "../index"), "guides/", ""), "bare.html": "<body>\n<p>x", "club.css": "a{}", "map.svg": "<svg><a href=index.html /></svg>",
	})
	before := drive.Files(t, b.dir)
	bring := workspace.Menu{Page: "index.html", Text: before["index.html"], Block: -1}
	p, err := b.PlanMenu(t.Context(), bring)
	require.NoError(t, err)
	assert.Equal(t, `<ul id="menu">`, p.Blocks[p.Block].Name)
	var pages, notes []string
	for _, one := range p.Pages {
		pages = append(pages, one.Page)
		notes = append(notes, one.Notes...)
	}
	assert.Equal(t, []string{"bare.html", "guides/a.html", "guides/done.html", "guides/latin.html"}, pages, "style sheets and drawings have no menu")
	assert.Contains(t, strings.Join(notes, " "), "can't hold it")
	assert.Equal(t, before, drive.Files(t, b.dir), "it is only shown")

	id, err := b.Apply(t.Context(), &p.Plan)
	require.NoError(t, err)
	after := drive.Files(t, b.dir)
	assert.Equal(t, "\xFF\xFE"+utf16("<p>\r\n<ul id=menu>\r\n<li><a href=../index.html>Home</a>\r\n<li><a href=a.html>Säen 種</a>\r\n</ul>\r\n"), after["guides/a.html"])
	for _, p := range []string{"bare.html", "guides/done.html", "guides/latin.html", "map.svg"} {
		assert.Equal(t, before[p], after[p], p)
	}
	_, _, err = b.undo(id, false)
	require.NoError(t, err)
	assert.Equal(t, before, drive.Files(t, b.dir))
	bring.Page = "none.html"
	_, err = b.PlanMenu(t.Context(), bring)
	assert.Error(t, err)
}

// What is kept of a page, a draft and what is set aside on it, goes with it: by a swap, back by undo, and by a move that
// was made elsewhere.
func TestDraftsAndWhatIsSetAsideGoWithTheirPages(t *testing.T) {
	b := newBench(t, map[string]string{"a.html": "<a href=none.html>n</a><a href=b.html>b</a>", "b.html": "<p>b"})
	require.NoError(t, b.Drafts.Keep("a.html", "<p>draft of a", hash("<p>a")))
	require.NoError(t, b.Drafts.Keep("b.html", "<p>draft of b", hash("<p>b")))
	require.NoError(t, b.SetAside([]audit.Mark{{Page: "a.html", Rule: "missing-file", Written: "none.html"}}, "it comes later"))
	require.Empty(t, brokenIn(b.View()))
	stands := func(a, other string) {
		t.Helper()
		for p, want := range map[string]string{a: "<p>draft of a", other: "<p>draft of b"} {
			d, ok, err := b.Drafts.Get(p)
			require.NoError(t, err)
			assert.True(t, ok, p)
			assert.Equal(t, want, d.Text, p)
		}
		assert.Empty(t, brokenIn(b.View()), "it is still set aside")
	}
	_, id, err := b.move([]plan.Move{{From: "a.html", To: "b.html"}, {From: "b.html", To: "a.html"}}, plan.Options{})
	require.NoError(t, err)
	stands("b.html", "a.html")
	_, _, err = b.undo(id, false)
	require.NoError(t, err)
	stands("a.html", "b.html")
	b.stop()
	b.renames("a.html", "deep/er/a.html")
	b.start()
	_, _, err = b.follow([]plan.Move{{From: "a.html", To: "deep/er/a.html"}})
	require.NoError(t, err)
	stands("deep/er/a.html", "b.html")
}
