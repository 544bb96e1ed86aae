package coverage_test

import (
	"fmt"

	"sparecrate/font/coverage"
)

// A word stands for the letters of a script, of a language, or of a set that pages load.
func ExampleNamed() {
	cherokee, err := coverage.Named("script:Cherokee")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(cherokee)
	_, err = coverage.Named("Klingon")
	fmt.Println(err != nil)
	// Output:
	// U+13A0-13F5, U+13F8-13FD, U+AB70-ABBF
	// true
}
