package license_test

import (
	"fmt"
	"time"

	"sparecrate/internal/license"
)

// A verdict is worked out from what is known on a day; it never asks anything.
func ExampleJudge() {
	day := time.Date(2026, 11, 29, 0, 0, 0, 0, time.UTC)
	v := license.Judge(license.Question{
		Family: "Skerrow Sans", Client: "Holmvik Ferries", Use: license.Web, Day: day,
		Faces: []license.Face{{ID: 1, Name: "Skerrow Sans Regular"}},
	})
	fmt.Println(v.State)
	for _, r := range v.Reasons {
		fmt.Println(r.Code)
	}
	// Output:
	// review
	// no-license
}
