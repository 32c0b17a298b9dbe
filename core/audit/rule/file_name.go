package rule

import (
	"arvel/core/audit"
	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/site"
)

// fileName: a name that breaks the rules by which names work on every host, or an extension that does not fit the
// content.
var fileName = &audit.Rule{
	Name:    "file-name",
	State:   audit.Advice,
	AnyFile: true,
	Page: func(c *audit.Case, found func(anchor int)) {
		if _, disguised := c.File.Disguised(); disguised || naming.FileFault(c.File.Path) != "" {
			found(audit.None)
		}
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		_, name := site.Cut(c.File.Path)
		if ext, disguised := c.File.Disguised(); disguised {
			return "The extension of " + phrase.Mono(name) + " does not fit its content", "Its first bytes are those of a " + phrase.Mono(ext) +
				" file. Hosts tell browsers what a file is by its extension, so browsers may not show it."
		}
		return "The name " + phrase.Mono(name) + " may not work everywhere", "It " + naming.FileFault(c.File.Path) + ". Lower-case letters, digits, " + phrase.Mono("-") + " and " + phrase.Mono("_") + " work on every host."
	},
}
