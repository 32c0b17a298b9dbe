package address

import (
	"strings"

	"github.com/nlnwa/whatwg-url/url"
)

// TargetKind says what sort of thing a reference leads to.
type TargetKind uint8

const (
	// Inside: a path in the folder; whether anything is there is another question.
	Inside TargetKind = iota
	// Beyond: the same disk or host, but outside the folder.
	Beyond
	// Web: another site.
	Web
	// Mail: a mailto: link.
	Mail
	// Phone: a tel: or sms: link.
	Phone
	// Script: a javascript: address.
	Script
	// Data: data:, blob: and about: addresses, which hold or name their own content.
	Data
	// OnDisk: an address on one person's disk, by file: or a drive letter.
	OnDisk
	// OtherScheme: a scheme that a browser hands to another program.
	OtherScheme
	// Malformed: no URL can be made of it.
	Malformed
	// TooLong: it is longer than [MaxLength], so it is not looked at any further.
	TooLong
)

// MaxLength is the length in bytes above which an address is not parsed. Addresses that hold their own content, such as
// data:, may be longer.
const MaxLength = 8192

// MaxParts is how many slashes and at signs an address may have. The parser takes the whole address in hand again at each of
// them.
const MaxParts = 512

// Shortened returns the beginning of an address that is too long to be shown.
func Shortened(value string) string {
	if len(value) <= 80 {
		return value
	}
	return strings.ToValidUTF8(value[:80], "") + "…"
}

// Target is where a reference leads.
type Target struct {
	Kind TargetKind
	// Path is, for Inside, the path in the folder, decoded, without a leading slash; "" is the folder itself.
	Path string
	// Folder is set if the path ended in a slash, so that a folder is meant.
	Folder bool
	// Fragment is what follows '#', as it is in the URL (percent-encoded); HasFragment is set even if there is nothing behind the "#".
	Fragment    string
	HasFragment bool
	// Climbed counts the ".." that had nowhere to go, being at the top already.
	Climbed int
	// Own is set if the folder's own published address is written out in full.
	Own bool
	// URL is the whole address, for what is not Inside, and for what is Own.
	URL string
	// Scheme is the address's scheme without its colon, for the same.
	Scheme string
}

// Resolver resolves the references of one page after another at one place. It is not safe for use by several
// goroutines.
type Resolver struct {
	place  Place
	parser url.Parser
	page   string
	// dir is the folder part of what references on the page are resolved against, with its slash; quick tells
	// that no base element leads elsewhere.
	dir   string
	quick bool
	based string // the base element's value, if any
	base  *url.Url
	buf   []byte
}

// NewResolver returns a Resolver for the place. Call [Resolver.At] before resolving.
func NewResolver(p Place) *Resolver { return &Resolver{place: p, parser: url.NewParser()} }

// Place returns the place that r resolves for.
func (r *Resolver) Place() Place { return r.place }

// At sets the page, by its path in the folder, whose references are resolved from now on. base is the value of
// its base element's href; hasBase tells an empty one from none.
func (r *Resolver) At(page, base string, hasBase bool) {
	r.page, r.base, r.based = page, nil, ""
	r.dir = page[:strings.LastIndexByte(page, '/')+1]
	r.quick = !hasBase
	if hasBase {
		r.based = base
	}
}

// In is [Resolver.At] for a page in the folder dir, whatever its name, without a base element.
func (r *Resolver) In(dir string) {
	if dir != "" {
		dir += "/"
	}
	r.At(dir, "", false)
}

// baseURL returns what references are resolved against: the page's own address, or what its base element
// makes of it (HTML standard, 4.2.3).
func (r *Resolver) baseURL() *url.Url {
	if r.base != nil {
		return r.base
	}
	own, err := r.parser.Parse(r.place.URL(r.page))
	if err != nil {
		// Every path can be escaped into an address, so this can't be.
		panic("address: no address for page " + r.page + ": " + err.Error())
	}
	r.base = own
	if r.based != "" {
		moved, err := r.parser.ParseRef(own.Href(false), r.based)
		if err == nil && moved.Scheme() != "data" && moved.Scheme() != "javascript" {
			r.base = moved
		}
	}
	return r.base
}

