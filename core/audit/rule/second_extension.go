package rule

import (
	"arvel/core/audit"
	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/site"
)

// secondExtension: an extension that hides another one, as systems add it that don't show extensions.
var secondExtension = &audit.Rule{
	Name:    "second-extension",
	State:   audit.Advice,
	AnyFile: true,
	Page: func(c *audit.Case, found func(anchor int)) {
		if meant := naming.WithoutSecondExtension(c.File.Path); meant != "" && !c.Snapshot.Exists(meant) {
			found(audit.None)
		}
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		_, name := site.Cut(c.File.Path)
		_, meant := site.Cut(naming.WithoutSecondExtension(c.File.Path))
		return phrase.Mono(name) + " has a second extension", "It was to be called " + phrase.Mono(meant) +
			". Systems that hide extensions add another one when a file is saved, so that links to " + phrase.Mono(meant) + " find nothing."
	},
}
