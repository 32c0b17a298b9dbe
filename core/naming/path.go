package naming

import (
	"fmt"
	"strings"
)

// PathFault says what keeps a path from being one in the folder, as the end of a sentence that begins with it.
func PathFault(to string) string {
	switch {
	case strings.Trim(to, "/") == "":
		return "is not a name"
	case strings.HasPrefix(to, "/"):
		return "begins with a slash; give its place in the folder"
	case strings.ContainsAny(to, "\\\x00") || strings.ContainsFunc(to, func(r rune) bool { return r < ' ' }):
		return "has characters that no host accepts"
	}
	if len(to) > PathLimit {
		return fmt.Sprintf("is %d bytes long, and disks take %d at most", len(to), PathLimit)
	}
	for part := range strings.SplitSeq(strings.TrimSuffix(to, "/"), "/") {
		switch {
		case len(part) > nameLimit:
			return fmt.Sprintf("has a name of %d bytes in it, and disks take %d at most", len(part), nameLimit)
		case part != ".." && part != "." && strings.TrimRight(part, ". ") != part:
			return "has a name in it that ends in a dot or a space, which Windows can't keep"
		case reserved[strings.ToLower(strings.TrimSpace(stem(part)))]:
			return "has a name in it that Windows reserves for a device"
		case part == "..":
			return "is outside of the folder"
		case part == "" || part == ".":
			return "has an empty part in it"
		case strings.HasPrefix(part, "."):
			return "begins with a dot, so Arvel would not read it"
		}
	}
	return ""
}

// PathLimit is how many bytes a path within the folder may have.
const PathLimit = 3000

// nameLimit is how many bytes a disk takes for a name.
const nameLimit = 255

// stem returns a name up to its first dot.
func stem(name string) string {
	before, _, _ := strings.Cut(name, ".")
	return before
}

// reserved are the names that Windows keeps for devices, with any extension.
var reserved = func() map[string]bool {
	m := map[string]bool{"con": true, "prn": true, "aux": true, "nul": true}
	for n := '1'; n <= '9'; n++ {
		m["com"+string(n)], m["lpt"+string(n)] = true, true
	}
	return m
}()
