package repair

import (
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"arvel/core/site"
)

// likeness is how two names are alike that have the same letters.
type likeness uint8

const (
	unlike    likeness = iota
	joined             // the same letters, parted into other words: "seedswap", "seed-swap"
	sameWords          // the same words: "seed_swap", "Seed-Swap"
)

// alike compares two names, or ids, of which letter case and what parts their words is put aside. Digits that are parted never
// join, since "1-1" is not "11"; every sign that parts no words counts, since "c++" is not "c".
func alike(a, b string) likeness {
	x, partsX := words(a)
	y, partsY := words(b)
	if x != y || x == "" {
		return unlike
	}
	if slices.Equal(partsX, partsY) {
		return sameWords
	}
	for i := 1; i < len(x); i++ {
		if slices.Contains(partsX, i) != slices.Contains(partsY, i) && digit(x[i-1]) && digit(x[i]) {
			return unlike
		}
	}
	return joined
}

// words returns the letters of a name in lower case, without what parts its words, and where it is parted, in bytes of that.
func words(name string) (letters string, parted []int) {
	name = strings.ReplaceAll(site.Fold(name), "%20", " ")
	inner := strings.TrimRightFunc(name, isSeparator)
	var b strings.Builder
	for i, r := range inner {
		parts := isSeparator(r) || r == '+' && i+1 < len(inner) && !strings.HasPrefix(inner[i+1:], "+")
		if !parts || b.Len() == 0 { // what a name begins with is part of it
			b.WriteRune(r)
		} else if n := len(parted); n == 0 || parted[n-1] != b.Len() {
			parted = append(parted, b.Len())
		}
	}
	b.WriteString(name[len(inner):]) // and what it ends in
	return b.String(), parted
}

func isSeparator(r rune) bool { return r == ' ' || r == '-' || r == '_' }

func digit(c byte) bool { return '0' <= c && c <= '9' }

// families are extensions of files that are made of one another, the narrowest first.
var families = [][]string{
	{".htm", ".html"},
	{".jpg", ".jpeg", ".jpe"},
	{".htm", ".html", ".xhtml", ".xht", ".shtml"},
	{".jpg", ".jpeg", ".jpe", ".png", ".gif", ".webp", ".avif", ".bmp"},
	{".js", ".mjs"},
	{".mp4", ".webm", ".ogv", ".mov"},
	{".mp3", ".ogg", ".oga", ".wav", ".m4a"},
	{".woff", ".woff2", ".ttf", ".otf"},
}

// narrow is how many of the families hold spellings of one format.
const narrow = 2

// family returns the place of the narrowest family in which both extensions are; -1 if there is none.
func family(a, b string) int {
	a, b = strings.ToLower(a), strings.ToLower(b)
	return slices.IndexFunc(families, func(f []string) bool { return slices.Contains(f, a) && slices.Contains(f, b) })
}

// stemOf returns a name without its extension.
func stemOf(name string) string { return strings.TrimSuffix(name, path.Ext(name)) }

// shortest is how many letters a name has at least if one letter off is a slip, and not another name.
const shortest = 4

// short reports whether a name has too few letters for one that is off to say anything.
func short(name string) bool { return utf8.RuneCountInString(stemOf(name)) < shortest }

// series reports whether two names differ in what counts through a series of things: a number, a Roman numeral, a letter, or a
// code of two letters as languages have.
func series(a, b string) bool {
	x, y := tokens(a), tokens(b)
	for len(x) > 0 && len(y) > 0 && x[0] == y[0] {
		x, y = x[1:], y[1:]
	}
	for len(x) > 0 && len(y) > 0 && x[len(x)-1] == y[len(y)-1] {
		x, y = x[:len(x)-1], y[:len(y)-1]
	}
	counts := true
	for _, t := range append(slices.Clone(x), y...) {
		if digit(t[0]) {
			return true
		}
		counts = counts && (len(t) <= 2 || len(t) <= 5 && strings.Trim(t, "ivxlc") == "")
	}
	return counts && len(x)+len(y) > 0
}

// tokens parts a name into its numbers, its words and the signs between them.
func tokens(name string) (out []string) {
	kind := func(c byte) int {
		switch {
		case digit(c):
			return 1
		case 'a' <= c && c <= 'z' || c >= utf8.RuneSelf:
			return 2
		}
		return 0
	}
	name = site.Fold(name)
	for i := 0; i < len(name); {
		end := i + 1
		for k := kind(name[i]); k > 0 && end < len(name) && kind(name[end]) == k; {
			end++
		}
		out = append(out, name[i:end])
		i = end
	}
	return out
}
