package e2e

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/site"
	"arvel/test/drive"
)

// loading is a page with everything that a browser loads by itself. What is called "no…" is not there; what is called
// "never…" is where nothing is loaded.
const loading = `<!doctype html><html><head><meta charset=utf-8><title>Loads</title>
<link rel=stylesheet href="s/a.css"><link rel=stylesheet href="s/no.css"><link rel=icon href="no-icon.png">
<style>@import "s/b.css"; body { background: url(no-style-element.png) }</style>
<script src="x.js"></script><script src="no-script.js"></script></head>
<body><h1>x</h1><img src="p.png" alt=x><img src="no-img.png" alt=x><img srcset="no-set.png 1x" alt=x>
<picture><source srcset="no-source.png"><img src="never-behind-source.png" alt=x></picture>
<p style="background: url(&quot;no-attribute.png&quot;)">text</p><p style='background: url("no\2d escaped.png")'>text</p>
<iframe src="frame.html"></iframe><iframe src="no-frame.html"></iframe><embed src="no-embed.html"><object data="no-object.html"></object>
<video src="no-video.mp4" poster="no-poster.png"></video><audio src="no-audio.mp3" preload="auto"></audio>
<table background="no-table.png"><tr><td background="no-td.png">x</td></tr></table><input type=image src="no-input.png" alt=x>
<svg width=10 height=10><image href="no-svg.png" width=10 height=10 /><image xlink:href="no-xlink.png" width=10 height=10 /></svg>
<template><img src="never-template.png"></template><!-- <img src="never-comment.png"> --><textarea><img src="never-textarea.png"></textarea>
<script>"<img src='never-script.png'>"</script><image src="no-image.png"></body></html>`

var loaded = map[string]string{
	"loads.html": loading, "frame.html": "<img src='no-in-frame.png'>", "p.png": "x", "x.js": "", "s/b.css": "",
	"s/a.css": "@import 'no-import.css'; h1 { background: url(no-sheet.png) } html { background: url( '../no-up.png' ) }",
}

// What Chromium asks the server for is what core says the page loads, and what it does not get is what core says is
// not there.
func TestTheBrowserLoadsWhatCoreSays(t *testing.T) {
	dir := t.TempDir()
	lay(t, dir, loaded)
	var mu sync.Mutex
	asked := map[string]int{}
	host := asAHost(dir)
	server := httptest.NewTLSServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/s/a.css" || r.URL.Path == "/s/b.css" {
			w.Header().Set("Content-Type", "text/css")
			fmt.Fprint(w, loaded[r.URL.Path[1:]])
			return
		}
		recorder := httptest.NewRecorder()
		host.ServeHTTP(recorder, r)
		mu.Lock()
		asked[r.URL.Path[1:]] = recorder.Code
		mu.Unlock()
		w.Header().Set("Content-Type", recorder.Header().Get("Content-Type"))
		w.WriteHeader(recorder.Code)
		_, _ = w.Write(recorder.Body.Bytes())
	}))
	defer server.Close()

	want := map[string]int{"loads.html": 200} // what core says, by path
	var files []site.File
	for p, src := range loaded {
		f := site.File{Path: p, Kind: site.KindOf(p)}
		if site.IsRead(p) {
			f.Doc = site.Scan(markup.NewScanner(), p, []byte(src))
		}
		files = append(files, f)
	}
	s := site.Build(files, site.Options{Place: address.Place{Mount: "/"}})
	r := address.NewResolver(s.Place)
	for i := range s.Files {
		f := &s.Files[i]
		if f.Doc == nil {
			continue
		}
		r.At(f.Path, f.Doc.Base, f.Doc.HasBase)
		for k, l := range s.Links(int32(i)) {
			ref := &f.Doc.References[k]
			if l.Outcome == site.NotJudged || ref.Written == "never-behind-source.png" {
				continue
			}
			path := r.Resolve(ref.Value()).Path
			if want[path] = 404; l.Outcome == site.Lands {
				want[path] = 200
			}
		}
	}
	delete(want, "s/a.css")
	delete(want, "s/b.css")

	b, err := browser()
	require.NoError(t, err)
	page, err := b.Page(proto.TargetCreateTarget{URL: server.URL + "/loads.html"})
	require.NoError(t, err)
	defer page.Close()
	require.NoError(t, page.WaitLoad())
	seen := func() map[string]int {
		mu.Lock()
		defer mu.Unlock()
		out := map[string]int{}
		for p, status := range asked {
			out[p] = status
		}
		return out
	}
	drive.Eventually(func() bool { return len(seen()) >= len(want) })
	time.Sleep(300 * time.Millisecond) // for what should not be asked for
	assert.Equal(t, want, seen())
}
