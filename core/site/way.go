package site

import (
	"strings"

	"arvel/core/address"
	"arvel/core/markup"
)

// Way tells how a reference gets from its page to where it leads, and what for: what an inventory counts.
type Way uint8

// The ways, links first, in the order in which people learn them.
const (
	Beside     Way = iota // a page in the same folder
	Down                  // in a folder below
	Up                    // in a folder above, straight up
	Across                // up, and down again
	FromTop               // with a leading slash
	OnPage                // a fragment of the same page
	ToFragment            // a fragment of another page
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
	NumWays
)

var wayNames = [NumWays]string{
	"beside", "down", "up", "across", "top", "on-page", "fragment", "site", "e-mail", "phone",
	"image", "style", "script", "frame", "media", "form", "element", "other",
}

// String returns the way's name in the API.
func (w Way) String() string { return wayNames[w] }

// ParseWay returns the way of that name.
func ParseWay(name string) (Way, bool) {
	for i, n := range wayNames {
		if n == name {
			return Way(i), true
		}
	}
	return 0, false
}

var wayOfRole = map[markup.Role]Way{
	markup.RoleImage: AsImage, markup.RoleStyle: AsStyle, markup.RoleScript: AsScript, markup.RoleFrame: AsFrame,
	markup.RoleID: ToElement, markup.RoleMedia: AsMedia, markup.RoleForm: AsForm, markup.RoleResource: AsOther, markup.RoleCite: AsOther, markup.RoleMeta: AsOther,
}

// wayOf tells which way a reference goes.
func wayOf(f *File, ref *markup.Reference, value string, t *address.Target) Way {
	if ref.Role != markup.RoleLink {
		return wayOfRole[ref.Role]
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
	return climbing(f.Path, t.Path)
}

// climbing compares the folder of a page with that of its target.
func climbing(page, target string) Way {
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
