// Package web holds the built interface, so that it ships inside the binary.
package web

import "embed"

// Dist is what "make build" builds of the interface; without that, it is empty but for a placeholder.
//
//go:embed all:dist
var Dist embed.FS
