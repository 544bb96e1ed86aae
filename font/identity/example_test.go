package identity_test

import (
	"fmt"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/identity"
	"sparecrate/font/subset"
	"sparecrate/internal/demo/foundry"
)

// A trimmed font is told by what it draws.
func ExampleBetween() {
	data, err := foundry.Build(foundry.Signage()[1], font.TTF)
	if err != nil {
		panic(err)
	}
	opened, err := font.Open(data)
	if err != nil {
		panic(err)
	}
	small, _, err := subset.Face(opened.Faces[0], subset.Options{Characters: coverage.OfText("Harbour")})
	if err != nil {
		panic(err)
	}
	whole, err := identity.Read(opened.Faces[0])
	if err != nil {
		panic(err)
	}
	part, err := identity.Read(small)
	if err != nil {
		panic(err)
	}
	d := identity.Between(part, whole)
	fmt.Println(d.Relation, d.Evidence.Alike, "of", d.Evidence.Common, "alike,", d.Evidence.OnlyA.Len(), "only in the part")
	// Output: part 6 of 6 alike, 0 only in the part
}
