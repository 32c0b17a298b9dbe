// Package version holds the program's version, in this one place.
package version

// Number is the version, by semantic versioning. A release build sets it by the linker.
var Number = "0.2.0"
