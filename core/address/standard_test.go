//go:build !windows

package address_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"arvel/core/address"
)

// standardCase is a case of the URL standard's own test data.
type standardCase struct {
	Input, Href string
	Base        *string
	Failure     bool
}

// standardCases reads the URL standard's test data from where the parser's module keeps it.
func standardCases(t *testing.T) (cases []standardCase) {
	t.Helper()
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/nlnwa/whatwg-url").Output()
	require.NoError(t, err)
	b, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "testdata", "urltestdata.json"))
	require.NoError(t, err)
	var all []json.RawMessage
	require.NoError(t, json.Unmarshal(b, &all))
	for _, raw := range all {
		var c standardCase
		if json.Unmarshal(raw, &c) == nil && (c.Href != "" || c.Failure) { // comments are strings between the cases
			cases = append(cases, c)
		}
	}
	return cases
}

// heldByAPage reports whether a page of ours can hold the case, or why not.
func heldByAPage(c standardCase) (held bool, why string) {
	scheme := ""
	if c.Base != nil {
		scheme = address.SchemeOf(*c.Base)
	}
	switch {
	case c.Base == nil && address.SchemeOf(c.Input) == "":
		return false, "a page always has an address that relative references are resolved against"
	case c.Base == nil && c.Failure && strings.HasPrefix(strings.ToLower(c.Input), "https:") && !strings.Contains(c.Input, "//"):
		return false, "https: without slashes is relative on a page that is itself at https:"
	case c.Base == nil && strings.HasPrefix(c.Href, "https:") && !strings.Contains(c.Input, "//"):
		return false, "https: without slashes is relative on a page that is itself at https:"
	case scheme == "data" || scheme == "javascript":
		return false, "the HTML standard takes such a base element for none (4.2.3)"
	case c.Base != nil && *c.Base == "":
		return false, "an empty base is the page's own address"
	}
	return true, ""
}

func TestTheURLStandardsOwnCases(t *testing.T) {
	held, left := 0, map[string]int{}
	for _, c := range standardCases(t) {
		ok, why := heldByAPage(c)
		if !ok {
			left[why]++
			continue
		}
		held++
		r := address.NewResolver(address.Place{Mount: "/"})
		r.At("page.html", "", false)
		if c.Base != nil {
			r.At("page.html", *c.Base, true)
		}
		got := r.Resolve(c.Input)
		switch {
		case c.Failure && got.Kind != address.Malformed:
			t.Errorf("%q on %v is malformed, not %+v", c.Input, deref(c.Base), got)
		case !c.Failure && got.URL != c.Href:
			t.Errorf("%q on %v leads to %s, not %+v", c.Input, deref(c.Base), c.Href, got)
		}
	}
	t.Logf("%d cases held", held)
	for why, n := range left {
		t.Logf("%d left out: %s", n, why)
	}
	if held < 700 {
		t.Errorf("only %d cases could be asked", held)
	}
}

func deref(s *string) string {
	if s == nil {
		return "no base"
	}
	return *s
}
