package markup

// Element is the name of an element that Arvel treats in a way of its own; every other one is
// [Other]. One byte instead of a string, since a folder holds millions of tags.
type Element uint8

// The elements that hold references, that can be landed on in a special way, or that change how the
// bytes after them are read.
const (
	Other Element = iota
	A
	Area
	Audio
	Base
	Blockquote
	Body
	Button
	Del
	Embed
	Form
	Frame
	Frameset
	H1
	H2
	H3
	H4
	H5
	H6
	HTML
	Iframe
	Img
	Input
	Ins
	Label
	Link
	MathML
	Meta
	Noembed
	Noframes
	Noscript
	Object
	Output
	Plaintext
	Q
	Script
	Select
	Source
	Style
	SVG
	SVGImage
	SVGUse
	Table
	Td
	Template
	Textarea
	Th
	Title
	Track
	Video
	Xmp
	ForeignObject
	Desc
	// The elements below matter only as the bearers of references between ids, and by their names.
	Article
	Aside
	Details
	Dialog
	Div
	Fieldset
	Footer
	Header
	Li
	Main
	Map
	Nav
	Ol
	P
	Section
	Span
	Summary
	Ul
	Loc // of a sitemap
	numElements
)

var elementNames = [numElements]string{
	Other: "", A: "a", Area: "area", Audio: "audio", Base: "base", Blockquote: "blockquote", Body: "body",
	Button: "button", Del: "del", Embed: "embed", Form: "form", Frame: "frame", Frameset: "frameset",
	H1: "h1", H2: "h2", H3: "h3", H4: "h4", H5: "h5", H6: "h6", HTML: "html", Iframe: "iframe", Img: "img",
	Input: "input", Ins: "ins", Label: "label", Link: "link", MathML: "math", Meta: "meta",
	Noembed: "noembed", Noframes: "noframes", Noscript: "noscript", Object: "object", Output: "output",
	Plaintext: "plaintext", Q: "q", Script: "script", Select: "select", Source: "source", Style: "style",
	SVG: "svg", SVGImage: "image", SVGUse: "use", Table: "table", Td: "td", Template: "template",
	Textarea: "textarea", Th: "th", Title: "title", Track: "track", Video: "video", Xmp: "xmp",
	ForeignObject: "foreignobject", Desc: "desc",
	Article: "article", Aside: "aside", Details: "details", Dialog: "dialog", Div: "div", Fieldset: "fieldset", Footer: "footer",
	Header: "header", Li: "li", Main: "main", Map: "map", Nav: "nav", Ol: "ol", P: "p", Section: "section", Span: "span",
	Summary: "summary", Ul: "ul", Loc: "loc",
}

// String returns the element's name in lower case, or "" for [Other].
func (e Element) String() string { return elementNames[e] }

// Attribute is the name of an attribute that Arvel reads.
type Attribute uint8

// The attributes that hold references or ids, or that decide what a reference means.
const (
	NoAttribute Attribute = iota
	AttrAction
	AttrAlt
	AttrBackground
	AttrCharset
	AttrCite
	AttrContent
	AttrData
	AttrFormaction
	AttrHref
	AttrHTTPEquiv
	AttrID
	AttrImagesrcset
	AttrLongdesc
	AttrManifest
	AttrName
	AttrPing
	AttrPoster
	AttrProperty
	AttrRel
	AttrRole
	AttrSrc
	AttrSrcset
	AttrStyle
	AttrTarget
	AttrTitle
	AttrType
	AttrAriaLabel
	AttrXlinkHref
	AttrFor
	AttrForm
	AttrHeaders
	AttrList
	AttrUsemap
	AttrPopoverTarget
	AttrCommandFor
	AttrAriaActiveDescendant
	AttrAriaControls
	AttrAriaDescribedBy
	AttrAriaDetails
	AttrAriaErrorMessage
	AttrAriaFlowTo
	AttrAriaLabelledBy
	AttrAriaOwns
	AttrClass
	AttrHreflang
	AttrAriaCurrent
	// attrHandler stands for every on… and data-… attribute: something on the page acts on the element.
	attrHandler
	numAttributes
)

