package audit

import (
	"arvel/core/address"
)

// diskPath: an address on one person's disk, by a drive letter or by file:.
var diskPath = &Rule{
	Name:  "disk-path",
	Exact: true,
	Applies: func(c *Case) (State, bool) {
		scheme := address.SchemeOf(c.Value)
		return Broken, scheme == "file" || len(scheme) == 1
	},
	Say: func(c *Case) (headline, sentence string) {
		return "This is a place on one person's disk",
			Mono(c.Ref.Written) + " names a file on the computer it was written on. Nobody else has that disk; write the path from this page instead."
	},
}
