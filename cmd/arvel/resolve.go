package main

import (
	"fmt"
	"path"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/explain"
	"arvel/internal/workspace"
)

func resolveCommand() *cobra.Command {
	var data dataOptions
	var open workspace.Options
	c := &cobra.Command{
		Use:   "resolve FOLDER PAGE REFERENCE",
		Short: "Tell step by step where a reference on a page leads",
		Long: "Tell step by step where a reference on a page leads. The reference need not be on the page.\n\n" +
			"Exit code 0: it lands; 1: it is broken; 2: it could not be resolved.",
		Args: cobra.ExactArgs(3),
		RunE: func(c *cobra.Command, args []string) error {
			w, done, err := read(c, &data, args[0], open)
			if err != nil {
				return err
			}
			defer done()
			page := path.Clean(filepath.ToSlash(args[1]))
			v := w.View()
			file, ok := v.Snapshot.Find(page)
			if !ok || v.Snapshot.Files[file].Doc == nil {
				return fmt.Errorf("%s is not a page of %s", page, w.Path())
			}
			cs := audit.Imagine(v.Snapshot, file, args[2])
			findings, state := rule.All.Judge(cs)
			out := terminal{c.OutOrStdout()}
			for _, line := range explain.Words(cs) {
				fmt.Fprintln(out, line)
			}
			verb, where, note := explain.Destination(cs)
			fmt.Fprintln(out, strings.TrimSpace(fmt.Sprintf("%s: %s %s %s", state, verb, where, note)))
			for _, f := range findings {
				_, sentence := f.Say(cs)
				fmt.Fprintf(out, "%s: %s\n", f.Rule.Name, sentence)
			}
			for _, r := range v.Planner().For(cs, findings) {
				fmt.Fprintf(out, "%s repair: %s (%s)\n", r.Certainty, r.Written, r.Why)
			}
			if state == audit.Broken {
				return errBroken
			}
			return nil
		},
	}
	placeFlags(c, &open)
	data.flags(c, true)
	return c
}
