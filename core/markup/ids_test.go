package markup_test

import (
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/htmlindex"
	"pgregory.net/rapid"

	"arvel/core/markup"
)

func TestReferencesBetweenElements(t *testing.T) {
	d := scan(`<label for="name">n</label><input list=kinds form="f"><td headers="a  b">x<img src=p.png usemap="#beds">` +
		`<div aria-labelledby="t u" aria-owns=v><section for=no><button popovertarget=pop>x</button><map name=beds id=m2></map>`)
	var got []string
	for i := range d.References {
		if r := &d.References[i]; r.Role == markup.RoleID {
			got = append(got, r.Element.String()+" "+r.Attribute.String()+" "+r.Written)
		}
	}
	assert.Equal(t, []string{
		"label for name", "input form f", "input list kinds", "td headers a", "td headers b", "img usemap #beds",
		"div aria-labelledby t", "div aria-labelledby u", "div aria-owns v", "button popovertarget pop",
	}, sortedAsRead(got))
	assert.Equal(t, []string{"beds", "m2"}, d.Maps)
}

// sortedAsRead puts the two references of the input in one order, since which attribute comes first is up to the page.
func sortedAsRead(list []string) []string {
	if len(list) > 2 && strings.HasPrefix(list[1], "input list") {
		list[1], list[2] = list[2], list[1]
	}
	return list
}

func TestSitemapsHoldTheirLocations(t *testing.T) {
	s := markup.NewScanner()
	src := "<?xml version=\"1.0\"?>\n<!-- <loc>no</loc> --><urlset xmlns=\"x\"><url><loc>\n https://a.example/?a=1&amp;b </loc></url><url><image:image><image:loc>https://a.example/p.png</image:loc></image:image></url></urlset>"
	d := s.Sitemap([]byte(src))
	assert.Equal(t, []string{"https://a.example/?a=1&amp;b", "https://a.example/p.png"}, written(d))
	assert.Equal(t, "https://a.example/?a=1&b", d.References[0].Value())
	assert.Equal(t, "https://a.example/?a=1&amp;b", src[d.References[0].Start:d.References[0].End])
	assert.Empty(t, s.Sitemap([]byte("<rss><loc>https://a.example/</loc></rss>")).References, "another XML file")
	assert.Len(t, s.Sitemap([]byte("<urlset><loc>https://a.example/")).References, 0, "cut off")
}

// Every place in the text of a page is where the byte at that place was decoded to, in every encoding.
func TestPlacesInTheTextAndInTheFile(t *testing.T) {
	pieces := []string{"<p>", "a", "\n", "\r\n", "\r", "é", "種", "茶", "😀", "я", "&amp;"}
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.SampledFrom([]string{"utf-8", "windows-1252", "shift_jis", "euc-jp", "iso-2022-jp", "gbk", "big5", "koi8-r", "utf-16le", "utf-16be"}).Draw(t, "encoding")
		var text strings.Builder
		for _, p := range rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 30).Draw(t, "pieces") {
			if _, err := markup.Encode(p, name); err == nil {
				text.WriteString(p)
			}
		}
		head := "<meta charset=" + name + ">"
		if strings.HasPrefix(name, "utf-16") {
			head = "\ufeff"
		}
		src, err := markup.Encode(head+text.String(), name)
		require.NoError(t, err)
		m := markup.NewMapper(src)
		want := strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(strings.TrimPrefix(head, "\ufeff") + text.String())
		require.Equal(t, want, m.Text, name)
		units := len(utf16.Encode([]rune(want)))
		require.Equal(t, len(src), m.Offset(units))
		require.Equal(t, units, m.Unit(len(src)))
		for unit := range units + 1 {
			offset := m.Offset(unit)
			if back := m.Unit(offset); back != unit && !surrogate(want, unit) {
				t.Fatalf("%s: unit %d is byte %d, which is unit %d", name, unit, offset, back)
			}
		}
	})
}

// surrogate reports whether the unit is the second half of a character.
func surrogate(text string, unit int) bool {
	units := utf16.Encode([]rune(text))
	return unit < len(units) && units[unit] >= 0xDC00 && units[unit] < 0xE000
}

func TestWhereAScriptIsPutIntoAPage(t *testing.T) {
	for page, before := range map[string]string{
		"<!doctype html><p>":                       "<!doctype html>",
		"\ufeff<!-- x --> <!DOCTYPE html>\n<html>": "\ufeff<!-- x --> <!DOCTYPE html>",
		"<html><head>":                             "",
		"<!-- never closed <p>":                    "",
		"text":                                     "",
		"<?xml version='1.0'?><!DOCTYPE html><html><head/>": "<?xml version='1.0'?><!DOCTYPE html>",
	} {
		assert.Equal(t, len(before), markup.ScriptPlace([]byte(page), false), page)
	}
	xml := "<?xml version='1.0'?><!DOCTYPE html><html xmlns='x'><head profile='y'>"
	assert.Equal(t, len(xml), markup.ScriptPlace([]byte(xml+"<title>"), true))
	e, err := htmlindex.Get("iso-2022-jp")
	require.NoError(t, err)
	src, err := e.NewEncoder().Bytes([]byte("<!-- 種 --><!doctype html><meta charset=iso-2022-jp>"))
	require.NoError(t, err)
	assert.Equal(t, "<meta charset=iso-2022-jp>", string(src[markup.ScriptPlace(src, false):]))
}
