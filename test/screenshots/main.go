// Screenshots makes a picture of each main view from the demo folder, for the README. Run it by "make screenshots".
package main

import (
	"fmt"
	"log"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"arvel/test/drive"
)

// shot is one picture: where to go, and what to do there before it is taken.
type shot struct {
	name, path string
	dark       bool
	before     func(*rod.Page)
}

func pages(page string) string { return "folder/1/pages?page=" + url.QueryEscape(page) }

// choose selects the link that is written like that.
func choose(written string) func(*rod.Page) {
	return func(p *rod.Page) {
		p.MustElementR(`[aria-label="Links"] [role=option]`, regexpQuote(written)).MustClick()
	}
}

// writes opens the line where the caret is, and chooses what is written.
func writes(p *rod.Page, what string) {
	p.MustElement(".cm-line")
	p.KeyActions().Press(input.ControlLeft).Type(input.KeyE).MustDo()
	bar := p.MustElement(`[aria-label="What can be written here"]`)
	if what != "" {
		bar.MustElementR("button", what).MustClick()
	}
}

// picks chooses from a list that opens.
func picks(p *rod.Page, label, choice string) {
	p.MustElement(`[aria-label="` + label + `"]`).MustClick()
	p.MustElementR("[role=option]", choice).MustClick()
}

func regexpQuote(s string) string {
	return strings.NewReplacer(".", `\.`, "/", `\/`, "?", `\?`, "+", `\+`).Replace(s)
}

var shots = []shot{
	{"overview", "folder/1/overview", false, nil},
	{"pages", pages("guides/sowing.html"), false, choose("../image/bean-pods.png")},
	{"pages-fragment", pages("guides/sowing.html"), false, choose("#Squash")},
	{"pages-dark", pages("catalogue/Tomatoes.htm"), true, choose("guides/saving.html#cleaning")},
	{"pages-source", pages("guides/sowing.html") + "&see=source", false, nil},
	{"pages-itself", pages("guides/sowing.html") + "&see=page", false, nil},
	{"pages-write", pages("index.html") + "&see=write", false, func(p *rod.Page) {
		writes(p, "")
		p.MustElement(`[data-place="href"]`).MustInput("beans")
	}},
	{"repairs", "folder/1/repairs", false, nil},
	{"moves", "folder/1/moves", false, func(p *rod.Page) {
		p.MustElement(`[data-tick="Choose borrow.html"]`).MustClick()
		p.MustElement(`[data-tick="Choose visit.html"]`).MustClick()
		p.Keyboard.MustType('m')
		time.Sleep(300 * time.Millisecond)
		p.MustElement(`#move-to`).MustInput("club").MustType(input.Enter)
	}},
	{"moves-deleting", "folder/1/moves", false, func(p *rod.Page) {
		p.MustElement(`[data-tick="Choose borrow.html"]`).MustClick()
		p.MustElement(`[data-tick="Choose events.html"]`).MustClick()
		p.MustElementR("button", "^Delete$").MustClick()
		picks(p, "What becomes of the references to events.html", "are removed, their words stay")
	}},
	{"pages-menu", pages("index.html") + "&see=write", false, func(p *rod.Page) {
		writes(p, "on other pages")
		p.MustElementR("button", "Put it on")
	}},
	{"hosting", "folder/1/hosting", false, nil},
	{"anchors", "folder/1/anchors?page=" + url.QueryEscape("guides/sowing.html"), false, nil},
	{"history", "folder/1/history", false, func(p *rod.Page) {
		p.MustNavigate(p.MustInfo().URL).MustWaitLoad()
	}},
	{"start", "", false, nil},
}

func main() {
	out := filepath.Join(drive.Root(), "docs", "screenshots")
	if len(os.Args) > 1 {
		out = os.Args[1]
	}
	if err := run(out); err != nil {
		log.Fatal(err)
	}
}

func run(out string) error {
	work, err := os.MkdirTemp("", "arvel-screenshots-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work)
	os.Setenv("HOME", work) // so that the pictures show a path that anybody could have
	program, err := drive.Start("demo", "--port", "0", "--at", filepath.Join(work, "sites"))
	if err != nil {
		return err
	}
	defer program.Stop()
	browser, err := drive.Browser()
	if err != nil {
		return err
	}
	defer browser.MustClose()
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	return rod.Try(func() {
		repairTwo(browser.MustPage().Timeout(time.Minute), program)
		for _, s := range shots {
			take(browser, program, s, out)
		}
	})
}

// repairTwo makes a little history.
func repairTwo(p *rod.Page, program *drive.Program) {
	for _, page := range []string{"notes/leeks.html", "catalogue/leaves.html"} {
		p.MustNavigate(program.Enter(pages(page))).MustElement(`[aria-label="Repairs"] button`).MustClick()
		time.Sleep(700 * time.Millisecond)
	}
	p.MustClose()
}

func take(browser *rod.Browser, program *drive.Program, s shot, out string) {
	p := browser.MustPage().Timeout(time.Minute)
	defer p.MustClose()
	p.MustSetViewport(1280, 800, 1, false)
	theme := "light"
	if s.dark {
		theme = "dark"
	}
	err := proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{
		{Name: "prefers-color-scheme", Value: theme},
		{Name: "prefers-reduced-motion", Value: "reduce"},
	}}.Call(p)
	if err != nil {
		panic(err)
	}
	if s.path == "" {
		p.MustEvalOnNewDocument(`sessionStorage.setItem("begun", "yes")`)
	}
	p.MustNavigate(program.Enter(s.path)).MustWaitLoad()
	p.MustElement("main")
	time.Sleep(600 * time.Millisecond)
	if s.before != nil {
		s.before(p)
		time.Sleep(600 * time.Millisecond)
	}
	p.Mouse.MustMoveTo(700, 790)
	p.MustScreenshot(filepath.Join(out, s.name+".png"))
	fmt.Println(s.name)
}
