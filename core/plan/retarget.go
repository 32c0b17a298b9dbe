package plan

import (
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/site"
)

// destination is what references lead to, or are to lead to.
type destination struct {
	// said is the aim as it was said, without white space around it.
	said string
	// file is a path in the folder, "" for an address outside; index is where it is in the snapshot, -1 for nowhere.
	file  string
	index int32
	// id is what a fragment names, where one was said.
	id    string
	hasID bool
	// address is an address outside, in full, and url the same as the URL standard writes it, without its fragment.
	address, url string
}

// destinationOf reads what was said: a path in the folder, with the id that is meant behind a "#"; an address outside; or an e-mail
// address.
func destinationOf(s *site.Snapshot, said string) destination {
	said = strings.TrimSpace(said)
	a := destination{said: said, index: -1}
	if mailbox.IsAddress(said) {
		said = "mailto:" + said
	}
	if address.SchemeOf(said) != "" || strings.HasPrefix(said, "//") {
		a.address, a.url = said, urlOf(s, said)
		_, a.id, a.hasID = strings.Cut(said, "#")
		return a
	}
	a.file = said
	if _, there := s.Find(said); !there {
		a.file, a.id, _ = strings.Cut(said, "#")
		a.hasID = a.id != ""
	}
	a.file = plain(a.file)
	if i, there := s.Find(a.file); there {
		a.index = i
	} else if f := s.Folders[a.file]; f != nil && f.Index >= 0 {
		a.index, a.file = f.Index, s.Files[f.Index].Path
	}
	return a
}

// urlOf returns an address outside as the URL standard writes it, without its fragment; that of an e-mail link without
// what the message says, too.
func urlOf(s *site.Snapshot, value string) string {
	r := address.NewResolver(s.Place)
	r.At("x", "", false)
	t := r.Resolve(value)
	return bare(&t)
}

func bare(t *address.Target) string {
	if t.Kind == address.Mail {
		u, _, _ := strings.Cut(t.URL, "?")
		return strings.ToLower(u)
	}
	u, _, _ := strings.Cut(t.URL, "#")
	return u
}

// fault says why nothing can be led to the aim, as a sentence; "" if it can.
func (a *destination) fault(s *site.Snapshot) string {
	switch {
	case a.said == "":
		return "Say where they will lead: a file of the folder, one of its ids after a #, or an address outside."
	case a.address != "":
		m := mailbox.Parse(a.address)
		if strings.EqualFold(address.SchemeOf(a.address), "mailto") && len(m.Problems) > 0 {
			return "A mail program would not read " + phrase.Mono(a.said) + " as meant: " + m.Problems[0] + "."
		}
		if a.url == "" {
			return phrase.Mono(a.said) + " is not an address that a browser can follow."
		}
	case a.index < 0 && s.Folders[a.file] != nil:
		return "The folder " + phrase.Mono(a.file) + " has no index page, so links to it don't work. Choose one of its files."
	case a.index < 0:
		return "There is no " + phrase.Mono(a.file) + " in the folder. An address outside begins with its scheme, such as https://."
	case a.hasID && !a.hasFragment(s, address.EscapeFragment(a.id)):
		return phrase.Mono(a.file) + " has no id " + phrase.Mono(a.id) + ". Give it one first, or choose the page."
	}
	return ""
}

// hasFragment reports whether a fragment lands on the file of the aim, as far as that is judged.
func (a *destination) hasFragment(s *site.Snapshot, fragment string) bool {
	f := &s.Files[a.index]
	if f.Kind != site.Page || f.Doc == nil {
		return true
	}
	anchor, top := f.Doc.Indicated(fragment, address.UnescapeFragment)
	return anchor != nil || top
}

