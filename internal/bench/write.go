package main

import (
	"fmt"
	"strings"
	"time"

	"arvel/core/compose"
	"arvel/internal/workbench"
)

// written measures what is worked out while a page of 200 kB is being typed in: the offers, and the judging of its text.
func written(w *workbench.Workbench) error {
	v := w.View()
	const page = "notes/050/page-05050.html"
	src, err := w.Source(page)
	if err != nil {
		return err
	}
	text := []byte(strings.Repeat(string(src), 1+200_000/len(src)))
	for _, typed := range []string{"../0", "page", "page-05050.html#s"} {
		took := time.Hour
		n := 0
		for range 5 {
			took = min(took, timed(func() { n = len(compose.Open(v.Snapshot, page, text).Complete(typed)) }))
		}
		fmt.Printf("%-34s %9s      at most 50 ms, on a page of %d kB\n", fmt.Sprintf("%d offers for %q", n, typed), took.Round(100*time.Microsecond), len(text)/1000)
	}
	took := time.Hour
	for range 5 {
		took = min(took, timed(func() { _, _, err = w.Judged(v, page, text) }))
	}
	fmt.Printf("%-34s %9s      at most 100 ms, on a page of %d kB\n", "unsaved text judged", took.Round(100*time.Microsecond), len(text)/1000)
	return err
}
