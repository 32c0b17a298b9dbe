package site

import (
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"golang.org/x/text/unicode/norm"

	"arvel/core/address"
	"arvel/core/markup"
)

// Options are what, besides the files, decides where references land.
type Options struct {
	Place address.Place
	// IndexNames are the names of the page that a folder lands on, the preferred first.
	IndexNames []string
	// Published is the address at which the folder is published, as [address.ParsePublished] returns it; where it is
	// "", what the home page says of itself counts.
	Published string
	// Unknown are the paths at and below which nobody knows what there is: folders that could not be listed, links that
	// lead out of the folder.
	Unknown []string
	// Same are other names of folders, symbolic links: the path of the folder, by that of the link.
	Same map[string]string
}

// DefaultIndexNames are the names of index pages where nothing else is said.
var DefaultIndexNames = []string{"index.html", "index.htm"}

// Outcome says how looking up a reference ended.
type Outcome uint8

const (
	// Lands: what it names is there, and so is its fragment.
	Lands Outcome = iota
	// NoFile: nothing is at the path.
	NoFile
	// NoIndex: a folder is there, without an index page.
	NoIndex
	// NoFragment: the page is there, the fragment on no element.
	NoFragment
	// OtherCase: what is there differs in letter case alone.
	OtherCase
	// OtherForm: what is there differs in Unicode form (composed, decomposed) alone.
	OtherForm
	// OutOfFolder: it leads out of the folder, on the same disk or host.
	OutOfFolder
	// Elsewhere: another site or a mailbox, which nobody has asked.
	Elsewhere
	// Handed: a phone link or a scheme that another program takes.
	Handed
	// NotJudged: a script, data, or a reference in a template.
	NotJudged
	// Nowhere: no URL can be made of it, or it is an address on one person's disk.
	Nowhere
	// NotKnown: it leads to what could not be read, so nobody can say whether it is there.
	NotKnown
)

// Link is where one reference lands, kept small since there are millions.
type Link struct {
	// File is the index of the file it lands on, or -1. For NoFragment and OtherCase it is the file that is there.
	File    int32
	Outcome Outcome
	// Unusual is set if the reference is written in a way that a rule may have something to say of.
	Unusual bool
	// LinkKind is how it gets there, and what for.
	Kind LinkKind
}

// OnFile reports whether the link lands on a file of the folder, whatever becomes of its fragment.
func (l Link) OnFile() bool { return l.File >= 0 && (l.Outcome == Lands || l.Outcome == NoFragment) }

// Snapshot is the folder at one moment.
type Snapshot struct {
	Options
	// Files are sorted by path.
	Files []File
	// Folders are all folders, by path.
	Folders map[string]*Folder

	byPath map[string]int32
	byFold map[string][]int32  // files by folded path
	folds  map[string][]string // folders by folded path
	links  [][]Link            // by file, in the order of Doc.References
	from   [][]int32           // by file: the pages that refer to it, sorted
	near   *near
}

// Build makes a snapshot of files, in any order.
func Build(files []File, o Options) *Snapshot {
	if len(o.IndexNames) == 0 {
		o.IndexNames = DefaultIndexNames
	}
	s := &Snapshot{Options: o, Files: slices.Clone(files), near: &near{}}
	slices.SortFunc(s.Files, func(a, b File) int { return strings.Compare(a.Path, b.Path) })
	s.index()
	s.Place.Published = s.published()
	s.links = make([][]Link, len(s.Files))
	s.from = make([][]int32, len(s.Files))
	all := make([]int32, 0, len(s.Files))
	for i := range s.Files {
		if s.Files[i].Doc != nil {
			all = append(all, int32(i))
		}
	}
	s.link(all)
	for _, page := range all {
		for _, to := range targets(s.links[page]) {
			s.from[to] = append(s.from[to], page)
		}
	}
	return s
}

