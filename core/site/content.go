package site

import (
	"bytes"
	"path"
	"strings"
)

// HeadSize is how many bytes of a file's beginning tell what it is.
const HeadSize = 64

// signatures are the first bytes of the kinds of files that people link to (WHATWG MIME Sniffing, 6).
var signatures = []struct {
	at    int
	bytes string
	ext   string
}{
	{0, "\x89PNG\r\n\x1a\n", ".png"},
	{0, "\xFF\xD8\xFF", ".jpg"},
	{0, "GIF87a", ".gif"},
	{0, "GIF89a", ".gif"},
	{8, "WEBP", ".webp"},
	{4, "ftypavif", ".avif"},
	{0, "BM", ".bmp"},
	{0, "\x00\x00\x01\x00", ".ico"},
	{0, "%PDF-", ".pdf"},
	{0, "PK\x03\x04", ".zip"},
	{0, "ID3", ".mp3"},
	{0, "OggS", ".ogg"},
	{0, "\x1A\x45\xDF\xA3", ".webm"},
	{8, "WAVE", ".wav"},
	{4, "ftyp", ".mp4"},
	{0, "<?xml", ".xml"},
}

// ContentOf returns the extension that a file's first bytes speak for, or "" where they speak for none.
func ContentOf(head []byte) string {
	for _, s := range signatures {
		if len(head) >= s.at+len(s.bytes) && string(head[s.at:s.at+len(s.bytes)]) == s.bytes {
			return s.ext
		}
	}
	text := bytes.ToLower(bytes.TrimLeft(head, "\xEF\xBB\xBF \t\r\n"))
	switch {
	case bytes.HasPrefix(text, []byte("<!doctype html")), bytes.HasPrefix(text, []byte("<html")):
		return ".html"
	case bytes.HasPrefix(text, []byte("<svg")):
		return ".svg"
	}
	return ""
}

// alike are the extensions that files of one content bear.
var alike = map[string]string{
	".jpg": ".jpg .jpeg .jpe .jfif", ".zip": ".zip .docx .odt .ods .odp .xlsx .pptx .epub .jar .apk .kmz", ".ogg": ".ogg .oga .ogv .opus",
	".mp4": ".mp4 .m4a .m4v .mov .avif .heic", ".webm": ".webm .mkv", ".html": ".html .htm .xhtml .xht .shtml .php .asp .aspx .jsp .cgi .txt .xml .inc",
	".xml": ".xml .svg .xhtml .xht .html .htm .rss .atom .kml .gpx .xsl .xslt .opf .ncx .txt .plist .map", ".ico": ".ico .cur", ".bmp": ".bmp .dib",
	".svg": ".svg .xml", ".pdf": ".pdf .ai", ".png": ".png .apng",
}

// textual are the extensions of plain text, which may begin with any letters.
var textual = map[string]bool{".txt": true, ".csv": true, ".md": true, ".js": true, ".mjs": true, ".css": true}

// Disguised reports whether a file's content does not fit its extension, and which extension it speaks for.
func (f *File) Disguised() (ext string, disguised bool) {
	own := strings.ToLower(path.Ext(f.Path))
	if f.Content == "" || own == "" || own == f.Content || !IsExtension(own) || textual[own] {
		return "", false
	}
	for e := range strings.FieldsSeq(alike[f.Content]) {
		if e == own {
			return "", false
		}
	}
	return f.Content, true
}
