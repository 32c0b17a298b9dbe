package main

import (
	"fmt"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"arvel/core/plan"
	"arvel/internal/workspace"
)

func moveCommand() *cobra.Command {
	var data dataOptions
	var open workspace.Options
	var o plan.Options
	diff, accept := false, false
	c := &cobra.Command{
		Use:   "move FOLDER FROM TO [FROM TO ...]",
		Short: "Move or rename files and folders, with all references to them and in them",
		Long: "Move or rename files and folders, with all references to them and in them. The moves are made as one change, which can be\n" +
			"undone in History. A TO that is a folder, or ends in a slash, is moved into. With --diff nothing is changed.\n\n" +
			"Exit code 0: the moves are made, and every reference lands where it did; 1: they are made, but something broke by it or\n" +
			"could not follow; 2: the moves could not be made.",
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) < 3 || len(args)%2 == 0 {
				return fmt.Errorf("say the folder, then pairs of what to move and where to")
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			w, done, err := opened(c, &data, args[0], open, !diff)
			if err != nil {
				return err
			}
			defer done()
			v := w.View()
			if err := unread(v, accept); err != nil {
				return err
			}
			var moves []plan.Move
			for i := 1; i+1 < len(args); i += 2 {
				from := path.Clean(filepath.ToSlash(args[i]))
				moves = append(moves, plan.Move{From: from, To: filepath.ToSlash(args[i+1])})
			}
			p, err := w.PlanMoves(v.Into(moves), o)
			if err != nil {
				return err
			}
			if len(p.Clashes) > 0 {
				return &workspace.ClashError{Sentences: p.Clashes}
			}
			broken := v.Report.Counts.Broken
			if err := applyOrShow(c, w, p, diff); err != nil {
				return err
			}
			say := c.OutOrStdout()
			if diff {
				say = c.ErrOrStderr()
			}
			pages := map[string]bool{}
			for _, r := range p.Rewrites {
				pages[r.Page] = true
			}
			made := map[bool]string{true: "would be ", false: ""}[diff]
			fmt.Fprintf(say, "%s %smoved, %s %srewritten on %s\n", plural(len(p.Moves), "file"), made, plural(len(p.Rewrites), "reference"), made, plural(len(pages), "page"))
			for _, t := range p.Notes {
				fmt.Fprintf(say, "%s:%d  %s %s\n", shown(t.Page), t.Line, shown(t.Written), strings.TrimSuffix(t.Why, "."))
			}
			if w.View().Report.Counts.Broken > broken || slices.ContainsFunc(p.Notes, func(n plan.Note) bool { return n.Breaks }) {
				return errBroken
			}
			return nil
		},
	}
	c.Flags().BoolVar(&diff, "diff", false, "print a unified diff and change nothing")
	c.Flags().BoolVar(&o.LeavePages, "leave-page", false, "leave a page at each old address that leads visitors to the new one")
	acceptFlag(c, &accept)
	placeFlags(c, &open)
	data.flags(c, true)
	return c
}