// published returns where the folder is published: what is set, or what its home page names as its own address.
func (s *Snapshot) published() string {
	home := s.Folders[""].Index
	if s.Published != "" || home < 0 || s.Files[home].Doc == nil {
		return s.Published
	}
	for i := range s.Files[home].Doc.References {
		r := &s.Files[home].Doc.References[i]
		if r.Flags&markup.Whole == 0 || !(r.Element == markup.Link && strings.EqualFold(r.Text, "canonical") || r.Element == markup.Meta && r.Role == markup.RoleMeta) {
			continue
		}
		if own, err := address.ParsePublished(r.Value()); err == nil {
			return own
		}
	}
	return ""
}

// index fills the tables by which paths are looked up.
func (s *Snapshot) index() {
	s.byPath = make(map[string]int32, len(s.Files))
	s.byFold = make(map[string][]int32, len(s.Files))
	s.Folders = map[string]*Folder{}
	s.folds = map[string][]string{}
	s.folder("")
	for i := range s.Files {
		p := s.Files[i].Path
		s.byPath[p] = int32(i)
		f := Fold(p)
		s.byFold[f] = append(s.byFold[f], int32(i))
		dir, name := Cut(p)
		parent := s.folder(dir)
		parent.Names = append(parent.Names, name)
	}
	for _, p := range s.Unknown {
		if _, file := s.byPath[p]; !file && p != "" {
			s.folder(p) // whatever it is, something is there
		}
	}
	for p := range s.Same {
		s.folder(p)
	}
	for _, f := range s.Folders {
		slices.Sort(f.Names)
		for _, n := range s.IndexNames {
			if i, ok := s.byPath[path.Join(f.Path, n)]; ok {
				f.Index = i
				break
			}
		}
	}
}

// folder returns the folder at p, made known with all above it.
func (s *Snapshot) folder(p string) *Folder {
	if f, ok := s.Folders[p]; ok {
		return f
	}
	f := &Folder{Path: p, Index: -1}
	s.Folders[p] = f
	s.folds[Fold(p)] = append(s.folds[Fold(p)], p)
	if p != "" {
		dir, name := Cut(p)
		parent := s.folder(dir)
		parent.Names = append(parent.Names, name+"/")
	}
	return f
}

// Cut parts a path into its folder, without a slash, and its name.
func Cut(p string) (folder, name string) {
	i := strings.LastIndexByte(p, '/')
	return p[:max(i, 0)], p[i+1:]
}

// Fold returns what two names have in common that differ in letter case or Unicode form alone.
func Fold(name string) string {
	for i := range len(name) {
		if name[i] >= 0x80 {
			return norm.NFC.String(strings.ToLower(norm.NFC.String(name)))
		}
	}
	return strings.ToLower(name)
}

// link works out where the references of the given pages land, on all cores.
func (s *Snapshot) link(pages []int32) {
	workers := min(runtime.GOMAXPROCS(0), len(pages))
	var next atomic.Int64
	var wait sync.WaitGroup
	for range workers {
		wait.Go(func() {
			l := linker{s: s, resolver: address.NewResolver(s.Place), known: map[string]Link{}}
			for {
				n := int(next.Add(1)) - 1
				if n >= len(pages) {
					return
				}
				s.links[pages[n]] = l.safely(pages[n])
			}
		})
	}
	wait.Wait()
}

// linker works out where the references of one page after another land. What is written the same on pages of
// one folder lands on the same, so it is looked up once.
type linker struct {
	s        *Snapshot
	resolver *address.Resolver
	known    map[string]Link
	dir      string // of the pages that known is for
}

// knownLimit is how many links are remembered, so that a folder of a million different ones does not swell.
const knownLimit = 1 << 14

// safely is page for whatever is in a page: where it fails, none of the page's references is judged.
func (l *linker) safely(self int32) (links []Link) {
	defer func() {
		if recover() != nil {
			links = make([]Link, len(l.s.Files[self].Doc.References))
			for i := range links {
				links[i] = Link{File: -1, Outcome: NotJudged, Kind: AsOther}
			}
		}
	}()
	return l.page(self)
}

