// Package e2e drives the real program and its real interface in Chromium, as a user would: what is pressed and
// read is found by its role and name.
package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arvel/demo"
	"arvel/test/drive"
)

var browser = sync.OnceValues(drive.Browser)

func TestMain(m *testing.M) {
	code := m.Run()
	if b, err := browser(); err == nil {
		b.Close()
	}
	os.Exit(code)
}

// user is somebody in front of Arvel.
type user struct {
	*testing.T
	*drive.Program
	page      *rod.Page
	dir, data string
}

// sitDown starts Arvel on a copy of the demo folder and opens it in the browser.
func sitDown(t *testing.T) *user {
	t.Helper()
	u := &user{T: t, dir: filepath.Join(t.TempDir(), "seed-library"), data: t.TempDir()}
	require.NoError(t, demo.CopyTo(u.dir))
	u.start(u.dir)
	u.open("folder/1/pages")
	return u
}

// start starts the program, on a folder or on none.
func (u *user) start(folder ...string) {
	u.Helper()
	p, err := drive.Start(append([]string{"serve", "--port", "0", "--data", u.data}, folder...)...)
	require.NoError(u, err)
	u.Program = p
	u.Cleanup(func() { p.Stop() })
}

// open opens an address of the program in a new window.
func (u *user) open(path string) {
	u.Helper()
	b, err := browser()
	require.NoError(u, err)
	page, err := b.Page(proto.TargetCreateTarget{})
	require.NoError(u, err)
	u.page = page.Timeout(90 * time.Second)
	u.listen(page)
	u.Cleanup(func() { page.Close() })
	require.NoError(u, u.page.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 1280, Height: 800, DeviceScaleFactor: 1}))
	require.NoError(u, u.page.Navigate(u.Enter(path)))
}

// expected is what a browser says by itself of what Arvel does on purpose, and of a server that was stopped.
var expected = []string{
	"allow-scripts and allow-same-origin for its sandbox attribute", "net::ERR_CONNECTION_REFUSED", "net::ERR_INCOMPLETE_CHUNKED_ENCODING", "net::ERR_CONNECTION_RESET", "net::ERR_EMPTY_RESPONSE",
}

// listen holds that the console stays empty: every error and warning in it fails the test.
func (u *user) listen(page *rod.Page) {
	var mu sync.Mutex
	var said []string
	say := func(text, from string) {
		if from != "" && !strings.HasPrefix(from, u.Address) {
			return // the author's page says what it likes
		}
		for _, e := range expected {
			if contains(text, e) {
				return
			}
		}
		mu.Lock()
		defer mu.Unlock()
		said = append(said, text)
	}
	go page.EachEvent(func(e *proto.RuntimeConsoleAPICalled) {
		if e.Type == proto.RuntimeConsoleAPICalledTypeError || e.Type == proto.RuntimeConsoleAPICalledTypeWarning {
			text := string(e.Type)
			for _, a := range e.Args {
				text += " " + a.Value.String() + a.Description
			}
			from := ""
			if e.StackTrace != nil && len(e.StackTrace.CallFrames) > 0 {
				from = e.StackTrace.CallFrames[0].URL
			}
			say(text, from)
		}
	}, func(e *proto.LogEntryAdded) {
		if e.Entry.Level == proto.LogLogEntryLevelError || e.Entry.Level == proto.LogLogEntryLevelWarning {
			say(e.Entry.Text+" "+e.Entry.URL, e.Entry.URL)
		}
	}, func(e *proto.RuntimeExceptionThrown) {
		text := e.ExceptionDetails.Text
		if x := e.ExceptionDetails.Exception; x != nil {
			text += " " + x.Description
		}
		say(text, e.ExceptionDetails.URL)
	})()
	u.Cleanup(func() {
		mu.Lock()
		defer mu.Unlock()
		assert.Empty(u, said, "the console stays empty")
	})
}

// all returns what has the role and the accessible name now.
func (u *user) all(role, name string) (found []*rod.Element) {
	root, err := proto.DOMGetDocument{}.Call(u.page)
	if err != nil {
		return nil
	}
	res, err := proto.AccessibilityQueryAXTree{NodeID: root.Root.NodeID, Role: role, AccessibleName: name}.Call(u.page)
	if err != nil {
		return nil
	}
	for _, n := range res.Nodes {
		if n.Ignored {
			continue
		}
		if e, err := u.page.ElementFromNode(&proto.DOMNode{BackendNodeID: n.BackendDOMNodeID}); err == nil {
			found = append(found, e)
		}
	}
	return found
}

