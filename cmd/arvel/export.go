package main

import (
	"encoding/csv"
	"io"
	"net/url"
	"strconv"
	"strings"

	"arvel/core/audit/rule"
	"arvel/internal/version"
	"arvel/internal/workspace"
)

// printCSV prints a finding a line (RFC 4180).
func printCSV(out io.Writer, v *workspace.View) error {
	w := csv.NewWriter(out)
	err := w.Write([]string{"rule", "state", "page", "line", "column", "element", "attribute", "written", "target", "fragment", "message", "repair", "certainty"})
	if err != nil {
		return err
	}
	findings(v, func(f finding) {
		row := []string{
			f.Rule, f.State, f.Page, strconv.Itoa(int(f.Line)), strconv.Itoa(int(f.Column)), f.Element, f.Attribute,
			f.Written, f.Target, f.Fragment, f.Message, "", "",
		}
		if len(f.Repairs) > 0 {
			row[11], row[12] = f.Repairs[0].Written, f.Repairs[0].Certainty
		}
		for i := range row {
			row[i] = inCell(row[i])
		}
		if err == nil {
			err = w.Write(row)
		}
	})
	if err != nil {
		return err
	}
	w.Flush()
	return w.Error()
}

// inCell returns a text so that a spreadsheet takes it for a text, and never for a formula that it would work out.
func inCell(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}

// The parts of SARIF 2.1.0 that a report of findings has.
type (
	sarifLog struct {
		Schema  string     `json:"$schema"`
		Version string     `json:"version"`
		Runs    []sarifRun `json:"runs"`
	}
	sarifRun struct {
		Tool        sarifTool     `json:"tool"`
		ColumnKind  string        `json:"columnKind"`
		Results     []sarifResult `json:"results"`
		BaseIDs     any           `json:"originalUriBaseIds"`
		Invocations []any         `json:"invocations"`
	}
	sarifTool struct {
		Driver sarifDriver `json:"driver"`
	}
	sarifDriver struct {
		Name    string      `json:"name"`
		Version string      `json:"version"`
		Rules   []sarifRule `json:"rules"`
	}
	sarifRule struct {
		ID string `json:"id"`
	}
	sarifText struct {
		Text string `json:"text"`
	}
	sarifResult struct {
		RuleID    string          `json:"ruleId"`
		RuleIndex int             `json:"ruleIndex"`
		Level     string          `json:"level"`
		Message   sarifText       `json:"message"`
		Locations []sarifLocation `json:"locations"`
		Fixes     []sarifFix      `json:"fixes,omitempty"`
	}
	sarifLocation struct {
		Physical sarifPhysical `json:"physicalLocation"`
	}
	sarifPhysical struct {
		Artifact sarifArtifact `json:"artifactLocation"`
		Region   *sarifRegion  `json:"region,omitempty"`
	}
	sarifArtifact struct {
		URI       string `json:"uri"`
		URIBaseID string `json:"uriBaseId"`
	}
	sarifRegion struct {
		StartLine   uint32 `json:"startLine,omitempty"`
		StartColumn uint32 `json:"startColumn,omitempty"`
		ByteOffset  uint32 `json:"byteOffset"`
		ByteLength  uint32 `json:"byteLength"`
	}
	sarifFix struct {
		Description sarifText     `json:"description"`
		Changes     []sarifChange `json:"artifactChanges"`
	}
	sarifChange struct {
		Artifact     sarifArtifact      `json:"artifactLocation"`
		Replacements []sarifReplacement `json:"replacements"`
	}
	sarifReplacement struct {
		Deleted  sarifRegion `json:"deletedRegion"`
		Inserted sarifText   `json:"insertedContent"`
	}
)

var sarifLevels = map[string]string{"broken": "error", "fragile": "warning", "advice": "note"}

// printSARIF prints the findings in the Static Analysis Results Interchange Format, 2.1.0.
func printSARIF(out io.Writer, v *workspace.View) error {
	run := sarifRun{
		Tool:       sarifTool{sarifDriver{Name: "Arvel", Version: version.Number}},
		ColumnKind: "unicodeCodePoints", Results: []sarifResult{},
		BaseIDs:     map[string]any{"FOLDER": map[string]any{"description": sarifText{"the folder that was checked"}}},
		Invocations: []any{map[string]any{"executionSuccessful": true}},
	}
	index := map[string]int{}
	for i, r := range rule.All.List() {
		run.Tool.Driver.Rules = append(run.Tool.Driver.Rules, sarifRule{r.Name})
		index[r.Name] = i
	}
	findings(v, func(f finding) {
		artifact := sarifArtifact{(&url.URL{Path: f.Page}).EscapedPath(), "FOLDER"}
		region := sarifRegion{f.Line, f.Column, f.Start, f.End - f.Start}
		result := sarifResult{
			RuleID: f.Rule, RuleIndex: index[f.Rule], Level: sarifLevels[f.State], Message: sarifText{f.Message},
			Locations: []sarifLocation{{sarifPhysical{artifact, &region}}},
		}
		for _, r := range f.Repairs {
			if r.Certainty != "certain" || f.Start == f.End {
				continue
			}
			result.Fixes = append(result.Fixes, sarifFix{sarifText{r.Why}, []sarifChange{{artifact, []sarifReplacement{
				{sarifRegion{ByteOffset: f.Start, ByteLength: f.End - f.Start}, sarifText{r.Written}},
			}}}})
		}
		run.Results = append(run.Results, result)
	})
	return writeJSON(out, sarifLog{"https://json.schemastore.org/sarif-2.1.0.json", "2.1.0", []sarifRun{run}})
}
