package compose

import (
	"bytes"
	"fmt"
	"strings"

	"arvel/core/change"
	"arvel/core/markup"
)

// line returns the white space that the line at a place begins with, and whether anything else is on it before and
// behind the place.
func (p *Page) line(at int) (space string, before, behind bool) {
	start := bytes.LastIndexByte(p.Text[:at], '\n') + 1
	stop := start
	for stop < len(p.Text) && (p.Text[stop] == ' ' || p.Text[stop] == '\t') {
		stop++
	}
	rest, _, _ := bytes.Cut(p.Text[at:], []byte("\n"))
	return string(p.Text[start:min(stop, at)]), stop < at, len(bytes.TrimSpace(rest)) > 0
}

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

// Picture writes a picture of the folder, with what it shows in words, or declared as decoration by "", and its size in
// pixels where that is known.
func (p *Page) Picture(at int, target, alt string, width, height int) []change.Edit {
	var b strings.Builder
	fmt.Fprintf(&b, `<img src="%s" alt="%s"`, attribute(p.AddressOf(target)), attribute(alt))
	if width > 0 && height > 0 {
		fmt.Fprintf(&b, ` width="%d" height="%d"`, width, height)
	}
	b.WriteString(">")
	return []change.Edit{{Start: at, End: at, New: []byte(b.String())}}
}

// Frame embeds a page or an outside player.
func (p *Page) Frame(at int, target, title string) []change.Edit {
	return []change.Edit{{Start: at, End: at, New: fmt.Appendf(nil, `<iframe src="%s" title="%s"></iframe>`, attribute(p.AddressOf(target)), attribute(title))}}
}

// List writes a list of links to pages, by their titles.
func (p *Page) List(at int, targets []string) []change.Edit {
	lines := []string{"<ul>"}
	for _, t := range targets {
		lines = append(lines, fmt.Sprintf(`  <li><a href="%s">%s</a></li>`, attribute(p.AddressOf(t)), markup.EscapeText(p.titleOf(t))))
	}
	return []change.Edit{p.block(at, append(lines, "</ul>"))}
}
