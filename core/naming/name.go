// Package naming has the rules by which the names of files, folders and ids work everywhere, and finds better names.
package naming

import (
	"slices"
	"strings"

	"arvel/core/phrase"
	"arvel/core/site"
)

// FileFaults says, each as the end of a sentence that begins with the name, what in the last name of a file's path breaks the
// naming rules: lower case, no spaces or special characters, no digit at its start. None for a good name.
func FileFaults(path string) []string {
	faults := FolderFaults(path)
	if _, name := site.Cut(path); name != "" && name[0] >= '0' && name[0] <= '9' {
		faults = append(faults, "begins with a digit")
	}
	return faults
}

// FolderFaults is [FileFaults] for a folder, which may begin with a digit, as that of a year does.
func FolderFaults(path string) (faults []string) {
	_, name := site.Cut(path)
	for i := range len(name) {
		fault := ""
		switch c := name[i]; {
		case 'A' <= c && c <= 'Z':
			fault = "has capital letters"
		case c <= ' ':
			fault = "has a space in it"
		case c >= 0x7F:
			fault = "has letters other than a to z"
		case strings.IndexByte("-_.", c) < 0 && (c < '0' || c > '9') && (c < 'a' || c > 'z'):
			fault = "has " + phrase.Mono(string(c)) + " in it"
		}
		if fault != "" && !slices.Contains(faults, fault) {
			faults = append(faults, fault)
		}
	}
	return faults
}

// FileFault is the first of [FileFaults]; "" for a good name.
func FileFault(path string) string { return first(FileFaults(path)) }

// FolderFault is the first of [FolderFaults]; "" for a good name.
func FolderFault(path string) string { return first(FolderFaults(path)) }

func first(faults []string) string {
	if len(faults) == 0 {
		return ""
	}
	return faults[0]
}
