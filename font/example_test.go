package font_test

import (
	"fmt"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/demo/foundry"
)

// A font file is opened whatever container it comes in, and its first face written into
// another one.
func Example() {
	ttf, err := foundry.Build(foundry.Signage()[1], font.TTF)
	if err != nil {
		fmt.Println(err)
		return
	}
	file, err := font.Open(ttf)
	if err != nil {
		fmt.Println(err)
		return
	}
	woff2, err := font.Make(file.Faces[0], font.WOFF2)
	if err != nil {
		fmt.Println(err)
		return
	}
	again, err := font.Open(woff2)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(file.Container, again.Container, len(woff2) < len(ttf)/2)
	fmt.Println(metadata.One(again.Faces[0]).Names.Full)
	// Output:
	// ttf woff2 true
	// Skerrow Sans Regular
}
