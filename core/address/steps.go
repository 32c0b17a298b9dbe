package address

import "strings"

// StepKind says what one part of a reference does.
type StepKind uint8

const (
	// Stay is ".": it leads nowhere else.
	Stay StepKind = iota
	// Climb is "..": out of the folder, one up.
	Climb
	// ToTop is the leading slash: to the top of the host, or of the disk.
	ToTop
	// Enter is a folder's name: one down.
	Enter
	// Name is the last part: the file.
	Name
	// Query and Fragment follow the path.
	Query
	Fragment
	// Outside is an address with a scheme or a host of its own.
	Outside
)

// Step is one part of a reference as written, and where it leads.
type Step struct {
	Kind    StepKind
	Written string
	// Depth is how many folders deep one is behind the step; 0 is the top of the folder, below 0 beyond it.
	Depth int
	// Path is what one is at behind the step, as a path in the folder; where Beyond is set, it is outside the
	// folder and Path means nothing.
	Path   string
	Beyond bool
}

// Split parts a value into its path, its query with '?', and its fragment with '#'.
func Split(value string) (path, query, fragment string) {
	path = value
	if i := strings.IndexByte(path, '#'); i >= 0 {
		path, fragment = path[:i], path[i:]
	}
	if i := strings.IndexByte(path, '?'); i >= 0 {
		path, query = path[:i], path[i:]
	}
	return path, query, fragment
}

// cleaned drops from a value what the URL parser drops: control characters and spaces around it, tabs and
// line ends in it.
func cleaned(value string) string {
	value = strings.TrimFunc(value, func(r rune) bool { return r <= ' ' })
	if strings.ContainsAny(value, "\t\n\r") {
		value = strings.NewReplacer("\t", "", "\n", "", "\r", "").Replace(value)
	}
	return value
}

// SchemeOf returns the scheme that value begins with, in lower case and without its colon, or "".
func SchemeOf(value string) string {
	value = cleaned(value)
	for i := 0; i < len(value); i++ {
		c := value[i]
		switch {
		case 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z':
		case i > 0 && ('0' <= c && c <= '9' || c == '+' || c == '-' || c == '.'):
		case i > 0 && c == ':':
			return strings.ToLower(value[:i])
		default:
			return ""
		}
	}
	return ""
}

// Steps takes value apart into the steps that lead from where the page's references start (its own folder, or
// that of its base element) to the landing, as they are written.
func (r *Resolver) Steps(value string) []Step {
	if len(value) > MaxLength {
		return []Step{{Kind: Outside, Written: Shortened(value)}}
	}
	value = cleaned(value)
	path, query, fragment := Split(value)
	at := names(r.Start())
	depth, beyond := len(at), false
	var steps []Step
	add := func(k StepKind, written string) {
		steps = append(steps, Step{k, written, depth, strings.Join(at, "/"), beyond || depth < 0})
	}
	slashed := strings.ReplaceAll(path, `\`, "/")
	switch {
	case SchemeOf(path) != "" || strings.HasPrefix(slashed, "//"):
		return []Step{{Kind: Outside, Written: value}}
	case strings.HasPrefix(slashed, "/"):
		at, depth = nil, 0
		n := len(r.place.Mount)
		if !strings.HasPrefix(Unescape(slashed), r.place.Mount) {
			n, beyond, depth = 1, true, -len(names(strings.Trim(r.place.Mount, "/")))
		}
		add(ToTop, path[:n])
		path, slashed = path[n:], slashed[n:]
	}
	for path != "" {
		n := strings.IndexByte(slashed, '/')
		part, last := path, n < 0
		if !last {
			part = path[:n]
			path, slashed = path[n+1:], slashed[n+1:]
		} else {
			path = ""
		}
		switch dots := strings.ReplaceAll(strings.ToLower(part), "%2e", "."); {
		case dots == ".":
			add(Stay, part)
		case dots == "..":
			depth--
			if len(at) > 0 {
				at = at[:len(at)-1]
			}
			add(Climb, part)
			if depth < 0 && r.place.Kind == Root {
				depth = 0
			}
		case last:
			at = append(at, Unescape(part))
			add(Name, part)
		default:
			depth++
			at = append(at, Unescape(part))
			add(Enter, part)
		}
	}
	if query != "" {
		add(Query, query)
	}
	if fragment != "" {
		add(Fragment, fragment)
	}
	return steps
}

// Start returns the folder, as a path in the opened one, that relative references of the page start from: the
// page's own, or that of its base element.
func (r *Resolver) Start() string {
	if r.based != "" {
		if t := r.Resolve("."); t.Kind == Inside {
			return t.Path
		}
	}
	return strings.TrimSuffix(r.dir, "/")
}

func names(path string) []string {
	if path == "" {
		return nil
	}
	return strings.Split(path, "/")
}

// Host returns the host of an absolute address, with its port, in lower case.
func Host(url string) string {
	_, rest, _ := strings.Cut(url, "://")
	host, _, _ := strings.Cut(rest, "/")
	return strings.ToLower(host)
}
