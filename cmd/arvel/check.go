package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"arvel/core/audit"
	"arvel/core/repair"
	"arvel/internal/workspace"
)

func checkCommand() *cobra.Command {
	var data dataOptions
	var open workspace.Options
	format, accept := "text", false
	c := &cobra.Command{
		Use:   "check FOLDER",
		Short: "Tell what in a folder is broken, and how it can be repaired",
		Long: "Tell what in a folder is broken, and how it can be repaired.\n\n" +
			"Exit code 0: nothing is broken; 1: something is; 2: the folder could not be checked, or not the whole of it.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			print, ok := formats[format]
			if !ok {
				return fmt.Errorf("there is no format %q; say text, json, sarif or csv", format)
			}
			w, done, err := read(c, &data, args[0], open)
			if err != nil {
				return err
			}
			defer done()
			v := w.View()
			for _, t := range v.Trouble {
				fmt.Fprintln(c.ErrOrStderr(), "arvel:", shown(t))
			}
			if err := print(c.OutOrStdout(), v); err != nil {
				return err
			}
			if err := unread(v, accept); err != nil {
				return err
			}
			if v.Report.Counts.Broken > 0 {
				return errBroken
			}
			return nil
		},
	}
	c.Flags().StringVar(&format, "format", format, "text, json, sarif or csv")
	acceptFlag(c, &accept)
	placeFlags(c, &open)
	data.flags(c, true)
	return c
}

func placeFlags(c *cobra.Command, o *workspace.Options) {
	c.Flags().StringVar(&o.Place, "place", "root", "where the folder is opened: disk, root, or a path such as /below/")
	c.Flags().BoolVar(&o.IgnoreCase, "ignore-case", false, "treat names that differ only in letter case as the same")
	c.Flags().StringArrayVar(&o.Exclude, "ignore", nil, "a pattern of names or paths to leave out; may be given several times")
}

func acceptFlag(c *cobra.Command, accept *bool) {
	c.Flags().BoolVar(accept, "accept-unread", false, "go on although some pages or folders can't be read, so that findings in them stay unknown")
}

// unread returns an error if something could not be read and that is not accepted.
func unread(v *workspace.View, accept bool) error {
	if accept || len(v.Unread) == 0 {
		return nil
	}
	names := v.Unread
	if len(names) > 3 {
		names = append(slices.Clone(names[:3]), "others")
	}
	return fmt.Errorf("%s could not be read (%s), so something in there may be broken; say --accept-unread to go on without",
		plural(len(v.Unread), "page or folder", "pages or folders"), strings.Join(names, ", "))
}

// read opens a folder and reads it. done has to be called when it is no longer needed.
func read(c *cobra.Command, data *dataOptions, path string, o workspace.Options) (w *workspace.Session, done func(), err error) {
	return opened(c, data, path, o, false)
}

// opened opens a folder and reads it. To change files, what was cut short before is completed first, and nobody else may
// change them until done is called.
func opened(c *cobra.Command, data *dataOptions, path string, o workspace.Options, toChange bool) (w *workspace.Session, done func(), err error) {
	if path == "" {
		return nil, nil, errors.New("say which folder: its name is empty")
	}
	var undo []func()
	end := func() {
		for _, f := range slices.Backward(undo) {
			f()
		}
	}
	defer func() {
		if err != nil {
			end()
		}
	}()
	ws, err := data.open(c, toChange)
	if err != nil {
		return nil, nil, err
	}
	undo = append(undo, func() { ws.Close() })
	if toChange {
		lock, err := ws.Lock()
		if err != nil {
			return nil, nil, err
		}
		undo = append(undo, lock.Release)
	}
	o.Forget = data.forget
	if w, err = ws.Alone(path, o); err != nil {
		return nil, nil, err
	}
	undo = append(undo, w.Close)
	if toChange {
		if err := w.Recover(); err != nil {
			return nil, nil, err
		}
	}
	return w, end, w.Read(c.Context())
}

var formats = map[string]func(io.Writer, *workspace.View) error{
	"text": printText, "json": printJSON, "sarif": printSARIF, "csv": printCSV,
}

// finding is a finding as the JSON of check has it. The names are a contract.
type finding struct {
	Rule      string       `json:"rule"`
	State     string       `json:"state"`
	Page      string       `json:"page"`
	Line      uint32       `json:"line"`
	Column    uint32       `json:"column"`
	Start     uint32       `json:"start"`
	End       uint32       `json:"end"`
	Element   string       `json:"element"`
	Attribute string       `json:"attribute"`
	Written   string       `json:"written"`
	Target    string       `json:"target"`
	Fragment  string       `json:"fragment"`
	Message   string       `json:"message"`
	Cause     string       `json:"cause"`
	Repairs   []repairJSON `json:"repairs"`
}

type repairJSON struct {
	Written   string `json:"written"`
	Certainty string `json:"certainty"`
	Why       string `json:"why"`
}

type counts struct {
	Files      int `json:"files"`
	Pages      int `json:"pages"`
	References int `json:"references"`
	Sound      int `json:"sound"`
	Broken     int `json:"broken"`
	Fragile    int `json:"fragile"`
	Unchecked  int `json:"unchecked"`
	Inert      int `json:"inert"`
}

