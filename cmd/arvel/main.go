// Arvel opens a folder of hand-coded pages, works out where every reference in it lands, and repairs those that
// land nowhere. This is its program: the server with the interface in it, the demo, and the headless commands.
package main

import (
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"arvel/internal/store"
)

// The exit codes of the headless commands.
const (
	exitClean    = 0 // nothing is broken
	exitBroken   = 1 // something is
	exitCouldNot = 2 // the command could not run
)

// errBroken ends a command that ran and found something broken.
var errBroken = errors.New("something is broken")

// dataOptions are where what is read is kept.
type dataOptions struct {
	dir    string
	forget bool
}

func (o *dataOptions) flags(c *cobra.Command, forget bool) {
	c.Flags().StringVar(&o.dir, "data", store.DefaultDir(), "the directory in which Arvel keeps what it read and the history of changes")
	if forget {
		c.Flags().BoolVar(&o.forget, "forget", false, "keep nothing of what is read")
	}
}

func (o *dataOptions) open() (*store.Store, error) {
	if o.forget {
		return store.Open("")
	}
	return store.Open(o.dir)
}

func main() {
	root := &cobra.Command{
		Use:           "arvel",
		Short:         "Finds and repairs the broken links of a folder of pages",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.CompletionOptions.DisableDefaultCmd = true
	root.AddCommand(checkCommand(), repairCommand(), moveCommand(), resolveCommand(), serveCommand(), demoCommand())
	switch err := root.Execute(); {
	case err == nil:
		os.Exit(exitClean)
	case errors.Is(err, errBroken):
		os.Exit(exitBroken)
	default:
		fmt.Fprintln(os.Stderr, "arvel:", err)
		os.Exit(exitCouldNot)
	}
}
