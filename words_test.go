package arvel_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// banned are turns that nobody would say at the next desk.
var banned = regexp.MustCompile(`(?i)\bit is so\b|\b(is|are|being) told\b|\bin vain\b|\bbears?\b|\bof it is so\b|\bcomes? near\b|what does not|that nothing refers to any more` +
	`|\bleads? [^.]{0,40}elsewhere|\bmakes? [^.]{0,40} to lead\b|\b(nothing|something|what|that|it|id|name|file|page|space|folder) stands?\b|\bstands? (there|here|in|at|before|beside|after|on|where|once|twice)\b|\bstood\b|\b(gets|get) a hold\b`)

// said are the strings of a program that somebody may read: those of more than one word that are no code.
func said(text string) bool {
	return strings.Contains(strings.TrimSpace(text), " ") && !strings.HasPrefix(text, "SELECT") && !strings.Contains(text, "INSERT INTO") && !strings.Contains(text, "CREATE TABLE")
}

func TestMessagesAreSaidAsOneWouldSayThem(t *testing.T) {
	for _, dir := range []string{"core", "internal", "cmd"} {
		require.NoError(t, filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
			if err != nil || !strings.HasSuffix(p, ".go") || strings.HasSuffix(p, "_test.go") {
				return err
			}
			set := token.NewFileSet()
			file, err := parser.ParseFile(set, p, nil, 0)
			require.NoError(t, err)
			ast.Inspect(file, func(n ast.Node) bool {
				if l, ok := n.(*ast.BasicLit); ok && l.Kind == token.STRING {
					if text, err := strconv.Unquote(l.Value); err == nil && said(text) {
						assert.NotRegexp(t, banned, text, "%s", set.Position(l.Pos()))
					}
				}
				return true
			})
			return nil
		}))
	}
}

// literal matches a string of the built interface.
var literal = regexp.MustCompile("\"(?:[^\"\\\\\n]|\\\\.)*\"|'(?:[^'\\\\\n]|\\\\.)*'|`(?:[^`\\\\]|\\\\.)*`")

func TestTheInterfaceSaysThingsAsOneWouldSayThem(t *testing.T) {
	files, err := filepath.Glob("web/dist/assets/*.js")
	require.NoError(t, err)
	require.NotEmpty(t, files, "the interface is built first")
	strs := 0
	for _, p := range files {
		src, err := os.ReadFile(p)
		require.NoError(t, err)
		for _, text := range literal.FindAllString(string(src), -1) {
			if len(text) < 2000 && said(text) {
				strs++
				assert.NotRegexp(t, banned, text, filepath.Base(p))
			}
		}
	}
	assert.Greater(t, strs, 500)
}
