package explain

import (
	"path"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/site"
)

// Label says in a word or two what the reference is, if it is no plain link to another page; else "".
func Label(c *audit.Case) string {
	if r := c.Ref.Role; r != markup.RoleLink {
		return r.String()
	}
	t := c.Target()
	switch t.Kind {
	case address.Mail:
		return "e-mail"
	case address.Phone:
		return "phone"
	case address.Web:
		return "other site"
	case address.Script, address.Data:
		return t.Scheme
	case address.Inside:
	default:
		return ""
	}
	switch f := c.Landed(); {
	case f == nil:
		return ""
	case f == c.File && t.HasFragment:
		return "on this page"
	case f.Kind == site.Page:
		return ""
	default:
		return strings.ToUpper(strings.TrimPrefix(path.Ext(f.Path), "."))
	}
}
