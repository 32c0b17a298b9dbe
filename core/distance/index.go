package distance

import (
	"slices"
	"sort"
	"strings"
	"sync"
)

// Index finds the names that are near to another one among many, without comparing it with all of them. It is safe for use
// by several goroutines.
type Index struct {
	names []string
	once  sync.Once
	// forward and backward are the names' numbers, sorted by their plain form, and by that read from its end.
	forward, backward []int32
	plain, reversed   []string
	typos             map[string][]int32 // numbers by what is left of a plain form with one letter taken out
	folded            map[string][]int32 // by lower case
	byPlain           map[string][]int32
}

// NewIndex returns an index of the names, which are not to be changed any more.
func NewIndex(names []string) *Index { return &Index{names: names} }

// Names returns the indexed names.
func (x *Index) Names() []string { return x.names }

const (
	// few is how many names are simply compared with all of them.
	few = 128
	// window is how many neighbours in each order are compared.
	window = 24
	// longest is the longest name, in bytes, that is looked up: no disk has longer ones.
	longest = 255
)

func (x *Index) build() {
	n := len(x.names)
	x.plain, x.reversed = make([]string, n), make([]string, n)
	x.folded, x.byPlain = make(map[string][]int32, n), make(map[string][]int32, n)
	for i, name := range x.names {
		x.plain[i] = Plain(name)
		add(x.folded, strings.ToLower(name), int32(i))
		add(x.byPlain, Plain(strings.TrimPrefix(name, "#")), int32(i))
	}
	if n <= few {
		return
	}
	x.typos = make(map[string][]int32, n*8)
	for i := range x.names {
		x.reversed[i] = reversed(x.plain[i])
		if len(x.names[i]) <= longest {
			for _, t := range typos(x.plain[i]) {
				add(x.typos, t, int32(i))
			}
		}
	}
	order := func(by []string) []int32 {
		out := make([]int32, n)
		for i := range out {
			out[i] = int32(i)
		}
		slices.SortStableFunc(out, func(a, b int32) int { return strings.Compare(by[a], by[b]) })
		return out
	}
	x.forward, x.backward = order(x.plain), order(x.reversed)
}

// add adds a number under a key, of which no more are kept than are ever looked at.
func add(m map[string][]int32, key string, i int32) {
	if l := m[key]; len(l) < 2*window {
		m[key] = append(l, i)
	}
}

func reversed(s string) string {
	r := []rune(s)
	slices.Reverse(r)
	return string(r)
}

// typos returns s and all that is left of it with one letter taken out.
func typos(s string) []string {
	out := []string{s}
	r := []rune(s)
	for i := range r {
		if i == 0 || r[i] != r[i-1] {
			out = append(out, string(r[:i])+string(r[i+1:]))
		}
	}
	return out
}

// candidates returns the numbers of the names that may be near, in order: all of a few, and of many those that are one
// letter away or beside the name in either order.
func (x *Index) candidates(name string) []int32 {
	x.once.Do(x.build)
	n := len(x.names)
	if n <= few {
		out := make([]int32, n)
		for i := range out {
			out[i] = int32(i)
		}
		return out
	}
	var out []int32
	plain := Plain(name)
	for _, t := range typos(plain) {
		out = append(out, x.typos[t]...)
	}
	around := func(order []int32, by []string, key string) {
		at := sort.Search(n, func(i int) bool { return by[order[i]] >= key })
		out = append(out, order[max(0, at-window):min(n, at+window)]...)
	}
	around(x.forward, x.plain, plain)
	around(x.backward, x.reversed, reversed(plain))
	slices.Sort(out)
	return slices.Compact(out)
}

// Near returns the names that are near to name, the nearest first, at most n of them.
func (x *Index) Near(name string, n int) []string {
	if len(name) > longest {
		return nil
	}
	plain, limit := Plain(name), 1+len(name)/4
	type found struct {
		name     string
		distance int
	}
	var near []found
	for _, i := range x.candidates(name) {
		if d := Distance(plain, x.plain[i], limit); d <= limit {
			near = append(near, found{x.names[i], d})
		}
	}
	slices.SortStableFunc(near, func(a, b found) int { return a.distance - b.distance })
	out := make([]string, 0, min(n, len(near)))
	for _, f := range near[:min(n, len(near))] {
		out = append(out, f.name)
	}
	return out
}

// Fold returns the names that differ from name in letter case at most; Plain those that have its plain form.
func (x *Index) Fold(name string) []string {
	x.once.Do(x.build)
	return x.named(x.folded[strings.ToLower(name)])
}

// Plain returns the names whose plain form, without a "#" before it, is that of name.
func (x *Index) Plain(name string) []string {
	x.once.Do(x.build)
	return x.named(x.byPlain[Plain(strings.TrimPrefix(name, "#"))])
}

// OneAway returns the names that are one letter from name, letter case aside.
func (x *Index) OneAway(name string) []string {
	if len(name) > longest {
		return nil
	}
	name = strings.ToLower(name)
	var out []string
	for _, i := range x.candidates(name) {
		if Distance(strings.ToLower(x.names[i]), name, 1) == 1 {
			out = append(out, x.names[i])
		}
	}
	return out
}

// named returns the names of some numbers, each once.
func (x *Index) named(numbers []int32) []string {
	var out []string
	for _, i := range numbers {
		if !slices.Contains(out, x.names[i]) {
			out = append(out, x.names[i])
		}
	}
	return out
}
