package main

import (
	"encoding/json"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"arvel/internal/licences"
	"arvel/internal/version"
)

func versionCommand() *cobra.Command {
	asJSON, texts := false, false
	c := &cobra.Command{
		Use:   "version",
		Short: "Print the version, or the licences of what the program contains",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			out := c.OutOrStdout()
			switch {
			case texts:
				_, err := io.WriteString(out, licences.Text)
				return err
			case asJSON:
				e := json.NewEncoder(out)
				e.SetIndent("", "  ")
				return e.Encode(version.Of())
			}
			_, err := fmt.Fprintln(out, "arvel", version.Number)
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print it as JSON, with what the program was built by")
	c.Flags().BoolVar(&texts, "licences", false, "print the licence texts of the modules, packages and fonts in the program")
	return c
}
