// Package large writes a folder of as many pages as one wants, for tests and benchmarks.
package large

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
)

// Write writes a folder of n pages to dir, as a club that never stopped writing would have them: 100 pages a
// folder, about 25 kB and 105 references each, of which about one in a hundred is broken. The same n gives the same
// bytes.
func Write(dir string, n int) error {
	for i := range folders(n) {
		if err := os.MkdirAll(filepath.Join(dir, folderName(i)), 0o755); err != nil {
			return err
		}
	}
	for _, name := range []string{"club.css", "seed.png", "pod.png"} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte("/* */"), 0o644); err != nil {
			return err
		}
	}
	var wait sync.WaitGroup
	errs := make([]error, runtime.GOMAXPROCS(0))
	for w := range errs {
		wait.Go(func() {
			for i := w; i < n && errs[w] == nil; i += len(errs) {
				errs[w] = os.WriteFile(filepath.Join(dir, pageName(i)), largePage(i, n), 0o644)
			}
		})
	}
	wait.Wait()
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

const perFolder = 100

func folders(n int) int { return (n + perFolder - 1) / perFolder }

func folderName(i int) string { return fmt.Sprintf("notes/%03d", i) }

func pageName(i int) string {
	if i == 0 {
		return "index.html"
	}
	return fmt.Sprintf("%s/page-%05d.html", folderName(i/perFolder), i)
}

var words = strings.Fields(`seed bean pea squash leek chard parsnip sow harvest dry clean label drawer packet garden bed frost spring
	autumn members borrow return the of and in on when with under glass soil moon calendar straw compost water slow early late`)

// largePage is the i-th of n pages.
func largePage(i, n int) []byte {
	r := rand.New(rand.NewPCG(uint64(i), 1))
	up := "../../"
	if i == 0 {
		up = ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>Note %d</title>\n<link rel=\"stylesheet\" href=\"%sclub.css\">\n</head>\n<body>\n", i, up)
	fmt.Fprintf(&b, "<p class=\"menu\"><a href=\"%sindex.html\">Home</a>", up)
	for k := range 4 {
		fmt.Fprintf(&b, " <a href=\"%s%s\">Part %d</a>", up, pageName((k+1)*(n/6)), k+1)
	}
	b.WriteString("</p>\n<ul>\n")
	for k := range 10 {
		fmt.Fprintf(&b, "<li><a href=\"#part-%d\">Part %d</a></li>\n", k, k)
	}
	b.WriteString("</ul>\n")
	for k := range 10 {
		fmt.Fprintf(&b, "<h2 id=\"part-%d\">Part %d: %s</h2>\n", k, k, words[r.IntN(len(words))])
		for range 3 {
			b.WriteString("<p>")
			sentence(&b, r, 55)
			largeLink(&b, r, i, n, up)
			sentence(&b, r, 45)
			largeLink(&b, r, i, n, up)
			b.WriteString("</p>\n")
		}
		fmt.Fprintf(&b, "<p><img src=\"%sseed.png\" alt=\"Seed\" width=\"20\" height=\"20\"> <a href=\"#top\">back to the top</a> <a href=\"https://orchard.example/%d\">the orchard</a></p>\n", up, k)
	}
	b.WriteString("</body>\n</html>\n")
	return []byte(b.String())
}

func sentence(b *strings.Builder, r *rand.Rand, n int) {
	for range n {
		b.WriteString(words[r.IntN(len(words))])
		b.WriteByte(' ')
	}
}

// largeLink writes a link to another page: most to one beside it, some far away, a few to nothing.
func largeLink(b *strings.Builder, r *rand.Rand, i, n int, up string) {
	to := r.IntN(n)
	switch kind := r.IntN(100); {
	case kind == 0:
		fmt.Fprintf(b, "<a href=\"%snotes/%03d/pag-%05d.html\">a page</a> ", up, to/perFolder, to)
	case kind < 70 && i > 0:
		beside := i/perFolder*perFolder + r.IntN(perFolder)
		if beside == 0 || beside >= n {
			beside = i
		}
		fmt.Fprintf(b, "<a href=\"page-%05d.html#part-%d\">a page beside it</a> ", beside, r.IntN(10))
	default:
		fmt.Fprintf(b, "<a href=\"%s%s\">a page</a> ", up, pageName(to))
	}
}