// plain tells the bytes of a relative path that the URL parser leaves as they are and that mean nothing to it.
var plain = func() (t [256]bool) {
	for c := range t {
		t[c] = 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9' ||
			strings.IndexByte("-._~!$&'()*+,;=@", byte(c)) >= 0
	}
	return t
}()

// Resolve works out where value, a reference's decoded value, leads.
func (r *Resolver) Resolve(value string) Target {
	if len(value) > MaxLength {
		scheme := SchemeOf(value)
		if k := kindOf(scheme); k == Data || k == Script {
			return Target{Kind: k, Scheme: scheme, URL: value}
		}
		return Target{Kind: TooLong, Scheme: scheme}
	}
	if t, ok := elsewhere(value); ok && (r.place.Published == "" || !r.place.publishes(t.URL)) {
		return t
	}
	if r.quick {
		if t, ok := r.shortcut(value); ok {
			return t
		}
	}
	return r.parse(value)
}

// elsewhere resolves the common shape of another site's address: a host of lower-case letters, and a path in
// which nothing is encoded, dropped or climbed.
func elsewhere(value string) (Target, bool) {
	scheme, rest, ok := strings.Cut(value, "://")
	if !ok || scheme != "https" && scheme != "http" {
		return Target{}, false
	}
	host, path, hasPath := strings.Cut(rest, "/")
	if !plainHost(host) || host == ownHost {
		return Target{}, false
	}
	t := Target{Kind: Web, URL: value, Scheme: scheme}
	if !hasPath {
		t.URL += "/"
		return t, true
	}
	for i := 0; i < len(path); i++ {
		if c := path[i]; c == '#' && !t.HasFragment {
			t.Fragment, t.HasFragment = path[i+1:], true
		} else if !plain[c] && c != '/' || c == '.' && (i == 0 || path[i-1] == '/') {
			return Target{}, false
		}
	}
	return t, true
}

// plainHost reports whether host is one that the URL standard's host parser leaves as it is: at least two labels
// of lower-case letters, digits and hyphens, the last of letters alone.
func plainHost(host string) bool {
	dot := strings.LastIndexByte(host, '.')
	if dot <= 0 || dot == len(host)-1 || strings.Contains(host, "xn--") {
		return false
	}
	for i := range len(host) {
		c := host[i]
		letter := 'a' <= c && c <= 'z'
		if !letter && (i > dot || c != '-' && c != '.' && (c < '0' || c > '9')) || c == '.' && (i == 0 || host[i-1] == '.') {
			return false
		}
	}
	return true
}

// shortcut resolves the common shapes: a relative path of plain bytes, a fragment, or both.
func (r *Resolver) shortcut(value string) (Target, bool) {
	var t Target
	path := value
	for i := 0; i < len(value); i++ {
		c := value[i]
		if c == '#' && !t.HasFragment {
			path, t.Fragment, t.HasFragment = value[:i], value[i+1:], true
		} else if !plain[c] && (c != '/' || i == 0) {
			return t, false
		}
	}
	if path == "" {
		t.Path = r.page
		return t, t.HasFragment
	}
	return r.join(t, path)
}

// join resolves a relative path against the page's folder.
func (r *Resolver) join(t Target, path string) (Target, bool) {
	b := append(r.buf[:0], r.dir...)
	for rest, more := path, true; more; {
		var part string
		part, rest, more = strings.Cut(rest, "/")
		switch part {
		case ".", "..":
			if part == ".." && !climb(&b) {
				if r.place.Kind != Root {
					return t, false
				}
				t.Climbed++
			}
			t.Folder = true
		default:
			b = append(b, part...)
			t.Folder = part == "" && !more
			if more {
				b = append(b, '/')
			}
		}
	}
	r.buf = b
	t.Path = strings.TrimSuffix(string(b), "/")
	if strings.Contains(t.Path, "//") {
		return t, false
	}
	return t, true
}

