package e2e

import (
	"encoding/json"
	"maps"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/test/drive"
)

// Moves after which Chromium has to find everything that it found before.
var movedFolders = map[string]struct {
	files map[string]string
	moves []string
	// notes: something on other hosts can't follow, so that moving ends with 1.
	notes bool
}{
	"a base element with the folder's own address": {
		map[string]string{
			"index.html":  `<link rel="canonical" href="https://club.example/"><a href="docs/b.html">b</a>`,
			"docs/b.html": `<base href="https://club.example/docs/"><a href="a.html">1</a><a href="/docs/a.html#x">2</a><a href="../index.html">3</a><a href="https://club.example/docs/a.html">4</a><a href="//club.example/docs/a.html">5</a>`,
			"docs/a.html": `<p id="x">a`,
		},
		[]string{"docs/a.html", "texts/new/a2.html"},
		false,
	},
	"a base element with the folder's own address, which moves": {
		map[string]string{
			"index.html":  `<link rel="canonical" href="https://club.example/site/"><a href="docs/b.html">b</a>`,
			"docs/b.html": `<base href="//club.example/site/docs/"><a href="a.html">1</a><a href="/site/docs/a.html">2</a><a href="b.html">3</a>`,
			"docs/a.html": `<a href="b.html">b</a>`,
		},
		[]string{"docs", "texts"},
		false,
	},
	"a base element on another host": {
		map[string]string{
			"index.html":  `<link rel="canonical" href="https://club.example/"><a href="docs/b.html">b</a>`,
			"docs/b.html": `<base href="https://orchard.example/docs/"><a href="a.html">1</a><a href="https://club.example/docs/a.html">2</a>`,
			"docs/a.html": `a`,
		},
		[]string{"docs/a.html", "a.html"},
		false,
	},
	"a fragment, a query and nothing on a page whose base has another index page": {
		map[string]string{
			"index.html":       `<a href="docs/b.html">b</a>`,
			"docs/b.html":      `<base href="../texts/"><a href="#x">1</a><a href="">2</a><a href="?y">3</a>`,
			"texts/index.html": `<p id="x">the index`,
			"texts/c.html":     `c`,
		},
		[]string{"texts/index.html", "other/start.html"},
		false,
	},
	"two folders that change places": {
		map[string]string{
			"index.html": `<a href="a/x.html">x</a><a href="b/y.html">y</a>`,
			"a/x.html":   `<a href="../b/y.html">y</a>`,
			"b/y.html":   `<a href="../a/x.html">x</a>`,
		},
		[]string{"a", "b", "b", "a"},
		false,
	},
	"a style sheet without a charset, of a page in another encoding": {
		map[string]string{
			"index.html":     "<meta charset=\"windows-1252\"><link rel=\"stylesheet\" href=\"club.css\"><body>\xe4",
			"club.css":       `body { background-image: url(pod.png) }`,
			"pod.png":        "pod",
			"grün/leek.html": "leek",
		},
		[]string{"pod.png", "grün/pöd.png"},
		false,
	},
	"a style sheet of a drawing": {
		map[string]string{
			"index.html":  `<a href="map.svg">m</a>`,
			"map.svg":     `<?xml version="1.0"?><?xml-stylesheet type="text/css" href="css/map.css"?><svg xmlns="http://www.w3.org/2000/svg"><rect width="9" height="9"/></svg>`,
			"css/map.css": `@namespace svg url(http://www.w3.org/2000/svg); rect { fill: rgb(1, 2, 3) }`,
		},
		[]string{"css", "styles"},
		false,
	},
}

// What Chromium finds on a page: where its links lead, what its style sheets load, how its drawing is filled.
const finds = `() => {
	const rect = document.querySelector("rect");
	const image = document.body ? getComputedStyle(document.body).backgroundImage : "none";
	return JSON.stringify({
		links: [...document.querySelectorAll("a[href]")].map((a) => a.href),
		image: image.startsWith("url(") ? image.slice(5, -2) : "",
		fill: rect ? getComputedStyle(rect).fill : "",
	});
}`

func TestWhatChromiumFindsIsFoundAfterAMove(t *testing.T) {
	for name, c := range movedFolders {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			lay(t, dir, c.files)
			before := foundIn(t, dir)
			args := slices.Concat([]string{"move", dir}, c.moves, []string{"--data", t.TempDir()})
			out, err := drive.Run(args...)
			require.NoError(t, err, out)
			after := foundIn(t, dir)
			assert.Equal(t, before, after, "%v", drive.Files(t, dir))
			// And all the way back.
			slices.Reverse(c.moves)
			_, err = drive.Run(slices.Concat([]string{"move", dir}, c.moves, []string{"--data", t.TempDir()})...)
			require.NoError(t, err)
			assert.Equal(t, before, foundIn(t, dir))
		})
	}
}

// foundIn returns what Chromium finds on each page of a folder, pages and what they lead to named by what is in the files but for
// what a move rewrites.
func foundIn(t *testing.T, dir string) map[string][]string {
	t.Helper()
	server := httptest.NewTLSServer(http.FileServer(http.Dir(dir)))
	defer server.Close()
	files := drive.Files(t, dir)
	b, err := browser()
	require.NoError(t, err)
	out := map[string][]string{}
	for _, p := range slices.Sorted(maps.Keys(files)) {
		if ext := path.Ext(p); ext != ".html" && ext != ".svg" {
			continue
		}
		tab, err := b.Page(proto.TargetCreateTarget{URL: server.URL + "/" + (&url.URL{Path: p}).EscapedPath()})
		require.NoError(t, err)
		require.NoError(t, tab.WaitLoad())
		said, err := tab.Eval(finds)
		require.NoError(t, err)
		require.NoError(t, tab.Close())
		var found struct {
			Links       []string
			Image, Fill string
		}
		require.NoError(t, json.Unmarshal([]byte(said.Value.Str()), &found))
		name := told(files[p])
		for _, l := range append(found.Links, found.Image) {
			out[name] = append(out[name], thing(dir, files, server.URL, l))
		}
		out[name] = append(out[name], found.Fill)
	}
	return out
}

// told is what tells a file from others wherever its references lead: its text without its tags, and the words of its links.
func told(src string) string {
	var b strings.Builder
	in := false
	for _, r := range src {
		switch {
		case r == '<':
			in = true
		case r == '>':
			in = false
		case !in:
			b.WriteRune(r)
		}
	}
	return b.String()
}

// thing returns what is at an address: the file in the folder by what tells it, with the query and the fragment; or the address.
func thing(dir string, files map[string]string, origin, address string) string {
	u, err := url.Parse(address)
	if err != nil || address == "" {
		return address
	}
	p := ""
	switch site := strings.TrimSuffix(strings.TrimPrefix(canonical(files), "https://club.example"), "/"); {
	case strings.HasPrefix(address, origin+"/"):
		p = strings.TrimPrefix(u.Path, "/")
	case u.Host == "club.example" && strings.HasPrefix(u.Path, site+"/"):
		p = strings.TrimPrefix(u.Path, site+"/")
	default:
		return address
	}
	if info, err := os.Stat(filepath.Join(dir, filepath.FromSlash(p))); err == nil && info.IsDir() {
		p = path.Join(p, "index.html")
	}
	src, there := files[p]
	if !there {
		return "nothing at " + p
	}
	return told(src) + "?" + u.RawQuery + "#" + u.Fragment
}

// canonical returns the address that the home page names as its own.
func canonical(files map[string]string) string {
	_, rest, _ := strings.Cut(files["index.html"], `canonical" href="`)
	own, _, _ := strings.Cut(rest, `"`)
	return own
}
