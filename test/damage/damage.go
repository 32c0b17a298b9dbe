// Package damage damages folders on purpose, in the ways in which people get links wrong, and says what repairing them
// restored. It is for tests and benchmarks: it works on what was read of a folder and touches no file.
package damage

import (
	"cmp"
	"fmt"
	"maps"
	"math/rand/v2"
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/change"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
)

// Tally is what became of the damages of one kind.
type Tally struct {
	// Done is how many there were; Unseen how many of them still land, elsewhere or on the same, so that nobody can tell.
	Done, Unseen int
	// Restored, Left and Wrong are what certain repairs made of the rest; LikelyRestored and LikelyWrong what the best
	// likely ones made of it on top.
	Restored, Left, Wrong       int
	LikelyRestored, LikelyWrong int
	// Examples are some of the wrong ones, in words.
	Examples []string
}

// examples is how many wrong repairs are remembered.
const examples = 4

func (t *Tally) add(o Tally) {
	// Wrong certain ones come first.
	if o.Wrong > 0 {
		t.Examples = append(slices.Clone(o.Examples), t.Examples...)
	} else if len(t.Examples) < examples {
		t.Examples = append(t.Examples, o.Examples...)
	}
	t.Examples = t.Examples[:min(len(t.Examples), examples)]
	t.Done += o.Done
	t.Unseen += o.Unseen
	t.Restored += o.Restored
	t.Left += o.Left
	t.Wrong += o.Wrong
	t.LikelyRestored += o.LikelyRestored
	t.LikelyWrong += o.LikelyWrong
}

// Seen is how many damages could be told.
func (t Tally) Seen() int { return t.Done - t.Unseen }

// Tallies are those of all kinds, by name.
type Tallies map[string]Tally

// Add adds those of another round.
func (t Tallies) Add(o Tallies) {
	for k, n := range o {
		sum := t[k]
		sum.add(n)
		t[k] = sum
	}
}

// All adds up the kinds.
func (t Tallies) All() (sum Tally) {
	for _, n := range t {
		sum.add(n)
	}
	return sum
}

// String prints a line a kind.
func (t Tallies) String() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%-24s %8s %8s %9s %8s %6s   %16s %6s\n", "damage", "done", "seen", "certain", "left", "wrong", "likely on top", "wrong")
	for _, k := range slices.Sorted(maps.Keys(t)) {
		n := t[k]
		fmt.Fprintf(&b, "%-24s %8d %8d %8.1f%% %8d %6d   %15.1f%% %6d\n", k, n.Done, n.Seen(), share(n.Restored, n), n.Left, n.Wrong, share(n.Restored+n.LikelyRestored, n), n.LikelyWrong)
		for _, e := range n.Examples {
			b.WriteString("    " + e + "\n")
		}
	}
	return b.String()
}

func share(n int, t Tally) float64 { return 100 * float64(n) / float64(max(1, t.Seen())) }

// way is one way to get a single value wrong. It returns "" where that can't be done to the value.
type way struct {
	name   string
	weight int // of a thousand, in proportion to how people err
	do     func(r *rand.Rand, value string) string
}

