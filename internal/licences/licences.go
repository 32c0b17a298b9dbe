// Package licences has the licence texts of what the program contains: Go modules, packages of the interface, and fonts.
package licences

import _ "embed" // for the texts

// Text is all licence texts, each under the names of those that it belongs to. It is collected by "make licences".
//
//go:embed licences.txt
var Text string
