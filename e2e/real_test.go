package e2e

import (
	"encoding/json"
	"fmt"
	"net/http/httptest"
	"net/url"
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
	"arvel/core/site"
	"arvel/e2e/drive"
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

// The references that land nowhere in two real folders are those that Chromium's DOM and a host say land nowhere.
func TestTheBrowserFindsTheSameBrokenInRealFolders(t *testing.T) {
	for name, dir := range realFolders {
		t.Run(name, func(t *testing.T) {
			dir, err := filepath.EvalSymlinks(filepath.Join(drive.Root(), dir))
			require.NoError(t, err, "make real unpacks it")
			s := read(t, dir, "root")
			server := httptest.NewServer(asAHost(dir))
			defer server.Close()
			pages := askDOM(t, s, server.URL)
			nowhere := newJudge(s, server.URL, pages)
			n, broken := 0, 0
			for page, said := range pages {
				var want []string
				for _, ref := range said.Refs {
					n++
					if nowhere.is(page, ref) {
						want = append(want, strings.Join(ref[:3], " "))
					}
				}
				got := brokenIn(s, page)
				// An element that is left open stands in the DOM several times, so the sets are compared.
				slices.Sort(want)
				slices.Sort(got)
				broken += len(want)
				if !assert.Equal(t, slices.Compact(want), slices.Compact(got), page) {
					return
				}
			}
			t.Logf("%d pages, %d references, %d of them land nowhere", len(pages), n, broken)
			assert.Greater(t, n, 10_000)
		})
	}
}

// askDOM asks for the pages, many at a time.
func askDOM(t *testing.T, s *site.Snapshot, origin string) map[string]domPage {
	t.Helper()
	b, err := browser()
	require.NoError(t, err)
	tab, err := b.Page(proto.TargetCreateTarget{URL: origin + "/nothing-here"})
	require.NoError(t, err)
	defer tab.Close()
	tab = tab.Timeout(4 * time.Minute)
	var paths []string
	for i := range s.Files {
		if s.Files[i].Kind == site.Page && s.Files[i].Size < 2<<20 {
			paths = append(paths, s.Files[i].Path)
		}
	}
	out := map[string]domPage{}
	for stretch := range slices.Chunk(paths, 40) {
		asked := make([]string, len(stretch))
		for i, p := range stretch {
			asked[i] = "/" + (&url.URL{Path: p}).EscapedPath()
		}
		said, err := tab.Eval(dom, asked)
		require.NoError(t, err)
		var list []domPage
		require.NoError(t, json.Unmarshal([]byte(said.Value.Str()), &list))
		for i, p := range stretch {
			out[p] = list[i]
		}
	}
	return out
}

// realJudge says what lands nowhere by Chromium's addresses, by what stands in the folder, and by the names in the DOM
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

func (j *realJudge) is(page string, ref [4]string) bool {
	element, value, href := ref[0], ref[2], ref[3]
	if href == "" {
		return true
	}
	whole, fragment, hasFragment := strings.Cut(href, "#")
	rest, own := strings.CutPrefix(whole, j.origin+"/")
	if !own {
		return false
	}
	if strings.TrimSpace(value) == "" {
		return false // what the address is of, another rule says
	}
	path, _, _ := strings.Cut(rest, "?")
	stands := address.Unescape(strings.Trim(path, "/"))
	switch index, folder := j.index[stands]; {
	case folder:
		stands = index
	case !j.files[stands] || strings.HasSuffix(path, "/"):
		return true
	}
	said, isPage := j.pages[stands]
	if !isPage || !hasFragment || fragment == "" || element == "link" {
		return false
	}
	fragment, _, _ = strings.Cut(fragment, ":~:")
	plain := address.UnescapeFragment(fragment)
	return fragment != "" && !slices.Contains(said.Names, fragment) && !slices.Contains(said.Names, plain) && !strings.EqualFold(plain, "top")
}

// brokenIn lists what core says lands nowhere of the references that the DOM was asked for.
func brokenIn(s *site.Snapshot, page string) (out []string) {
	asked := map[string]bool{}
	for _, pair := range strings.Fields("a:href area:href link:href img:src script:src iframe:src frame:src embed:src source:src track:src video:src video:poster audio:src object:data form:action body:background table:background td:background") {
		asked[pair] = true
	}
	file, _ := s.Find(page)
	doc := s.Files[file].Doc
	for i, l := range s.Links(file) {
		ref := &doc.References[i]
		if ref.Flags&(markup.NoValue|markup.Inert) != 0 || !asked[ref.Element.String()+":"+ref.Attribute.String()] {
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