type report struct {
	Counts   counts    `json:"counts"`
	Findings []finding `json:"findings"`
	Causes   []cause   `json:"causes"`
	// Trouble says what could not be read, a sentence each.
	Trouble []string `json:"trouble"`
}

// cause is a cause as the JSON of check has it. The names are a contract.
type cause struct {
	ID        string `json:"id"`
	Kind      string `json:"kind"`
	Message   string `json:"message"`
	Findings  int    `json:"findings"`
	Certainty string `json:"certainty"`
}

// causeID names the i-th cause of a view.
func causeID(i int) string { return fmt.Sprintf("c%d", i+1) }

func causes(v *workspace.View) []cause {
	out := []cause{}
	for i, c := range v.Causes() {
		message := c.Message + "."
		if c.Evidence != "" {
			message += " " + c.Evidence
		}
		out = append(out, cause{causeID(i), c.Kind, message, len(c.Findings), c.Certainty})
	}
	return out
}

// findings lists the findings of a view, page by page in the order of their bytes.
func findings(v *workspace.View, each func(finding)) {
	type place struct {
		file        int32
		rule        *audit.Rule
		ref, anchor int32
	}
	type known struct {
		cause   int
		repairs []repair.Repair
	}
	explained := map[place]known{}
	for i, c := range v.Causes() {
		for _, e := range c.Findings {
			explained[place{e.File, e.Finding.Rule, e.Finding.Ref, e.Finding.Anchor}] = known{i, e.Repairs}
		}
	}
	for i := range v.Snapshot.Files {
		for _, f := range v.Report.Findings(int32(i)) {
			k := explained[place{int32(i), f.Rule, f.Ref, f.Anchor}]
			out := describe(v, int32(i), f)
			out.Cause = causeID(k.cause)
			for _, p := range k.repairs {
				out.Repairs = append(out.Repairs, repairJSON{p.Written, p.Certainty.String(), p.Why})
			}
			each(out)
		}
	}
}

func describe(v *workspace.View, file int32, f audit.Finding) finding {
	c := audit.CaseOf(v.Snapshot, f, file)
	_, message := f.Say(c)
	out := finding{
		Rule: f.Rule.Name, State: f.State.String(), Page: c.File.Path, Line: 1, Column: 1, Message: message, Repairs: []repairJSON{},
	}
	if a := c.Anchor; a != nil {
		out.Line, out.Column, out.Start, out.End, out.Written, out.Fragment = a.Line, a.Column, a.Start, a.End, a.Name, a.Name
		out.Attribute = "id"
		if a.ByName {
			out.Attribute = "name"
		}
	}
	r := c.Ref
	if r == nil {
		return out
	}
	t := c.Target()
	out.Line, out.Column, out.Start, out.End = r.Line, r.Column, r.Start, r.End
	out.Element, out.Attribute, out.Written, out.Target = r.Element.String(), r.Attribute.String(), r.Written, t.Path
	if t.HasFragment {
		out.Fragment = c.Fragment()
	}
	return out
}

func printJSON(out io.Writer, v *workspace.View) error {
	n := v.Report.Counts
	r := report{
		Counts: counts{
			n.Files, n.Pages, n.References, n.Sound, n.Broken, n.Fragile, n.Unchecked, n.Inert,
		},
		Findings: []finding{}, Causes: causes(v), Trouble: append([]string{}, v.Trouble...),
	}
	findings(v, func(f finding) { r.Findings = append(r.Findings, f) })
	return writeJSON(out, r)
}

func writeJSON(out io.Writer, v any) error {
	e := json.NewEncoder(out)
	e.SetEscapeHTML(false)
	e.SetIndent("", " ")
	return e.Encode(v)
}

func printText(out io.Writer, v *workspace.View) error {
	out = terminal{out}
	page := ""
	findings(v, func(f finding) {
		if f.Page != page {
			if page != "" {
				fmt.Fprintln(out)
			}
			page = f.Page
			fmt.Fprintln(out, page)
		}
		fmt.Fprintf(out, "  %d:%d  %s  %s  %s\n", f.Line, f.Column, f.State, f.Rule, f.Written)
		fmt.Fprintf(out, "        %s\n", f.Message)
		if len(f.Repairs) > 0 {
			best := f.Repairs[0]
			fmt.Fprintf(out, "        %s repair: %s (%s)\n", best.Certainty, best.Written, best.Why)
		}
	})
	if page != "" {
		fmt.Fprintln(out)
	}
	for _, c := range causes(v) {
		if c.Findings > 1 && c.Certainty != "" {
			fmt.Fprintf(out, "%s: %s (%s)\n", plural(c.Findings, "finding"), c.Message, c.Certainty)
		}
	}
	n := v.Report.Counts
	_, err := fmt.Fprintf(out, "%s on %s: %d broken, %d fragile, %d unchecked, %d sound\n",
		plural(n.References, "reference"), plural(n.Pages, "page"), n.Broken, n.Fragile, n.Unchecked, n.Sound)
	return err
}

// plural says a number with its noun, which ends in an s if it is no other one.
func plural(n int, noun string, other ...string) string {
	switch {
	case n == 1:
		return "1 " + noun
	case len(other) > 0:
		return fmt.Sprintf("%d %s", n, other[0])
	}
	return fmt.Sprintf("%d %ss", n, noun)
}
