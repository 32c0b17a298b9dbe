package address_test

import (
	"path"
	"strings"
	"testing"

	"github.com/nlnwa/whatwg-url/url"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arvel/core/address"
	_ "arvel/test/seed" // rapid takes it
)

func at(t *testing.T, place, page string) *address.Resolver {
	t.Helper()
	p, err := address.ParsePlace(place, "/home/ines/seeds", false)
	require.NoError(t, err)
	r := address.NewResolver(p)
	r.At(page, "", false)
	return r
}

func TestResolveInsideTheFolder(t *testing.T) {
	for _, c := range []struct{ place, value, path, fragment string }{
		{"root", "beans.html", "guides/beans.html", ""},
		{"root", "./beans.html", "guides/beans.html", ""},
		{"root", "../index.html#top", "index.html", "top"},
		{"root", "../../../index.html", "index.html", ""},
		{"root", "a/../b//../c.html", "guides/b/c.html", ""},
		{"root", "..", "", ""},
		{"root", "#moon", "guides/sowing.html", "moon"},
		{"root", "", "guides/sowing.html", ""},
		{"root", "?q=1#a", "guides/sowing.html", "a"},
		{"root", "/images/x.png", "images/x.png", ""},
		{"root", "..\\files\\x.pdf", "files/x.pdf", ""},
		{"root", " x\ty.html\n", "guides/xy.html", ""},
		{"root", "a%20b.html", "guides/a b.html", ""},
		{"root", "%2e%2e/index.html", "index.html", ""},
		{"root", "caf\u00e9.html", "guides/caf\u00e9.html", ""},
		{"root", "a%2Fb.html", "guides/a%2Fb.html", ""},
		{"root", "100%.html", "guides/100%.html", ""},
		{"root", "https:beans.html", "guides/beans.html", ""},
		{"/club/", "beans.html", "guides/beans.html", ""},
		{"/club/", "/club/x.html", "x.html", ""},
		{"disk", "beans.html", "guides/beans.html", ""},
		{"disk", "../../seeds/index.html", "index.html", ""},
		{"disk", "/home/ines/seeds/x.html", "x.html", ""},
	} {
		r := at(t, c.place, "guides/sowing.html")
		got := r.Resolve(c.value)
		assert.Equal(t, address.Inside, got.Kind, c.value)
		assert.Equal(t, []string{c.path, c.fragment}, []string{got.Path, got.Fragment}, "%s at %s", c.value, c.place)
	}
}

func TestResolveElsewhere(t *testing.T) {
	for _, c := range []struct {
		place, value string
		kind         address.TargetKind
	}{
		{"root", "https://orchard.example/", address.Web},
		{"root", "//orchard.example/x", address.Web},
		{"root", "\\\\orchard.example\\x", address.Web},
		{"root", "HTTP:\\\\orchard.example", address.Web},
		{"root", "mailto:a@b.example", address.Mail},
		{"root", "tel:+15550100", address.Phone},
		{"root", "javascript:void(0)", address.Script},
		{"root", "data:text/plain,x", address.Data},
		{"root", "C:\\x\\y.html", address.OnDisk},
		{"root", "file:///home/x.html", address.OnDisk},
		{"root", "https://a b/", address.Malformed},
		{"root", "https://a:99999/", address.Malformed},
		{"root", "gopher://x/", address.OtherScheme},
		{"/club/", "../../x.html", address.Beyond},
		{"/club/", "/x.html", address.Beyond},
		{"disk", "../../x.html", address.Beyond},
		{"disk", "/x.html", address.Beyond},
	} {
		r := at(t, c.place, "guides/sowing.html")
		assert.Equal(t, c.kind, r.Resolve(c.value).Kind, "%s at %s", c.value, c.place)
	}
}

