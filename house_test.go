// Package arvel_test holds the rules of the house: which room may use which.
package arvel_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/audit"
)

// rooms are core's packages in the order in which data passes through them. Each may use those above it only.
var rooms = []string{"letters", "change", "markup", "address", "mailbox", "site", "audit", "repair", "compose", "relocate"}

// forbidden are packages that core has no business with: disk, network, database, screen, clock.
var forbidden = []string{"os", "net", "net/http", "database/sql", "time", "io/fs", "os/exec", "log", "log/slog", "syscall"}

func TestCoreUsesOnlyWhatStandsAboveIt(t *testing.T) {
	place := map[string]int{}
	for i, r := range rooms {
		place["arvel/core/"+r] = i
	}
	each(t, "core", func(file, pkg string, imports []string) {
		at, known := place[pkg]
		assert.True(t, known, "%s is in no room of core", file)
		for _, used := range imports {
			if i, core := place[used]; core {
				assert.Less(t, i, at, "%s uses %s, which stands below it", file, used)
				continue
			}
			assert.False(t, strings.HasPrefix(used, "arvel/"), "%s uses %s", file, used)
			assert.NotContains(t, forbidden, used, file)
		}
	})
}

func TestNoPackageIsCalledByWhatItIsNot(t *testing.T) {
	require.NoError(t, filepath.WalkDir(".", func(p string, e fs.DirEntry, err error) error {
		if err == nil && e.IsDir() {
			if e.Name() == "node_modules" || p != "." && strings.HasPrefix(e.Name(), ".") {
				return fs.SkipDir
			}
			assert.NotContains(t, []string{"util", "utils", "common", "helpers", "models", "types", "lib"}, e.Name(), p)
		}
		return err
	}))
}

// each calls f for every Go file, but tests, below dir.
func each(t *testing.T, dir string, f func(file, pkg string, imports []string)) {
	t.Helper()
	require.NoError(t, filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() || !strings.HasSuffix(p, ".go") || strings.HasSuffix(p, "_test.go") {
			return err
		}
		parsed, err := parser.ParseFile(token.NewFileSet(), p, nil, parser.ImportsOnly)
		require.NoError(t, err)
		var imports []string
		for _, i := range parsed.Imports {
			path, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			imports = append(imports, path)
		}
		f(p, "arvel/"+filepath.ToSlash(filepath.Dir(p)), imports)
		return nil
	}))
}

func TestTheDocsNameEveryRule(t *testing.T) {
	docs, err := os.ReadFile("docs/references.md")
	require.NoError(t, err)
	for _, rule := range audit.Rules {
		assert.Contains(t, string(docs), "\n| `"+rule.Name+"` (")
	}
}

func TestTheInterfaceHasWordsForEveryRule(t *testing.T) {
	words, err := os.ReadFile("web/src/parts/names.ts")
	require.NoError(t, err)
	for _, rule := range audit.Rules {
		assert.Regexp(t, `(?m)^  "?`+rule.Name+`"?: "`, string(words))
	}
}