var ways = []way{
	{"folder left out", 120, inPath(func(r *rand.Rand, p string) string {
		parts := strings.Split(p, "/")
		for i, n := range parts[:len(parts)-1] {
			if n != ".." && n != "." {
				return strings.Join(slices.Delete(parts, i, i+1), "/")
			}
		}
		return ""
	})},
	{"../ missing", 120, inPath(func(_ *rand.Rand, p string) string { return cut(p, "../") })},
	{"../ too many", 70, inPath(func(_ *rand.Rand, p string) string { return "../" + p })},
	{"letter case", 110, inPath(func(r *rand.Rand, p string) string {
		return onLetter(r, p, func(c byte) string { return string(c ^ 0x20) })
	})},
	{"extension", 90, inPath(func(r *rand.Rand, p string) string {
		ext := path.Ext(p)
		other := map[string][]string{".html": {".htm", ""}, ".htm": {".html", ""}, ".png": {".jpg", ".gif"}, ".jpg": {".jpeg", ".png"}, ".gif": {".png"}, ".pdf": {""}, ".css": {""}}[ext]
		if len(other) == 0 {
			return ""
		}
		return strings.TrimSuffix(p, ext) + other[r.IntN(len(other))]
	})},
	{"separator", 70, inPath(func(r *rand.Rand, p string) string {
		dir, name := path.Split(p)
		for _, sep := range []string{"-", "_", "%20"} {
			if strings.Contains(name, sep) {
				others := slices.DeleteFunc([]string{"-", "_", "%20", " "}, func(o string) bool { return o == sep })
				return dir + strings.ReplaceAll(name, sep, others[r.IntN(len(others))])
			}
		}
		return ""
	})},
	{"folder misspelt", 60, inPath(func(r *rand.Rand, p string) string {
		parts := strings.Split(p, "/")
		for i, n := range parts[:len(parts)-1] {
			if len(n) > 3 && !strings.HasPrefix(n, "..") {
				if parts[i] = slip(r, n); parts[i] == "" {
					return ""
				}
				return strings.Join(parts, "/")
			}
		}
		return ""
	})},
	{"name misspelt", 70, inPath(func(r *rand.Rand, p string) string {
		dir, name := path.Split(p)
		ext := path.Ext(name)
		if len(name)-len(ext) < 4 {
			return ""
		}
		stem := slip(r, strings.TrimSuffix(name, ext))
		if stem == "" {
			return ""
		}
		return dir + stem + ext
	})},
	{"backslashes", 25, inPath(func(_ *rand.Rand, p string) string {
		if !strings.Contains(p, "/") {
			return ""
		}
		return strings.ReplaceAll(p, "/", `\`)
	})},
	{"disk path", 25, nil}, // needs the target; see Round
	{"# missing", 15, func(_ *rand.Rand, v string) string {
		if len(v) > 3 && v[0] == '#' {
			return v[1:]
		}
		return ""
	}},
	{"fragment’s letter case", 45, inFragment(func(r *rand.Rand, f string) string {
		return onLetter(r, f, func(c byte) string { return string(c ^ 0x20) })
	})},
	{"fragment’s separator", 25, inFragment(func(_ *rand.Rand, f string) string {
		if strings.Contains(f, "-") {
			return strings.ReplaceAll(f, "-", "_")
		}
		if strings.Contains(f, "_") {
			return strings.ReplaceAll(f, "_", "-")
		}
		return ""
	})},
	{"fragment misspelt", 35, inFragment(func(r *rand.Rand, f string) string {
		if len(f) < 5 {
			return ""
		}
		return slip(r, f)
	})},
	{"scheme missing", 35, func(_ *rand.Rand, v string) string { return cut(cut(v, "https://"), "http://") }},
	{"scheme mistyped", 25, func(r *rand.Rand, v string) string {
		rest, ok := strings.CutPrefix(v, "https://")
		if !ok {
			return ""
		}
		return []string{"https//", "htps://", "https:/", "https;//", "https://https://", "htttps://"}[r.IntN(6)] + rest
	}},
	{"mailto missing", 25, func(_ *rand.Rand, v string) string { return cut(v, "mailto:") }},
	{"e-mail malformed", 25, func(r *rand.Rand, v string) string {
		if !strings.HasPrefix(v, "mailto:") || len(mailbox.Parse(v).Problems) > 0 {
			return ""
		}
		switch {
		case strings.Contains(v, "?") && r.IntN(2) == 0:
			return strings.Replace(v, "?", "&", 1)
		case strings.Contains(v, "%20"):
			return strings.ReplaceAll(v, "%20", " ")
		}
		return "mailto://" + strings.TrimPrefix(v, "mailto:")
	}},
}

func cut(v, prefix string) string {
	rest, ok := strings.CutPrefix(v, prefix)
	if !ok {
		return map[bool]string{true: v}[strings.HasPrefix(prefix, "https")]
	}
	return rest
}

// inPath damages the path of a relative reference.
func inPath(do func(r *rand.Rand, p string) string) func(*rand.Rand, string) string {
	return func(r *rand.Rand, v string) string {
		part, query, fragment := address.Split(v)
		if part == "" || part[0] == '/' || address.SchemeOf(v) != "" || strings.HasSuffix(part, "/") {
			return ""
		}
		if part = do(r, part); part == "" {
			return ""
		}
		return part + query + fragment
	}
}

func inFragment(do func(r *rand.Rand, f string) string) func(*rand.Rand, string) string {
	return func(r *rand.Rand, v string) string {
		part, query, fragment := address.Split(v)
		if len(fragment) < 3 || address.SchemeOf(v) != "" {
			return ""
		}
		f := do(r, fragment[1:])
		if f == "" {
			return ""
		}
		return part + query + "#" + f
	}
}

func onLetter(r *rand.Rand, s string, other func(byte) string) string {
	var at []int
	for i := range len(s) {
		if c := s[i] | 0x20; 'a' <= c && c <= 'z' {
			at = append(at, i)
		}
	}
	if len(at) == 0 {
		return ""
	}
	i := at[r.IntN(len(at))]
	return s[:i] + other(s[i]) + s[i+1:]
}

// slip is a slip of the finger in a word: a letter left out, doubled, exchanged for its neighbour, or two swapped.
func slip(r *rand.Rand, word string) string {
	const keys = "qwertyuiopasdfghjklzxcvbnm"
	i := 1 + r.IntN(len(word)-2)
	if c := word[i] | 0x20; c < 'a' || c > 'z' || word[i+1] < 'A' {
		return "" // digits are hardly mistyped
	}
	switch r.IntN(4) {
	case 0:
		return word[:i] + word[i+1:]
	case 1:
		return word[:i] + word[i:i+1] + word[i:]
	case 2:
		if k := strings.IndexByte(keys, word[i]|0x20); k > 0 {
			return word[:i] + keys[k-1:k] + word[i+1:]
		}
	}
	if word[i] == word[i+1] {
		return word[:i] + word[i+1:]
	}
	return word[:i] + word[i+1:i+2] + word[i:i+1] + word[i+2:]
}

// truth is where a damaged reference led.
type truth struct {
	kind  string
	value string
	// path and fragment are where it landed in the folder; url is where it led outside.
	path, fragment, url string
}

type place struct {
	page string
	ref  int
}

// Whole returns a snapshot without the references that land nowhere, so that all of what is left was meant.
func Whole(s *site.Snapshot) *site.Snapshot {
	files := slices.Clone(s.Files)
	for i := range files {
		if files[i].Doc == nil {
			continue
		}
		doc := *files[i].Doc
		doc.References = nil
		for k, l := range s.Links(int32(i)) {
			if l.Outcome == site.Lands || l.Outcome == site.Elsewhere {
				doc.References = append(doc.References, files[i].Doc.References[k])
			}
		}
		files[i].Doc = &doc
	}
	return site.Build(files, s.Options)
}

// Round damages a share of the references of a snapshot that land (slips), moves and renames a share of its files behind the
// back of their references (moves), and says what repairing all that restored. The snapshot itself is left alone.
func Round(r *rand.Rand, s *site.Snapshot, slips, moves float64) Tallies {
	files := slices.Clone(s.Files)
	truths := map[place]truth{}
	past := repair.Past{Since: map[string]int64{}}
	moved := map[string]string{}
	for i := range files {
		f := &files[i]
		if name := path.Base(f.Path); f.Doc == nil || f.Kind != site.Page || slices.Contains(site.DefaultIndexNames, name) {
			continue
		}
		switch {
		case r.Float64() < moves/12: // the page is moved, with or without a record of it
			moved[f.Path] = movePage(r, s, f.Path)
		case r.Float64() < moves/20 && path.Ext(f.Path) == ".html":
			moved[f.Path] = path.Join(path.Dir(f.Path), "renamed-"+path.Base(f.Path))
		}
	}
	total := 0
	for _, w := range ways {
		total += w.weight
	}
	recorded := r.IntN(2) == 0
	for i := range files {
		f := &files[i]
		old := f.Path
		to, leaves := moved[old]
		if leaves {
			if recorded {
				past.Gone = append(past.Gone, repair.Gone{Path: old, Size: f.Size, Hash: f.Hash, Doc: f.Doc, Since: hour, GoneAt: day})
			}
			f.Path = to
		}
		if f.Doc == nil {
			continue
		}
		doc := *f.Doc
		doc.References = slices.Clone(f.Doc.References)
		resolver := address.NewResolver(s.Place)
		resolver.At(old, doc.Base, doc.HasBase)
		slipped := false
		for ref := range doc.References {
			one := &doc.References[ref]
			l := s.Links(int32(i))[ref]
			value := one.Value()
			if one.Flags&(markup.Inert|markup.Whole|markup.ByID|markup.ByMap|markup.InStyle) != 0 || l.Outcome != site.Lands && l.Outcome != site.Elsewhere || value == "" || value == "#" {
				continue
			}
			t := resolver.Resolve(value)
			was := truth{value: value, fragment: address.UnescapeFragment(t.Fragment), url: t.URL}
			if l.File >= 0 {
				was.path = s.Files[l.File].Path
				if now, leaves := moved[was.path]; leaves {
					was.kind = "target moved, unrecorded"
					if recorded {
						was.kind = "target moved, recorded"
					}
					was.path = now
				}
			}
			if leaves && path.Dir(to) != path.Dir(old) && was.kind == "" && l.File >= 0 && l.File != int32(i) {
				was.kind = "page moved"
			}
			if was.kind == "" && r.Float64() < slips && !doc.HasBase && !leaves {
				if w, damaged := pick(r, total, value, s, l); damaged != "" && damaged != value {
					was.kind, slipped = w, true
					one.Written, one.Flags = damaged, one.Flags&^markup.Escaped
				}
			}
			if was.kind != "" {
				truths[place{f.Path, ref}] = was
			}
		}
		if slipped {
			before := f.Doc
			if recorded && !leaves {
				past.Former = append(past.Former, repair.Former{Path: f.Path, Hash: f.Hash, ChangedAt: day, Read: func() *markup.Document { return before }})
			}
			f.Hash = change.HashOf([]byte("damaged " + f.Path))
		}
		f.Doc = &doc
	}
	if recorded {
		for i := range files {
			past.Since[files[i].Path] = hour
		}
		for _, to := range moved {
			past.Since[to] = day
		}
	}
	return judge(site.Build(files, s.Options), past, truths)
}

// movePage returns another folder for a page, as somebody tidying up would put it.
func movePage(r *rand.Rand, s *site.Snapshot, p string) string {
	dirs := slices.Sorted(maps.Keys(s.Folders))
	for range 8 {
		to := path.Join(dirs[r.IntN(len(dirs))], path.Base(p))
		if _, taken := s.Find(to); !taken && to != p {
			return to
		}
	}
	return path.Join(path.Dir(p), "tidied", path.Base(p))
}

// pick damages a value in one of the ways, chosen by weight.
func pick(r *rand.Rand, total int, value string, s *site.Snapshot, l site.Link) (kind, damaged string) {
	n := r.IntN(total)
	for _, w := range ways {
		if n -= w.weight; n >= 0 {
			continue
		}
		if w.do != nil {
			return w.name, w.do(r, value)
		}
		if l.File < 0 {
			return w.name, ""
		}
		_, query, fragment := address.Split(value)
		return w.name, `C:\Users\ines\site\` + strings.ReplaceAll(s.Files[l.File].Path, "/", `\`) + query + fragment
	}
	return "", ""
}

// judge repairs a damaged folder and compares with the truth.
func judge(s *site.Snapshot, past repair.Past, truths map[place]truth) Tallies {
	report := audit.Judge(s, rule.All, audit.Terms{})
	planner := repair.NewPlanner(s, past)
	best := map[place]repair.Repair{}
	for _, c := range planner.Causes(report) {
		for _, e := range c.Findings {
			if e.Finding.Ref < 0 || e.Finding.State < audit.Fragile {
				continue
			}
			at := place{s.Files[e.File].Path, int(e.Finding.Ref)}
			if known, ok := best[at]; len(e.Repairs) > 0 && (!ok || e.Repairs[0].Certainty > known.Certainty) {
				best[at] = e.Repairs[0]
			}
		}
	}
	out := Tallies{}
	resolver := address.NewResolver(s.Place)
	for at, was := range truths {
		file, _ := s.Find(at.page)
		doc := s.Files[file].Doc
		resolver.At(at.page, doc.Base, doc.HasBase)
		n := Tally{Done: 1}
		repaired, known := best[at]
		switch state := report.States(file)[at.ref]; {
		case state != audit.Broken && !known:
			n.Unseen = 1
		case !known || repaired.Certainty == repair.Possible:
			n.Left = 1
		default:
			right := restores(s, resolver, &doc.References[at.ref], repaired.Written, was)
			if state != audit.Broken && !right {
				n.Unseen = 1 // it lands, on something else, and the repair keeps that
				break
			}
			certain := repaired.Certainty == repair.Certain
			n.Restored, n.Wrong = one(certain && right), one(certain && !right)
			n.LikelyRestored, n.LikelyWrong = one(!certain && right), one(!certain && !right)
			n.Left = one(!certain)
			if !right {
				n.Examples = []string{fmt.Sprintf("%s repair of %s on %s: %s (%s), and %s was meant", repaired.Certainty, doc.References[at.ref].Written, at.page, repaired.Written, repaired.Why, cmp.Or(was.path, was.url))}
			}
		}
		sum := out[was.kind]
		sum.add(n)
		out[was.kind] = sum
	}
	return out
}

func one(b bool) int {
	if b {
		return 1
	}
	return 0
}

// restores reports whether what a repair writes leads to where the reference led before it was damaged.
func restores(s *site.Snapshot, r *address.Resolver, ref *markup.Reference, written string, was truth) bool {
	fresh := *ref
	fresh.Written = written
	fresh.Flags |= markup.Escaped
	t := r.Resolve(fresh.Value())
	if was.path == "" {
		if strings.HasPrefix(was.value, "mailto:") {
			a, b := mailbox.Parse(was.value), mailbox.Parse(fresh.Value())
			return slices.Equal(a.To, b.To) && a.Subject == b.Subject && a.Body == b.Body
		}
		return cmp.Or(t.URL, "-") == was.url || strings.TrimPrefix(t.URL, "https") == strings.TrimPrefix(was.url, "http")
	}
	l := s.Land(&t)
	if l.File < 0 || s.Files[l.File].Path != was.path {
		return false
	}
	return address.UnescapeFragment(t.Fragment) == was.fragment
}
