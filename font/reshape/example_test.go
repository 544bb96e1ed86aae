package reshape_test

import (
	"fmt"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/reshape"
	"sparecrate/internal/demo/foundry"
)

// A recipe names what is to become of a face; it is done in the one order that works.
func ExampleRecipe() {
	data, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	if err != nil {
		fmt.Println(err)
		return
	}
	file, err := font.Open(data)
	if err != nil {
		fmt.Println(err)
		return
	}
	recipe := reshape.Recipe{
		Instance: &reshape.Instance{At: map[string]string{"wght": "600"}},
		Subset:   &reshape.Subset{Text: "Timetable 0123456789"},
		Rename:   &reshape.Rename{Family: "Skerrow Timetable"},
	}
	made, _, err := recipe.Apply(file.Faces[0])
	if err != nil {
		fmt.Println(err)
		return
	}
	face := metadata.One(made)
	fmt.Println(face.Names.Full, face.Style.Weight, len(face.Axes), face.Coverage.Codepoints)
	// Output:
	// Skerrow Timetable SemiBold 600 0 19
}
