package audit

import (
	"strings"

	"arvel/core/site"
)

// fileName: a name that breaks the rules by which names work on every host, or an extension that does not fit the
// content.
var fileName = &Rule{
	Name:  "file-name",
	State: Advice,
	Page: func(c *Case, found func(anchor int)) {
		if _, disguised := c.File.Disguised(); disguised || NameFault(c.File.Path) != "" {
			found(none)
		}
	},
	Say: func(c *Case) (headline, sentence string) {
		_, name := site.Cut(c.File.Path)
		if ext, disguised := c.File.Disguised(); disguised {
			return "The extension of " + Mono(name) + " does not fit its content", "Its first bytes are those of a " + Mono(ext) +
				" file. Hosts tell browsers what a file is by its extension, so it may not be shown."
		}
		return "The name " + Mono(name) + " may not work everywhere", "It " + NameFault(c.File.Path) + ". Lower-case letters, digits, " + Mono("-") + " and " + Mono("_") + " work on every host."
	},
}

// NameFault says, as the end of a sentence that begins with the name, what in the last name of a file's path breaks the
// naming rules: lower case, no spaces or special characters, no digit at its start. "" for a good name.
func NameFault(path string) string {
	if fault := FolderNameFault(path); fault != "" {
		return fault
	}
	if _, name := site.Cut(path); name != "" && name[0] >= '0' && name[0] <= '9' {
		return "begins with a digit"
	}
	return ""
}

// FolderNameFault is [NameFault] for a folder, which may begin with a digit, as that of a year does.
func FolderNameFault(path string) string {
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
			return "has " + Mono(string(c)) + " in it"
		}
	}
	return ""
}
