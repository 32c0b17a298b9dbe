// Package seed lets every random test be run again as it was: it takes the seed from ARVEL_SEED, and says which one it took.
// A package whose tests use rapid imports it for its effect.
package seed

import (
	"flag"
	"math/rand/v2"
	"os"
	"strconv"
	"testing"

	_ "pgregory.net/rapid" // its flags
)

const variable = "ARVEL_SEED"

func init() {
	if given := os.Getenv(variable); given != "" {
		if err := flag.Set("rapid.seed", given); err != nil {
			panic(variable + " is no number: " + given)
		}
	}
}

// Of returns the seed of a test: that of ARVEL_SEED, or a random one. It is logged either way.
func Of(t testing.TB) uint64 {
	t.Helper()
	s := rand.Uint64()
	if given := os.Getenv(variable); given != "" {
		var err error
		if s, err = strconv.ParseUint(given, 10, 64); err != nil {
			t.Fatalf("%s is no number: %s", variable, given)
		}
	}
	t.Logf("to run it again: %s=%d", variable, s)
	return s
}
