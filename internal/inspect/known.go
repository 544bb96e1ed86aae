package inspect

// Known is what the catalog knows of a font that a page loads.
type Known struct {
	// Family and Face are its records, 0 where the catalog has nothing like it.
	Family     int64  `json:"family"`
	Face       int64  `json:"face"`
	FamilyName string `json:"familyName"`
	Style      string `json:"style"`
	// Relation says how it relates to the face, judged by what both draw: same, part,
	// instance or version; Why says it in a sentence.
	Relation string `json:"relation"`
	Why      string `json:"why"`
	// File says that the very bytes are known: a file of the catalog, or one made of it here.
	File   bool   `json:"file"`
	Client string `json:"client"` // that has the family
	// OtherClient says that it was bought for another client than the page's.
	OtherClient bool `json:"otherClient"`
	// Verdict is cleared, review or blocked, with its reasons; empty where nobody asked.
	Verdict string   `json:"verdict"`
	Reasons []string `json:"reasons"`
}
