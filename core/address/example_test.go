package address_test

import (
	"fmt"

	"arvel/core/address"
)

// A reference is resolved against the page that holds it, at the place where the folder is opened.
func ExampleResolver_Resolve() {
	r := address.NewResolver(address.Place{Mount: "/"})
	r.At("guides/sowing.html", "", false)
	for _, value := range []string{"../index.html#top", "notes.html", "https://orchard.example/", "mailto:a@b.example"} {
		switch t := r.Resolve(value); t.Kind {
		case address.Inside:
			fmt.Printf("%s is in the folder, its fragment %q\n", t.Path, t.Fragment)
		case address.Web:
			fmt.Println("another site:", t.URL)
		case address.Mail:
			fmt.Println("a mailbox")
		}
	}
	// Output:
	// index.html is in the folder, its fragment "top"
	// guides/notes.html is in the folder, its fragment ""
	// another site: https://orchard.example/
	// a mailbox
}

// The way back: what is written on a page in the folder guides so that it leads to a target.
func ExampleRelative() {
	fmt.Println(address.Relative("guides", "images/bean pods.png"))
	fmt.Println(address.Relative("guides", "guides/sowing.html"))
	fmt.Println(address.Relative("guides", ""))
	// Output:
	// ../images/bean%20pods.png
	// sowing.html
	// ../
}
