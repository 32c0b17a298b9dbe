package repair

import (
	"path"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/markup"
	"arvel/core/site"
)

// write returns the value that leads from the case's page to target instead.
func (p *Planner) write(c *audit.Case, target string) string {
	value := strings.ReplaceAll(c.Value, `\`, "/")
	target = p.asFolder(c, target)
	if c.Ref.Flags&markup.Whole != 0 && c.Target().Own {
		return p.snapshot.Place.Publish(c.Value, target)
	}
	if c.Target().Own && address.IsWhole(c.Value) {
		return fromPage(c, target)
	}
	if c.Target().Own && strings.HasPrefix(value, "/") {
		return p.snapshot.Place.Publish(value, target)
	}
	return p.snapshot.Place.Rewrite(strings.TrimSpace(value), c.Start(), target)
}

// asFolder returns the folder that target is the index page of, if the reference names a folder; else target.
func (p *Planner) asFolder(c *audit.Case, target string) string {
	if dir, name := site.Cut(target); c.Target().Folder && p.isIndex(name) {
		return strings.TrimPrefix(dir+"/", "/")
	}
	return target
}

// fromPage returns the path from the case's page to target, with the query and the fragment as they are written.
func fromPage(c *audit.Case, target string) string {
	_, query, fragment := address.Split(strings.TrimSpace(c.Value))
	return address.Relative(c.Start(), target) + query + fragment
}

// fromPage writes the path from the page in place of a leading slash or of the folder's own published address.
func (p *Planner) fromPage(c *audit.Case, s *suggestions) {
	f := c.Landed()
	if f == nil && c.Target().Kind == address.Beyond {
		part, _, _ := address.Split(strings.ReplaceAll(strings.TrimSpace(c.Value), `\`, "/"))
		t := address.Target{Path: address.Unescape(strings.Trim(path.Clean(part), "/")), Folder: strings.HasSuffix(part, "/")}
		if l := p.snapshot.Land(&t); l.Outcome == site.Lands {
			f = &p.snapshot.Files[l.File]
			c.Target().Folder = t.Folder
		}
	}
	if f == nil || c.Link.Outcome == site.OtherCase || c.Link.Outcome == site.OtherForm {
		return
	}
	certainty := Certain
	if c.Target().Own {
		certainty = Likely // whether that is wanted is the author's to say
	}
	s.add(suggestion{value: fromPage(c, p.asFolder(c, f.Path)), target: f.Path, certainty: certainty, weight: fromThePage, why: "a path from this page leads to the same file, wherever the folder is"})
}

// backslash turns them round, if that lands.
func (p *Planner) backslash(c *audit.Case, s *suggestions) {
	for _, g := range s.all {
		if !strings.Contains(g.value, `\`) {
			return // mended along with what else is wrong
		}
	}
	if c.Target().Kind == address.Inside && c.Landed() == nil {
		return
	}
	part, query, fragment := address.Split(c.Value)
	value := strings.ReplaceAll(part, `\`, "/") + query + fragment
	target := ""
	if f := c.Landed(); f != nil {
		target = f.Path
	}
	s.add(suggestion{value: value, target: target, certainty: Certain, weight: onlyEncoded, why: "it leads to the same file, in every program"})
}

// climbsOut takes out the "../" that have nowhere to go.
func (p *Planner) climbsOut(c *audit.Case, s *suggestions) {
	f := c.Landed()
	if f == nil || c.Target().Climbed == 0 {
		return
	}
	certainty := Certain
	if known := p.refersTo(c, f.Path) >= few && !p.maybeMoved(c, f.Path); !known && (p.isIndex(path.Base(f.Path)) || p.climbing(c) > 1) {
		certainty = Likely // an index page is in many folders, and a page that climbs out time and again may have been moved
	}
	p.suggest(c, s, f.Path, certainty, sameLanding, "it leads to the same file, wherever the folder is")
}

// climbing counts the addresses on a page that climb out of the folder, each once.
func (p *Planner) climbing(c *audit.Case) int {
	r := address.NewResolver(p.snapshot.Place)
	r.In(c.Start())
	seen := map[string]bool{}
	for i := range c.File.Doc.References {
		if value := c.File.Doc.References[i].Value(); strings.HasPrefix(value, "../") && !seen[value] && r.Resolve(value).Climbed > 0 {
			seen[value] = true
		}
	}
	return len(seen)
}
