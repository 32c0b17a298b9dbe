package plan_test

import (
	"fmt"

	"arvel/core/address"
	"arvel/core/markup"
	"arvel/core/plan"
	"arvel/core/site"
)

// A move is planned on a snapshot: what refers to the page is rewritten, and so is what the page refers to.
func ExampleMoves() {
	scanner := markup.NewScanner()
	page := func(path, src string) site.File {
		return site.File{Path: path, Kind: site.Page, Doc: scanner.Page([]byte(src))}
	}
	s := site.Build([]site.File{
		page("index.html", `<a href="sowing.html">When to sow</a>`),
		page("sowing.html", `<a href="index.html">Home</a>`),
	}, site.Options{Place: address.Place{Mount: "/"}})
	p := plan.Moves(s, []plan.Move{{From: "sowing.html", To: "guides/sowing.html"}}, plan.Options{})
	for _, r := range p.Rewrites {
		fmt.Println(r.Page, r.Before, "→", r.After)
	}
	// Output:
	// index.html sowing.html → guides/sowing.html
	// sowing.html index.html → ../index.html
}
