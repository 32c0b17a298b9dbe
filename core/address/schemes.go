package address

import (
	_ "embed"
	"strings"
	"sync"
)

//go:embed schemes.txt
var registered string

var registeredSchemes = sync.OnceValue(func() map[string]bool {
	m := map[string]bool{}
	for name := range strings.FieldsSeq(registered) {
		m[name] = true
	}
	return m
})

// IsRegistered reports whether a scheme, in lower case and without its colon, is in IANA's registry of URI schemes
// (RFC 7595).
func IsRegistered(scheme string) bool { return registeredSchemes()[scheme] }
