package repair_test

import (
	"fmt"
	"path"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/repair"
	"arvel/core/site"
)

// damages are the ways in which people get a path wrong. Each returns the path as it is then written, from page to
// target, or "" where the path can't be damaged so.
var damages = map[string]func(t *rapid.T, page, target string) string{
	"letter case": func(t *rapid.T, page, target string) string {
		return onLetter(t, address.Relative(page, target), func(c byte) string {
			if 'a' <= c && c <= 'z' {
				return string(c - 32)
			}
			return string(c)
		})
	},
	"extension": func(_ *rapid.T, page, target string) string {
		written := address.Relative(page, target)
		other := map[string]string{".html": ".htm", ".png": ".jpg", ".pdf": ".doc"}[path.Ext(written)]
		return strings.TrimSuffix(written, path.Ext(written)) + other
	},
	"separator": func(_ *rapid.T, page, target string) string {
		return strings.ReplaceAll(address.Relative(page, target), "-", "_")
	},
	"folder left out": func(_ *rapid.T, page, target string) string {
		return path.Base(target)
	},
	"one ../ too many": func(_ *rapid.T, page, target string) string {
		return "../" + address.Relative(page, target)
	},
	"a ../ missing": func(_ *rapid.T, page, target string) string {
		written, climbs := strings.CutPrefix(address.Relative(page, target), "../")
		if !climbs {
			return ""
		}
		return written
	},
	"letter left out": func(t *rapid.T, page, target string) string {
		return onLetter(t, address.Relative(page, target), func(byte) string { return "" })
	},
	"letter exchanged": func(t *rapid.T, page, target string) string {
		return onLetter(t, address.Relative(page, target), func(byte) string { return "q" })
	},
}

// onLetter puts another in the place of one letter of a path.
func onLetter(t *rapid.T, written string, other func(byte) string) string {
	at := rapid.IntRange(0, len(written)-1).Draw(t, "letter")
	if c := written[at]; c < 'a' || c > 'z' {
		return ""
	}
	return written[:at] + other(written[at]) + written[at+1:]
}

// A certain repair is never wrong: on a folder damaged on purpose it restores the truth.
func TestACertainRepairIsTheTruth(t *testing.T) {
	paths := []string{
		"index.html", "visit.html", "guides/index.html", "guides/sowing.html", "guides/saving.html", "guides/pests.html",
		"catalogue/index.html", "catalogue/squash.html", "catalogue/beans.html", "catalogue/old/beans.html", "images/bean-pods.png",
		"images/leek-flower.png", "images/small/leek-flower.png", "files/sowing-table.pdf", "news/autumn.html", "news/2018/autumn.html", "news/2019/spring.html",
	}
	tried, certain := map[string]int{}, map[string]int{}
	rapid.Check(t, func(t *rapid.T) {
		page := rapid.SampledFrom(paths).Filter(func(p string) bool { return path.Ext(p) == ".html" }).Draw(t, "page")
		target := rapid.SampledFrom(paths).Draw(t, "target")
		kind := rapid.SampledFrom([]string{
			"letter case", "extension", "separator", "folder left out", "one ../ too many", "a ../ missing", "letter left out", "letter exchanged",
		}).Draw(t, "damage")
		written := damages[kind](t, page, target)
		if written == "" || page == target {
			return
		}
		var files []site.File
		for _, p := range paths {
			src := "<title>A page</title>"
			if p == page {
				src = fmt.Sprintf("<a href=%q>words</a>", written)
			}
			files = append(files, site.File{Path: p, Kind: site.KindOf(p), Doc: doc(p, src)})
		}
		s := site.Build(files, site.Options{Place: address.Place{Mount: "/"}})
		file, _ := s.Find(page)
		c := audit.NewCase(s, file, 0)
		findings, state := audit.JudgeCase(c)
		if state != audit.Broken {
			return // it lands all the same, on this or on another page, and nobody can tell
		}
		tried[kind]++
		if list := repair.NewPlanner(s).For(c, findings); len(list) > 0 && list[0].Certainty == repair.Certain {
			certain[kind]++
			assert.Equal(t, target, list[0].Target, "%s on %s: %s (%s)", written, page, list[0].Written, list[0].Why)
		}
	})
	for kind, n := range tried {
		t.Logf("%s: %d of %d restored with certainty", kind, certain[kind], n)
	}
}