func TestResolveByBaseElement(t *testing.T) {
	r := at(t, "root", "old/seeds.html")
	r.At("old/seeds.html", "../catalogue/", true)
	assert.Equal(t, "catalogue/roots.html", r.Resolve("roots.html").Path)
	fragment := r.Resolve("#carrot")
	assert.Equal(t, "catalogue", fragment.Path, "a fragment moves with the base too")
	r.At("old/seeds.html", "https://orchard.example/x/", true)
	assert.Equal(t, "https://orchard.example/x/y.html", r.Resolve("y.html").URL)
	r.At("old/seeds.html", "data:x", true)
	assert.Equal(t, "old/y.html", r.Resolve("y.html").Path, "a data: base is none")
	r.At("old/menu.html", "", false)
	assert.Equal(t, "old/y.html", r.Resolve("y.html").Path, "the next page has none")
}

func TestFolderIsMeant(t *testing.T) {
	r := at(t, "root", "guides/sowing.html")
	for value, folder := range map[string]bool{"x/": true, "x": false, ".": true, "..": true, "../": true, "/": true, "x/.": true, "x/..": true, "#a": false} {
		assert.Equal(t, folder, r.Resolve(value).Folder, value)
	}
}

func TestClimbedBeyondTheTop(t *testing.T) {
	r := at(t, "root", "guides/sowing.html")
	for value, n := range map[string]int{"../x": 0, "../../x": 1, "../../../x%20y": 2, "a/../../../x": 1} {
		assert.Equal(t, n, r.Resolve(value).Climbed, value)
	}
}

// The shortcut for common shapes has to give what the URL standard's parser gives.
func TestShortcutEqualsTheParser(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		value := rapid.SampledFrom([]string{"", "", "https://a.example", "http://x-1.b.test/", "https://"}).Draw(t, "start") + rapid.StringMatching(`([./]|\.\.|[a-z]|#|[~!$&'()*+,;=@-]|%2e|\?| |:|\\){0,9}`).Draw(t, "value")
		checkAgainstParser(t, value)
	})
}

func FuzzShortcutEqualsTheParser(f *testing.F) {
	for _, s := range []string{"../a.html#b", "a//b", "..//", "./..", "a/.", "#", "##", "a#b#c", "..;/x", "a:b", "&#x", "https://a.example/b#c", "http://a.b", "https://a.example/../x", "http://1.2.3", "https://a.example:80/"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, value string) { checkAgainstParser(t, value) })
}

type failer interface {
	Errorf(format string, args ...any)
	Fatalf(format string, args ...any)
}

func checkAgainstParser(t failer, value string) {
	for _, page := range []string{"index.html", "a/b/c.html"} {
		r := address.NewResolver(address.Place{Mount: "/"})
		r.At(page, "", false)
		got := r.Resolve(value)
		u, err := url.ParseRef("https://folder.invalid/"+page, value)
		if err != nil {
			if got.Kind != address.Malformed {
				t.Fatalf("%q is malformed, not %+v", value, got)
			}
			continue
		}
		if u.Hostname() != "folder.invalid" || u.Scheme() != "https" {
			if got.Kind == address.Inside || got.URL != u.Href(false) || got.Scheme != u.Scheme() || got.Fragment != u.Fragment() {
				t.Fatalf("%q leads to %s, not to %+v", value, u, got)
			}
			continue
		}
		want := address.Unescape(strings.TrimSuffix(strings.TrimPrefix(u.Pathname(), "/"), "/"))
		if got.Path != want || got.Fragment != u.Fragment() || got.Folder != strings.HasSuffix(u.Pathname(), "/") {
			t.Errorf("%q on %s gives %+v, the parser %q %q", value, page, got, u.Pathname(), u.Fragment())
		}
	}
}

var name = rapid.StringMatching(`[a-zA-Z0-9 _%#?&éß種"'<-]{1,5}(\.html)?`).Filter(func(s string) bool {
	return s != "." && s != ".." && !strings.HasPrefix(s, ".")
})

func anyPath(t *rapid.T, label string) string {
	return strings.Join(rapid.SliceOfN(name, 1, 4).Draw(t, label), "/")
}

