package rule

import (
	"regexp"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/distance"
	"arvel/core/mailbox"
	"arvel/core/phrase"
	"arvel/core/site"
)

// mistypedScheme: a scheme that is misspelt, has lost its colon, or is doubled.
var mistypedScheme = &audit.Rule{
	Name:  "mistyped-scheme",
	Exact: true,
	Applies: func(c *audit.Case) (audit.State, bool) {
		switch c.Link.Outcome {
		case site.NoFile, site.Handed, site.Nowhere, site.Elsewhere, site.OutOfFolder:
			_, mistyped := MendScheme(c.Value)
			return audit.Broken, mistyped
		}
		return audit.Broken, false
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		mended, _ := MendScheme(c.Value)
		scheme := mended[:strings.IndexByte(mended, ':')+1]
		return "The scheme is mistyped", phrase.Mono(c.Ref.Written) + " begins with a scheme that no browser knows; " + phrase.Mono(scheme) + " seems to be meant."
	},
}

var (
	doubledScheme = regexp.MustCompile(`^(?i)https?:?/{0,2}(https?):?/{1,2}`)
	looseScheme   = regexp.MustCompile(`^(?i)([a-z][a-z ]{2,8})([:;.,]?)(/{0,3})`)
)

// MendScheme returns the value with its scheme as it must have been meant, and whether it was mistyped.
func MendScheme(value string) (string, bool) {
	value = strings.TrimSpace(value)
	for _, whole := range []string{"https://", "http://", "mailto:"} {
		if rest, ok := strings.CutPrefix(value, whole); ok && !strings.HasPrefix(strings.ToLower(rest), "http") {
			return value, false // as nearly all are
		}
	}
	if m := doubledScheme.FindStringSubmatchIndex(value); m != nil {
		return strings.ToLower(value[m[2]:m[3]]) + "://" + value[m[1]:], true
	}
	m := looseScheme.FindStringSubmatch(value)
	if m == nil {
		return value, false
	}
	word := strings.ToLower(strings.ReplaceAll(m[1], " ", ""))
	rest := value[len(m[0]):]
	exact := m[2] == ":" && !strings.Contains(m[1], " ")
	if to, _, _ := strings.Cut(rest, "?"); m[2] != "" && m[3] == "" && distance.Distance(word, "mailto", 1) <= 1 && mailbox.IsAddress(to) {
		return "mailto:" + rest, !exact || word != "mailto"
	}
	host, _, _ := strings.Cut(rest, "/")
	if m[3] == "" || !strings.Contains(host, ".") || strings.Contains(host, "..") {
		return value, false
	}
	near, far := "https", "http"
	d, other := distance.Distance(word, near, 2), distance.Distance(word, far, 2)
	if other < d {
		near, d = far, other
	}
	if d == 0 && exact && m[3] == "//" {
		return value, false
	}
	if d == 0 && exact && m[3] == "/" && isHost(strings.TrimSpace(host), true) {
		return near + "://" + rest, true // to a browser this is a path on the page's own host
	}
	// A word before a single slash is a folder's name; a scheme has its colon or both slashes.
	if d == 0 && (m[2] == ";" || m[2] == "," || m[3] == "//" && m[2] != ":" || strings.Contains(m[1], " ")) ||
		d == 1 && m[2] != "" && m[3] != "" && address.SchemeOf(word+":") != "" && !address.IsRegistered(word) ||
		d == 2 && m[2] == ":" && m[3] == "//" && !address.IsRegistered(word) {
		return near + "://" + rest, true
	}
	return value, false
}

// PlainScheme reports whether the scheme of a value that [MendScheme] mends can be put right without guessing: its letters
// are right, or off by one from just one scheme.
func PlainScheme(value string) bool {
	value = strings.TrimSpace(value)
	if doubledScheme.MatchString(value) {
		return true
	}
	m := looseScheme.FindStringSubmatch(value)
	if m == nil {
		return false
	}
	word := strings.ToLower(strings.ReplaceAll(m[1], " ", ""))
	near := 0
	for _, scheme := range []string{"https", "http", "mailto"} {
		switch d := distance.Distance(word, scheme, 2); d {
		case 0:
			return true
		case 1:
			near++
		}
	}
	return near == 1
}
