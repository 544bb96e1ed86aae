package lint_test

import (
	"fmt"

	"sparecrate/font"
	"sparecrate/font/lint"
	"sparecrate/internal/demo/foundry"
)

// A check says what in a file breaks the rules of its format, in sentences.
func ExampleCheck() {
	data, err := foundry.Build(foundry.Signage()[1], font.TTF)
	if err != nil {
		fmt.Println(err)
		return
	}
	data[len(data)/2] ^= 0xff
	report, err := lint.Check(data)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, f := range report.Findings {
		fmt.Println(f.Severity, f.Table, f.Code)
	}
	// Output:
	// warning head checksum-file
	// warning glyf checksum
	// warning glyf glyph-box
}