// Retarget plans that every reference that leads to one thing leads to another: to a file of the folder, to an id of one, or
// to an address outside. There need not be anything at the first any more; references to it that are broken are led as well. What stays reports of is left
// alone, and so are a page's links to what is on the page itself, unless it is that which is named; stays may be nil.
func Retarget(s *site.Snapshot, from, to string, stays func(f *site.File, ref int) bool) *Plan {
	p := &Plan{}
	was, will := destinationOf(s, from), destinationOf(s, to)
	if was.said == "" {
		p.Clashes = append(p.Clashes, "Say what they lead to now.")
	} else if fault := will.fault(s); fault != "" {
		p.Clashes = append(p.Clashes, fault)
	} else if was.file == will.file && was.id == will.id && was.address == will.address {
		p.Clashes = append(p.Clashes, "They lead there already.")
	}
	if len(p.Clashes) > 0 {
		return p
	}
	l := newRetargeter(p, s)
	for _, i := range l.holders(&was) {
		f := &s.Files[i]
		var edits []change.Edit
		l.at(f)
		for k := range f.Doc.References {
			now := l.resolver.Resolve(f.Doc.References[k].Value())
			within := i == was.index && !was.hasID && now.HasFragment
			if l.leadsTo(i, k, &now, &was) && !within && (stays == nil || !stays(f, k)) {
				edits = l.retarget(edits, i, k, &now, &was, &will)
			}
		}
		p.change(f, edits)
	}
	p.Set.Title = "References to " + phrase.Mono(was.said) + " lead to " + phrase.Mono(will.said)
	if len(p.Rewrites)+len(p.Notes) == 0 {
		p.Clashes = append(p.Clashes, "Nothing in the folder leads to "+phrase.Mono(was.said)+".")
	}
	return p
}

// change adds the edits of a file that stays where it is.
func (p *Plan) change(f *site.File, edits []change.Edit) {
	if len(edits) > 0 {
		p.Set.Files = append(p.Set.Files, change.File{Kind: change.Edited, Path: f.Path, Before: f.Hash, Edits: edits})
	}
}

// retargeter leads the references of one file after another elsewhere.
type retargeter struct {
	*Plan
	snapshot *site.Snapshot
	resolver *address.Resolver // for the file at hand
	page     *compose.Page     // that file
}

func newRetargeter(p *Plan, s *site.Snapshot) *retargeter {
	return &retargeter{Plan: p, snapshot: s, resolver: address.NewResolver(s.Place)}
}

func (l *retargeter) at(f *site.File) {
	l.resolver.At(f.Path, f.Doc.Base, f.Doc.HasBase)
	l.page = compose.Known(l.snapshot, f.Path, f.Doc)
}

// holders returns the files that may hold references to the aim.
func (l *retargeter) holders(a *destination) []int32 {
	if a.index >= 0 {
		return l.snapshot.Referrers(a.index)
	}
	var out []int32
	for i := range l.snapshot.Files {
		if l.snapshot.Files[i].Doc != nil {
			out = append(out, int32(i))
		}
	}
	return out
}

// lands is [site.Link.OnFile], also for what is not judged and for names that some disks take for the same.
func lands(s *site.Snapshot, l site.Link) bool {
	return l.OnFile() || l.File >= 0 && (l.Outcome == site.NotJudged || l.Outcome == site.OtherForm || l.Outcome == site.OtherCase && s.Place.IgnoreCase)
}

// leadsTo reports whether the k-th reference of a file leads to the aim.
func (l *retargeter) leadsTo(file int32, k int, now *address.Target, a *destination) bool {
	ref, link := &l.snapshot.Files[file].Doc.References[k], l.snapshot.Links(file)[k]
	switch {
	case ref.Flags&(markup.ByID|markup.ByMap|markup.NoValue) != 0:
		return false
	case a.address != "":
		if now.URL == "" || bare(now) != a.url {
			return false
		}
		return !a.hasID || address.UnescapeFragment(now.Fragment) == address.UnescapeFragment(a.id)
	case now.Kind != address.Inside:
		return false
	case a.index >= 0:
		if link.File != a.index || !lands(l.snapshot, link) {
			return false
		}
	case lands(l.snapshot, link) || plain(now.Path) != a.file:
		return false
	}
	return !a.hasID || l.idOf(a.index, now) == a.id
}

