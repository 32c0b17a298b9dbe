package rule

import (
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
	if to, _, _ := strings.Cut(value, "?"); mailbox.IsAddress(to) && site.KindOf(to) == site.Other {
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

var (
	// reserved are the top-level domains of RFC 2606, which no list has.
	reserved = map[string]bool{"example": true, "test": true, "invalid": true}
	// fileSuffixes are top-level domains that names of files end in too, besides the extensions that package site knows.
	fileSuffixes = map[string]bool{"am": true, "ac": true, "in": true, "mk": true, "cc": true, "so": true, "la": true, "pm": true, "st": true, "do": true, "ml": true, "ms": true, "vi": true, "dev": true, "tk": true}
	// commands are names of programs and scripts that end in ".com" or ".sh" on people's disks.
	commands = map[string]bool{"setup": true, "install": true, "command": true, "start": true, "run": true, "edit": true, "format": true, "more": true, "mode": true, "tree": true}
)

// isHost reports whether name has the form of a host's, and not rather of a file's: by "www." before it, by a path that follows
// (deeper), or by a public suffix that no file's name ends in.
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
	last := labels[len(labels)-1]
	_, listed := publicsuffix.PublicSuffix(strings.Join(labels, "."))
	switch {
	case labels[0] == "www" && len(labels) > 2:
		return true
	case reserved[last]:
		return true
	case !listed || site.IsExtension("."+last):
		return false
	}
	return deeper || !fileSuffixes[last] && !(len(labels) == 2 && commands[labels[0]])
}
