package diff_test

import (
	"fmt"

	"sparecrate/font"
	"sparecrate/font/diff"
	"sparecrate/internal/demo/foundry"
)

// What a new version changed is said by character and by value.
func ExampleBetween() {
	design := foundry.Signage()[1]
	faces := func() *font.File {
		data, err := foundry.Build(design, font.TTF)
		if err != nil {
			fmt.Println(err)
			return nil
		}
		file, err := font.Open(data)
		if err != nil {
			fmt.Println(err)
			return nil
		}
		return file
	}
	was := faces()
	design.Thick += 10
	is := faces()
	if was == nil || is == nil {
		return
	}
	c := diff.Between(was.Faces[0], is.Faces[0])
	fmt.Println(c.None(), len(c.Redrawn) > 0, c.Added.Count, c.Gone.Count)
	// Output:
	// false true 0 0
}