func (l *linker) page(self int32) []Link {
	f := &l.s.Files[self]
	l.resolver.At(f.Path, f.Doc.Base, f.Doc.HasBase)
	dir, _ := Cut(f.Path)
	if dir != l.dir || len(l.known) > knownLimit {
		clear(l.known)
		l.dir = dir
	}
	links := make([]Link, len(f.Doc.References))
	for i := range f.Doc.References {
		ref := &f.Doc.References[i]
		// Fragments and queries alone, and what a base element moves, depend on more than the folder.
		shared := !f.Doc.HasBase && ref.Role == markup.RoleLink && ref.Flags&^(markup.Handled|markup.NewTab|markup.Guarded|markup.Named) == 0 &&
			ref.Written != "" && ref.Written[0] != '#' && ref.Written[0] != '?'
		if shared {
			if known, ok := l.known[ref.Written]; ok && known.File != self {
				links[i] = known
				continue
			}
		}
		if ref.Flags&(markup.ByID|markup.ByMap) != 0 {
			links[i] = element(f, self, ref)
			continue
		}
		if len(ref.Written) <= address.MaxLength && f.Kind == Page && ref.Role == markup.RoleLink && !f.Doc.HasBase && ref.Flags&(markup.Inert|markup.Escaped) == 0 && plainFragment(ref.Written) {
			links[i] = Link{File: self, Kind: OnPage}
			if !lands(f.Doc, ref.Written[1:]) {
				links[i].Outcome = NoFragment
			}
			continue
		}
		links[i] = l.reference(f, ref)
		// Whether a fragment is on the page itself depends on the page; Land tells by the file.
		if shared && links[i].File != self {
			l.known[ref.Written] = links[i]
		}
	}
	return links
}

// plainFragment reports whether a value is a fragment alone, of bytes that the URL parser leaves as they are.
func plainFragment(value string) bool {
	if len(value) < 2 || value[0] != '#' {
		return false
	}
	for i := 1; i < len(value); i++ {
		if c := value[i]; (c < 'a' || c > 'z') && (c < 'A' || c > 'Z') && (c < '0' || c > '9') && c != '-' && c != '_' {
			return false
		}
	}
	return true
}

// element looks up what a reference between elements of one page names.
func element(f *File, self int32, ref *markup.Reference) Link {
	link := Link{File: self, Kind: ToElement}
	switch value := ref.Value(); {
	case ref.Flags&markup.Inert != 0:
		link.Outcome = NotJudged
	case ref.Flags&markup.ByMap != 0:
		if _, name, _ := strings.Cut(value, "#"); !slices.Contains(f.Doc.Maps, name) {
			link.Outcome = NoFragment
		}
	default:
		if a := f.Doc.Anchor(value); a == nil || a.ByName {
			link.Outcome = NoFragment
		}
	}
	return link
}

func (l *linker) reference(f *File, ref *markup.Reference) Link {
	value := ref.Value()
	t := l.resolver.Resolve(value)
	// What a sitemap lists is meant to be in the folder; other addresses in full may lead to what only the host has.
	t.Own = t.Own && ref.Element != markup.Loc
	link := l.s.Land(&t)
	link.Kind = linkKindOf(f, ref, value, &t)
	link.Unusual = t.Climbed > 0 || unusual(ref, value)
	if ref.Flags&markup.Inert != 0 {
		link.Outcome = NotJudged
	}
	return link
}

// unusual reports whether a reference is written in other than the plainest way.
func unusual(ref *markup.Reference, value string) bool {
	if value == "" || value == "#" || ref.Flags&markup.NoValue != 0 || value[0] == '/' {
		return true
	}
	for i := range len(value) {
		if c := value[i]; c <= ' ' || c >= 0x7F || c == '\\' || c == ':' || c == '%' || c == '?' {
			return true
		}
	}
	return strings.Contains(value, "//")
}

var outcomes = map[address.TargetKind]Outcome{
	address.Beyond: OutOfFolder, address.Web: Elsewhere, address.Mail: Elsewhere, address.Phone: Handed,
	address.OtherScheme: Handed, address.Script: NotJudged, address.Data: NotJudged,
	address.OnDisk: Nowhere, address.Malformed: Nowhere, address.TooLong: Nowhere,
}

