// Package address works out where a written reference leads: from the page that holds it, at the place where
// the folder is opened, to a path in the folder or to somewhere outside. And the way back: from a page and a
// target to what its author would write.
//
// It knows nothing of which files there are; that is package site's. The URL standard decides
// (https://url.spec.whatwg.org/), by a parser that follows it; the shapes that most references have are
// resolved without that parser, to the same result.
package address

import (
	"fmt"
	"strings"

	"github.com/nlnwa/whatwg-url/url"
)

// Kind says how the folder is opened.
type Kind uint8

const (
	// Root: the folder is the top of a web site.
	Root Kind = iota
	// Below: the folder is published below the top of a web site.
	Below
	// Disk: its pages are opened from the author's disk, by file addresses.
	Disk
)

// Place is where the folder is opened, which decides what a leading slash means and whether letter case counts.
type Place struct {
	Kind Kind
	// Mount is the path of the folder at the place, with a slash at both ends: "/", "/club/", or for Disk the
	// folder's own path.
	Mount string
	// IgnoreCase: names that differ in letter case alone are the same there.
	IgnoreCase bool
	// Published is where the folder is published, host and path with a slash at its end ("seeds.example/club/"), so
	// that addresses written out in full are known for the folder's own; "" if that is not known.
	Published string
}

// ParsePublished reads the address at which a folder is published, of its home page or of the folder itself, and
// returns it as [Place].Published has it. An address that is none of a web site's is an error.
func ParsePublished(text string) (string, error) {
	u, err := url.Parse(strings.TrimSpace(text))
	if err != nil || u.Scheme() != "https" && u.Scheme() != "http" {
		return "", fmt.Errorf("%q is no address of a site: it begins with https:// and a host's name", text)
	}
	path := u.Pathname()
	return u.Host() + path[:strings.LastIndexByte(path, '/')+1], nil
}

// ParsePlace reads a place as it is written on the command line: "disk", "root" or a path such as "/club/".
// folder is the absolute path of the folder with slashes, which "disk" needs.
func ParsePlace(text, folder string, ignoreCase bool) (Place, error) {
	p := Place{Mount: "/", IgnoreCase: ignoreCase}
	switch {
	case text == "root" || text == "" || text == "/":
	case text == "disk":
		p.Kind = Disk
		p.Mount = "/" + strings.Trim(folder, "/") + "/"
	case strings.HasPrefix(text, "/"):
		p.Kind = Below
		p.Mount = "/" + strings.Trim(text, "/") + "/"
	default:
		return p, fmt.Errorf("%q is no place: say disk, root, or a path that begins with a slash, such as /club/", text)
	}
	return p, nil
}

// String returns the place as [ParsePlace] reads it.
func (p Place) String() string {
	switch p.Kind {
	case Disk:
		return "disk"
	case Below:
		return p.Mount
	}
	return "root"
}

// Phrase says the place as part of a sentence: "at the root of a site".
func (p Place) Phrase() string {
	switch p.Kind {
	case Disk:
		return "opened from disk"
	case Below:
		return "published below " + p.Mount
	}
	return "at the root of a site"
}

// Whole is Phrase with what counts of letter case, where that is not as usual.
func (p Place) Whole() string {
	if p.IgnoreCase {
		return p.Phrase() + ", where letter case does not count"
	}
	return p.Phrase()
}

// origin is what is before a path in the folder's addresses. The host is one that can't exist.
func (p Place) origin() string {
	if p.Kind == Disk {
		return "file://"
	}
	return "https://" + ownHost
}

const ownHost = "folder.invalid"

// URL returns the address of a path in the folder at the place.
func (p Place) URL(path string) string {
	return p.origin() + escapePath(p.Mount) + escapePath(path)
}
