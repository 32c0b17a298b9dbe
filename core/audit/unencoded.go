package audit

import (
	"strings"

	"arvel/core/address"
	"arvel/core/markup"
)

// straySpace: white space around the address, or line ends in it, which browsers drop and others do not.
var straySpace = &Rule{
	Name: "stray-space",
	Applies: func(c *Case) (State, bool) {
		v := c.Value
		return Fragile, strings.TrimSpace(v) != "" && (v != strings.TrimSpace(v) || strings.ContainsAny(v, "\t\n\r"))
	},
	Say: func(c *Case) (headline, sentence string) {
		where := "around it"
		if strings.ContainsAny(strings.TrimSpace(c.Value), "\t\n\r") {
			where = "in it, over the end of a line"
		}
		return "There is white space in the address", Mono(strings.TrimSpace(c.Ref.Written)) + " has white space " + where +
			". Browsers drop it; other programs that follow links do not."
	},
}

// unencoded: characters that an address may not hold as they are. Browsers encode them on the way.
var unencoded = &Rule{
	Name: "unencoded",
	Applies: func(c *Case) (State, bool) {
		switch c.Target().Kind {
		case address.Inside, address.Beyond, address.Web:
			return Fragile, FirstUnencoded(c.Value) != ""
		}
		return Fragile, false
	},
	Say: func(c *Case) (headline, sentence string) {
		bad := FirstUnencoded(c.Value)
		name := Mono(bad)
		if bad == " " {
			name = "a space"
		}
		return "A character in the address is not encoded", Mono(strings.TrimSpace(c.Ref.Written)) + " has " + name +
			" in it, which is written " + Mono(encoded(bad)) + " in an address. Browsers put up with it; other programs and some hosts do not."
	},
}

// FirstUnencoded returns the first character of value that has to be percent-encoded, or "".
func FirstUnencoded(value string) string {
	value = strings.TrimSpace(value)
	for i := 0; i < len(value); i++ {
		switch c := value[i]; c {
		case ' ', '"', '<', '>', '`', '{', '}', '|', '^':
			return value[i : i+1]
		case '%':
			if i+2 >= len(value) || address.Unescape(value[i:i+3]) == value[i:i+3] && !strings.EqualFold(value[i:i+3], "%2f") && value[i:i+3] != "%00" {
				return "%"
			}
		}
	}
	return ""
}

func encoded(s string) string {
	const hex = "0123456789ABCDEF"
	return "%" + string(hex[s[0]>>4]) + string(hex[s[0]&15])
}

// rootRelative: a leading slash, at a place that is not the root of its host.
var rootRelative = &Rule{
	Name:  "root-relative",
	Exact: true,
	Applies: func(c *Case) (State, bool) {
		if c.Snapshot.Place.Kind == address.Root || !strings.HasPrefix(strings.ReplaceAll(c.Value, `\`, "/"), "/") {
			return Fragile, false
		}
		return Fragile, c.Target().Kind == address.Beyond
	},
	Say: func(c *Case) (headline, sentence string) {
		where := "the top of the disk"
		if c.Snapshot.Place.Kind == address.Below {
			where = "the top of the host, above the folder"
		}
		return "The leading slash leaves the folder", Mono(c.Ref.Written) + " starts at " + where + ", since the folder is " +
			c.Snapshot.Place.Phrase() + ". It lands only where the folder is the root of a site."
	},
}

// nothingToClick: a link that leads somewhere, with neither text nor an image with alternative text.
var nothingToClick = &Rule{
	Name: "nothing-to-click",
	Applies: func(c *Case) (State, bool) {
		return Advice, c.Ref.Element == markup.A && c.Ref.Attribute == markup.AttrHref && c.Ref.Text == "" && c.Ref.Flags&(markup.NoValue|markup.Named) == 0
	},
	Say: func(c *Case) (headline, sentence string) {
		return "There is nothing to click on", "The link has neither text nor a picture with an alternative text, so some visitors never find it."
	},
}

// opener: opens a new tab that gets a hold of this page.
var opener = &Rule{
	Name: "opener",
	Applies: func(c *Case) (State, bool) {
		return Advice, c.Ref.Role == markup.RoleLink && c.Ref.Flags&(markup.NewTab|markup.Guarded) == markup.NewTab && c.Target().Kind == address.Web
	},
	Say: func(c *Case) (headline, sentence string) {
		return "The new tab gets a hold of this page", "The link opens a new tab without " + Mono(`rel="noopener"`) + ", so in older browsers the other site can send this page elsewhere."
	},
}

// missingAlt: an image without alt.
var missingAlt = &Rule{
	Name: "missing-alt",
	Applies: func(c *Case) (State, bool) {
		return Advice, c.Ref.Flags&markup.NoAlt != 0 && c.Ref.Attribute == markup.AttrSrc
	},
	Say: func(c *Case) (headline, sentence string) {
		return "The picture has no alternative text", "Who can't see the picture is told nothing of it. Say in " + Mono("alt") + " what it shows; for mere decoration write " + Mono(`alt=""`) + "."
	},
}

// addressInText: the words of a link are one address, and it leads to another.
var addressInText = &Rule{
	Name: "address-in-text",
	Applies: func(c *Case) (State, bool) {
		shown, led := addressShown(c.Ref.Text), addressLed(c)
		return Advice, c.Ref.Role == markup.RoleLink && shown != "" && led != "" && shown != led
	},
	Say: func(c *Case) (headline, sentence string) {
		return "The words show another address", "The link says " + Mono(c.Ref.Text) + ", but leads to " + Mono(addressLed(c)) + "."
	},
}