var attributeNames = [numAttributes]string{
	NoAttribute: "", AttrAction: "action", AttrAlt: "alt", AttrBackground: "background", AttrCharset: "charset",
	AttrCite: "cite", AttrContent: "content", AttrData: "data", AttrFormaction: "formaction", AttrHref: "href",
	AttrHTTPEquiv: "http-equiv", AttrID: "id", AttrImagesrcset: "imagesrcset", AttrLongdesc: "longdesc",
	AttrManifest: "manifest", AttrName: "name", AttrPing: "ping", AttrPoster: "poster", AttrProperty: "property",
	AttrRel: "rel", AttrRole: "role", AttrSrc: "src", AttrSrcset: "srcset", AttrStyle: "style", AttrTarget: "target", AttrTitle: "title",
	AttrType: "type", AttrAriaLabel: "aria-label", AttrXlinkHref: "xlink:href", attrHandler: "",
	AttrFor: "for", AttrForm: "form", AttrHeaders: "headers", AttrList: "list", AttrUsemap: "usemap", AttrPopoverTarget: "popovertarget",
	AttrCommandFor: "commandfor", AttrAriaActiveDescendant: "aria-activedescendant", AttrAriaControls: "aria-controls",
	AttrAriaDescribedBy: "aria-describedby", AttrAriaDetails: "aria-details", AttrAriaErrorMessage: "aria-errormessage",
	AttrAriaFlowTo: "aria-flowto", AttrAriaLabelledBy: "aria-labelledby", AttrAriaOwns: "aria-owns", AttrClass: "class", AttrHreflang: "hreflang",
	AttrAriaCurrent: "aria-current",
}

// String returns the attribute's name in lower case.
func (a Attribute) String() string { return attributeNames[a] }

// Role says what a reference is for, which decides how it is shown and listed.
type Role uint8

// The roles. A visitor follows a RoleLink or RoleForm; the browser loads the others by itself or not at all.
const (
	RoleLink Role = iota
	RoleImage
	RoleStyle
	RoleScript
	RoleFrame
	RoleMedia
	RoleForm
	RoleResource
	RoleCite
	RoleMeta
	RoleID // another element of the same page, by its id
)

var roleNames = [...]string{
	RoleLink: "link", RoleImage: "image", RoleStyle: "style", RoleScript: "script", RoleFrame: "frame",
	RoleMedia: "media", RoleForm: "form", RoleResource: "resource", RoleCite: "source", RoleMeta: "card",
	RoleID: "element",
}

// String returns the role as the interface names it.
func (r Role) String() string { return roleNames[r] }

// shape is how an attribute's value holds addresses.
type shape uint8

const (
	one      shape = iota // the value is one address
	set                   // srcset: candidates with descriptors
	spaced                // addresses parted by white space (ping)
	ids                   // ids of elements on the same page, parted by white space
	hashName              // "#" and the name of a map element (usemap)
)

type holder struct {
	attribute Attribute
	role      Role
	shape     shape
}

// holders is the table of where references are: element, attribute, what for, and how. A new place for
// references is a new row.
var holders = [numElements][]holder{
	A:          {{AttrHref, RoleLink, one}, {AttrXlinkHref, RoleLink, one}, {AttrPing, RoleResource, spaced}},
	Area:       {{AttrHref, RoleLink, one}, {AttrPing, RoleResource, spaced}},
	Link:       {{AttrHref, RoleResource, one}, {AttrImagesrcset, RoleImage, set}},
	Img:        {{AttrSrc, RoleImage, one}, {AttrSrcset, RoleImage, set}, {AttrLongdesc, RoleCite, one}},
	Script:     {{AttrSrc, RoleScript, one}, {AttrHref, RoleScript, one}, {AttrXlinkHref, RoleScript, one}},
	Iframe:     {{AttrSrc, RoleFrame, one}, {AttrLongdesc, RoleCite, one}},
	Frame:      {{AttrSrc, RoleFrame, one}, {AttrLongdesc, RoleCite, one}},
	Source:     {{AttrSrc, RoleMedia, one}, {AttrSrcset, RoleImage, set}},
	Embed:      {{AttrSrc, RoleMedia, one}},
	Track:      {{AttrSrc, RoleMedia, one}},
	Video:      {{AttrSrc, RoleMedia, one}, {AttrPoster, RoleImage, one}},
	Audio:      {{AttrSrc, RoleMedia, one}},
	Input:      {{AttrSrc, RoleImage, one}, {AttrFormaction, RoleForm, one}},
	Button:     {{AttrFormaction, RoleForm, one}},
	Form:       {{AttrAction, RoleForm, one}},
	Object:     {{AttrData, RoleMedia, one}},
	Body:       {{AttrBackground, RoleImage, one}},
	Table:      {{AttrBackground, RoleImage, one}},
	Td:         {{AttrBackground, RoleImage, one}},
	Th:         {{AttrBackground, RoleImage, one}},
	Blockquote: {{AttrCite, RoleCite, one}},
	Q:          {{AttrCite, RoleCite, one}},
	Ins:        {{AttrCite, RoleCite, one}},
	Del:        {{AttrCite, RoleCite, one}},
	HTML:       {{AttrManifest, RoleResource, one}},
	SVGImage:   {{AttrHref, RoleImage, one}, {AttrXlinkHref, RoleImage, one}},
	SVGUse:     {{AttrHref, RoleImage, one}, {AttrXlinkHref, RoleImage, one}},
}

