package drive

import (
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// program names the environment variable that holds another program to test than bin/arvel, with what runs it.
const program = "ARVEL_PROGRAM"

// Command returns a command of Arvel that is not started yet.
func Command(args ...string) *exec.Cmd {
	words := strings.Fields(os.Getenv(program))
	if len(words) == 0 {
		words = []string{filepath.Join(Root(), "bin", "arvel")}
	}
	return exec.Command(words[0], append(words[1:], args...)...)
}

// Run runs a command of Arvel and returns all that it printed.
func Run(args ...string) (string, error) {
	out, err := Command(args...).CombinedOutput()
	return string(out), err
}

// ExitCode returns the exit code that the error of a command stands for; -1 if it did not run.
func ExitCode(err error) int {
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return exit.ExitCode()
	}
	if err != nil {
		return -1
	}
	return 0
}

// Found is what the JSON of check says of one finding, as far as the tests read it.
type Found struct {
	Rule, State, Page, Element, Attribute, Written, Target, Fragment, Message string
	Line, Column, Start, End                                                  int
	Repairs                                                                   []struct{ Written, Certainty, Why string }
}

// Checked is the JSON of check.
type Checked struct {
	Counts   map[string]int
	Findings []Found
}

// Check returns what check says of a folder.
func Check(t *testing.T, dir string, args ...string) Checked {
	t.Helper()
	out, err := Command(append([]string{"check", dir, "--forget", "--format", "json"}, args...)...).Output()
	require.Contains(t, []int{0, 1}, ExitCode(err))
	var c Checked
	require.NoError(t, json.Unmarshal(out, &c))
	return c
}

// Files returns the bytes of all files in and below a folder, by their paths.
func Files(t *testing.T, dir string) map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		if e.Type()&os.ModeSymlink != 0 {
			var to string
			to, err = os.Readlink(p)
			b = []byte(to)
		}
		rel, _ := filepath.Rel(dir, p)
		out[filepath.ToSlash(rel)] = string(b)
		return err
	}))
	return out
}