// see waits for what has the role and the name; a name of "" stands for any.
func (u *user) see(role, name string) *rod.Element {
	u.Helper()
	var found []*rod.Element
	if !drive.Eventually(func() bool { found = u.all(role, name); return len(found) > 0 }) {
		u.Fatalf("there is no %s “%s” on %s\n%s", role, name, u.page.MustInfo().URL, u.text())
	}
	return found[0]
}

// press clicks on what has the role and the name.
func (u *user) press(role, name string) {
	u.Helper()
	u.clicks(role+" "+name, func() (*rod.Element, error) { return u.see(role, name).Timeout(2 * time.Second), nil })
}

// click presses the element that matches a selector and whose text matches an expression.
func (u *user) click(selector, expression string) {
	u.Helper()
	u.clicks(expression, func() (*rod.Element, error) { return u.page.Timeout(2*time.Second).ElementR(selector, expression) })
}

// clicks presses what find finds, with a time limit of its own.
func (u *user) clicks(what string, find func() (*rod.Element, error)) {
	u.Helper()
	// What is shown may be drawn anew between seeing and clicking, as it may under a user's hand.
	require.True(u, drive.Eventually(func() bool {
		e, err := find()
		return err == nil && e.ScrollIntoView() == nil && e.Click(proto.InputMouseButtonLeft, 1) == nil
	}), "%s can't be pressed", what)
}

// option chooses the row of a list whose text holds the words.
func (u *user) option(list, words string) *rod.Element {
	u.Helper()
	var found *rod.Element
	if !drive.Eventually(func() bool {
		lists := append(u.all("listbox", list), u.all("tree", list)...)
		if len(lists) == 0 {
			return false
		}
		options, err := lists[0].Elements("[role=option], [role=treeitem]")
		if err != nil {
			return false
		}
		for _, o := range options {
			if text, err := o.Text(); err == nil && contains(text, words) {
				found = o
				return true
			}
		}
		// Only what is in view is drawn: scroll on, and begin again at the end.
		_, _ = lists[0].Eval(`() => {
			const end = this.scrollTop + this.clientHeight >= this.scrollHeight - 1;
			this.scrollTop = end ? 0 : this.scrollTop + this.clientHeight / 2;
		}`)
		return false
	}) {
		u.Fatalf("no row of %s has “%s”\n%s", list, words, u.text())
	}
	return found
}

func (u *user) choose(list, words string) {
	u.Helper()
	require.True(u, drive.Eventually(func() bool {
		o := u.option(list, words).Timeout(2 * time.Second)
		return o.ScrollIntoView() == nil && o.Click(proto.InputMouseButtonLeft, 1) == nil
	}))
}

// picks chooses from a list that opens.
func (u *user) picks(label, choice string) {
	u.Helper()
	u.press("combobox", label)
	u.press("option", choice)
	require.True(u, drive.Eventually(func() bool { return len(u.all("option", choice)) == 0 }), "the list closes")
}

// tick ticks what a row of a list is named by.
func (u *user) tick(title string) {
	u.Helper()
	require.True(u, drive.Eventually(func() bool {
		v, err := u.page.Eval(`title => { const at = document.querySelector('[data-tick="' + CSS.escape(title) + '"]'); at?.click(); return !!at; }`, title)
		return err == nil && v.Value.Bool()
	}), title)
}

// reads waits until the words are somewhere in the window.
func (u *user) reads(words string) {
	u.Helper()
	if !drive.Eventually(func() bool { return contains(u.text(), words) }) {
		u.Fatalf("“%s” can't be read:\n%s", words, u.text())
	}
}

// below waits until the destination line says the words.
func (u *user) below(words string) {
	u.Helper()
	said := func() string {
		return strings.Join(strings.Fields(u.page.MustElement(`[data-testid="destination"]`).MustText()), " ")
	}
	require.True(u, drive.Eventually(func() bool { return contains(said(), words) }), said())
}

func (u *user) text() string {
	v, err := u.page.Eval(`() => document.body.innerText`)
	if err != nil {
		return fmt.Sprint(err)
	}
	return v.Value.Str()
}

// file returns the bytes of a file of the folder.
func (u *user) file(p string) string {
	u.Helper()
	b, err := os.ReadFile(filepath.Join(u.dir, p))
	require.NoError(u, err)
	return string(b)
}

func (u *user) becomes(p, want string) {
	u.Helper()
	require.True(u, drive.Eventually(func() bool { return u.file(p) == want }), "%s is\n%s", p, u.file(p))
}
