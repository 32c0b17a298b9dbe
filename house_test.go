// Package arvel_test holds the plan of the house: which room may use which, and what every room keeps to.
package arvel_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/audit/rule"
)

// core are the rooms of the job in the order in which data passes through them. Each may use those before it only.
var core = []string{
	"phrase", "distance", "change", "markup", "address", "mailbox", "site", "naming", "audit", "audit/rule", "explain", "repair", "compose", "plan",
}

// forbidden are packages that core has no business with: disk, network, database, screen, clock.
var forbidden = []string{"os", "net", "net/http", "database/sql", "time", "io/fs", "os/exec", "log", "log/slog", "syscall"}

// uses are the rooms outside of core, each with the rooms that it may use. All but those with a star may use all of core.
var uses = map[string][]string{
	"api":                       {},
	"demo":                      {},
	"web":                       {},
	"internal/version":          {},
	"internal/loopback":         {},
	"internal/disk*":            {"core/change", "core/site"},
	"internal/journal*":         {"core/change", "core/markup", "core/site", "internal/disk"},
	"internal/store*":           {"core/change"},
	"internal/workspace":        {"internal/disk", "internal/journal", "internal/store"},
	"internal/preview":          {"api", "web", "internal/loopback", "internal/workspace"},
	"internal/httpapi":          {"api", "web", "internal/loopback", "internal/preview", "internal/version", "internal/workspace"},
	"cmd/arvel":                 {"demo", "internal/httpapi", "internal/licences", "internal/loopback", "internal/version", "internal/workspace"},
	"internal/licences":         {},
	"internal/licences/collect": {},
}

func TestCoreUsesOnlyWhatComesBeforeIt(t *testing.T) {
	each(t, "core", func(file, room string, imports []string) {
		at := slices.Index(core, strings.TrimPrefix(room, "core/"))
		assert.GreaterOrEqual(t, at, 0, "%s is in no room of core", file)
		for _, used := range imports {
			own, ours := strings.CutPrefix(used, "arvel/")
			if !ours {
				assert.NotContains(t, forbidden, used, file)
				continue
			}
			i := slices.Index(core, strings.TrimPrefix(own, "core/"))
			assert.True(t, i >= 0 && i < at, "%s uses %s, which does not come before it", file, used)
		}
	})
}

func TestRoomsUseOnlyWhatTheyMay(t *testing.T) {
	for _, dir := range []string{"api", "cmd", "demo", "internal", "web"} {
		each(t, dir, func(file, room string, imports []string) {
			may, known := uses[room]
			strict, isStrict := uses[room+"*"]
			if isStrict {
				may, known = strict, true
			}
			assert.True(t, known, "%s is in no room of the house", file)
			for _, used := range imports {
				own, ours := strings.CutPrefix(used, "arvel/")
				if !ours || !isStrict && strings.HasPrefix(own, "core/") {
					continue
				}
				assert.Contains(t, may, own, "%s uses %s", file, used)
			}
		})
	}
}

