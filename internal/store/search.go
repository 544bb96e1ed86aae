package store

import (
	"strings"
	"time"
)

// Word is met by a family that has a word beginning with Begins, or else one of Any.
type Word struct {
	Begins string
	Any    []string
}

// LicenseState is how a family stands with its licenses.
type LicenseState string

// Sort is the order of a list of families.
type Sort string

// LikeEscape escapes text for the pattern of a LIKE.
var LikeEscape = strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`)

// Found is a family in a list.
type Found struct {
	ID, ClientID             int64
	ClientName, Name, Origin string
	Designer, Foundry        string
	Status                   Status
	Licenses, Sites          int         // how many cover it, how many use it
	Unsettled                int         // files of which somebody has to say which counts
	Faces                    []FoundFace `gorm:"-"`
	SortValue                string      // by which the next page is found
}

// FoundFace is a face in a list.
type FoundFace struct {
	ID, FamilyID int64
	Style        string
	Weight       int
	Width        float64 // in percent of the normal width
	Slope        string
	Listing      Listing `gorm:"embedded"`
	Meets        bool    // meets what was asked of faces
	Parts        bool    // it is there in several files, each for its characters
}

// TagCount is a tag and how many families carry it.
type TagCount struct {
	Tag      string
	Families int
}

// SavedSearch is a query that a person keeps under a name.
type SavedSearch struct {
	ID, PersonID int64
	Person       Person
	Name, Query  string
	Shared       bool
	CreatedAt    time.Time
}

// TableName is what the table is called.
func (SavedSearch) TableName() string { return "searches" }

// Unsettled is the condition that somebody has to say of a file l of a face whether it or
// another one counts.
const Unsettled = `l.removed_at IS NULL AND (l.outcome = 'conflict' OR l.outcome = 'mislabeled' AND l.preferred = 0)`
