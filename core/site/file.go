// Package site is the folder as a model: its files, what each page refers to, where that lands, and who refers
// to whom. A [Snapshot] is immutable and shared by all who read it; when something changed on disk a new one
// is made that reuses the rest.
package site

import (
	"path"
	"strings"

	"arvel/core/change"
	"arvel/core/markup"
)

// Kind says what a file is, by its name.
type Kind uint8

// The kinds of files.
const (
	Other Kind = iota
	Page
	Style
	Script
	Image
	Media
	Paper // a PDF or another document
)

var kinds = map[string]Kind{
	".html": Page, ".htm": Page, ".xhtml": Page, ".xht": Page, ".shtml": Page,
	".css": Style, ".js": Script, ".mjs": Script,
	".png": Image, ".jpg": Image, ".jpeg": Image, ".gif": Image, ".webp": Image, ".avif": Image, ".svg": Image,
	".ico": Image, ".bmp": Image,
	".mp3": Media, ".mp4": Media, ".ogg": Media, ".oga": Media, ".ogv": Media, ".webm": Media, ".wav": Media,
	".m4a": Media, ".vtt": Media,
	".pdf": Paper, ".doc": Paper, ".docx": Paper, ".odt": Paper, ".txt": Paper, ".csv": Paper, ".rtf": Paper,
	".xls": Paper, ".ods": Paper, ".zip": Paper, ".epub": Paper,
}

var kindNames = [...]string{"file", "page", "style", "script", "image", "media", "document"}

// String returns the kind as the interface names it.
func (k Kind) String() string { return kindNames[k] }

// KindOf says what the file at p is.
func KindOf(p string) Kind { return kinds[strings.ToLower(path.Ext(p))] }

// IsRead reports whether the file at p can hold references, so that it is read.
func IsRead(p string) bool { return scans[strings.ToLower(path.Ext(p))] != nil }

// Scan reads the bytes of the file at p, which IsRead.
func Scan(s *markup.Scanner, p string, src []byte) *markup.Document {
	return scans[strings.ToLower(path.Ext(p))](s, src)
}

var scans = func() map[string]func(*markup.Scanner, []byte) *markup.Document {
	m := map[string]func(*markup.Scanner, []byte) *markup.Document{
		".css": (*markup.Scanner).StyleSheet, ".svg": (*markup.Scanner).SVG, ".xml": (*markup.Scanner).Sitemap,
	}
	for ext, kind := range kinds {
		if kind == Page {
			m[ext] = (*markup.Scanner).Page
		}
	}
	return m
}()

// otherExtensions are extensions of files that are of no kind of their own, but that people link to. Several of
// them are top-level domains too.
var otherExtensions = func() map[string]bool {
	m := map[string]bool{}
	for ext := range strings.FieldsSeq("php asp aspx jsp cgi xml json md pl py sh rs go ps ai mov zip tar gz tgz rar exe dmg apk map woff woff2 ttf eot rss atom ics vcf") {
		m["."+ext] = true
	}
	return m
}()

// IsExtension reports whether ext, with its dot, is one that files of a folder commonly have.
func IsExtension(ext string) bool {
	ext = strings.ToLower(ext)
	_, known := kinds[ext]
	return known || otherExtensions[ext]
}

// File is one file of the folder.
type File struct {
	// Path is relative to the folder, with slashes.
	Path string
	Kind Kind
	// Size is in bytes; Modified in nanoseconds since 1970.
	Size, Modified int64
	// Hash is that of the file's bytes; zero if they are not known.
	Hash change.Hash
	// Content is the extension that the file's first bytes speak for (".png"), or "" where they speak for none.
	Content string
	// Doc is what was read of a page, a style sheet, an SVG file or a sitemap; nil for other files and for what could not be read.
	Doc *markup.Document
	// Trouble says why a file could not be read, as the end of a sentence that begins with its name; or "".
	Trouble string
	// Unread: the file can hold references, but could not be read, so nobody knows what is in it.
	Unread bool
	// Vanished: it was gone when it was to be read.
	Vanished bool
	// Same is the path of the file that this is only another name of; "" for a file of its own. What is in it is read,
	// judged and repaired there.
	Same string
}

// IsPage reports whether the file is a page, and not only another name of one.
func (f *File) IsPage() bool { return f.Kind == Page && f.Same == "" }

// Folder is one folder within the opened one.
type Folder struct {
	// Path is relative to the opened folder, without a slash at the end; "" is the opened folder itself.
	Path string
	// Names are what is in it, sorted; the names of folders end in a slash.
	Names []string
	// Index is the file that a visitor of the folder gets, or -1.
	Index int32
}
