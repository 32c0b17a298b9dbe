// Package markup reads the bytes of a page and says what in it refers to something and what can be landed
// on, each with its exact byte span in the file.
//
// It is not a parser: it builds no tree, keeps no copy of the page, and never refuses one. It follows the
// tokenization part of the HTML standard (13.2.5) and just as much of tree construction (13.2.6) as decides
// whether bytes are markup at all: raw text, foreign content, templates. One pass, forward, over the bytes as
// they are in the file; only UTF-16 and ISO-2022-JP, in which a byte's meaning depends on more than itself,
// are transcoded first, and their spans mapped back.
package markup

// Document is what is kept of a page after reading it. It is immutable and holds none of the page's bytes.
type Document struct {
	// Encoding is the Encoding Standard's name of the page's encoding, in lower case ("utf-8").
	Encoding string
	// Title is the text of the first title element, white space collapsed.
	Title string
	// Base is the decoded value of the first base element's href; HasBase tells an empty one from none.
	Base    string
	HasBase bool
	// BaseStart and BaseEnd are the byte span of that value, BaseQuote the byte that quotes it.
	BaseStart, BaseEnd uint32
	BaseQuote          byte
	// Empty: there is nothing on the page that anybody could see.
	Empty bool
	// References are in the order of their bytes, which is the order of reading.
	References []Reference
	// Anchors are the ids and names that a fragment can land on, in the order of their bytes.
	Anchors []Anchor
	// Headings are the h1 to h6 elements, in order.
	Headings []Heading
	// Maps are the names of the map elements, which usemap looks for.
	Maps []string
	// Faults say what about the bytes kept the page from being read as its author meant.
	Faults []Fault

	byName []uint32 // indexes of Anchors, sorted by name; nil where there are few
}

// Reference is one value in a file that names something else by address.
type Reference struct {
	// Written is the address exactly as it is in the file, decoded to UTF-8 but with its character
	// references left in. Use Value for what a browser reads.
	Written string
	// Text is what the visitor sees of it: a link's text, an image's alternative text, a frame's title.
	Text string
	// Start and End are the byte span of the address in the file. Where there is no value (a link without
	// href) both are where the attribute would go, just after the tag's name.
	Start, End uint32
	// Line and Column are those of Start, from 1; Column counts characters, not bytes.
	Line, Column uint32
	Element      Element
	Attribute    Attribute
	Role         Role
	// Quote is the byte that quotes the attribute's value: '"', '\'' or 0 for none.
	Quote byte
	Flags Flags
}

// Flags tell what else is known of a reference.
type Flags uint16

const (
	// Escaped: Written holds character references, so Value differs from it.
	Escaped Flags = 1 << iota
	// Inert: is in a template, where nothing is followed or loaded.
	Inert
	// NoValue: a link without the attribute that would make it lead anywhere.
	NoValue
	// Handled: a script or a role on the element acts on it, so a link without destination may be meant so.
	Handled
	// InStyle: is in CSS, whose escapes differ.
	InStyle
	// NewTab: opens a new tab; Guarded: and says that the new page gets no hold of this one.
	NewTab
	Guarded
	// Named: an accessible name is on the element itself, by aria-label or title.
	Named
	// NoAlt: an image without the attribute that says what it shows.
	NoAlt
	// Optional: the browser never loads it by itself and does not need it (preconnect, canonical and such).
	Optional
	// ByID: not an address but the id of an element on the same page; ByMap: "#" and the name of a map element.
	ByID
	ByMap
	// Whole: an address that has to be written out with its scheme and host, as canonical links and sitemaps have it.
	Whole
	// Spaced: the words of the link begin or end with a space, which is underlined and clicked with them.
	Spaced
)

// Value returns the address as a browser reads it: Written with its character references resolved.
func (r *Reference) Value() string {
	if r.Flags&Escaped == 0 {
		return r.Written
	}
	if r.Flags&InStyle == 0 {
		return unescapeAttribute(r.Written)
	}
	if r.Attribute == AttrStyle {
		return unescapeStyle(unescapeAttribute(r.Written))
	}
	return unescapeStyle(r.Written)
}

// Anchor is a name that a fragment can land on.
type Anchor struct {
	// Name is the decoded value of the id, or of an a element's name.
	Name string
	// Start and End are the byte span of the value, After the offset behind the tag that has it.
	Start, End, After uint32
	// Line and Column are those of Start, from 1.
	Line, Column uint32
	// ByName: an a element's name, which counts only after every id (HTML standard, 7.4.6.4).
	ByName bool
	// Inert: is in a template, so nothing lands on it.
	Inert bool
}

// Heading is an h1 to h6 element.
type Heading struct {
	Level uint8
	Text  string
	// ID is the heading's own id, or "".
	ID string
	// NameEnd is the offset behind the tag's name, where an id would be written.
	NameEnd uint32
	Line    uint32
}

// Fault is something about a file's bytes that the author should know.
type Fault uint8

const (
	// Binary: the file holds NUL bytes and is no text; nothing was read from it.
	Binary Fault = iota + 1
	// CutOff: the file ends within a tag, a comment or a raw text element, so its end is lost.
	CutOff
	// BadBytes: the file says it is in an encoding in which some of its bytes mean nothing.
	BadBytes
)

var faultSentences = [...]string{
	Binary:   "holds binary data, not text, so nothing in it was read",
	CutOff:   "ends in the middle of a tag or an unclosed comment, script or style; a browser loses everything after that point",
	BadBytes: "has bytes that are not valid in the encoding it declares",
}

// String returns the fault as the end of a sentence that begins with the file's name.
func (f Fault) String() string { return faultSentences[f] }
