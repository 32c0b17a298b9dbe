// Package bench measures Arvel's work on large folders, each figure beside its yardstick in the same run: "yard-ns/op" is what
// that takes, and "ratio" is the work's time by it. Run it by "make bench"; benchstat reads what it prints.
package bench

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
	"arvel/internal/disk"
	"arvel/test/drive"
	"arvel/test/large"
)

// pages is how many pages the generated folder has.
const pages = 10_000

// peakOf is the environment variable that makes this program read one folder and print the most memory that took.
const peakOf = "ARVEL_BENCH_PEAK"

func TestMain(m *testing.M) {
	if dir := os.Getenv(peakOf); dir != "" {
		peak(dir)
		return
	}
	os.Exit(m.Run())
}

// generated returns a generated folder of n pages, which is kept for the next time.
func generated(b *testing.B, n int) string {
	b.Helper()
	dir := filepath.Join(drive.Root(), ".work", "bench", fmt.Sprint(n))
	if _, err := os.Stat(filepath.Join(dir, "index.html")); err == nil {
		return dir
	}
	require.NoError(b, large.Write(dir, n))
	past := time.Now().Add(-time.Hour) // so that times tell what changed
	require.NoError(b, filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			err = os.Chtimes(p, past, past)
		}
		return err
	}))
	return dir
}

// onEach runs a benchmark on the generated folder, on the real ones that "make real" unpacks, and on BENCH_FOLDER.
func onEach(b *testing.B, run func(b *testing.B, dir string)) {
	real := filepath.Join(drive.Root(), ".work", "real")
	for _, one := range []struct{ name, dir string }{
		{"generated", generated(b, pages)},
		{"boost", filepath.Join(real, "libboost1.81-doc/usr/share/doc/libboost1.81-doc/doc")},
		{"imagemagick", filepath.Join(real, "imagemagick-6-doc/usr/share/doc/imagemagick-6-common/html")},
		{"own", os.Getenv("BENCH_FOLDER")},
	} {
		if _, err := os.Stat(one.dir); one.dir != "" && err == nil {
			b.Run(one.name, func(b *testing.B) { run(b, one.dir) })
		}
	}
}

// beside measures work, and its yardstick with the clock stopped. prepare is done before each, in no time at all.
func beside(b *testing.B, work, yardstick func(), prepare ...func()) {
	b.Helper()
	var took time.Duration
	for b.Loop() {
		b.StopTimer()
		for _, f := range prepare {
			f()
		}
		runtime.GC()
		start := time.Now()
		yardstick()
		took += time.Since(start)
		runtime.GC()
		b.StartTimer()
		work()
	}
	b.ReportMetric(float64(took)/float64(b.N), "yard-ns/op")
	b.ReportMetric(float64(b.Elapsed())/float64(took), "ratio")
}

// each reads every page on all cores and hands it to what work makes for each core.
func each(f *disk.Folder, entries []disk.Entry, work func() func(src []byte, path string)) {
	var next atomic.Int64
	var wait sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			do := work()
			var room []byte
			for {
				n := int(next.Add(1)) - 1
				if n >= len(entries) {
					return
				}
				if !site.IsRead(entries[n].Path) {
					continue
				}
				src, err := f.ReadInto(entries[n].Path, room)
				if err != nil {
					panic(err)
				}
				room = src
				do(src, entries[n].Path)
			}
		})
	}
	wait.Wait()
}

// tokenize is the yardstick of all reading: the tokenizer of x/net/html, which keeps nothing of what it finds.
func tokenize(src []byte, _ string) {
	z := html.NewTokenizer(bytes.NewReader(src))
	for z.Next() != html.ErrorToken {
		continue
	}
}

// snapshotOf reads and resolves a folder as a session does, without keeping what was read.
func snapshotOf(f *disk.Folder) *site.Snapshot {
	listing, err := f.Walk(context.Background(), "")
	if err != nil {
		panic(err)
	}
	var mu sync.Mutex
	var files []site.File
	each(f, listing.Entries, func() func([]byte, string) {
		scanner := markup.NewScanner()
		return func(src []byte, path string) {
			file := site.File{Path: path, Kind: site.KindOf(path), Size: int64(len(src)), Hash: change.HashOf(src), Doc: site.Scan(scanner, path, src)}
			mu.Lock()
			files = append(files, file)
			mu.Unlock()
		}
	})
	for _, e := range listing.Entries {
		if !site.IsRead(e.Path) {
			files = append(files, site.File{Path: e.Path, Kind: site.KindOf(e.Path)})
		}
	}
	return site.Build(files, site.Options{Place: address.Place{Mount: "/"}})
}

func judged(f *disk.Folder) *audit.Report {
	return audit.Judge(snapshotOf(f), rule.All, audit.Terms{})
}

func open(b *testing.B, dir string) *disk.Folder {
	b.Helper()
	f, err := disk.Open(dir, nil)
	require.NoError(b, err)
	b.Cleanup(func() { f.Close() })
	return f
}

// BenchmarkRead reads, resolves and judges a whole folder. Yardstick: the tokenizer alone over the same files, on the same
// cores.
func BenchmarkRead(b *testing.B) {
	onEach(b, func(b *testing.B, dir string) {
		f := open(b, dir)
		listing, err := f.Walk(b.Context(), "")
		require.NoError(b, err)
		var counts audit.Counts
		beside(b, func() { counts = judged(f).Counts }, func() {
			each(f, listing.Entries, func() func([]byte, string) { return tokenize })
		})
		b.ReportMetric(float64(counts.References), "references")
		b.ReportMetric(float64(counts.Broken), "broken")
	})
}

// BenchmarkPeak is the most memory that reading, resolving and judging a folder takes, in a process of its own. Goal: 300 MB a
// million references.
func BenchmarkPeak(b *testing.B) {
	onEach(b, func(b *testing.B, dir string) {
		var most float64
		for b.Loop() {
			cmd := exec.Command(os.Args[0])
			cmd.Env = append(os.Environ(), peakOf+"="+dir)
			out, err := cmd.Output()
			require.NoError(b, err)
			var mb float64
			_, err = fmt.Sscan(string(out), &mb)
			require.NoError(b, err)
			most = max(most, mb)
		}
		b.ReportMetric(most, "peak-MB")
	})
}

func peak(dir string) {
	f, err := disk.Open(dir, nil)
	if err != nil {
		panic(err)
	}
	judged(f)
	status, err := os.ReadFile("/proc/self/status")
	if err != nil {
		panic(err)
	}
	for line := range strings.SplitSeq(string(status), "\n") {
		if kb, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			var n int
			fmt.Sscan(kb, &n)
			fmt.Println(n / 1000)
		}
	}
}

// BenchmarkCauses finds the causes and repairs of all that is broken in a folder.
func BenchmarkCauses(b *testing.B) {
	onEach(b, func(b *testing.B, dir string) {
		s := snapshotOf(open(b, dir))
		report := audit.Judge(s, rule.All, audit.Terms{})
		n := 0
		for b.Loop() {
			n = 0
			for _, c := range repair.NewPlanner(s, repair.Past{}).Causes(report) {
				n += len(c.Findings)
			}
		}
		require.NotZero(b, n)
		b.ReportMetric(float64(n), "findings")
	})
}
