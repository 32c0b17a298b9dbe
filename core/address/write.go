package address

import (
	"strings"

	"arvel/core/distance"
)

// FolderOf returns the folder that the file at path is in, "" for the top.
func FolderOf(path string) string {
	return strings.TrimSuffix(path[:strings.LastIndexByte(path, '/')+1], "/")
}

// Relative returns the relative address (URL Standard, path-relative-URL string) that leads from a page in the folder base
// to target, both paths in the opened folder. What has to be is percent-encoded. A target of "", or one that ends in a slash,
// is a folder.
func Relative(base, target string) string {
	from := names(base)
	to := strings.Split(target, "/") // the last part is the file, or "" for a folder
	common := 0
	for common < len(from) && common < len(to)-1 && from[common] == to[common] {
		common++
	}
	var b strings.Builder
	for range from[common:] {
		b.WriteString("../")
	}
	for i, name := range to[common:] {
		if i > 0 {
			b.WriteByte('/')
		}
		b.WriteString(escapeName(name))
	}
	out := b.String()
	if first, _, _ := strings.Cut(out, "/"); out == "" || strings.Contains(first, ":") || strings.HasPrefix(out, "/") {
		out = "./" + out // else it would be empty, or read as a scheme or a host
	}
	return out
}

// Rewrite returns what value, written on a page in the folder base, becomes so that it leads to target instead: relative or with
// a leading slash as it was, with "./" if it had that, its query and fragment kept, and every part that stays
// the same kept to the letter. Values with a scheme are none of its business.
func (p Place) Rewrite(value, base, target string) string {
	path, query, fragment := Split(value)
	path = strings.TrimSpace(path)
	var fresh string
	if strings.HasPrefix(path, "/") && p.Kind != Disk {
		fresh = joinEscaped(p.Mount) + joinEscaped(target)
	} else {
		fresh = nearest(path, base, target)
		// Alone, "./" is the only way to write a page's own folder, and tells of no habit.
		if strings.HasPrefix(path, "./") && path != "./" && !strings.HasPrefix(fresh, ".") {
			fresh = "./" + fresh
		}
	}
	return keepLetters(path, fresh) + query + fragment
}

// Follow is [Place.Rewrite] for a reference whose page is moved from the folder base to newBase, or whose target is moved from
// was to target. What was the shortest way stays the shortest way, so that moving there and back gives the same letters.
func (p Place) Follow(value, base, was, newBase, target string) string {
	part, query, fragment := Split(value)
	bare := strings.TrimPrefix(part, "./")
	if !Shortest(value, base, was) {
		return p.Rewrite(value, newBase, target)
	}
	fresh := Relative(newBase, target)
	if bare != part && bare != "" && !strings.HasPrefix(fresh, ".") {
		fresh = "./" + fresh
	}
	return keepLetters(part, fresh) + query + fragment
}

// Shortest reports whether value is the shortest relative address of target on a page in the folder base.
func Shortest(value, base, target string) bool {
	part, _, _ := Split(value)
	return !strings.HasPrefix(part, "/") && Unescape(strings.TrimPrefix(part, "./")) == strings.TrimPrefix(Unescape(Relative(base, target)), "./")
}

// nearest returns, of the ways to write target on a page in the folder base, the one in which the fewest letters of old change: the
// shortest, or one that climbs as far as old did and comes down again.
func nearest(old, base, target string) string {
	best := Relative(base, target)
	old = Unescape(old)
	fewest := distance.Distance(old, Unescape(best), len(old)+len(best))
	from := names(base)
	climbs := 0
	for strings.HasPrefix(old[min(len(old), 3*climbs):], "../") {
		climbs++
	}
	for k := strings.Count(best, "../") + 1; k <= min(climbs, len(from)); k++ {
		above := strings.Join(from[:len(from)-k], "/")
		below, within := strings.CutPrefix(target, above+"/")
		if above == "" {
			below, within = target, true
		}
		if !within {
			continue
		}
		way := strings.Repeat("../", k) + joinEscaped(below)
		if d := distance.Distance(old, Unescape(way), fewest); d < fewest {
			best, fewest = way, d
		}
	}
	return best
}

// keepLetters takes over from old each part that names the same as the part of fresh at the same distance
// from the front or from the end, so that what an author chose to encode stays as it was.
func keepLetters(old, fresh string) string {
	was, is := strings.Split(old, "/"), strings.Split(fresh, "/")
	for i := 0; i < len(was) && i < len(is); i++ {
		if Unescape(was[i]) == Unescape(is[i]) {
			is[i] = was[i]
		}
	}
	for i := 1; i <= len(was) && i <= len(is); i++ {
		if a, b := was[len(was)-i], is[len(is)-i]; Unescape(a) == Unescape(b) {
			is[len(is)-i] = a
		}
	}
	return strings.Join(is, "/")
}

func joinEscaped(path string) string {
	parts := strings.Split(path, "/")
	for i, n := range parts {
		parts[i] = escapeName(n)
	}
	return strings.Join(parts, "/")
}

// IsWhole reports whether a value is an address with its host written out, with its scheme or after "//".
func IsWhole(value string) bool {
	value = strings.TrimSpace(value)
	return SchemeOf(value) != "" || strings.HasPrefix(value, "//")
}

// Publish writes the published address of a path in the folder, with the scheme, the query and the fragment of value: whole
// if value is, from the root of the host if it begins with a slash. For other values it is not made.
func (p Place) Publish(value, target string) string {
	part, query, fragment := Split(strings.TrimSpace(value))
	path := strings.TrimPrefix(Relative("", target), "./")
	if !IsWhole(value) {
		_, above, _ := strings.Cut(p.Published, "/")
		return "/" + above + path + query + fragment
	}
	before := "//"
	if scheme, _, has := strings.Cut(part, "://"); has {
		before = scheme + "://"
	}
	return before + p.Published + path + query + fragment
}
