package repair

import (
	"path"
	"sync"

	"arvel/core/distance"
	"arvel/core/site"
)

// nameTable finds files and folders by parts of their names.
type nameTable struct {
	snapshot *site.Snapshot
	byName   map[string][]string      // paths of files by name, letter case folded
	byPlain  map[inFolder][]string    // paths of files by folder and plain name without extension
	exact    map[string]int           // how many files have a name, to the letter
	words    map[string]bool          // the names of folders, and of files without their extension, letter case folded
	byTypo   map[string][]string      // names by what is left of them with one letter taken out
	titled   map[string][]string      // paths of pages by title, letter case and separators aside
	bearers  func() map[string]bearer // the pages on which each id is
}

// inFolder is a name in a folder.
type inFolder struct{ dir, name string }

// many is how many files may have a name before it says nothing of which is meant.
const many = 64

// in returns the files in a folder that have the name, letter case aside.
func (t *nameTable) in(dir, name string) (out []string) {
	for _, i := range t.snapshot.Folded(path.Join(dir, name)) {
		if d, _ := site.Cut(t.snapshot.Files[i].Path); d == dir {
			out = append(out, t.snapshot.Files[i].Path)
		}
	}
	return out
}

func newNameTable(s *site.Snapshot) *nameTable {
	t := &nameTable{
		snapshot: s, byName: map[string][]string{}, byPlain: map[inFolder][]string{}, exact: map[string]int{}, words: map[string]bool{}, byTypo: map[string][]string{}, titled: map[string][]string{},
		bearers: sync.OnceValue(func() map[string]bearer { return pagesWithIDs(s) }),
	}
	for i := range s.Files {
		p := s.Files[i].Path
		name := path.Base(p)
		folded := site.Fold(name)
		if len(t.byName[folded]) == 0 {
			for _, typo := range typos(folded) {
				t.byTypo[typo] = append(t.byTypo[typo], folded)
			}
		}
		t.byName[folded] = append(t.byName[folded], p)
		dir, _ := site.Cut(p)
		plain := inFolder{dir, plainName(name)}
		t.byPlain[plain] = append(t.byPlain[plain], p)
		t.exact[name]++
		stem, _ := cutExtension(folded)
		t.words[stem] = true
		if doc := s.Files[i].Doc; doc != nil && doc.Title != "" {
			title := distance.Plain(doc.Title)
			t.titled[title] = append(t.titled[title], p)
		}
	}
	for dir := range s.Folders {
		t.words[site.Fold(path.Base(dir))] = true
	}
	return t
}

// bearer is on how many pages an id is, and the first of them.
type bearer struct{ pages, first int32 }

func pagesWithIDs(s *site.Snapshot) map[string]bearer {
	out := map[string]bearer{}
	for i := range s.Files {
		doc := s.Files[i].Doc
		if doc == nil {
			continue
		}
		for k := range doc.Anchors {
			if a := &doc.Anchors[k]; doc.Anchor(a.Name) == a {
				b := out[a.Name]
				if b.pages == 0 {
					b.first = int32(i)
				}
				b.pages++
				out[a.Name] = b
			}
		}
	}
	return out
}

// plainName is what names have in common that differ in letter case, separators or extension alone.
func plainName(name string) string {
	stem, _ := cutExtension(name)
	return distance.Plain(site.Fold(stem))
}

// typos returns name and every name that is left of it with one letter taken out. Two names one letter apart
// have one of them in common.
func typos(name string) []string {
	out := []string{name}
	r := []rune(name)
	for i := range r {
		if i > 0 && r[i] == r[i-1] {
			continue
		}
		out = append(out, string(r[:i])+string(r[i+1:]))
	}
	return out
}

// near returns the names, folded, that are one letter from name.
func (t *nameTable) near(name string) []string {
	folded := site.Fold(name)
	if len(folded) > 255 {
		return nil // no disk has such a name
	}
	seen := map[string]bool{folded: true}
	var out []string
	for _, typo := range typos(folded) {
		for _, n := range t.byTypo[typo] {
			if !seen[n] && distance.Distance(folded, n, 1) == 1 {
				out = append(out, n)
			}
			seen[n] = true
		}
	}
	return out
}

// byTitle returns the pages that bear the title, none if it is so common that it says nothing.
func (t *nameTable) byTitle(title string) []string {
	if found := t.titled[distance.Plain(title)]; len(found) <= elsewhereLimit {
		return found
	}
	return nil
}
