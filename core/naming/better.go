package naming

import (
	"path"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"arvel/core/site"
)

// spelled are letters that have no base letter of their own.
var spelled = strings.NewReplacer("ß", "ss", "æ", "ae", "ø", "o", "å", "a", "đ", "d", "ł", "l", "œ", "oe", "þ", "th", "ð", "d", "ı", "i", "&", "-and-", "@", "-at-")

// BetterFile returns the last name of a file's path as the naming rules would have it: lower case, words joined by "-",
// accents dropped, a word before a leading digit. "" if nothing of the name is left.
func BetterFile(p string) string {
	_, name := site.Cut(p)
	ext := ""
	if e := path.Ext(name); site.IsExtension(e) {
		ext, name = strings.ToLower(e), strings.TrimSuffix(name, e)
	}
	better := betterWords(name)
	switch {
	case better == "":
		return ""
	case better[0] >= '0' && better[0] <= '9':
		better = digitWords[site.KindOf(p)] + "-" + better
	}
	return better + ext
}

// BetterFolder is [BetterFile] for a folder.
func BetterFolder(p string) string {
	_, name := site.Cut(p)
	return betterWords(name)
}

func betterWords(name string) string {
	name = strings.ReplaceAll(name, "%20", " ")
	var b strings.Builder
	gap := false
	for _, r := range norm.NFD.String(spelled.Replace(strings.ToLower(name))) {
		switch {
		case 'a' <= r && r <= 'z' || '0' <= r && r <= '9' || r == '_' || r == '.':
			if gap && b.Len() > 0 {
				b.WriteByte('-')
			}
			gap = false
			b.WriteRune(r)
		case unicode.Is(unicode.Mn, r) || r == '\'' || r == '’':
		default:
			gap = true
		}
	}
	return strings.Trim(b.String(), "._-")
}

// digitWords are what is put before a name that begins with a digit.
var digitWords = map[site.Kind]string{
	site.Other: "file", site.Page: "page", site.Style: "style", site.Script: "script", site.Image: "picture", site.Media: "media", site.Paper: "paper",
}
