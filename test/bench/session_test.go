package bench

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"arvel/core/compose"
	"arvel/core/plan"
	"arvel/internal/store"
	"arvel/internal/workspace"
)

// page is one of the generated folder, in its middle.
const page = "notes/050/page-05050.html"

// session opens a folder with what is kept in data, and reads it. It is closed by closed.
func session(b *testing.B, dir, data string) (s *workspace.Session, closed func()) {
	b.Helper()
	st, err := store.Open(data)
	require.NoError(b, err)
	s, err = workspace.Open(st, dir, workspace.Options{})
	require.NoError(b, err)
	require.NoError(b, s.Read(context.Background()))
	return s, func() {
		s.Close()
		st.Close()
	}
}

// read is [session] for the benchmark's own time.
func read(b *testing.B, dir string) *workspace.Session {
	b.Helper()
	s, closed := session(b, dir, b.TempDir())
	b.Cleanup(closed)
	return s
}

// BenchmarkReopen opens a folder again in which nothing changed. Yardstick: the first time, with keeping what was read.
func BenchmarkReopen(b *testing.B) {
	dir := generated(b, pages)
	data := ""
	beside(b, func() {
		_, closed := session(b, dir, data)
		closed()
	}, func() {
		data = b.TempDir()
		_, closed := session(b, dir, data)
		closed()
	})
}

// BenchmarkSave is from the write of one page to the event that tells of it. 30 ms of that are waited for a save to be whole.
func BenchmarkSave(b *testing.B) {
	dir := generated(b, pages)
	s := read(b, dir)
	require.NoError(b, s.Watch())
	events, stop := s.Listen()
	defer stop()
	file := filepath.Join(dir, page)
	src, err := os.ReadFile(file)
	require.NoError(b, err)
	info, err := os.Stat(file)
	require.NoError(b, err)
	b.Cleanup(func() {
		require.NoError(b, os.WriteFile(file, src, 0o644))
		require.NoError(b, os.Chtimes(file, info.ModTime(), info.ModTime()))
	})
	i := 0
	for b.Loop() {
		i++
		require.NoError(b, os.WriteFile(file, append(src[:len(src):len(src)], fmt.Sprintf("<a href=x%d>", i)...), 0o644))
		<-events
		b.StopTimer()
		time.Sleep(400 * time.Millisecond) // until it is quiet
		b.StartTimer()
	}
}

// BenchmarkOffers is what is offered while an address is typed into a page of 200 kB, and BenchmarkTextJudged the judging of
// its text. Goal: 50 ms.
func BenchmarkOffers(b *testing.B) {
	s := read(b, generated(b, pages))
	text := longText(b, s)
	for _, typed := range []string{"../0", "page", "page-05050.html#s"} {
		b.Run(strings.ReplaceAll(typed, "/", "|"), func(b *testing.B) {
			for b.Loop() {
				compose.Open(s.View().Snapshot, page, text).Complete(typed, "a")
			}
		})
	}
}

func BenchmarkTextJudged(b *testing.B) {
	s := read(b, generated(b, pages))
	text := longText(b, s)
	for b.Loop() {
		_, _, err := s.View().WithText(page, text)
		require.NoError(b, err)
	}
}

// BenchmarkLine works out a link that is being typed into a page of 200 kB: what can be written there, where it leads, what may be
// meant. Goal: 100 ms.
func BenchmarkLine(b *testing.B) {
	s := read(b, generated(b, pages))
	text := string(longText(b, s))
	at := strings.Index(text, "<p>") + len("<p>")
	s.View().Planner() // which Repairs has had
	for _, typed := range []string{"../index.html", "../indx.html", "#nowhere"} {
		b.Run(strings.ReplaceAll(typed, "/", "|"), func(b *testing.B) {
			as := compose.Attributes{{Name: "href", Value: typed}}
			for b.Loop() {
				done, err := s.Compose(s.View(), workspace.Composing{Page: page, Text: text, From: at, To: at, What: compose.Link, Attributes: &as})
				require.NoError(b, err)
				done.Leads.View.Repairs(done.Leads.File, done.Leads.Reference)
			}
		})
	}
}

