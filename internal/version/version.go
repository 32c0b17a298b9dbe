// Package version holds the program's version, in this one place.
package version

import (
	"runtime"
	"runtime/debug"
)

// Number is the version, by semantic versioning. A release build sets it by the linker.
var Number = "0.2.0"

// Info is what a program says of itself.
type Info struct {
	Version  string `json:"version"`
	Revision string `json:"revision,omitempty"` // the commit that it was built from, with "+" if files had changed since
	Go       string `json:"go"`
	OS       string `json:"os"`
	Arch     string `json:"arch"`
}

// Of returns what this program says of itself.
func Of() Info {
	out := Info{Version: Number, Go: runtime.Version(), OS: runtime.GOOS, Arch: runtime.GOARCH}
	build, ok := debug.ReadBuildInfo()
	if !ok {
		return out
	}
	changed := ""
	for _, s := range build.Settings {
		switch s.Key {
		case "vcs.revision":
			out.Revision = s.Value
		case "vcs.modified":
			if s.Value == "true" {
				changed = "+"
			}
		}
	}
	out.Revision += changed
	return out
}
