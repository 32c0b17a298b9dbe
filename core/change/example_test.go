package change_test

import (
	"fmt"

	"arvel/core/change"
)

// Edits are made in the bytes that were read, and recorded ones are taken back the same way.
func Example() {
	src := []byte(`<a href="tomatos.html">`)
	edits, err := change.Recorded(src, []change.Edit{{Start: 9, End: 16, New: []byte("tomatoes")}})
	if err != nil {
		panic(err)
	}
	fresh, _ := change.Apply(src, edits)
	fmt.Println(string(fresh))
	back, _ := change.Apply(fresh, change.Inverse(edits))
	fmt.Println(string(back))
	// Output:
	// <a href="tomatoes.html">
	// <a href="tomatos.html">
}
