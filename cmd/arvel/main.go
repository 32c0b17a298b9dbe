// Arvel opens a folder of hand-coded pages, works out where every reference in it lands, and repairs those that
// land nowhere. This is its program: the server with the interface in it, the demo, and the headless commands.
package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"unicode"

	"github.com/spf13/cobra"

	"arvel/internal/version"
	"arvel/internal/workspace"
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
	c.Flags().StringVar(&o.dir, "data", workspace.DefaultDir(), "the directory in which Arvel keeps what it read and the history of changes")
	if forget {
		c.Flags().BoolVar(&o.forget, "forget", false, "keep nothing of what is read, and no history; the journal of a change is kept until it is done")
	}
}

// open opens the data directory. What is read is kept nowhere if it is to be forgotten; to change files, the directory is
// opened all the same, for the journal.
func (o *dataOptions) open(c *cobra.Command, toChange bool) (*workspace.Workspace, error) {
	dir := o.dir
	if o.forget && !toChange {
		dir = ""
	}
	ws, err := workspace.New(dir)
	if err == nil && ws.PutAside() != "" {
		fmt.Fprintf(c.ErrOrStderr(), "arvel: the database in %s was damaged. It was kept as %s, and a new one was begun: the files are read anew, and the history begins today.\n", dir, ws.PutAside())
	}
	return ws, err
}

// shown returns a text as it may go to a terminal: what a name brings along that a terminal would obey is written out.
func shown(text string) string {
	var b strings.Builder
	for _, r := range text {
		if r != '\n' && r != '\t' && (unicode.IsControl(r) || r == '\u2028' || r == '\u2029' || unicode.Is(unicode.Bidi_Control, r)) {
			fmt.Fprintf(&b, "\\u%04X", r)
			continue
		}
		b.WriteRune(r)
	}
	return b.String()
}

// terminal writes texts as [shown] returns them.
type terminal struct{ io.Writer }

func (t terminal) Write(p []byte) (int, error) {
	if _, err := io.WriteString(t.Writer, shown(string(p))); err != nil {
		return 0, err
	}
	return len(p), nil
}

func main() {
	root := &cobra.Command{
		Use:           "arvel",
		Short:         "Finds and repairs the broken links of a folder of pages",
		SilenceUsage:  true,
		SilenceErrors: true,
		Version:       version.Number,
	}
	root.SetVersionTemplate("arvel {{.Version}}\n")
	root.AddCommand(checkCommand(), repairCommand(), moveCommand(), resolveCommand(), serveCommand(), demoCommand(), versionCommand())
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	switch err := root.ExecuteContext(ctx); {
	case err == nil:
		os.Exit(exitClean)
	case errors.Is(err, errBroken):
		os.Exit(exitBroken)
	default:
		fmt.Fprintln(os.Stderr, "arvel:", shown(err.Error()))
		os.Exit(exitCouldNot)
	}
}
