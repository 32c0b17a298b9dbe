package rule

import (
	"path"
	"strings"

	"golang.org/x/net/publicsuffix"

	"arvel/core/audit"
	"arvel/core/mailbox"
	"arvel/core/phrase"
	"arvel/core/site"
)

// missingScheme: another site's address without "https://", or an e-mail address without "mailto:". A browser
// reads either as the name of a file.
var missingScheme = &audit.Rule{
	Name:  "missing-scheme",
	Exact: true,
	Applies: func(c *audit.Case) (audit.State, bool) {
		if c.Link.Outcome != site.NoFile {
			return audit.Broken, false
		}
		scheme, _ := SchemeFor(c.Value)
		return audit.Broken, scheme != ""
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		scheme, what := SchemeFor(c.Value)
		return "The address has no " + phrase.Mono(scheme),
			phrase.Mono(c.Ref.Written) + " is " + what + ", but without " + phrase.Mono(scheme) + " a browser looks for a file of that name in " + inThe(c) + "."
	},
}

func inThe(c *audit.Case) string {
	if dir, _ := site.Cut(c.File.Path); dir != "" {
		return phrase.Mono(dir + "/")
	}
	return "the top of the folder"
}

// SchemeFor returns the scheme that is missing before value, "https://" or "mailto:", and what value then is;
// "" if it looks like neither.
func SchemeFor(value string) (scheme, what string) {
	value = strings.TrimSpace(value)
	if to, _, _ := strings.Cut(value, "?"); mailbox.IsAddress(to) {
		return "mailto:", "an e-mail address"
	}
	host, rest, deeper := strings.Cut(value, "/")
	if i := strings.IndexAny(host, "?#"); i >= 0 {
		host = host[:i]
	}
	if isHost(host, deeper && rest != "") {
		return "https://", "another site's address"
	}
	return "", ""
}

// reserved are the top-level domains of RFC 2606, which no list has.
var reserved = map[string]bool{"example": true, "test": true, "invalid": true}

// isHost reports whether name has the form of a host's, and not rather of a file's. deeper is set if a path
// follows.
func isHost(name string, deeper bool) bool {
	if port := strings.LastIndexByte(name, ':'); port > 0 && strings.Trim(name[port+1:], "0123456789") == "" {
		name = name[:port]
	}
	labels := strings.Split(strings.ToLower(name), ".")
	if len(labels) < 2 {
		return false
	}
	for _, l := range labels {
		if l == "" || strings.Trim(l, "abcdefghijklmnopqrstuvwxyz0123456789-") != "" {
			return false
		}
	}
	if labels[0] == "www" && len(labels) > 2 {
		return true
	}
	if !deeper && site.IsExtension(path.Ext(name)) {
		return false
	}
	last := labels[len(labels)-1]
	if reserved[last] {
		return true
	}
	_, listed := publicsuffix.PublicSuffix(strings.Join(labels, "."))
	return listed && !site.IsExtension("."+last)
}