// What is written for a target resolves to it.
func TestRelativeResolvesToItsTarget(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		page, target := anyPath(t, "page"), anyPath(t, "target")
		for _, place := range []address.Place{
			{Mount: "/"},
			{Kind: address.Below, Mount: "/club/"},
			{Kind: address.Disk, Mount: "/home/ines/seed library/"},
		} {
			r := address.NewResolver(place)
			r.At(page, "", false)
			got := r.Resolve(address.Relative(address.FolderOf(page), target))
			if got.Kind != address.Inside || got.Path != target {
				t.Fatalf("%q on %q gives %+v", address.Relative(address.FolderOf(page), target), page, got)
			}
		}
	})
}

func TestRewriteKeepsThePagesHabit(t *testing.T) {
	root := address.Place{Mount: "/"}
	for _, c := range []struct{ value, target, want string }{
		{"../image/x.png", "images/x.png", "../images/x.png"},
		{"./x.html", "guides/y.html", "./y.html"},
		{"x.html?a=1#b", "z.html", "../z.html?a=1#b"},
		{"/x.html#b", "guides/y z.html", "/guides/y%20z.html#b"},
		{"../m%C3%B6hre/x.html", "möhre/y.html", "../m%C3%B6hre/y.html"},
		{"a%20b/x.html", "guides/c/a b.html", "c/a%20b.html"},
		{"x", "a:b.html", "../a:b.html"},
		{"../guides/sow.html", "guides/sowing.html", "../guides/sowing.html"},
		{"../squash.html", "guides/squash.html", "squash.html"},
		{"../../guides/x.html", "guides/y.html", "../guides/y.html"},
		{"x", "guides/a:b.html", "./a:b.html"},
	} {
		assert.Equal(t, c.want, root.Rewrite(c.value, "guides", c.target))
	}
}

func TestStepsClimbAndGoDown(t *testing.T) {
	type step struct {
		kind  address.StepKind
		depth int
		path  string
	}
	r := at(t, "root", "guides/sowing.html")
	var got []step
	for _, s := range r.Steps("../image/x.png?a#b") {
		got = append(got, step{s.Kind, s.Depth, s.Path})
	}
	assert.Equal(t, []step{
		{address.Climb, 0, ""},
		{address.Enter, 1, "image"},
		{address.Name, 1, "image/x.png"},
		{address.Query, 1, "image/x.png"},
		{address.Fragment, 1, "image/x.png"},
	}, got)
	assert.True(t, r.Steps("../../x")[1].Beyond)
	assert.Equal(t, address.Outside, r.Steps("https://x.example/")[0].Kind)
	below := at(t, "/club/", "x.html")
	assert.Equal(t, "/club/", below.Steps("/club/y.html")[0].Written)
	assert.True(t, below.Steps("/y.html")[0].Beyond)
}

// The steps of a relative reference end where it lands.
func TestStepsEndAtTheLanding(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		page, target := anyPath(t, "page"), anyPath(t, "target")
		r := address.NewResolver(address.Place{Mount: "/"})
		r.At(page, "", false)
		steps := r.Steps(address.Relative(address.FolderOf(page), target))
		assert.Equal(t, target, path.Clean(steps[len(steps)-1].Path))
	})
}

func TestParsePlaceSaysWhatIsWrong(t *testing.T) {
	_, err := address.ParsePlace("club", "/x", false)
	assert.ErrorContains(t, err, "begins with a slash")
}

func TestPublishedAddressesAreWrittenAsTheyWere(t *testing.T) {
	p := address.Place{Mount: "/", Published: "seeds.example/club/"}
	for value, want := range map[string]string{
		"https://seeds.example/club/a.html?x#y": "https://seeds.example/club/b/c%20d.html?x#y",
		"http://seeds.example/club/a.html":      "http://seeds.example/club/b/c%20d.html",
		"//seeds.example/club/a.html#y":         "//seeds.example/club/b/c%20d.html#y",
		"/club/a.html?x":                        "/club/b/c%20d.html?x",
	} {
		assert.Equal(t, want, p.Publish(value, "b/c d.html"), value)
	}
	assert.True(t, address.IsRegistered("rtsp"))
	assert.False(t, address.IsRegistered("htp"))
}
