package e2e

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http/httptest"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/plan"
	"arvel/core/site"
	"arvel/internal/store"
	"arvel/internal/workspace"
	"arvel/test/drive"
)

// realFolders are hand-made folders of pages from Debian, which "make real" unpacks.
var realFolders = map[string]string{
	"boost":       ".work/real/libboost1.81-doc/usr/share/doc/libboost1.81-doc/doc",
	"imagemagick": ".work/real/imagemagick-6-doc/usr/share/doc/imagemagick-6-common/html",
}

// dom asks Chromium's own DOM of each page for what its references resolve to and what fragments can land on.
const dom = `async pages => {
	const of = { a: ["href"], area: ["href"], link: ["href"], img: ["src"], script: ["src"], iframe: ["src"], frame: ["src"], embed: ["src"],
		source: ["src"], track: ["src"], video: ["src", "poster"], audio: ["src"], object: ["data"], form: ["action"], body: ["background"], table: ["background"], td: ["background"] };
	const one = page => new Promise((done, fail) => {
		const ask = new XMLHttpRequest();
		ask.open("GET", page);
		ask.responseType = "document";
		ask.onerror = fail;
		ask.onload = () => {
			const doc = ask.responseXML, out = { refs: [], names: [] };
			const base = doc.baseURI;
			for (const [element, attributes] of Object.entries(of))
				for (const at of doc.getElementsByTagName(element))
					for (const attribute of attributes) {
						const value = at.getAttribute(attribute);
						if (value === null || at.namespaceURI !== "http://www.w3.org/1999/xhtml") continue;
						out.refs.push([element, attribute, value, URL.canParse(value, base) ? new URL(value, base).href : ""]);
					}
			for (const at of doc.querySelectorAll("[id], a[name]")) {
				if (at.id) out.names.push(at.id);
				if (at.localName === "a" && at.name) out.names.push(at.name);
			}
			done(out);
		};
		ask.send();
	});
	return JSON.stringify(await Promise.all(pages.map(one)));
}`

type domPage struct {
	Refs  [][4]string
	Names []string
}

// realFolder is what core read of a real folder, and what Chromium says of it.
type realFolder struct {
	dir   string
	s     *site.Snapshot
	judge *realJudge
}

var asked = map[string]*realFolder{}

// askReal asks Chromium about a real folder, once.
func askReal(t *testing.T, name string) *realFolder {
	t.Helper()
	if asked[name] == nil {
		dir, err := filepath.EvalSymlinks(filepath.Join(drive.Root(), realFolders[name]))
		require.NoError(t, err, "make real unpacks it")
		asked[name] = judgeFolder(t, dir, nil)
	}
	return asked[name]
}

// judgeFolder asks Chromium about the pages of a folder. Of those that are in another one with the same bytes, it said
// all before.
func judgeFolder(t *testing.T, dir string, before *realFolder) *realFolder {
	t.Helper()
	s := read(t, dir, "root")
	server := httptest.NewServer(asAHost(dir))
	defer server.Close()
	said := map[string]domPage{}
	var paths []string
	for i := range s.Files {
		p := s.Files[i].Path
		switch {
		case s.Files[i].Kind != site.Page || s.Files[i].Size >= 2<<20:
		case before != nil && sameBytes(filepath.Join(before.dir, p), filepath.Join(dir, p)):
			said[p] = before.judge.pages[p].at(before.judge.origin, server.URL)
		default:
			paths = append(paths, p)
		}
	}
	askDOM(t, server.URL, paths, said)
	return &realFolder{dir, s, newJudge(s, server.URL, said)}
}

func sameBytes(a, b string) bool {
	was, err := os.ReadFile(a)
	is, err2 := os.ReadFile(b)
	return err == nil && err2 == nil && bytes.Equal(was, is)
}

// at returns what is said of a page as if it had been asked of another origin.
func (d domPage) at(was, is string) domPage {
	out := domPage{Names: d.Names}
	for _, ref := range d.Refs {
		if rest, own := strings.CutPrefix(ref[3], was+"/"); own {
			ref[3] = is + "/" + rest
		}
		out.Refs = append(out.Refs, ref)
	}
	return out
}

