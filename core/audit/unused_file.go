package audit

// unusedFile: a file that nothing refers to.
var unusedFile = &Rule{
	Name:  "unused-file",
	State: Advice,
	Say: func(*Case) (headline, sentence string) {
		return "Nothing refers to this file", "No page, style sheet or picture in the folder uses it."
	},
}

// askedByName tells whether a file is one that programs ask for by its name, without a reference.
func askedByName(path string) bool {
	switch path {
	case "favicon.ico", "robots.txt", "sitemap.xml", "humans.txt", "security.txt", "apple-touch-icon.png", "CNAME", "README.md", "LICENSE":
		return true
	}
	return false
}
