package change

import (
	"bytes"
	"fmt"
	"strings"

	"github.com/aymanbagabas/go-udiff"
)

// Unified returns what happens to a file that holds src as a unified diff with git's extended headers, as "git apply"
// takes it, with three lines around each change. The bytes of text are shown as they are, whatever their encoding; of
// what is no text it is only said that it differs. The error is an [*EditError].
func (f *File) Unified(src []byte) (string, error) {
	after := src
	switch f.Kind {
	case Made:
		src, after = nil, f.Content
	case Deleted:
		after = nil
	default:
		var err error
		if after, err = Apply(src, f.Edits); err != nil {
			return "", err
		}
	}
	from, to := f.Path, f.Path
	if f.Kind == Moved {
		from = f.From
	}
	var b strings.Builder
	fmt.Fprintf(&b, "diff --git %s %s\n", quoted("a/"+from), quoted("b/"+to))
	switch f.Kind {
	case Moved:
		fmt.Fprintf(&b, "rename from %s\nrename to %s\n", quoted(from), quoted(to))
	case Made:
		b.WriteString("new file mode 100644\n")
	case Deleted:
		b.WriteString("deleted file mode 100644\n")
	}
	if bytes.Equal(src, after) {
		return b.String(), nil
	}
	if bytes.IndexByte(src, 0) >= 0 || bytes.IndexByte(after, 0) >= 0 {
		fmt.Fprintf(&b, "Binary files %s and %s differ\n", quoted("a/"+from), quoted("b/"+to))
		return b.String(), nil
	}
	old, fresh := quoted("a/"+from), quoted("b/"+to)
	if f.Kind == Made {
		old = "/dev/null"
	}
	if f.Kind == Deleted {
		fresh = "/dev/null"
	}
	hunks := udiff.Unified("a", "b", string(src), string(after))
	fmt.Fprintf(&b, "--- %s\n+++ %s\n%s", old, fresh, strings.TrimPrefix(hunks, "--- a\n+++ b\n"))
	return b.String(), nil
}

// Compared returns the difference of two texts as a unified diff, with three lines around each change.
func Compared(from, to, before, after string) string {
	return udiff.Unified(from, to, before, after)
}

// quoted writes a path as git does: in quotes, with escapes, if there is more than plain ASCII in it.
func quoted(path string) string {
	plain := true
	var b strings.Builder
	for i := range len(path) {
		switch c := path[i]; {
		case c == '"' || c == '\\':
			plain = false
			b.WriteByte('\\')
			b.WriteByte(c)
		case c < ' ' || c >= 0x7F:
			plain = false
			fmt.Fprintf(&b, "\\%03o", c)
		default:
			b.WriteByte(c)
		}
	}
	if plain {
		return path
	}
	return `"` + b.String() + `"`
}