// idHolders are the attributes that name other elements of the page by their ids, and the elements on which they
// do; none means every element.
var idHolders = []struct {
	attribute Attribute
	on        []Element
	shape     shape
}{
	{AttrFor, []Element{Label, Output}, ids},
	{AttrForm, []Element{Button, Fieldset, Input, Object, Output, Select, Textarea}, ids},
	{AttrHeaders, []Element{Td, Th}, ids},
	{AttrList, []Element{Input}, ids},
	{AttrUsemap, []Element{Img, Object, Input}, hashName},
	{AttrPopoverTarget, []Element{Button, Input}, ids},
	{AttrCommandFor, []Element{Button}, ids},
	{AttrAriaActiveDescendant, nil, ids},
	{AttrAriaControls, nil, ids},
	{AttrAriaDescribedBy, nil, ids},
	{AttrAriaDetails, nil, ids},
	{AttrAriaErrorMessage, nil, ids},
	{AttrAriaFlowTo, nil, ids},
	{AttrAriaLabelledBy, nil, ids},
	{AttrAriaOwns, nil, ids},
}

// namesIDs has the bit of every attribute in idHolders.
var namesIDs = func() (set uint64) {
	for _, h := range idHolders {
		set |= 1 << h.attribute
	}
	return set
}()

const longestName = 24 // bytes: no name in the tables is longer

// nameTable finds a name by its length and first letter, which leaves one or two to compare with.
type nameTable [longestName + 1][26][]struct {
	name  string
	value uint8
}

func tableOf(names []string) *nameTable {
	t := &nameTable{}
	for i, n := range names {
		if n != "" {
			at := &t[len(n)][n[0]-'a']
			*at = append(*at, struct {
				name  string
				value uint8
			}{n, uint8(i)})
		}
	}
	return t
}

// find returns the value of name, in any letter case, or 0.
func (t *nameTable) find(name []byte) uint8 {
	if len(name) == 0 || len(name) > longestName {
		return 0
	}
	first := lower(name[0]) - 'a'
	if first >= 26 {
		return 0
	}
	for _, c := range t[len(name)][first] {
		if equalLower(name, c.name) {
			return c.value
		}
	}
	return 0
}

func lower(c byte) byte {
	if 'A' <= c && c <= 'Z' {
		return c + 'a' - 'A'
	}
	return c
}

// equalLower reports whether name in lower case is low.
func equalLower(name []byte, low string) bool {
	for i := range name {
		if lower(name[i]) != low[i] {
			return false
		}
	}
	return true
}

var (
	elementTable   = tableOf(elementNames[:])
	attributeTable = tableOf(attributeNames[:])
)

func lookupElement(name []byte) Element { return Element(elementTable.find(name)) }

func lookupAttribute(name []byte) Attribute {
	if len(name) > 2 && lower(name[0]) == 'o' && lower(name[1]) == 'n' || len(name) > 5 && equalLower(name[:5], "data-") {
		return attrHandler
	}
	return Attribute(attributeTable.find(name))
}
