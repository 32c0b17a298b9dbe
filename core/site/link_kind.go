package site

import (
	"strings"

	"arvel/core/address"
	"arvel/core/markup"
)

// LinkKind says how a reference gets from its page to where it leads, and what for: what an inventory counts.
type LinkKind uint8

// The ways, links first, in the order in which people learn them.
const (
	Beside     LinkKind = iota // a page in the same folder
	Down                       // in a folder below
	Up                         // in a folder above, straight up
	Across                     // up, and down again
	FromTop                    // with a leading slash
	OnPage                     // a fragment of the same page
	ToFragment                 // a fragment of another page
	OtherSite
	EMail
	Telephone
	AsImage
	AsStyle
	AsScript
	AsFrame
	AsMedia
	AsForm
	ToElement // another element of the same page, by its id
	AsOther
	NumLinkKinds
)

var linkKindNames = [NumLinkKinds]string{
	"beside", "down", "up", "across", "top", "on-page", "fragment", "site", "e-mail", "phone",
	"image", "style", "script", "frame", "media", "form", "element", "other",
}

// String returns the way's name in the API.
func (w LinkKind) String() string { return linkKindNames[w] }

// ParseLinkKind returns the way of that name.
func ParseLinkKind(name string) (LinkKind, bool) {
	for i, n := range linkKindNames {
		if n == name {
			return LinkKind(i), true
		}
	}
	return 0, false
}

var linkKindOfRole = map[markup.Role]LinkKind{
	markup.RoleImage: AsImage, markup.RoleStyle: AsStyle, markup.RoleScript: AsScript, markup.RoleFrame: AsFrame,
	markup.RoleID: ToElement, markup.RoleMedia: AsMedia, markup.RoleForm: AsForm, markup.RoleResource: AsOther, markup.RoleCite: AsOther, markup.RoleMeta: AsOther,
}

// linkKindOf says which way a reference goes.
func linkKindOf(f *File, ref *markup.Reference, value string, t *address.Target) LinkKind {
	if ref.Role != markup.RoleLink {
		return linkKindOfRole[ref.Role]
	}
	switch t.Kind {
	case address.Web:
		return OtherSite
	case address.Mail:
		return EMail
	case address.Phone:
		return Telephone
	case address.Inside:
	default:
		return AsOther
	}
	own := t.Path == f.Path
	switch {
	case own && t.HasFragment:
		return OnPage
	case t.HasFragment && t.Fragment != "":
		return ToFragment
	case value != "" && (value[0] == '/' || value[0] == '\\'):
		return FromTop
	}
	return direction(f.Path, t.Path)
}

// direction compares the folder of a page with that of its target.
func direction(page, target string) LinkKind {
	from, _ := Cut(page)
	to, _ := Cut(target)
	switch {
	case from == to:
		return Beside
	case from == "" || strings.HasPrefix(to, from+"/"):
		return Down
	case to == "" || strings.HasPrefix(from, to+"/"):
		return Up
	}
	return Across
}