// What is not the product stays apart from it.
func TestTheProductUsesNothingOfItsTests(t *testing.T) {
	for _, dir := range []string{"api", "cmd", "core", "demo", "internal", "web"} {
		each(t, dir, func(file, _ string, imports []string) {
			for _, used := range imports {
				assert.False(t, strings.HasPrefix(used, "arvel/test/"), "%s uses %s", file, used)
			}
		})
	}
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

// views are the folders of the interface with a view each; none may use another.
var views = []string{"anchors", "history", "hosting", "moves", "overview", "pages", "repairs", "start"}

// imported matches what a module of the interface imports from another one of ours.
var imported = regexp.MustCompile(`(?:from|import) ?\(?"(\.[^"]*)"`)

func TestModulesOfTheInterfaceUseOnlyWhatTheyMay(t *testing.T) {
	may := map[string][]string{"api": {"api"}, "parts": {"api", "parts", "routes"}, "live": {"api", "live"}, "routes": {"api"}}
	for _, v := range views {
		may[v] = []string{v, "api", "parts", "routes"}
	}
	may["write"] = []string{"write", "api", "parts"}
	may["pages"] = append(may["pages"], "write")
	const src = "web/src"
	require.NoError(t, filepath.WalkDir(src, func(p string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() || !strings.HasSuffix(p, ".ts") && !strings.HasSuffix(p, ".tsx") || strings.Contains(p, ".gen.") {
			return err
		}
		own, err := filepath.Rel(src, p)
		require.NoError(t, err)
		room, _, _ := strings.Cut(strings.TrimSuffix(filepath.ToSlash(own), ".ts"), "/")
		b, err := os.ReadFile(p)
		require.NoError(t, err)
		assert.Less(t, strings.Count(string(b), "\n"), 330, "%s does more than one thing, or it would be shorter", p)
		if room == "app" { // which holds all of them together
			return nil
		}
		allowed, known := may[room]
		assert.True(t, known, "%s is in no room of the interface", p)
		for _, m := range imported.FindAllStringSubmatch(string(b), -1) {
			used, _, _ := strings.Cut(path.Join(path.Dir(filepath.ToSlash(own)), m[1]), "/")
			assert.Contains(t, allowed, used, "%s uses %s", p, m[1])
		}
		return nil
	}))
}

// each calls f for every Go file, but tests, below dir, with the room that it is in.
func each(t *testing.T, dir string, f func(file, room string, imports []string)) {
	t.Helper()
	goFiles(t, dir, parser.ImportsOnly, func(file string, parsed *ast.File) {
		var imports []string
		for _, i := range parsed.Imports {
			used, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			imports = append(imports, used)
		}
		f(file, path.Dir(filepath.ToSlash(file)), imports)
	})
}

func goFiles(t *testing.T, dir string, mode parser.Mode, f func(file string, parsed *ast.File)) {
	t.Helper()
	require.NoError(t, filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err == nil && e.IsDir() && e.Name() == "node_modules" {
			return fs.SkipDir
		}
		if err != nil || e.IsDir() || !strings.HasSuffix(p, ".go") || strings.HasSuffix(p, "_test.go") {
			return err
		}
		parsed, err := parser.ParseFile(token.NewFileSet(), p, nil, mode)
		require.NoError(t, err)
		f(p, parsed)
		return nil
	}))
}

func TestEveryExportedNameIsDocumented(t *testing.T) {
	for _, dir := range []string{"core", "internal", "demo", "test"} {
		goFiles(t, dir, parser.ParseComments, func(file string, parsed *ast.File) {
			for _, d := range parsed.Decls {
				switch d := d.(type) {
				case *ast.FuncDecl:
					if d.Name.IsExported() && (d.Recv == nil || receiver(d).IsExported()) && !wellKnown(d) {
						assert.NotEmpty(t, d.Doc.Text(), "%s: %s has no comment", file, d.Name)
					}
				case *ast.GenDecl:
					for _, s := range d.Specs {
						if s, ok := s.(*ast.TypeSpec); ok && s.Name.IsExported() {
							assert.NotEmpty(t, d.Doc.Text()+s.Doc.Text(), "%s: %s has no comment", file, s.Name)
						}
					}
				}
			}
		})
	}
}

func receiver(d *ast.FuncDecl) *ast.Ident {
	t := d.Recv.List[0].Type
	if p, ok := t.(*ast.StarExpr); ok {
		t = p.X
	}
	if g, ok := t.(*ast.IndexExpr); ok {
		t = g.X
	}
	return t.(*ast.Ident)
}

// wellKnown reports whether a method is one whose name says all: that of an error.
func wellKnown(d *ast.FuncDecl) bool {
	return d.Recv != nil && (d.Name.Name == "Error" || d.Name.Name == "Unwrap")
}

func TestTheDocsNameEveryRule(t *testing.T) {
	docs, err := os.ReadFile("docs/references.md")
	require.NoError(t, err)
	for _, r := range rule.All.List() {
		assert.Contains(t, string(docs), "\n| `"+r.Name+"` (")
	}
}

func TestTheInterfaceHasWordsForEveryRule(t *testing.T) {
	words, err := os.ReadFile("web/src/parts/names.ts")
	require.NoError(t, err)
	for _, r := range rule.All.List() {
		assert.Regexp(t, `(?m)^  "?`+regexp.QuoteMeta(r.Name)+`"?: "`, string(words))
	}
}
