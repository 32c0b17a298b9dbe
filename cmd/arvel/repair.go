package main

import (
	"context"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"arvel/core/audit"
	"arvel/core/repair"
	"arvel/internal/workspace"
)

func repairCommand() *cobra.Command {
	var data dataOptions
	var open workspace.Options
	certainty, diff, accept := "certain", false, false
	c := &cobra.Command{
		Use:   "repair FOLDER",
		Short: "Repair what can be repaired with certainty",
		Long: "Repair what can be repaired with certainty, and with --certainty likely also what most likely was meant. All of it is one\n" +
			"change, which can be undone in History. With --diff nothing is changed.\n\n" +
			"Exit code 0: nothing is broken now; 1: something is left; 2: the folder could not be repaired.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			least, ok := repair.ParseCertainty(certainty)
			if !ok || least == repair.Possible {
				return fmt.Errorf("there is no certainty %q; say certain or likely", certainty)
			}
			w, done, err := opened(c, &data, args[0], open, !diff)
			if err != nil {
				return err
			}
			defer done()
			v := w.View()
			if err := unread(v, accept); err != nil {
				return err
			}
			before := v.Report.Counts
			p, err := w.PlanRepairs(repair.Key{}, least, nil)
			if err != nil {
				return err
			}
			p.Set.Title = fmt.Sprintf("%s repaired", plural(len(p.Picks), "reference"))
			if err := applyOrShow(c, w, &p.Plan, diff); err != nil {
				return err
			}
			say := c.OutOrStdout()
			if diff {
				say = c.ErrOrStderr()
			} else {
				v = w.View()
			}
			summary(say, before, v.Report.Counts, len(p.Picks), len(p.Set.Files), diff)
			if v.Report.Counts.Broken > 0 && (!diff || brokenLeft(v, p.Picks) > 0) {
				return errBroken
			}
			return nil
		},
	}
	c.Flags().StringVar(&certainty, "certainty", certainty, "the least certainty of what is written: certain or likely")
	c.Flags().BoolVar(&diff, "diff", false, "print a unified diff and change nothing")
	acceptFlag(c, &accept)
	placeFlags(c, &open)
	data.flags(c, true)
	return c
}

// brokenLeft counts the broken references that the picks leave.
func brokenLeft(v *workspace.View, picks []repair.Pick) int {
	n := v.Report.Counts.Broken
	seen := map[[2]int32]bool{}
	for _, p := range picks {
		if at := [2]int32{p.File, p.Ref}; !seen[at] && v.Report.States(p.File)[p.Ref] == audit.Broken {
			seen[at] = true
			n--
		}
	}
	return n
}

func summary(out io.Writer, before, after audit.Counts, picks, files int, diff bool) {
	switch {
	case picks == 0:
		fmt.Fprintf(out, "nothing to repair with that certainty; %d broken, %d fragile\n", before.Broken, before.Fragile)
	case diff:
		fmt.Fprintf(out, "%s would be repaired in %s; nothing was changed\n", plural(picks, "reference"), plural(files, "file"))
	default:
		fmt.Fprintf(out, "%s repaired in %s; broken %d, was %d; fragile %d, was %d\n",
			plural(picks, "reference"), plural(files, "file"), after.Broken, before.Broken, after.Fragile, before.Fragile)
	}
}

// applyOrShow carries a plan out, or prints it as a diff.
func applyOrShow(c *cobra.Command, w *workspace.Session, p *workspace.Plan, diff bool) error {
	if diff {
		text, err := w.Unified(p.Set)
		if err != nil {
			return err
		}
		_, err = io.WriteString(c.OutOrStdout(), text)
		return err
	}
	if len(p.Set.Files) == 0 && len(p.Set.Folders) == 0 {
		return nil
	}
	stop := context.AfterFunc(c.Context(), w.Stop)
	defer stop()
	_, err := w.Apply(c.Context(), p)
	return err
}
