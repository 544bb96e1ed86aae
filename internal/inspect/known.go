package inspect

// Known is what the catalog knows of a font that a page loads.
type Known struct {
	// Family and Face are its records, 0 where the catalog has nothing like it.
	Family     int64  `json:"family"`
	Face       int64  `json:"face"`
	FamilyName string `json:"familyName"`
	Style      string `json:"style"`
	// Exact says that the very bytes are in the catalog; else it was known by what it draws.
	Exact bool `json:"exact"`
	// How says how it relates to the face: same, renamed, part, instance, version.
	How     string `json:"how"`
	Version string `json:"version"` // of the face in the catalog
	Client  string `json:"client"`
	// OtherClient says that it was bought for another client than the page's.
	OtherClient bool `json:"otherClient"`
	// Verdict is cleared, review or blocked, with its reasons; empty where nobody asked.
	Verdict string   `json:"verdict"`
	Reasons []string `json:"reasons"`
}
