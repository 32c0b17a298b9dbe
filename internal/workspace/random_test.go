package workspace_test

import (
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/markup"
	"arvel/core/plan"
	"arvel/internal/workspace"
	"arvel/test/drive"
	"arvel/test/seed"
)

// wish is something an author may want of a folder at any time.
type wish struct {
	says  string
	carry func(b *bench) (int64, error)
}

// wishes draws one, of the files as they are now.
func wishes(r *rand.Rand, now map[string]string) wish {
	paths := slices.Sorted(maps.Keys(now))
	one := func() string { return paths[r.IntN(len(paths))] }
	thing := func() string { // a file, or the folder around it
		p := one()
		if dir := path.Dir(p); dir != "." && r.IntN(3) == 0 {
			return dir
		}
		return p
	}
	fresh := func(p string) string {
		dir := []string{"", "club", "a/b", "guides", path.Dir(one()), path.Dir(p)}[r.IntN(6)]
		name := []string{
			path.Base(p), path.Base(p), fmt.Sprintf("n%d%s", r.IntN(50), path.Ext(p)), path.Base(one()), strings.ToUpper(path.Base(p)), "a b#?" + path.Base(p),
		}[r.IntN(6)]
		return path.Join(dir, name)
	}
	id := func(p string) string {
		if doc := markup.NewScanner().Page([]byte(now[p])); len(doc.Anchors) > 0 {
			return doc.Anchors[r.IntN(len(doc.Anchors))].Name
		}
		return "none"
	}
	switch r.IntN(5) {
	case 0:
		p := one()
		from, to := id(p), fmt.Sprintf("id-%d", r.IntN(9))
		return wish{fmt.Sprintf("id %s of %s becomes %s", from, p, to), func(b *bench) (int64, error) {
			_, done, err := b.renameID(p, from, to)
			return done, err
		}}
	case 1:
		from, to := one(), []string{one(), "https://orchard.example/", "mailto:a@b.example"}[r.IntN(3)]
		if r.IntN(2) == 0 {
			from += "#" + id(from)
		}
		return wish{fmt.Sprintf("%s leads to %s", from, to), func(b *bench) (int64, error) {
			_, done, err := b.retarget(from, to)
			return done, err
		}}
	case 2:
		choice := []plan.Choice{plan.Leave, plan.Unlink, plan.Elsewhere}[r.IntN(3)]
		d := []plan.Deletion{{Path: thing(), Choice: choice, To: one()}}
		return wish{fmt.Sprintf("deleted: %v", d), func(b *bench) (int64, error) {
			_, done, err := b.delete(d)
			return done, err
		}}
	}
	var moves []plan.Move
	for range 1 + r.IntN(4) {
		p := thing()
		moves = append(moves, plan.Move{From: p, To: fresh(p)})
	}
	if r.IntN(4) == 0 {
		p, q := one(), one()
		moves = []plan.Move{{From: p, To: q}, {From: q, To: p}}
	}
	o := plan.Options{LeavePages: r.IntN(2) == 0}
	return wish{fmt.Sprintf("moved: %v %v", moves, o), func(b *bench) (int64, error) { _, id, err := b.move(moves, o); return id, err }}
}

func pathsOf(v *workspace.View) (out []string) {
	for i := range v.Snapshot.Files {
		out = append(out, v.Snapshot.Files[i].Path)
	}
	return out
}

func (b *bench) folders() (out []string) {
	b.Helper()
	require.NoError(b, filepath.WalkDir(b.dir, func(p string, e fs.DirEntry, err error) error {
		if err == nil && e.IsDir() {
			out = append(out, p)
		}
		return err
	}))
	return out
}

// Whatever is wished for is done whole or not at all, is undone and redone to the byte, and what is shown then is what a
// reading of the folder from the start shows.
func TestWhateverIsCarriedOutIsUndoneAndRedoneToTheByte(t *testing.T) {
	r := rand.New(rand.NewPCG(seed.Of(t), 0))
	written := notebook(r)
	maps.Copy(written, map[string]string{
		"guides/.notes": "hidden", "news/.old/page.html": "<a href=../x.html>", "news/Größe & 100%.html": "<base href='../'><a href=index.html>x</a><a href='news/Größe%20&amp;%20100%25.html#é'>y</a><p id=é>",
		"guides/late/club.css": "p { background: url('../../images/pod.png') }", "sitemap.xml": "<urlset><url><loc>index.html</loc></url></urlset>",
		"guides/shift_jis.html": "<meta charset=shift_jis><a href='late/club.css'>\x8e\xed</a><a href=\"../news/Gr\">z</a>",
	})
	b := newBench(t, written)
	require.NoError(t, os.MkdirAll(filepath.Join(b.dir, "news/empty/er"), 0o755))
	carried := 0
	for range 50 {
		before, stood := drive.Files(t, b.dir), b.folders()
		w := wishes(r, before)
		done, err := w.carry(b)
		if err != nil {
			require.Equal(t, before, drive.Files(t, b.dir), "%s: %v", w.says, err)
			require.Equal(t, stood, b.folders(), "%s: %v", w.says, err)
			continue
		}
		carried++
		after, stands := drive.Files(t, b.dir), b.folders()
		undone, _, err := b.undo(done, false)
		require.NoError(t, err, w.says)
		require.Equal(t, before, drive.Files(t, b.dir), w.says)
		require.Equal(t, stood, b.folders(), w.says)
		redone, _, err := b.undo(undone, false)
		require.NoError(t, err, w.says)
		require.Equal(t, after, drive.Files(t, b.dir), w.says)
		require.Equal(t, stands, b.folders(), w.says)
		if len(after) < 20 || r.IntN(3) == 0 {
			_, _, err = b.undo(redone, false)
			require.NoError(t, err, w.says)
		}
	}
	assert.Greater(t, carried, 10)
	shown := b.View()
	again := &bench{T: t, dir: b.dir, data: t.TempDir()}
	again.start()
	defer again.stop()
	require.Equal(t, pathsOf(again.View()), pathsOf(shown))
	assert.Equal(t, again.View().Report.Counts, shown.Report.Counts)
	assert.Equal(t, brokenIn(again.View()), brokenIn(shown))
}
