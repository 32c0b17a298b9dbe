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

func ExampleThousands() {
	for _, n := range []int{7, 985, 6985, 1234567, -1000} {
		fmt.Println(phrase.Thousands(n))
	}
	// Output:
	// 7
	// 985
	// 6,985
	// 1,234,567
	// -1,000
}