// The references that land nowhere in two real folders are those that Chromium's DOM and a host say land nowhere.
func TestTheBrowserFindsTheSameBrokenInRealFolders(t *testing.T) {
	for name := range realFolders {
		t.Run(name, func(t *testing.T) {
			real := askReal(t, name)
			n, broken := 0, 0
			for page, said := range real.judge.pages {
				var want []string
				for _, ref := range said.Refs {
					n++
					if real.judge.nowhere(ref) {
						want = append(want, strings.Join(ref[:3], " "))
					}
				}
				got := brokenIn(real.s, page)
				// An element that is left open is in the DOM several times, so the sets are compared.
				slices.Sort(want)
				slices.Sort(got)
				broken += len(want)
				if !assert.Equal(t, slices.Compact(want), slices.Compact(got), page) {
					return
				}
			}
			t.Logf("%d pages, %d references, %d of them land nowhere", len(real.judge.pages), n, broken)
			assert.Greater(t, n, 10_000)
		})
	}
}

// After moves in two real folders, Chromium says that every reference lands on what it landed on, with the same fragment
// and query, and that what landed nowhere still does, as it is written.
func TestTheBrowserLandsOnTheSameAfterMovesInRealFolders(t *testing.T) {
	for name := range realFolders {
		t.Run(name, func(t *testing.T) {
			before := askReal(t, name)
			dir, err := filepath.EvalSymlinks(t.TempDir())
			require.NoError(t, err)
			require.NoError(t, os.CopyFS(dir, os.DirFS(before.dir)))
			st, err := store.Open(t.TempDir())
			require.NoError(t, err)
			defer st.Close()
			w, err := workspace.Open(st, dir, workspace.Options{Place: "root"})
			require.NoError(t, err)
			defer w.Close()
			require.NoError(t, w.Read(t.Context()))
			moves := someMoves(rand.New(rand.NewPCG(11, 6)), before.s, func(moves []plan.Move) bool {
				p, err := w.PlanMoves(moves, plan.Options{})
				return err == nil && len(p.Clashes) == 0
			})
			planned, err := w.PlanMoves(moves, plan.Options{})
			require.NoError(t, err)
			id, err := w.Apply(t.Context(), planned)
			require.NoError(t, err)
			place := map[string]string{}
			for _, m := range planned.Moves {
				place[m.From] = m.To
			}
			after := judgeFolder(t, dir, before)
			n := 0
			for page, said := range before.judge.pages {
				now := after.judge.pages[cmp.Or(place[page], page)]
				require.Len(t, now.Refs, len(said.Refs), page)
				for k, ref := range said.Refs {
					n++
					was, is := before.judge.landing(ref), after.judge.landing(now.Refs[k])
					was.file = cmp.Or(place[was.file], was.file)
					if was.file == "" { // nowhere
						was.rest, is.rest = ref[2], now.Refs[k][2]
					}
					if !assert.Equal(t, was, is, "%s: %s became %s", page, ref[2], now.Refs[k][2]) {
						return
					}
				}
			}
			t.Logf("%d files moved, %d references rewritten; %d land where they did", len(planned.Moves), len(planned.Rewrites), n)
			undo, err := w.PlanUndo(id, false)
			require.NoError(t, err)
			_, err = w.Apply(t.Context(), &undo.Plan)
			require.NoError(t, err)
			assert.Equal(t, drive.Files(t, before.dir), drive.Files(t, dir), "undone to the byte")
		})
	}
}

// someMoves are those of a few folders and of two dozen files that can be made together.
func someMoves(r *rand.Rand, s *site.Snapshot, fit func([]plan.Move) bool) (moves []plan.Move) {
	dirs := slices.Sorted(maps.Keys(s.Folders))
	for len(moves) < 27 {
		from := dirs[r.IntN(len(dirs))]
		if len(moves) >= 3 {
			from = s.Files[r.IntN(len(s.Files))].Path
		}
		if from == "" || slices.ContainsFunc(moves, func(m plan.Move) bool {
			return from == m.From || strings.HasPrefix(from, m.From+"/") || strings.HasPrefix(m.From, from+"/")
		}) {
			continue
		}
		to := fmt.Sprintf("%s/renamed-%d%s", path.Dir(from), len(moves), path.Ext(from))
		if r.IntN(2) == 0 {
			to = fmt.Sprintf("else/where %d/%s", len(moves), path.Base(from))
		}
		if more := append(slices.Clone(moves), plan.Move{From: from, To: path.Clean(to)}); fit(more) {
			moves = more
		}
	}
	return moves
}

