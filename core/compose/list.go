package compose

import (
	"fmt"
	"strings"

	"arvel/core/change"
	"arvel/core/markup"
)

// block writes lines at a place, each indented as the one there, on lines of their own.
func (p *Page) block(at int, lines []string) change.Edit {
	space, before, behind := p.line(at)
	text := strings.Join(lines, "\n"+space)
	if before {
		text = "\n" + space + text
	}
	if behind {
		text += "\n" + space
	}
	return change.Edit{Start: at, End: at, New: []byte(text)}
}

// List writes a list of links to pages, by their titles.
func (p *Page) List(at int, targets []string) []change.Edit {
	lines := []string{"<ul>"}
	for _, t := range targets {
		lines = append(lines, fmt.Sprintf(`  <li><a href="%s">%s</a></li>`, attribute(p.AddressOf(t)), markup.EscapeText(p.titleOf(t))))
	}
	return []change.Edit{p.block(at, append(lines, "</ul>"))}
}
