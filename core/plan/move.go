package plan

import (
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/naming"
	"arvel/core/phrase"
	"arvel/core/site"
)

// Move is a file or a folder that is to be elsewhere; both are paths in the folder.
type Move struct{ From, To string }

// Options are how moves are planned.
type Options struct {
	// LeavePages puts a page at each moved page's old address that leads visitors to the new one.
	LeavePages bool
}

// planner is a plan in the making.
type planner struct {
	*Plan
	snapshot    *site.Snapshot
	to          map[string]string // where files go, by where they are
	from        map[string]string // the other way round
	folders     map[string]string // the same of folders
	mayRetarget []bool            // the files that what lands on them may land elsewhere then
	now         *address.Resolver // for pages as they are
	then        *address.Resolver // for pages as they will be
}

// Moves plans moves on a snapshot. What can't be planned is in the plan's clashes. What is said of a file or folder
// counts before what is said of a folder around it.
func Moves(s *site.Snapshot, moves []Move, o Options) *Plan {
	p := &planner{
		Plan: &Plan{}, snapshot: s, to: map[string]string{}, from: map[string]string{}, folders: map[string]string{},
		now: address.NewResolver(s.Place), then: address.NewResolver(s.Place),
	}
	for _, m := range moves {
		if fault := naming.PathFault(m.To); fault != "" {
			p.clash("%s %s.", phrase.Mono(m.To), fault)
		}
	}
	if len(p.Clashes) > 0 {
		return p.Plan
	}
	moves = Innermost(moves)
	for _, m := range moves {
		p.expand(m.From, m.To)
	}
	p.check()
	if len(p.Clashes) > 0 {
		return p.Plan
	}
	p.mayRetarget = mayRetarget(s, p.to)
	for _, file := range p.affected() {
		p.file(file)
	}
	if o.LeavePages {
		p.leavePages()
	}
	p.emptied()
	if len(moves) > 0 {
		p.Set.Title = title(moves)
	}
	return p.Plan
}

// mayRetarget tells of which files what lands on them may land elsewhere by moves: of those that are moved, and of index
// pages, for which another one can step in.
func mayRetarget(s *site.Snapshot, moved map[string]string) []bool {
	out := make([]bool, len(s.Files))
	for i := range s.Files {
		_, name := site.Cut(s.Files[i].Path)
		out[i] = moved[s.Files[i].Path] != "" || slices.Contains(s.IndexNames, name)
	}
	return out
}

func title(moves []Move) string {
	if len(moves) == 1 {
		return phrase.Mono(moves[0].From) + " moved to " + phrase.Mono(moves[0].To)
	}
	return fmt.Sprintf("%d moves, of %s first", len(moves), phrase.Mono(moves[0].From))
}

func (p *planner) clash(format string, args ...any) {
	p.Clashes = append(p.Clashes, fmt.Sprintf(format, args...))
}

// expand makes of a move those of all files that go with it.
func (p *planner) expand(from, to string) {
	if _, isFile := p.snapshot.Find(from); isFile {
		p.one(from, to)
		return
	}
	if p.snapshot.Folders[from] == nil || from == "" {
		p.clash("There is no %s in the folder.", phrase.Mono(from))
		return
	}
	if strings.HasPrefix(to+"/", from+"/") {
		p.clash("The folder %s can't be moved into itself.", phrase.Mono(from))
		return
	}
	if before, twice := p.folders[from]; twice && before != to {
		p.clash("%s can't be moved to %s and to %s at once.", phrase.Mono(from), phrase.Mono(before), phrase.Mono(to))
		return
	}
	p.folders[from] = to
	for i := range p.snapshot.Files {
		q := p.snapshot.Files[i].Path
		if rest, in := strings.CutPrefix(q, from+"/"); in && p.to[q] == "" {
			p.one(q, to+"/"+rest)
		}
	}
}

// Innermost returns the moves that move anything, with plain paths, those of what is deeper in the folder first.
func Innermost(moves []Move) []Move {
	var out []Move
	for _, m := range moves {
		m.From, m.To = plain(m.From), plain(m.To)
		if m.From != m.To {
			out = append(out, m)
		}
	}
	slices.SortStableFunc(out, func(a, b Move) int { return strings.Count(b.From, "/") - strings.Count(a.From, "/") })
	return out
}

// plain returns a path that was typed as the snapshot has it.
func plain(p string) string { return strings.Trim(path.Clean("/"+p), "/") }

func (p *planner) one(from, to string) {
	if before, twice := p.to[from]; twice && before != to {
		p.clash("%s can't be moved to %s and to %s at once.", phrase.Mono(from), phrase.Mono(before), phrase.Mono(to))
		return
	}
	if other, taken := p.from[to]; taken && other != from {
		p.clash("%s and %s can't both be moved to %s.", phrase.Mono(other), phrase.Mono(from), phrase.Mono(to))
		return
	}
	p.to[from], p.from[to] = to, from
	p.Moves = append(p.Moves, Move{from, to})
}

// check finds what is in the way.
func (p *planner) check() {
	folded := map[string]string{}
	for i := range p.snapshot.Files {
		if q := p.snapshot.Files[i].Path; p.to[q] == "" {
			folded[site.Fold(q)] = q
		}
	}
	for _, m := range p.Moves {
		if len(m.To) > naming.PathLimit {
			p.clash("%s %s.", phrase.Mono(m.To[:80]+" …"), naming.PathFault(m.To))
		}
		switch other, taken := folded[site.Fold(m.To)]; {
		case taken && other == m.To:
			p.clash("%s exists already.", phrase.Mono(m.To))
		case taken:
			p.clash("%s differs from %s only in letter case, which many disks can't keep apart.", phrase.Mono(m.To), phrase.Mono(other))
		}
		for dir, _ := site.Cut(m.To); dir != ""; dir, _ = site.Cut(dir) {
			if _, isFile := p.snapshot.Find(dir); isFile {
				p.clash("%s is a file, so nothing can be in it.", phrase.Mono(dir))
			} else if _, comes := p.from[dir]; comes {
				p.clash("%s can't be a file and a folder at once.", phrase.Mono(dir))
			}
		}
		if p.snapshot.Folders[m.To] != nil {
			p.clash("%s is a folder already.", phrase.Mono(m.To))
		}
	}
}

// emptied lists the folders that are moved as wholes, and are gone from where they were.
func (p *planner) emptied() {
	gone := map[string]bool{}
	for from := range p.folders {
		for dir := range p.snapshot.Folders {
			if dir == from || strings.HasPrefix(dir, from+"/") {
				gone[dir] = true
			}
		}
	}
	p.Set.Emptied = slices.Sorted(maps.Keys(gone))
}
