//go:build !windows

package loopback

import "errors"

// errTaken is what the system says on Windows alone.
var errTaken = errors.New("no error of this system")