// idOf returns the id that a target's fragment lands on, or looks for and does not find.
func (l *retargeter) idOf(file int32, now *address.Target) string {
	if file >= 0 && l.snapshot.Files[file].Doc != nil {
		if anchor, _ := l.snapshot.Files[file].Doc.Indicated(now.Fragment, address.UnescapeFragment); anchor != nil {
			return anchor.Name
		}
	}
	return address.UnescapeFragment(now.Fragment)
}

// retarget adds the edit that leads a reference elsewhere.
func (l *retargeter) retarget(edits []change.Edit, file int32, k int, now *address.Target, was, will *destination) []change.Edit {
	f := &l.snapshot.Files[file]
	ref := &f.Doc.References[k]
	value := strings.TrimSpace(ref.Value())
	var fresh string
	switch {
	case will.address != "":
		fresh = will.address
		_, query, fragment := address.Split(value)
		if was.address != "" && now.Kind == address.Mail && !strings.Contains(fresh, "?") {
			fresh += query
		}
		if was.address != "" && !was.hasID && !will.hasID {
			fresh += fragment
		}
		if was.address != "" && ref.Text != "" && strings.Contains(ref.Text, strings.TrimPrefix(was.said, "mailto:")) {
			l.note(f, ref, "gets another target, but its words still say "+phrase.Mono(strings.TrimPrefix(was.said, "mailto:")))
		}
	case ref.Flags&markup.Whole != 0 && now.Kind != address.Inside && l.snapshot.Place.Published == "":
		l.note(f, ref, "has to be a whole address, and Arvel doesn't know where the folder is published, so it is left")
		return edits
	default:
		var lost string
		if fresh, lost = l.rewrite(ref, now, value, was, will); lost != "" {
			l.note(f, ref, "loses its "+phrase.Mono(lost)+", which "+phrase.Mono(will.file)+" does not have")
		}
	}
	return l.put(edits, f, ref, fresh, will.said)
}

// rewrite returns the value that leads to a file of the folder, in the way that the old one is written, and the fragment
// that it can't keep.
func (l *retargeter) rewrite(ref *markup.Reference, now *address.Target, value string, was, will *destination) (fresh, lost string) {
	part, _, fragment := address.Split(value)
	switch {
	case will.hasID:
		fragment = "#" + address.EscapeFragment(will.id)
	case was.hasID || was.address != "":
		fragment = ""
	case len(fragment) > 1 && !will.hasFragment(l.snapshot, now.Fragment):
		fragment, lost = "", fragment
	}
	value, _, _ = strings.Cut(value, "#")
	target := will.file
	if dir, name := site.Cut(target); slices.Contains(l.snapshot.IndexNames, name) && now.Kind == address.Inside && l.byFolder(now, was) {
		if f := l.snapshot.Folders[dir]; f != nil && f.Index == will.index {
			target = strings.TrimPrefix(dir+"/", "/")
		}
	}
	switch {
	case now.Own && (address.IsWhole(value) || strings.HasPrefix(value, "/")) || now.Kind != address.Inside && ref.Flags&markup.Whole != 0:
		if !now.Own {
			value, _, _ = strings.Cut(value, "?")
		}
		return l.snapshot.Place.Publish(value, target) + fragment, lost
	case now.Kind != address.Inside || part == "" && will.file != l.page.Path:
		return l.page.AddressOf(will.file) + fragment, lost
	case part == "":
		if fragment == "" {
			fragment = "#top"
		}
		return value + fragment, lost
	}
	start := l.resolver.Start()
	written := now.Path
	if now.Folder {
		written = strings.TrimPrefix(written+"/", "/")
	}
	return l.snapshot.Place.Follow(value, start, written, start, target) + fragment, lost
}

// byFolder reports whether a target is written as a folder, not as the page in it.
func (l *retargeter) byFolder(now *address.Target, was *destination) bool {
	return was.index >= 0 && (now.Folder || now.Path != was.file)
}
