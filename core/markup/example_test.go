package markup_test

import (
	"fmt"

	"arvel/core/markup"
)

// A scanner finds what refers to something, with the bytes at which it is written.
func ExampleScanner_Page() {
	src := []byte(`<h2 id="sow">When to sow</h2>
<p><a href="../swap.html?a=1&amp;b=2">The swap</a>`)
	doc := markup.NewScanner().Page(src)
	ref := doc.References[0]
	fmt.Println(ref.Element, ref.Attribute, "line", ref.Line)
	fmt.Println(string(src[ref.Start:ref.End]), "is read as", ref.Value())
	fmt.Println(doc.Headings[0].ID, doc.Headings[0].Text)
	// Output:
	// a href line 2
	// ../swap.html?a=1&amp;b=2 is read as ../swap.html?a=1&b=2
	// sow When to sow
}
