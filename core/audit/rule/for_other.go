package rule

import (
	"path"
	"regexp"
	"strings"

	"arvel/core/address"
	"arvel/core/phrase"
	"arvel/core/site"
)

var (
	placeholder = regexp.MustCompile(`\{\{|\}\}|\{%|%\}|<%|%>|<\?|[$#]\{|\[\[|\{[a-zA-Z_][\w.]*\}|(^|/)(%[A-Z][A-Z_]{2,}%|\$[A-Za-z_]\w*|@[A-Za-z_]\w*@|__[A-Za-z]\w*__)(/|\.|$)`)
	route       = regexp.MustCompile(`#(!/?|/)\w|#!?/$`)
	programs    = regexp.MustCompile(`(?i)(^|/)(cgi-bin|cgi-local|servlet)/`)
	program     = regexp.MustCompile(`(?i)\.(php[3-7]?|phtml|asp|aspx|ashx|jsp|jspx|cgi|cfm|pl|py|do)$`)
)

// ForOther says what a value is meant for that is not meant for this folder, as a headline and as what is to be said of it; "" if
// it is meant for this folder. A program is, where the folder holds others of its kind.
func ForOther(s *site.Snapshot, value string) (headline, sentence string) {
	value = strings.TrimSpace(value)
	if !strings.ContainsAny(value, "{<$@%_[.#") && !strings.Contains(value, "cgi") && !strings.Contains(value, "servlet") {
		return "", "" // as nearly all are
	}
	part, _, _ := address.Split(value)
	switch {
	case placeholder.MatchString(value):
		return "A template fills this in", phrase.Mono(value) + " has a placeholder in it. Where it leads is known only when a template has filled that in."
	case route.MatchString(value):
		return "A script on the page takes this", phrase.Mono(value) + " is a route for a script on the page, and names no element of it."
	case programs.MatchString(part) || program.MatchString(part) && !s.HasExtension(path.Ext(part)):
		return "A program on the server answers this", phrase.Mono(value) + " is run on the server, so what it answers can’t be seen in this folder."
	}
	return "", ""
}
