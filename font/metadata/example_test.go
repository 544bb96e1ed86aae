package metadata_test

import (
	"fmt"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/demo/foundry"
)

// The metadata of a face are what its tables say, in words where there are some.
func ExampleOne() {
	data, err := foundry.Build(foundry.Signage()[2], font.TTF)
	if err != nil {
		fmt.Println(err)
		return
	}
	file, err := font.Open(data)
	if err != nil {
		fmt.Println(err)
		return
	}
	face := metadata.One(file.Faces[0])
	fmt.Println(face.Names.PostScript, face.Style.Weight, face.UnitsPerEm)
	fmt.Println(face.Embedding.Words())
	// Output:
	// SkerrowSans-Bold 700 1000
	// Installable: embedding and installing are permitted (fsType 0).
}
