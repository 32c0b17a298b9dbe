package explain

import (
	"slices"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/naming"
	"arvel/core/site"
)

// RetargetFrom returns what all references that lead to the same target as c can be led away from: a path in the folder, an
// outside address as it is written, or an e-mail address. It is "" if they cannot.
func RetargetFrom(c *audit.Case, state audit.State) string {
	switch t := c.Target(); {
	case t.Kind == address.Mail:
		_, where, _ := Destination(c)
		return where
	case t.Kind != address.Inside && t.URL != "":
		return c.Value
	case c.Landed() != nil:
		return c.Landed().Path
	case state == audit.Broken:
		return t.Path
	}
	return ""
}

// FileToRename returns the path of the file that c means, and that only a second extension keeps from being found; "" if there is
// none.
func FileToRename(c *audit.Case, findings []audit.Finding) string {
	if !slices.ContainsFunc(findings, func(f audit.Finding) bool { return f.Rule.Name == "missing-file" }) {
		return ""
	}
	return naming.Hidden(c.Snapshot, c.Target().Path)
}

// PageToMake returns the path of the page that c leads to and that is missing, if another page can be its pattern: both have to
// be pages. It is "" otherwise.
func PageToMake(c *audit.Case, findings []audit.Finding) string {
	missing := slices.ContainsFunc(findings, func(f audit.Finding) bool { return f.Rule.Name == "missing-file" })
	path := c.Target().Path
	if missing && naming.Hidden(c.Snapshot, path) == "" && site.KindOf(path) == site.Page && site.KindOf(c.File.Path) == site.Page {
		return path
	}
	return ""
}

// mends says what is done in the tag about a rule, as what one presses.
var mends = map[string]string{
	"opener": "Add `rel=noopener`", "missing-alt": "Mark it as decoration: `alt=\"\"`", "space-in-link-text": "Move the space outside of the link",
}

// Mends says what can be done in a reference's tag about what a rule found on it, as what one presses; "" for nothing.
func Mends(rule string) string { return mends[rule] }
