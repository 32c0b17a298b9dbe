package plan

import (
	"fmt"
	"html"
	"path"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/site"
)

// leavePages puts a page at the old address of each page that moves, which leads to the new one.
func (p *planner) leavePages() {
	for _, m := range p.Moves {
		i, _ := p.snapshot.Find(m.From)
		f := &p.snapshot.Files[i]
		if f.Kind != site.Page || p.from[m.From] != "" {
			continue
		}
		name := path.Base(m.To)
		if f.Doc != nil && f.Doc.Title != "" {
			name = f.Doc.Title
		}
		p.Set.Files = append(p.Set.Files, change.File{Kind: change.Made, Path: m.From, Content: leftPage(name, address.Relative(address.FolderOf(m.From), m.To))})
	}
}

func leftPage(title, to string) []byte {
	title, to = html.EscapeString(title), html.EscapeString(to)
	return fmt.Appendf(nil, `<!DOCTYPE html>
<html>
<head>
<meta charset="utf-8">
<title>%[1]s</title>
<link rel="canonical" href="%[2]s">
<meta http-equiv="refresh" content="0; url=%[2]s">
</head>
<body>
<p>This page has moved: <a href="%[2]s">%[1]s</a></p>
</body>
</html>
`, title, to)
}
