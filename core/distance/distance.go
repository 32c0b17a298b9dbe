// Package letters compares two names letter by letter: how far apart they are, and which letters differ.
package distance

import (
	"strings"
)

// Run is a stretch of letters that two texts share, or that only one of them has.
type Run struct {
	// Text is what is there; in a Run of differing letters, Written is from the first text, Real from the second.
	Written, Real string
	Same          bool
}

// alignLimit is the longest text, in letters, that is aligned letter by letter; the middle of longer ones is one run.
const alignLimit = 400

// Align lines up written against real, so that as few letters as possible differ.
func Align(written, real string) []Run {
	a, b := []rune(written), []rune(real)
	front := 0
	for front < len(a) && front < len(b) && a[front] == b[front] {
		front++
	}
	back := 0
	for back < len(a)-front && back < len(b)-front && a[len(a)-1-back] == b[len(b)-1-back] {
		back++
	}
	var out runs
	out.same(a[:front])
	am, bm := a[front:len(a)-back], b[front:len(b)-back]
	if len(am) > alignLimit || len(bm) > alignLimit {
		out.differ(am, bm)
	} else if !out.within(am, bm) {
		out.middle(am, bm)
	}
	out.same(a[len(a)-back:])
	return out
}

type runs []Run

func (r *runs) same(s []rune) {
	if len(s) == 0 {
		return
	}
	if n := len(*r); n > 0 && (*r)[n-1].Same {
		(*r)[n-1].Written += string(s)
		(*r)[n-1].Real += string(s)
		return
	}
	*r = append(*r, Run{string(s), string(s), true})
}

func (r *runs) differ(a, b []rune) {
	if len(a)+len(b) == 0 {
		return
	}
	if n := len(*r); n > 0 && !(*r)[n-1].Same {
		(*r)[n-1].Written += string(a)
		(*r)[n-1].Real += string(b)
		return
	}
	*r = append(*r, Run{Written: string(a), Real: string(b)})
}

// within aligns a text with one that holds it in one piece: with its last place there, as the words of a link follow its
// address.
func (r *runs) within(a, b []rune) bool {
	long, short := string(a), string(b)
	if len(a) < len(b) {
		long, short = short, long
	}
	at := strings.LastIndex(long, short)
	if at < 0 || short == "" {
		return false
	}
	side := func(s string) {
		if len(a) < len(b) {
			r.differ(nil, []rune(s))
		} else {
			r.differ([]rune(s), nil)
		}
	}
	side(long[:at])
	r.same([]rune(short))
	side(long[at+len(short):])
	return true
}

// middle aligns by the classic table of edit distances, walked from its end.
func (r *runs) middle(a, b []rune) {
	cost := make([][]int, len(a)+1)
	for i := range cost {
		cost[i] = make([]int, len(b)+1)
	}
	for i := len(a); i >= 0; i-- {
		for j := len(b); j >= 0; j-- {
			switch {
			case i == len(a):
				cost[i][j] = len(b) - j
			case j == len(b):
				cost[i][j] = len(a) - i
			case a[i] == b[j]:
				cost[i][j] = cost[i+1][j+1]
			default:
				cost[i][j] = 1 + min(cost[i+1][j+1], cost[i+1][j], cost[i][j+1])
			}
		}
	}
	i, j := 0, 0
	for i < len(a) || j < len(b) {
		switch {
		case i < len(a) && j < len(b) && a[i] == b[j]:
			r.same(a[i : i+1])
			i, j = i+1, j+1
		case i < len(a) && j < len(b) && cost[i][j] == 1+cost[i+1][j+1]:
			r.differ(a[i:i+1], b[j:j+1])
			i, j = i+1, j+1
		case i < len(a) && cost[i][j] == 1+cost[i+1][j]:
			r.differ(a[i:i+1], nil)
			i++
		default:
			r.differ(nil, b[j:j+1])
			j++
		}
	}
}

// Distance returns how many letters have to be put in, taken out, exchanged, or swapped with their neighbour to
// make a into b; limit+1 if it is more than limit.
func Distance(a, b string, limit int) int {
	x, y := []rune(a), []rune(b)
	if d := len(x) - len(y); d > limit || -d > limit {
		return limit + 1
	}
	before, last, row := make([]int, len(y)+1), make([]int, len(y)+1), make([]int, len(y)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(x); i++ {
		row[0] = i
		best := i
		for j := 1; j <= len(y); j++ {
			c := 1
			if x[i-1] == y[j-1] {
				c = 0
			}
			row[j] = min(last[j-1]+c, last[j]+1, row[j-1]+1)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				row[j] = min(row[j], before[j-2]+1)
			}
			best = min(best, row[j])
		}
		if best > limit {
			return limit + 1
		}
		before, last, row = last, row, before
	}
	return min(last[len(y)], limit+1)
}

// Plain reduces a name to what people hear when it is read aloud: lower case, without separators. Names that
// differ in letter case or separator alone have the same plain form.
func Plain(name string) string {
	return separators.Replace(strings.ToLower(name))
}

var separators = strings.NewReplacer(" ", "", "-", "", "_", "", "%20", "", "+", "")
