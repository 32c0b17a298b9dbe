// Package commands holds the tests of the headless commands, as scripts and publishing pipelines use them. They need no browser.
package commands

import (
	"encoding/csv"
	"encoding/json"
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
	c := drive.Check(t, dir)
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
		{1, "which does not exist", []string{"resolve", whole, "index.html", "nothing.html", "--forget"}},
		{2, "is not a page", []string{"resolve", whole, "nothing.html", "index.html", "--forget"}},
		{2, "unknown command", []string{"frobnicate"}},
	} {
		out, err := drive.Run(c.args...)
		assert.Equal(t, c.code, drive.ExitCode(err), strings.Join(c.args, " "))
		assert.Contains(t, out, c.says)
	}
}

func TestResolveTellsTheStepsInWords(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "seed-library")
	require.NoError(t, demo.CopyTo(dir))
	out, err := drive.Run("resolve", dir, "guides/sowing.html", "../image/bean-pods.png", "--forget")
	assert.Equal(t, 1, drive.ExitCode(err))
	assert.Contains(t, out, "from guides/\n..               climbs to the top of the folder\nimage            goes down into image/, which does not exist\n")
	assert.Contains(t, out, "certain repair: ../images/bean-pods.png")
}

func TestCheckAtAPlace(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"), []byte(`<a href="/index.html">x</a><a href="INDEX.html">y</a>`), 0o644))
	assert.Equal(t, 1, drive.Check(t, dir).Counts["broken"])
	assert.Equal(t, 2, drive.Check(t, dir, "--place", "disk", "--ignore-case").Counts["fragile"])
	assert.Equal(t, 1, drive.Check(t, dir, "--place", "/club/").Counts["fragile"])
}

func TestCheckInOtherFormats(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"), []byte("<title>Home</title><a href=\"Index.html\">a, \"b\"</a>"), 0o644))
	out, err := drive.Run("check", dir, "--forget", "--format", "csv")
	assert.Equal(t, 1, drive.ExitCode(err))
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 3, out)
	assert.Equal(t, []string{"case-mismatch", "broken", "index.html", "1", "29", "a", "href", "Index.html"}, rows[1][:8])
	assert.Equal(t, []string{"index.html", "certain"}, rows[1][11:])
	out, err = drive.Run("check", dir, "--forget", "--format", "sarif")
	assert.Equal(t, 1, drive.ExitCode(err))
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

func TestMoveWithoutAScreen(t *testing.T) {
	dir, data := filepath.Join(t.TempDir(), "seed-library"), t.TempDir()
	require.NoError(t, demo.CopyTo(dir))
	before := drive.Files(t, dir)
	out, err := drive.Run("move", dir, "guides", "manual/growing", "visit.html", "forms/", "--data", data)
	require.NoError(t, err, "what was broken before is no failure of the move")
	assert.Regexp(t, `^5 files moved, \d+ references rewritten on \d+ pages\n`, out)
	assert.Contains(t, drive.Files(t, dir)["index.html"], `href="manual/growing/sowing.html#beans"`)
	was := drive.Check(t, dir).Counts["broken"]
	_, err = drive.Run("move", dir, "manual/growing", "guides", "forms/visit.html", ".", "--data", data)
	assert.Equal(t, 2, drive.ExitCode(err), "a dot is not a name")
	_, err = drive.Run("move", dir, "manual/growing", "guides", "forms/visit.html", "visit.html", "--data", data)
	require.NoError(t, err)
	assert.Equal(t, before, drive.Files(t, dir), "there and back are the same bytes")
	assert.Equal(t, was, drive.Check(t, dir).Counts["broken"])

	for says, args := range map[string][]string{
		"exists already":     {"move", dir, "visit.html", "index.html", "--data", data},
		"There is no `none`": {"move", dir, "none", "x", "--data", data},
		"pairs of what":      {"move", dir, "visit.html", "--data", data},
	} {
		out, err := drive.Run(args...)
		assert.Equal(t, 2, drive.ExitCode(err))
		assert.Contains(t, out, says)
	}
	diff, err := drive.Command("move", dir, "visit.html", "forms/visit.html", "--diff", "--leave-page", "--data", data).Output()
	require.NoError(t, err)
	assert.Contains(t, string(diff), "rename from visit.html\nrename to forms/visit.html\n")
	assert.Contains(t, string(diff), `+<meta http-equiv="refresh" content="0; url=forms/visit.html">`)
	assert.Equal(t, before, drive.Files(t, dir), "--diff changes nothing")
}