// Land looks up where t leads at the snapshot's place.
func (s *Snapshot) Land(t *address.Target) Link { return s.LandAt(t, s.Place.IgnoreCase) }

// LandAt is Land for a place at which letter case counts or not.
func (s *Snapshot) LandAt(t *address.Target, ignoreCase bool) Link {
	if t.Kind != address.Inside {
		return Link{File: -1, Outcome: outcomes[t.Kind]}
	}
	l := s.lookup(t)
	if l.Outcome != Lands && s.IsUnknown(t.Path) {
		return Link{File: -1, Outcome: NotKnown}
	}
	if t.Own && (l.Outcome == NoFile || l.Outcome == NoIndex) {
		return Link{File: -1, Outcome: Elsewhere}
	}
	if (l.Outcome == Lands || l.Outcome == OtherCase && ignoreCase) && t.HasFragment {
		switch f := s.Real(l.File); {
		case f.Kind != Page:
		case f.Unread && t.Fragment != "":
			l.Outcome = NotKnown
		case f.Doc != nil && !lands(f.Doc, t.Fragment):
			l.Outcome = NoFragment
		}
	}
	return l
}

// IsUnknown reports whether nobody knows what is at a path, since what it is in could not be read.
func (s *Snapshot) IsUnknown(p string) bool {
	for _, u := range s.Unknown {
		if rest, within := strings.CutPrefix(p, u); within && (u == "" || rest == "" || rest[0] == '/') {
			return true
		}
	}
	return false
}

// Real returns the file that a file's name stands for: another one, if it is only another name of that.
func (s *Snapshot) Real(file int32) *File {
	f := &s.Files[file]
	if f.Same != "" {
		if i, ok := s.byPath[f.Same]; ok {
			return &s.Files[i]
		}
	}
	return f
}

func lands(doc *markup.Document, fragment string) bool {
	a, top := doc.Indicated(fragment, address.UnescapeFragment)
	return a != nil || top
}

// Through returns the path at which the file or folder is known that a path names through other names of folders.
func (s *Snapshot) Through(p string) string {
	for from := 0; len(s.Same) > 0; {
		i := strings.IndexByte(p[min(from, len(p)):], '/')
		end := len(p)
		if i >= 0 {
			end = from + i
		}
		if end > len(p) {
			return p
		}
		if real, is := s.Same[p[:end]]; is {
			rest := p[end:]
			if real == "" {
				rest = strings.TrimPrefix(rest, "/")
			}
			p = real + rest
			from = len(real) + 1
			if real == "" {
				from = 0
			}
		} else {
			from = end + 1
		}
		if from >= len(p) {
			return p
		}
	}
	return p
}

func (s *Snapshot) lookup(t *address.Target) Link {
	if strings.Contains(t.Path, "//") || strings.HasPrefix(t.Path, "/") || strings.HasSuffix(t.Path, "/") {
		// Disks and nearly all hosts take several slashes for one.
		t = &address.Target{Path: strings.TrimPrefix(path.Clean("/"+t.Path), "/"), Folder: t.Folder || strings.HasSuffix(t.Path, "/")}
	}
	if real := s.Through(t.Path); real != t.Path {
		t = &address.Target{Path: real, Folder: t.Folder}
	}
	if !t.Folder {
		if i, ok := s.byPath[t.Path]; ok {
			return Link{File: i}
		}
	}
	if f, ok := s.Folders[t.Path]; ok {
		if f.Index < 0 {
			return Link{File: -1, Outcome: NoIndex}
		}
		return Link{File: f.Index}
	}
	return s.lookupFolded(t)
}

// lookupFolded looks for what differs in letter case or Unicode form alone.
func (s *Snapshot) lookupFolded(t *address.Target) Link {
	fold := Fold(t.Path)
	if !t.Folder {
		if found := s.byFold[fold]; len(found) > 0 {
			return Link{File: found[0], Outcome: difference(t.Path, s.Files[found[0]].Path)}
		}
	}
	for _, p := range s.folds[fold] {
		if f := s.Folders[p]; f.Index >= 0 {
			return Link{File: f.Index, Outcome: difference(t.Path, p)}
		}
	}
	return Link{File: -1, Outcome: NoFile}
}

