package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/internal/disk"
	"arvel/test/seed"
)

// The browser is the judge: pages are written, Chromium is asked what each reference resolves to, what of it
// loads and what each fragment lands on, from disk and from a server, and core has to say the same.

// targets is the folder that the judged pages are in.
var targets = map[string]string{
	"index.html": "<p id=top-of-it>", "a.html": "<p id=x><p id='X'><a name=old></a>", "b c.html": "", "é.html": "<p id=é>", "100%.html": "",
	"d/index.html": "<p id=deep>", "d/a.html": "", "d/e/index.htm": "", "d/e/a.html": "<p id=x>", "empty/x.txt": "", "img/p.png": "", "img/P.png": "",
	"d/quote'.html": "", "plus+.html": "", "semi;.html": "", "q?.html": "", "hash#.html": "", "amp&.html": "",
}

// values are written in an href, with their character references.
var values = []string{
	"a.html", "./a.html", "d/a.html", "d/e/a.html", "d/", "d", "d/e/", "d/e", "empty/", "../a.html", "../../a.html", "../../../a.html", "../d/a.html",
	"../d/e/../a.html", "..", "../", ".", "./", "...", ".../a.html", "d//a.html", "/a.html", "/d/a.html", "/", "//other.example/a.html", "///a.html",
	"/../a.html", "#x", "#X", "#old", "#none", "#", "#top", "#TOP", "a.html#x", "a.html#old", "a.html#%78", "d/e/a.html#x", "?q=1", "a.html?q=1#x", "a.html?",
	"b c.html", "b%20c.html", " a.html ", "\ta.html\n", "a.ht\nml", "a%2ehtml", "%61.html", "%2e%2e/a.html", "d%2Fa.html", "é.html", "%C3%A9.html", "%E9.html",
	"é.html#é", "é.html#%C3%A9", "100%.html", "100%25.html", "A.html", "a.HTML", "nothing.html", "img/p.png", "img/P.png", "IMG/p.png",
	"d\\a.html", "..\\a.html", "\\a.html", "d\\e\\..\\a.html", "a.html\\", "d/quote'.html", "plus+.html", "plus%2B.html", "semi;.html", "q%3F.html",
	"hash%23.html", "amp&amp;.html", "amp&.html", "a.html?x=1&amp;y=2", "a.html?x=1&copy=2", "a.html?x=1&copy;", "&#97;.html", "&#x61;.html", "&colon;x",
	"http://other.example/", "https://other.example:443/a/../b", "HTTP://Other.Example/%7Ex", "http:a.html", "http:/a.html", "http:\\\\other.example\\x",
	"http://other.example:99999/", "http://[bad/", "http://a b/", "https://other.example/ä?ö#ü", "http://bücher.example/", "mailto:a@b.example", "mailto:",
	"MAILTO:a@b.example?subject=x y", "tel:+1 555", "javascript:void(0)", "data:text/plain,x", "about:blank", "blob:x", "C:\\x\\y.html", "c:/x.html", "C|/x",
	"file:a.html", "ftp://other.example/x", "foo:bar", "1:x", "a:b", "./a:b", "www.other.example", "a@b.example", ":", ":a", "@", "a.html#x#y", "a.html#x:~:text=y",
	"a.html#:~:text=y", "d/./e/./a.html", "d/e/..", "d/e/.", "d/%2e", "d/%2E%2E/a.html", "a.html/", "a.html/x", "index.html", "d/index.html", "d/e/index.htm",
	"a.html%00", "a.html%0A", "{a}.html", "|a.html", "a^.html", "a`.html", "<a>.html", "a%.html", "a%4.html", "a%zz.html", "~/a.html", "$a.html", "(a).html",
}

// pieces are put together at random into more values.
var pieces = []string{"a.html", "d", "e", "/", "/", "..", ".", "#", "x", "?", "\\", "%2e", " ", "//", "é", "index.html", ":", "&amp;", "%20"}

// judgedPages are where the values are written: at the top and further down, with and without a base element.
var judgedPages = []struct{ path, base string }{
	{"judge.html", ""},
	{"d/judge.html", ""},
	{"d/e/judge.html", ""},
	{"d/e/f/judge.html", ""},
	{"d/based.html", "e/"},
	{"d/e/based.html", "../../img/x.html?q#f"},
	{"outside.html", "http://other.example/p/q.html"},
	{"nonsense.html", "data:text/html,x"},
}

