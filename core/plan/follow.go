package plan

import (
	"cmp"
	"path"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/repair"
	"arvel/core/site"
)

// Pending is a file or folder that was moved by somebody else, with what is off since.
type Pending struct {
	Move
	// Files is how many files moved with it; 0 for a file.
	Files int
	// Identical is set if it is the same to the byte, Sure that nothing else could be it.
	Identical, Certain bool
	// Behind is how many references still lead to the old place, Inside how many in it lead elsewhere than they did.
	Behind, Inside int
}

// PendingMoves returns the moves among departures that references have not followed. Those of files whose whole folder went
// the same way are listed as one of that folder.
func PendingMoves(s *site.Snapshot, departures []repair.Departure) []Pending {
	var made []Move
	for _, d := range departures {
		if _, there := s.Find(d.To); there {
			made = append(made, Move{From: d.From, To: d.To})
		}
	}
	n := newFollower(s, made, departures)
	n.all()
	at := map[Move]int{}
	var out []Pending
	for _, d := range departures {
		c := n.counts[d.From]
		if c == nil || c.still+c.inside == 0 {
			continue
		}
		way, whole := folderMove(s, d)
		i, known := at[way]
		if !known {
			i = len(out)
			at[way] = i
			out = append(out, Pending{Move: way, Identical: true, Certain: true})
		}
		o := &out[i]
		if whole {
			o.Files++
		}
		o.Identical, o.Certain = o.Identical && d.Same, o.Certain && d.Copies == 1
		o.Behind, o.Inside = o.Behind+c.still, o.Inside+c.inside
	}
	return out
}

// folderMove returns the move of the topmost folder around a departed file that is gone as a whole and could have taken it
// along; else that of the file.
func folderMove(s *site.Snapshot, d repair.Departure) (way Move, whole bool) {
	way = Move{From: d.From, To: d.To}
	if d.Copies != 1 {
		return way, false
	}
	for from, to := d.From, d.To; path.Base(from) == path.Base(to); {
		from, to = path.Dir(from), path.Dir(to)
		if from == "." || to == "." || s.Folders[from] != nil {
			break
		}
		way, whole = Move{From: from, To: to}, true
	}
	return way, whole
}

// movesInFolder returns the moves of the files that went with a folder.
func movesInFolder(s *site.Snapshot, folder Move, departures []repair.Departure) (files []Move) {
	for _, d := range departures {
		if way, whole := folderMove(s, d); whole && way == folder {
			files = append(files, Move{From: d.From, To: d.To})
		}
	}
	return files
}

// Follow plans what has to follow moves that were made already, by somebody else: references that still lead to the old
// places, and those in what moved that lead elsewhere than they did. The snapshot has the files at their new places. Of all
// the departures, those that are sure are known to have been made, too, so that one move can be followed after the other.
func Follow(s *site.Snapshot, moves []Move, departures []repair.Departure) *Plan {
	var wanted []Move
	for _, m := range moves {
		files := []Move{m}
		if _, isFile := s.Find(m.To); !isFile {
			files = movesInFolder(s, m, departures)
		}
		if len(files) == 0 {
			return &Plan{Moves: moves, Clashes: []string{"Nothing is at " + phrase.Mono(m.To) + " now."}}
		}
		wanted = append(wanted, files...)
	}
	n := newFollower(s, wanted, departures)
	n.all()
	n.Set.Followed = map[string]string{}
	for _, m := range wanted {
		n.Set.Followed[m.From] = m.To
	}
	if len(moves) > 0 {
		n.Set.Title = "References follow " + phrase.Mono(moves[0].To)
	}
	if len(moves) > 1 {
		n.Set.Title += " and what moved with it"
	}
	return n.Plan
}

func fails(s *site.Snapshot, file int32) bool {
	for _, l := range s.Links(file) {
		if l.Outcome == site.NoFile || l.Outcome == site.NoIndex {
			return true
		}
	}
	return false
}

// follower is a plan of what has to follow moves that were made.
type follower struct {
	*Plan
	snapshot    *site.Snapshot
	to, from    map[string]string
	counts      map[string]*pendingCount // of those that are to be followed, by where they were
	mayRetarget []bool                   // the files that what lands on them may have landed elsewhere before
	then        *address.Resolver        // for where pages were
	now         *address.Resolver        // for where they are
}

