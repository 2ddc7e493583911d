package work_test

import (
	"fmt"

	"prairiedusk/internal/core/work"
)

// A fault in any of the parts is an error of whoever asked for them.
func ExampleEach() {
	sums := make([]int, 4)
	err := work.Do(func() {
		work.Each(len(sums), func(part int) { sums[part] = part * part })
	})
	fmt.Println(sums, err)
	err = work.Do(func() { work.Each(4, func(part int) { panic("no such column") }) })
	fmt.Println(err)
	// Output:
	// [0 1 4 9] <nil>
	// no such column
}
