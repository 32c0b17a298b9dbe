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
	programs    = regexp.MustCompile(`(?i)(^|/)(cgi-bin|cgi-local|servlet)/`)
	// programExtensions are extensions of programs that a server runs.
	programExtensions = map[string]bool{}
)

func init() {
	for ext := range strings.FieldsSeq("php php3 php4 php5 php7 phtml asp aspx ashx jsp jspx cgi cfm pl py do") {
		programExtensions["."+ext] = true
	}
}

// ForOther says what a value is meant for that is not meant for this folder, as a headline and as what is to be said of it; "" if
// it is meant for this folder. A program is, where the folder holds others of its kind.
func ForOther(s *site.Snapshot, value string) (headline, sentence string) {
	value = strings.TrimSpace(value)
	part, _, fragment := address.Split(value)
	switch {
	case mayFillIn(value) && placeholder.MatchString(value):
		return "A template fills this in", phrase.Mono(value) + " has a placeholder in it. Where it leads is known only when a template has filled that in."
	case strings.HasPrefix(fragment, "#!") || strings.HasPrefix(fragment, "#/"):
		return "A script on the page takes this", phrase.Mono(value) + " is a route for a script on the page, and names no element of it."
	case (strings.Contains(part, "cgi-") || strings.Contains(part, "servlet")) && programs.MatchString(part),
		programExtensions[strings.ToLower(path.Ext(part))] && !s.HasExtension(path.Ext(part)):
		return "A program on the server answers this", phrase.Mono(value) + " is run on the server, so what it answers can’t be seen in this folder."
	}
	return "", ""
}

// mayFillIn reports whether a value has a sign in it that a placeholder has, as hardly any does.
func mayFillIn(value string) bool {
	return strings.ContainsAny(value, "{}<$[") || strings.Contains(value, "__") || strings.Count(value, "%") > 1 || strings.Count(value, "@") > 1
}
