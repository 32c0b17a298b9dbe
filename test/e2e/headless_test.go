package e2e

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/demo"
	"arvel/test/drive"
)

// arvel runs a headless command and returns all that it printed.
func arvel(args ...string) (string, error) {
	out, err := exec.Command(filepath.Join(drive.Root(), "bin", "arvel"), args...).CombinedOutput()
	return string(out), err
}

func exitCode(err error) int {
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return exit.ExitCode()
	}
	if err != nil {
		return -1
	}
	return 0
}

// found is what the JSON of check says of one finding, as far as the tests read it.
type found struct {
	Rule, State, Page, Element, Attribute, Written, Target, Fragment, Message string
	Line, Column, Start, End                                                  int
	Repairs                                                                   []struct{ Written, Certainty, Why string }
}

type checked struct {
	Counts   map[string]int
	Findings []found
}

func check(t *testing.T, dir string, args ...string) checked {
	t.Helper()
	out, err := exec.Command(filepath.Join(drive.Root(), "bin", "arvel"), append([]string{"check", dir, "--forget", "--format", "json"}, args...)...).Output()
	require.Contains(t, []int{0, 1}, exitCode(err))
	var c checked
	require.NoError(t, json.Unmarshal(out, &c))
	return c
}

// The demo folder's mistakes are found, all of them and none besides.
func TestCheckFindsTheMistakesOfTheDemoFolder(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "seed-library")
	require.NoError(t, demo.CopyTo(dir))
	type mistake struct {
		Page, Rule, Written string
		Line                int
	}
	b, err := os.ReadFile(filepath.Join(drive.Root(), "demo", "mistakes.json"))
	require.NoError(t, err)
	var want []mistake
	require.NoError(t, json.Unmarshal(b, &want))
	c := check(t, dir)
	var got []mistake
	for _, f := range c.Findings {
		got = append(got, mistake{f.Page, f.Rule, f.Written, f.Line})
		src, err := os.ReadFile(filepath.Join(dir, f.Page))
		require.NoError(t, err)
		assert.Equal(t, f.Written, string(src[f.Start:f.End]), "the span holds what is written")
		assert.NotEmpty(t, f.Message)
	}
	assert.ElementsMatch(t, want, got)
	assert.Equal(t, c.Counts["references"], c.Counts["sound"]+c.Counts["broken"]+c.Counts["fragile"]+c.Counts["unchecked"]+c.Counts["inert"])
}

func TestCheckSaysByItsExitCode(t *testing.T) {
	whole, broken := t.TempDir(), t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(whole, "index.html"), []byte("<a href=index.html>x</a>"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(broken, "index.html"), []byte("<a href=indx.html>x</a>"), 0o644))
	for _, c := range []struct {
		code int
		says string
		args []string
	}{
		{0, "1 reference on 1 page: 0 broken", []string{"check", whole, "--forget"}},
		{1, "likely repair: index.html", []string{"check", broken, "--forget"}},
		{2, "There is no folder at", []string{"check", filepath.Join(whole, "nowhere"), "--forget"}},
		{2, "there is no format", []string{"check", whole, "--forget", "--format", "xml"}},
		{2, "is no place", []string{"check", whole, "--forget", "--place", "moon"}},
		{0, "0 broken", []string{"check", broken, "--forget", "--ignore", "*.html"}},
		{0, "names index.html", []string{"resolve", whole, "index.html", "index.html", "--forget"}},
		{1, "which is not there", []string{"resolve", whole, "index.html", "nothing.html", "--forget"}},
		{2, "is no page", []string{"resolve", whole, "nothing.html", "index.html", "--forget"}},
		{2, "unknown command", []string{"frobnicate"}},
	} {
		out, err := arvel(c.args...)
		assert.Equal(t, c.code, exitCode(err), strings.Join(c.args, " "))
		assert.Contains(t, out, c.says)
	}
}

func TestResolveTellsTheStepsInWords(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "seed-library")
	require.NoError(t, demo.CopyTo(dir))
	out, err := arvel("resolve", dir, "guides/sowing.html", "../image/bean-pods.png", "--forget")
	assert.Equal(t, 1, exitCode(err))
	assert.Contains(t, out, "from guides/\n..               climbs to the top of the folder\nimage            goes down into image/, which is not there\n")
	assert.Contains(t, out, "certain repair: ../images/bean-pods.png")
}

func TestCheckAtAPlace(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"), []byte(`<a href="/index.html">x</a><a href="INDEX.html">y</a>`), 0o644))
	assert.Equal(t, 1, check(t, dir).Counts["broken"])
	assert.Equal(t, 2, check(t, dir, "--place", "disk", "--ignore-case").Counts["fragile"])
	assert.Equal(t, 1, check(t, dir, "--place", "/club/").Counts["fragile"])
}

func TestCheckInOtherFormats(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"), []byte("<title>Home</title><a href=\"Index.html\">a, \"b\"</a>"), 0o644))
	out, err := arvel("check", dir, "--forget", "--format", "csv")
	assert.Equal(t, 1, exitCode(err))
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 3, out)
	assert.Equal(t, []string{"case-mismatch", "broken", "index.html", "1", "29", "a", "href", "Index.html"}, rows[1][:8])
	assert.Equal(t, []string{"index.html", "certain"}, rows[1][11:])
	out, err = arvel("check", dir, "--forget", "--format", "sarif")
	assert.Equal(t, 1, exitCode(err))
	var log struct {
		Version string
		Runs    []struct {
			Tool struct {
				Driver struct{ Rules []struct{ ID string } }
			}
			Results []struct {
				RuleID, Level string
				RuleIndex     int
				Fixes         []struct {
					ArtifactChanges []struct {
						Replacements []struct{ InsertedContent struct{ Text string } }
					}
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &log))
	assert.Equal(t, "2.1.0", log.Version)
	run := log.Runs[0]
	require.Len(t, run.Results, 2)
	assert.Equal(t, []string{"case-mismatch", "error"}, []string{run.Results[0].RuleID, run.Results[0].Level})
	assert.Equal(t, "case-mismatch", run.Tool.Driver.Rules[run.Results[0].RuleIndex].ID)
	assert.Equal(t, "index.html", run.Results[0].Fixes[0].ArtifactChanges[0].Replacements[0].InsertedContent.Text)
	assert.Equal(t, "note", run.Results[1].Level)
}