func longText(b *testing.B, s *workspace.Session) []byte {
	src, err := s.Source(page)
	require.NoError(b, err)
	return []byte(strings.Repeat(string(src), 1+200_000/len(src)))
}

// BenchmarkMenu works out a menu for all pages of the folder.
func BenchmarkMenu(b *testing.B) {
	s := read(b, generated(b, pages))
	src, err := s.Source(page)
	require.NoError(b, err)
	for b.Loop() {
		p, err := s.PlanMenu(b.Context(), workspace.Menu{Page: page, Text: string(src), Block: -1})
		require.NoError(b, err)
		b.ReportMetric(float64(len(p.Pages)), "pages")
	}
}

// archived is the move of a folder that every page refers to.
var archived = []plan.Move{{From: "notes/016", To: "notes/archive/016"}}

// BenchmarkPlanMove plans the move of a folder that every page refers to.
func BenchmarkPlanMove(b *testing.B) {
	s := read(b, generated(b, pages))
	for b.Loop() {
		p, err := s.PlanMoves(archived, plan.Options{})
		require.NoError(b, err)
		b.ReportMetric(float64(len(p.Rewrites)), "references")
		b.ReportMetric(float64(len(p.Set.Files)), "files")
	}
}

// copied returns a copy of the generated folder that may be changed.
func copied(b *testing.B) string {
	dir := filepath.Join(b.TempDir(), "site")
	require.NoError(b, os.CopyFS(dir, os.DirFS(generated(b, pages))))
	return dir
}

// BenchmarkApplyMove carries that move out, and takes it back with the clock stopped. Yardstick: each of those files saved as a
// careful program saves one, with sync, as many at a time.
func BenchmarkApplyMove(b *testing.B) {
	s := read(b, copied(b))
	yard := b.TempDir()
	var p *workspace.Plan
	var change int64
	var contents [][]byte
	beside(b, func() {
		var err error
		change, err = s.Apply(b.Context(), p)
		require.NoError(b, err)
	}, func() {
		var g errgroup.Group
		g.SetLimit(8)
		for i, src := range contents {
			g.Go(func() error { return saveSynced(filepath.Join(yard, fmt.Sprint(i)), src) })
		}
		require.NoError(b, g.Wait())
	}, func() {
		if change != 0 {
			undo, err := s.PlanUndo(change, false)
			require.NoError(b, err)
			_, err = s.Apply(b.Context(), &undo.Plan)
			require.NoError(b, err)
		}
		var err error
		p, err = s.PlanMoves(archived, plan.Options{})
		require.NoError(b, err)
		contents = nil
		for i := range p.Set.Files {
			src, err := s.Source(p.Set.Files[i].Source())
			require.NoError(b, err)
			contents = append(contents, src)
		}
	})
}

// saveSynced writes a file beside the one it replaces, syncs it, and puts it into its place.
func saveSynced(name string, src []byte) error {
	f, err := os.Create(name + "~")
	if err != nil {
		return err
	}
	defer f.Close()
	if _, err := f.Write(src); err != nil {
		return err
	}
	if err := f.Sync(); err != nil {
		return err
	}
	return os.Rename(name+"~", name)
}

// BenchmarkPendingMoves notices that a tenth of the pages was moved by somebody else.
func BenchmarkPendingMoves(b *testing.B) {
	dir, data := copied(b), b.TempDir()
	_, closed := session(b, dir, data)
	closed()
	for i := 20; i < 30; i++ {
		require.NoError(b, os.Rename(filepath.Join(dir, fmt.Sprintf("notes/%03d", i)), filepath.Join(dir, fmt.Sprintf("notes/years-%03d", i))))
	}
	files := 0
	for b.Loop() {
		b.StopTimer()
		s, closed := session(b, dir, data)
		b.StartTimer()
		moves := s.View().PendingMoves()
		b.StopTimer()
		files = 0
		for _, m := range moves {
			files += m.Files
		}
		closed()
		b.StartTimer()
	}
	require.NotZero(b, files)
	b.ReportMetric(float64(files), "files")
}
