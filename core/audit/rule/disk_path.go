package rule

import (
	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/phrase"
)

// diskPath: an address on one person's disk, by a drive letter or by file:.
var diskPath = &audit.Rule{
	Name:  "disk-path",
	Exact: true,
	Applies: func(c *audit.Case) (audit.State, bool) {
		scheme := address.SchemeOf(c.Value)
		return audit.Broken, scheme == "file" || len(scheme) == 1
	},
	Say: func(c *audit.Case) (headline, sentence string) {
		return "This is a place on one person's disk",
			phrase.Mono(c.Ref.Written) + " names a file on the computer it was written on. Nobody else has that disk. Write the path from this page instead."
	},
}