func difference(written, real string) Outcome {
	if norm.NFC.String(written) == norm.NFC.String(real) {
		return OtherForm
	}
	return OtherCase
}

// targets returns the files that links land on, sorted, each once.
func targets(links []Link) []int32 {
	var out []int32
	for _, l := range links {
		if l.File >= 0 {
			out = append(out, l.File)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Find returns the index of the file at the path.
func (s *Snapshot) Find(p string) (int32, bool) {
	i, ok := s.byPath[p]
	return i, ok
}

// Folded returns the files whose paths differ from p in letter case or Unicode form at most.
func (s *Snapshot) Folded(p string) []int32 { return s.byFold[Fold(p)] }

// Links returns where the references of a file land, in their order. The slice is not to be changed.
func (s *Snapshot) Links(file int32) []Link { return s.links[file] }

// Referrers returns the pages that refer to a file. The slice is not to be changed.
func (s *Snapshot) Referrers(file int32) []int32 { return s.from[file] }

// Renew returns a snapshot in which the changed files take the place of those at their paths and the removed
// ones are gone. touched are the pages whose references were looked up again; nil means all of them.
func (s *Snapshot) Renew(changed []File, removed []string) (next *Snapshot, touched []int32) {
	same := len(removed) == 0
	for i := range changed {
		if _, ok := s.byPath[changed[i].Path]; !ok {
			same = false
		}
	}
	if !same {
		return Build(s.merged(changed, removed), s.Options), nil
	}
	n := *s
	n.Files, n.near = slices.Clone(s.Files), &near{}
	n.links, n.from = slices.Clone(s.links), slices.Clone(s.from)
	again := map[int32]bool{}
	for i := range changed {
		at := s.byPath[changed[i].Path]
		n.Files[at] = changed[i]
		again[at] = true
		if !sameAnchors(s.Files[at].Doc, changed[i].Doc) {
			for _, page := range s.from[at] {
				again[page] = true
			}
		}
	}
	touched = []int32{}
	for i := range again {
		if n.Files[i].Doc == nil {
			n.links[i] = nil
		} else {
			touched = append(touched, i)
		}
	}
	if own := n.published(); own != s.Place.Published {
		return Build(n.Files, s.Options), nil // what is the folder's own address has changed everywhere
	}
	slices.Sort(touched)
	n.link(touched)
	for i := range again {
		n.updateReferrers(i, targets(s.links[i]), targets(n.links[i]))
	}
	return &n, touched
}

// updateReferrers brings up to date who refers to whom, after page's targets changed.
func (s *Snapshot) updateReferrers(page int32, before, after []int32) {
	for _, t := range before {
		if _, still := slices.BinarySearch(after, t); !still {
			s.from[t] = slices.DeleteFunc(slices.Clone(s.from[t]), func(p int32) bool { return p == page })
		}
	}
	for _, t := range after {
		if _, already := slices.BinarySearch(before, t); already {
			continue
		}
		if at, found := slices.BinarySearch(s.from[t], page); !found {
			s.from[t] = slices.Insert(slices.Clone(s.from[t]), at, page)
		}
	}
}

func (s *Snapshot) merged(changed []File, removed []string) []File {
	gone := map[string]bool{}
	for _, p := range removed {
		gone[p] = true
	}
	for i := range changed {
		gone[changed[i].Path] = true
	}
	files := make([]File, 0, len(s.Files)+len(changed))
	for i := range s.Files {
		if !gone[s.Files[i].Path] {
			files = append(files, s.Files[i])
		}
	}
	return append(files, changed...)
}

func sameAnchors(a, b *markup.Document) bool {
	if a == nil || b == nil {
		return a == b
	}
	return slices.EqualFunc(a.Anchors, b.Anchors, func(x, y markup.Anchor) bool {
		return x.Name == y.Name && x.ByName == y.ByName && x.Inert == y.Inert
	})
}
