package phrase_test

import (
	"fmt"

	"arvel/core/phrase"
)

func Example() {
	fmt.Println(phrase.Capital("it has " + phrase.Count(1, "id") + ", " + phrase.Mono("beans") + "."))
	fmt.Println(phrase.Capital(phrase.Mono("a`b.html") + " has " + phrase.Count(3, "id") + "."))
	// Output:
	// It has one id, `beans`.
	// `aˋb.html` has 3 ids.
}
