// Package phrase has what the sentences shown to the author are put together with. What they say is up to the packages
// that know it.
package phrase

import (
	"strconv"
	"strings"
)

// Mono marks letters that are shown exactly as they are in a file, by enclosing them in backticks. The interface sets what
// is between backticks in a monospaced font. A backtick among the letters is replaced by one that looks like it.
func Mono(s string) string { return "`" + strings.ReplaceAll(s, "`", "ˋ") + "`" }

// Capital returns s with its first letter a capital. A sentence that begins with letters marked by [Mono] is left as it is.
func Capital(s string) string {
	if s == "" || s[0] < 'a' || s[0] > 'z' {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// Count returns a number with its noun: "one id", "3 ids".
func Count(n int, noun string) string {
	if n == 1 {
		return "one " + noun
	}
	return Thousands(n) + " " + noun + "s"
}

// Agree returns a number with what is said of one, or else of several: "1 link leads", "3 links lead".
func Agree(n int, one, several string) string {
	if n == 1 {
		return "1 " + one
	}
	return Thousands(n) + " " + several
}

// Thousands returns a number as people write it, its thousands parted by commas: "6,985".
func Thousands(n int) string {
	s := strconv.Itoa(n)
	for i := len(s) - 3; i > 0 && s[i-1] != '-'; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}