type pendingCount struct{ still, inside int }

func newFollower(s *site.Snapshot, wanted []Move, departures []repair.Departure) *follower {
	n := &follower{
		Plan: &Plan{Moves: wanted}, snapshot: s, to: map[string]string{}, from: map[string]string{}, counts: map[string]*pendingCount{},
		then: address.NewResolver(s.Place), now: address.NewResolver(s.Place),
	}
	followed := map[string]bool{}
	made := wanted
	for _, d := range departures {
		followed[d.From] = d.Followed
		if _, there := s.Find(d.To); there && d.Copies == 1 {
			made = append(made[:len(made):len(made)], Move{From: d.From, To: d.To})
		}
	}
	for _, m := range wanted {
		n.counts[m.From] = &pendingCount{}
	}
	for _, m := range made {
		if n.to[m.From] == "" {
			n.to[m.From] = m.To
		}
		if n.from[m.To] == "" && !followed[m.From] {
			n.from[m.To] = m.From
		}
	}
	n.mayRetarget = mayRetarget(s, n.from)
	return n
}

// all plans the edits of all files, but of those that moved and are to be followed later: all in them is put right then.
func (n *follower) all() {
	for i := range n.snapshot.Files {
		f := &n.snapshot.Files[i]
		from := n.from[f.Path]
		if f.Doc == nil || from == "" && !fails(n.snapshot, int32(i)) || from != "" && n.counts[from] == nil {
			continue
		}
		n.change(f, n.edits(int32(i), f))
	}
}

// landed returns what a target landed on before the moves, by where it is now and where it was; "" for nothing.
func (n *follower) landed(t *address.Target) (now, stood string) {
	if t.Kind != address.Inside {
		return "", ""
	}
	if !t.Folder {
		if to := n.to[t.Path]; to != "" {
			return to, t.Path
		}
	}
	for _, name := range n.snapshot.IndexNames {
		if p := path.Join(t.Path, name); n.to[p] != "" {
			return n.to[p], p
		}
	}
	if l := n.snapshot.Land(t); l.OnFile() {
		// What came to be there by the moves was not there before.
		if q := n.snapshot.Files[l.File].Path; n.from[q] == "" {
			return q, q
		}
	}
	return "", ""
}

func (n *follower) edits(i int32, f *site.File) []change.Edit {
	var out []change.Edit
	from := n.from[f.Path]
	n.then.At(cmp.Or(from, f.Path), f.Doc.Base, f.Doc.HasBase)
	n.now.At(f.Path, f.Doc.Base, f.Doc.HasBase)
	for k, l := range n.snapshot.Links(i) {
		ref := &f.Doc.References[k]
		if from == "" && l.OnFile() && !n.mayRetarget[l.File] {
			continue // it lands where it did
		}
		value := ref.Value()
		part, _, _ := address.Split(value)
		if part == "" || ref.Flags&(markup.ByID|markup.ByMap|markup.NoValue) != 0 || l.Outcome == site.Elsewhere || l.Outcome == site.Handed {
			continue
		}
		then, now := n.then.Resolve(value), n.now.Resolve(value)
		goal, was := n.landed(&then)
		count := n.counts[was]
		if own := n.counts[from]; own != nil {
			count = own
		}
		if goal == "" || count == nil {
			continue
		}
		if g, _ := n.snapshot.Find(goal); l.File == g && now.Climbed <= then.Climbed {
			continue
		}
		aim := goal
		if dir, name := site.Cut(goal); then.Folder && slices.Contains(n.snapshot.IndexNames, name) {
			aim = strings.TrimPrefix(dir+"/", "/")
		}
		fresh := n.snapshot.Place.Follow(strings.TrimSpace(value), n.then.Start(), then.Path, n.now.Start(), aim)
		if fresh == value {
			continue
		}
		out = n.put(out, f, ref, fresh, goal)
		if count == n.counts[from] {
			count.inside++
		} else {
			count.still++
		}
	}
	return out
}