func TestMoveSaysThatAReferenceCouldNotFollow(t *testing.T) {
	dir, data := filepath.Join(t.TempDir(), "seed-library"), t.TempDir()
	require.NoError(t, os.MkdirAll(dir, 0o700))
	page := `<title>Leeks</title><a href="../orchard/pears.html">pears</a> <a href="index.html">home</a>`
	require.NoError(t, os.WriteFile(filepath.Join(dir, "leeks.html"), []byte(page), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"), []byte("<title>Home</title>"), 0o600))
	for _, more := range [][]string{{"--diff"}, {}} {
		out, err := drive.Run(append([]string{"move", dir, "leeks.html", "guides/leeks.html", "--data", data, "--place", "disk"}, more...)...)
		assert.Equal(t, 1, drive.ExitCode(err), out)
		assert.Contains(t, out, "leeks.html:1  ../orchard/pears.html leads out of the folder, so it can’t follow")
	}
	assert.Contains(t, drive.Files(t, dir)["guides/leeks.html"], `href="../index.html"`, "the move is made all the same")
}

func TestRepairWithoutAScreen(t *testing.T) {
	dir, data := filepath.Join(t.TempDir(), "seed-library"), t.TempDir()
	require.NoError(t, demo.CopyTo(dir))
	whole := drive.Files(t, dir)
	out, err := drive.Command("repair", dir, "--data", data, "--diff").Output()
	assert.Equal(t, 1, drive.ExitCode(err), "something is left")
	assert.Equal(t, whole, drive.Files(t, dir), "--diff changes nothing")
	said, err := drive.Run("repair", dir, "--data", data)
	assert.Equal(t, 1, drive.ExitCode(err))
	assert.Regexp(t, `^\d+ references repaired in \d+ files; broken \d+, was \d+; fragile \d+, was \d+\n$`, said)
	repaired := drive.Files(t, dir)

	// The diff is what was done.
	other := filepath.Join(t.TempDir(), "seed-library")
	require.NoError(t, demo.CopyTo(other))
	apply := exec.Command("git", "apply", "--whitespace=nowarn", "-")
	apply.Dir, apply.Stdin = other, strings.NewReader(string(out))
	applied, err := apply.CombinedOutput()
	require.NoError(t, err, "%s", applied)
	assert.Equal(t, repaired, drive.Files(t, other))

	_, err = drive.Run("repair", dir, "--data", data, "--certainty", "moon")
	assert.Equal(t, 2, drive.ExitCode(err))
	out, err = drive.Command("repair", dir, "--data", data).CombinedOutput()
	assert.Equal(t, 1, drive.ExitCode(err))
	assert.Contains(t, string(out), "nothing to repair with that certainty")
}

func TestVersionIsSaidInEveryWay(t *testing.T) {
	out, err := drive.Run("--version")
	require.NoError(t, err)
	var said struct{ Version, Go, OS, Arch string }
	asJSON, err := drive.Command("version", "--json").Output()
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(asJSON, &said))
	assert.Equal(t, "arvel "+said.Version, strings.TrimSpace(out))
	assert.NotEmpty(t, said.OS+said.Arch+said.Go)
	out, err = drive.Run("version", "--licences")
	require.NoError(t, err)
	for _, part := range []string{"github.com/gin-gonic/gin ", "modernc.org/sqlite ", "react-dom ", "atkinson-hyperlegible-next", "SIL OPEN FONT LICENSE"} {
		assert.Contains(t, out, part)
	}
}

func TestCompletionsAreThereForEveryShell(t *testing.T) {
	for _, shell := range []string{"bash", "zsh", "fish", "powershell"} {
		out, err := drive.Run("completion", shell)
		require.NoError(t, err)
		assert.Contains(t, out, "arvel")
	}
}