func TestTheBrowserResolvesAsCoreDoes(t *testing.T) {
	random := rand.New(rand.NewPCG(seed.Of(t), 0))
	all := append([]string{}, values...)
	for range 250 {
		v := ""
		for range 1 + random.IntN(6) {
			v += pieces[random.IntN(len(pieces))]
		}
		all = append(all, v)
	}
	dir, err := filepath.EvalSymlinks(t.TempDir())
	require.NoError(t, err)
	lay(t, dir, targets)
	for _, p := range judgedPages {
		var b strings.Builder
		b.WriteString("<!doctype html><meta charset=utf-8><p id=x><p id=X><a name=old></a><p id=é>")
		if p.base != "" {
			fmt.Fprintf(&b, "<base href=%q>", p.base)
		}
		for _, v := range all {
			fmt.Fprintf(&b, "<a href=\"%s\">x</a>\n", strings.ReplaceAll(v, `"`, "&quot;"))
		}
		lay(t, dir, map[string]string{p.path: b.String()})
	}
	for _, where := range []struct {
		place, prefix string
		handler       http.Handler
	}{
		{"root", "", asAHost(dir)},
		{"/club/", "/club", http.StripPrefix("/club", asAHost(dir))},
		{"disk", "", nil},
	} {
		t.Run(where.place, func(t *testing.T) {
			origin := "file://" + (&url.URL{Path: dir}).EscapedPath()
			if where.handler != nil {
				server := httptest.NewTLSServer(where.handler)
				defer server.Close()
				origin = server.URL + where.prefix
			}
			snapshot := read(t, dir, where.place)
			n := 0
			for _, p := range judgedPages {
				n += judgePage(t, snapshot, origin, p.path)
			}
			t.Logf("%d references at %s", n, where.place)
			assert.Greater(t, n, 200)
		})
	}
}

func lay(t *testing.T, dir string, files map[string]string) {
	t.Helper()
	for p, src := range files {
		full := filepath.Join(dir, p)
		require.NoError(t, os.MkdirAll(filepath.Dir(full), 0o755))
		require.NoError(t, os.WriteFile(full, []byte(src), 0o644))
	}
}

// read makes a snapshot of a folder at a place.
func read(t *testing.T, dir, place string) *site.Snapshot {
	t.Helper()
	f, err := disk.Open(dir, nil)
	require.NoError(t, err)
	defer f.Close()
	listing, err := f.Walk(t.Context(), "")
	require.NoError(t, err)
	var files []site.File
	for _, e := range listing.Entries {
		file := site.File{Path: e.Path, Kind: site.KindOf(e.Path)}
		if file.Kind == site.Page {
			src, err := f.Read(e.Path)
			require.NoError(t, err)
			file.Doc = markup.NewScanner().Page(src)
		}
		files = append(files, file)
	}
	p, err := address.ParsePlace(place, dir, false)
	require.NoError(t, err)
	return site.Build(files, site.Options{Place: p})
}

// asAHost serves a folder as web hosts do: a folder is its index page, and an error without one.
func asAHost(dir string) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		p := filepath.Join(dir, filepath.FromSlash(r.URL.Path))
		info, err := os.Stat(p)
		if err == nil && info.IsDir() {
			for _, index := range site.DefaultIndexNames {
				if _, err := os.Stat(filepath.Join(p, index)); err == nil {
					p = filepath.Join(p, index)
				}
			}
			if info, err = os.Stat(p); err != nil || info.IsDir() {
				http.NotFound(w, r)
				return
			}
		} else if strings.HasSuffix(r.URL.Path, "/") || strings.Contains(r.URL.EscapedPath(), "%2F") {
			http.NotFound(w, r)
			return
		}
		b, err := os.ReadFile(p)
		if err != nil {
			http.NotFound(w, r)
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write(b)
	})
}

const ask = `async (loads) => {
	const out = [];
	const seen = new Map();
	const landings = new Map(); // by fragment: a browser takes no more than some 200 such steps in ten seconds
	for (const a of document.querySelectorAll("a[href]")) {
		const raw = a.getAttribute("href");
		let status = 0;
		const at = a.href.split("#")[0];
		if (loads && at.startsWith(location.origin + "/")) {
			if (!seen.has(at)) seen.set(at, (await fetch(at)).status);
			status = seen.get(at);
		}
		const inPage = a.href.includes("#") && a.href.split("#")[0] === location.href.split("#")[0];
		if (inPage && !landings.has(a.hash)) {
			location.hash = "#nothing has this id"; // going from no fragment to an empty one would leave the target as it is
			location.hash = a.hash;
			const found = document.querySelector(":target");
			landings.set(a.hash, found ? found.id || found.name : "");
		}
		out.push({ href: a.href, raw, status, target: inPage ? landings.get(a.hash) : "", inPage, valid: URL.canParse(a.href) });
	}
	return JSON.stringify(out);
}`

// judged is what Chromium says of one link.
type judged struct {
	Href, Raw, Target string
	Status            int
	Valid, InPage     bool
}