// askDOM asks for pages, many at a time.
func askDOM(t *testing.T, origin string, paths []string, out map[string]domPage) {
	t.Helper()
	b, err := browser()
	require.NoError(t, err)
	tab, err := b.Page(proto.TargetCreateTarget{URL: origin + "/nothing-here"})
	require.NoError(t, err)
	defer tab.Close()
	tab = tab.Timeout(4 * time.Minute)
	for stretch := range slices.Chunk(paths, 40) {
		wanted := make([]string, len(stretch))
		for i, p := range stretch {
			wanted[i] = "/" + (&url.URL{Path: p}).EscapedPath()
		}
		said, err := tab.Eval(dom, wanted)
		require.NoError(t, err)
		var list []domPage
		require.NoError(t, json.Unmarshal([]byte(said.Value.Str()), &list))
		for i, p := range stretch {
			out[p] = list[i]
		}
	}
}

// realJudge says what lands nowhere by Chromium's addresses, by what is in the folder, and by the names in the DOM
// of the page that an address leads to.
type realJudge struct {
	origin string
	pages  map[string]domPage
	files  map[string]bool
	index  map[string]string // the index page of each folder that has one
}

func newJudge(s *site.Snapshot, origin string, pages map[string]domPage) *realJudge {
	j := &realJudge{origin, pages, map[string]bool{}, map[string]string{}}
	for i := range s.Files {
		j.files[s.Files[i].Path] = true
	}
	for p := range j.files {
		for _, name := range []string{"index.htm", "index.html"} {
			if dir, is := strings.CutSuffix("/"+p, "/"+name); is && (name == "index.html" || j.index[strings.Trim(dir, "/")] == "") {
				j.index[strings.Trim(dir, "/")] = p
			}
		}
	}
	return j
}

// landing is what a reference leads to.
type landing struct {
	file string // "" for nothing in the folder, an address for what is outside
	rest string // its query and fragment
}

// landing returns what a reference leads to by its address.
func (j *realJudge) landing(ref [4]string) landing {
	rest, own := strings.CutPrefix(ref[3], j.origin+"/")
	if !own {
		return landing{file: ref[3]}
	}
	at := len(rest)
	if i := strings.IndexAny(rest, "?#"); i >= 0 {
		at = i
	}
	out := landing{address.Unescape(strings.Trim(rest[:at], "/")), rest[at:]}
	switch index, folder := j.index[out.file]; {
	case folder:
		out.file = index
	case !j.files[out.file] || strings.HasSuffix(rest[:at], "/"):
		out.file = ""
	}
	return out
}

// nowhere reports whether a reference leads to nothing.
func (j *realJudge) nowhere(ref [4]string) bool {
	element, value, href := ref[0], ref[2], ref[3]
	if href == "" {
		return true
	}
	if !strings.HasPrefix(href, j.origin+"/") || strings.TrimSpace(value) == "" {
		return false // what an empty address is of, another rule says
	}
	l := j.landing(ref)
	if l.file == "" {
		return true
	}
	_, fragment, hasFragment := strings.Cut(l.rest, "#")
	said, isPage := j.pages[l.file]
	if !isPage || !hasFragment || fragment == "" || element == "link" {
		return false
	}
	fragment, _, _ = strings.Cut(fragment, ":~:")
	plain := address.UnescapeFragment(fragment)
	return fragment != "" && !slices.Contains(said.Names, fragment) && !slices.Contains(said.Names, plain) && !strings.EqualFold(plain, "top")
}

// brokenIn lists what core says lands nowhere of the references that the DOM was asked for.
func brokenIn(s *site.Snapshot, page string) (out []string) {
	judged := map[string]bool{}
	for _, pair := range strings.Fields("a:href area:href link:href img:src script:src iframe:src frame:src embed:src source:src track:src video:src video:poster audio:src object:data form:action body:background table:background td:background") {
		judged[pair] = true
	}
	file, _ := s.Find(page)
	doc := s.Files[file].Doc
	for i, l := range s.Links(file) {
		ref := &doc.References[i]
		if ref.Flags&(markup.NoValue|markup.Inert) != 0 || !judged[ref.Element.String()+":"+ref.Attribute.String()] {
			continue
		}
		value := ref.Value()
		switch l.Outcome {
		case site.NoFile, site.NoIndex, site.OtherCase, site.OtherForm, site.NoFragment:
		case site.Nowhere:
			r := address.NewResolver(s.Place)
			r.At(page, doc.Base, doc.HasBase)
			if t := r.Resolve(value); t.Kind != address.Malformed {
				continue
			}
		default:
			continue
		}
		if strings.TrimSpace(value) == "" || l.Outcome == site.NoFragment && ref.Element == markup.Link {
			continue
		}
		out = append(out, fmt.Sprintf("%s %s %s", ref.Element, ref.Attribute, strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(value)))
	}
	return out
}
