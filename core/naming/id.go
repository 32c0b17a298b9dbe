package naming

import "strings"

// IDFault says, as a sentence, why an element can't have an id (HTML Standard, 3.2.6); "" if it can.
func IDFault(id string) string {
	switch {
	case id == "":
		return "An id needs at least one letter."
	case strings.ContainsAny(id, " \t\n\r\f"):
		return "An id can’t have a space in it. Join its words with - or _."
	case strings.ContainsFunc(id, func(r rune) bool { return r < ' ' || r == 0x7F }):
		return "An id can’t have control characters in it."
	}
	return ""
}
