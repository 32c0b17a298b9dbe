// Package naming has the rules by which the names of files, folders and ids work everywhere, and finds better names.
package naming

import (
	"strings"

	"arvel/core/phrase"
	"arvel/core/site"
)

// FileFault says, as the end of a sentence that begins with the name, what in the last name of a file's path breaks the
// naming rules: lower case, no spaces or special characters, no digit at its start. "" for a good name.
func FileFault(path string) string {
	if fault := FolderFault(path); fault != "" {
		return fault
	}
	if _, name := site.Cut(path); name != "" && name[0] >= '0' && name[0] <= '9' {
		return "begins with a digit"
	}
	return ""
}

// FolderFault is [FileFault] for a folder, which may begin with a digit, as that of a year does.
func FolderFault(path string) string {
	_, name := site.Cut(path)
	for i := range len(name) {
		switch c := name[i]; {
		case 'A' <= c && c <= 'Z':
			return "has capital letters"
		case c <= ' ':
			return "has a space in it"
		case c >= 0x7F:
			return "has letters beyond a to z"
		case strings.IndexByte("-_.", c) < 0 && (c < '0' || c > '9') && (c < 'a' || c > 'z'):
			return "has " + phrase.Mono(string(c)) + " in it"
		}
	}
	return ""
}