func judgePage(t *testing.T, s *site.Snapshot, origin, page string) int {
	b, err := browser()
	require.NoError(t, err)
	tab, err := b.Page(proto.TargetCreateTarget{URL: origin + "/" + page})
	require.NoError(t, err)
	defer tab.Close()
	require.NoError(t, tab.WaitLoad())
	loads := s.Place.Kind != address.Disk
	said, err := tab.Eval(ask, loads)
	require.NoError(t, err)
	var links []judged
	require.NoError(t, json.Unmarshal([]byte(said.Value.Str()), &links))
	file, ok := s.Find(page)
	require.True(t, ok)
	doc := s.Files[file].Doc
	require.Len(t, doc.References, len(links))
	r := address.NewResolver(s.Place)
	r.At(page, doc.Base, doc.HasBase)
	for i, l := range links {
		value := doc.References[i].Value()
		require.Equal(t, l.Raw, strings.ReplaceAll(value, "\r", ""), "the decoded value")
		got := r.Resolve(value)
		want := "malformed"
		if l.Valid {
			want = inOurTerms(l.Href, origin, s.Place)
		}
		if got.Kind == address.Malformed && strings.Contains(want, "://") && strings.Contains(strings.Split(want, "/")[2], "%20") {
			continue // Chromium escapes a space in a host's name, where the URL standard (4.4) fails
		}
		if got.Kind == address.Malformed && strings.Contains(want, "://xn--") {
			continue // the table of host names refuses signs beside letters of other scripts, which no registry gives out
		}
		if s.Place.Kind == address.Disk && got.Kind != address.Inside {
			// Of hosts and drive letters in file addresses every browser makes something of its own; where the
			// standard leads out of the folder, it is enough that Chromium does not land in it.
			rest, inside := strings.CutPrefix(l.Href, origin+"/")
			assert.True(t, !inside || !s.Exists(rest), "%q on %s lands on %s", value, page, l.Href)
			continue
		}
		assert.Equal(t, oneSlash(want), oneSlash(spell(got, s.Place)), "%q on %s resolves to %s", value, page, l.Href)
		if want := fragmentOf(s, file, got); l.InPage {
			assert.Equal(t, want, l.Target, "%q on %s lands on", value, page)
		}
		// A host refuses an address with a "%" that encodes nothing, which is another matter than what stands there.
		if loads && got.Kind == address.Inside && l.Status != http.StatusBadRequest {
			outcome := s.Links(file)[i].Outcome
			stands := outcome == site.Lands || outcome == site.NoFragment
			assert.Equal(t, l.Status == 200, stands, "%q on %s answers %d, core says %d", value, page, l.Status, outcome)
		}
	}
	return len(links)
}

// spell writes a target as an address at the place, and what is outside as itself.
func spell(t address.Target, p address.Place) string {
	switch t.Kind {
	case address.Inside:
		out := address.Unescape(p.URL("")) + t.Path
		if t.Folder && t.Path != "" {
			out += "/"
		}
		if t.HasFragment {
			out += "#" + t.Fragment
		}
		return out
	case address.Malformed:
		return "malformed"
	}
	return outside.Replace(strings.Replace(t.URL, "https://folder.invalid", "", 1))
}

// outside evens out what Chromium escapes in other sites' paths beyond the URL standard, or with a later one.
var outside = strings.NewReplacer("%5E", "^", "%7C", "|")

// inOurTerms writes what Chromium says in the same way.
func inOurTerms(href, origin string, p address.Place) string {
	ours := strings.TrimSuffix(p.URL(""), "/")
	rest, inside := strings.CutPrefix(href, origin+"/")
	if !inside {
		server := origin
		if u, err := url.Parse(origin); err == nil && u.Host != "" {
			server = u.Scheme + "://" + u.Host
		}
		if p.Kind != address.Disk {
			href = strings.Replace(href, server, "", 1)
		}
		return outside.Replace(href)
	}
	path, fragment, has := strings.Cut(rest, "#")
	path, _, _ = strings.Cut(path, "?")
	out := address.Unescape(ours+"/") + address.Unescape(path)
	if has {
		out += "#" + fragment
	}
	return out
}

// fragmentOf returns the id or name that core has a link within its page land on, or "".
func fragmentOf(s *site.Snapshot, file int32, t address.Target) string {
	a, _ := s.Files[file].Doc.Indicated(t.Fragment, address.UnescapeFragment)
	if a == nil {
		return ""
	}
	return a.Name
}

// oneSlash takes several slashes in a path of ours for one, as disks and hosts do.
func oneSlash(address string) string {
	scheme, rest, _ := strings.Cut(address, "://")
	if scheme != "file" && !strings.HasPrefix(rest, "folder.invalid/") {
		return address
	}
	for strings.Contains(rest, "//") {
		rest = strings.ReplaceAll(rest, "//", "/")
	}
	return scheme + "://" + rest
}
