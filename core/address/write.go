package address

import (
	"strings"

	"arvel/core/letters"
)

// Relative returns the path of target as it is written on page: both are paths in the folder. The result is
// percent-encoded where it must be. A target of "" or one that ends in a slash is a folder.
func Relative(page, target string) string {
	from := names(strings.TrimSuffix(page[:strings.LastIndexByte(page, '/')+1], "/"))
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

// Rewrite returns what value, written on page, becomes so that it leads to target instead: relative or with
// a leading slash as it was, with "./" if it had that, its query and fragment kept, and every part that stays
// the same kept to the letter. Values with a scheme are none of its business.
func (p Place) Rewrite(value, page, target string) string {
	path, query, fragment := Split(value)
	path = strings.TrimSpace(path)
	var fresh string
	if strings.HasPrefix(path, "/") && p.Kind != Disk {
		fresh = joinEscaped(p.Mount) + joinEscaped(target)
	} else {
		fresh = nearest(path, page, target)
		// Alone, "./" is the only way to write a page's own folder, and tells of no habit.
		if strings.HasPrefix(path, "./") && path != "./" && !strings.HasPrefix(fresh, ".") {
			fresh = "./" + fresh
		}
	}
	return keepLetters(path, fresh) + query + fragment
}

// Follow is Rewrite for a reference whose page or target is moved: from page to newPage, from was to target. What was the
// shortest way stays the shortest way, so that moving there and back gives the same letters.
func (p Place) Follow(value, page, was, newPage, target string) string {
	part, query, fragment := Split(value)
	bare := strings.TrimPrefix(part, "./")
	if !Shortest(value, page, was) {
		return p.Rewrite(value, newPage, target)
	}
	fresh := Relative(newPage, target)
	if bare != part && bare != "" && !strings.HasPrefix(fresh, ".") {
		fresh = "./" + fresh
	}
	return keepLetters(part, fresh) + query + fragment
}

// Shortest tells whether value is the shortest way from the page to the target.
func Shortest(value, page, target string) bool {
	part, _, _ := Split(value)
	return !strings.HasPrefix(part, "/") && Unescape(strings.TrimPrefix(part, "./")) == strings.TrimPrefix(Unescape(Relative(page, target)), "./")
}

// nearest returns, of the ways to write target on page, the one in which the fewest letters of old change: the
// shortest, or one that climbs as far as old did and comes down again.
func nearest(old, page, target string) string {
	best := Relative(page, target)
	old = Unescape(old)
	fewest := letters.Distance(old, Unescape(best), len(old)+len(best))
	from := names(strings.TrimSuffix(page[:strings.LastIndexByte(page, '/')+1], "/"))
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
		if d := letters.Distance(old, Unescape(way), fewest); d < fewest {
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