// climb takes the last folder off b, which ends in a slash, and reports whether there was one.
func climb(b *[]byte) bool {
	s := *b
	if len(s) == 0 {
		return false
	}
	i := len(s) - 1
	for i > 0 && s[i-1] != '/' {
		i--
	}
	*b = s[:i]
	return true
}

// parse resolves by the URL standard's parser.
func (r *Resolver) parse(value string) Target {
	if len(value) > MaxParts && strings.Count(value, "/")+strings.Count(value, `\`)+strings.Count(value, "@") > MaxParts {
		return Target{Kind: TooLong, Scheme: SchemeOf(value)}
	}
	base := r.baseURL()
	u, err := base.Parse(value)
	if err != nil {
		return Target{Kind: Malformed}
	}
	t := Target{Scheme: u.Scheme()}
	href := u.Href(false)
	if i := strings.IndexByte(href, '#'); i >= 0 {
		t.Fragment, t.HasFragment = href[i+1:], true
	}
	own := r.place.Kind == Disk && t.Scheme == "file" && u.Hostname() == "" ||
		r.place.Kind != Disk && (t.Scheme == "https" || t.Scheme == "http") && u.Hostname() == ownHost
	if own {
		return r.inside(t, u.Pathname(), href, value)
	}
	t.URL = href
	t.Kind = kindOf(t.Scheme)
	if t.Kind == Web && r.place.Published != "" && r.place.publishes(href) {
		_, path, _ := strings.Cut(r.place.Published, "/")
		t.Kind, t.Own = Inside, true
		rest := strings.TrimPrefix(u.Pathname(), "/"+path)
		t.Folder = rest == "" || strings.HasSuffix(rest, "/")
		t.Path = Unescape(strings.TrimSuffix(rest, "/"))
	}
	return t
}

// publishes reports whether an address, as the URL parser serializes it, is the folder's own.
func (p Place) publishes(href string) bool {
	_, rest, _ := strings.Cut(href, "://")
	return strings.HasPrefix(rest, p.Published)
}

// inside makes of an address on the folder's own host or disk a path in the folder.
func (r *Resolver) inside(t Target, pathname, href, value string) Target {
	mount := escapePath(r.place.Mount)
	if pathname+"/" == mount {
		pathname = mount
	}
	path, ok := strings.CutPrefix(pathname, mount)
	t.Climbed = r.overshoot(value)
	if !ok {
		t.Kind = Beyond
		t.Path = Unescape(pathname)
		t.URL = href
		return t
	}
	t.Scheme = ""
	t.Folder = path == "" || strings.HasSuffix(path, "/")
	t.Path = Unescape(strings.TrimSuffix(path, "/"))
	return t
}

// overshoot counts the ".." in value that climb beyond the top of the host.
func (r *Resolver) overshoot(value string) int {
	if r.place.Kind == Disk || !r.quick || !strings.Contains(value, "..") && !strings.Contains(value, "%2") {
		return 0
	}
	over := 0
	for _, s := range r.Steps(value) {
		if s.Kind == Climb && s.Depth < 0 {
			over++
		}
	}
	return over
}

var schemes = map[string]TargetKind{
	"http": Web, "https": Web, "ws": Web, "wss": Web, "ftp": Web,
	"mailto": Mail, "tel": Phone, "sms": Phone,
	"javascript": Script, "data": Data, "blob": Data, "about": Data, "file": OnDisk,
}

func kindOf(scheme string) TargetKind {
	if k, ok := schemes[scheme]; ok {
		return k
	}
	if len(scheme) == 1 {
		return OnDisk // a drive letter
	}
	return OtherScheme
}
