package store

import (
	"slices"
	"time"

	"sparecrate/font/appearance"
	"sparecrate/font/metadata"
)

// Family is a font family of one client.
type Family struct {
	ID, ClientID       int64
	Name, Origin, Note string
	Designer, Foundry  string
	Status             Status     `gorm:"default:active"`
	StatusAt           *time.Time // when it was put there
	StatusBy           string     // who did
	Gone               int64      // its own number once deleted, so that its name is free
	FaceCount          int
	Version            int
	Indexer            int // catalog's version of what lists and search know of it
	CreatedAt          time.Time
	ChangedAt          time.Time
	Client             Client
	Faces              []Face
	Tags               []FamilyTag
}

// Status is where a family is kept: in the catalog, set aside, or on its way out.
type Status string

// The statuses.
const (
	AnyStatus Status = "any" // of a query
	Active    Status = "active"
	Retired   Status = "retired"
	Deleted   Status = "deleted"
)

// FamilyTag is a word a family is marked with.
type FamilyTag struct {
	Tag      string `gorm:"primaryKey"`
	FamilyID int64  `gorm:"primaryKey"`
}

// Face is one design of a family, or one variable font.
type Face struct {
	ID, FamilyID int64
	FaceKey      string // what makes it the same face when it comes again
	Style        string
	Width        float64
	Weight       int
	Slope        string
	Files        []FaceFile // without those that were removed
	Removed      []FaceFile `gorm:"-"` // that can be brought back, where they were asked for
	Listing      Listing    `gorm:"embedded"`
	// Together is what can be written with all files in use, where these are parts.
	Together *metadata.Coverage `gorm:"serializer:json"`
}

// Current returns the file of a face that packs take, nil where there is none. Where they
// take several parts it is the first of these, with the characters of all.
func (f *Face) Current() *FaceFile {
	for i := range f.Files {
		if !f.Files[i].Current {
			continue
		}
		if f.Together == nil {
			return &f.Files[i]
		}
		all := f.Files[i]
		all.Metadata.Coverage = *f.Together
		return &all
	}
	return nil
}

// Parts returns the files that packs take of a face where these are several, the first
// with the basic letters.
func (f *Face) Parts() []FaceFile {
	var out []FaceFile
	for _, l := range f.Files {
		if l.Current {
			out = append([]FaceFile{l}, out...)
		} else if l.Beside {
			out = append(out, l)
		}
	}
	if len(out) < 2 {
		return nil
	}
	return out
}

// SuppliedOf are the formats that go out as their supplier made them: of the file in
// use and of its siblings.
func SuppliedOf(files []FaceFile) Formats {
	var out Formats
	for _, f := range files {
		if (f.File.Faces == 1 || f.File.Format == "ttc") && (f.Current || f.Outcome == "sibling") {
			out = append(out, f.File.Format)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// File is one format's bytes; the bytes themselves are in the bucket.
type File struct {
	ID      int64
	SHA256  string `gorm:"column:sha256"`
	Bytes   int64
	Format  string
	Faces   int // how many it holds
	Name    string
	AddedAt time.Time
	AddedBy string
}

// FaceFile says that a file holds a face, at a place (0 but in collections).
type FaceFile struct {
	FaceID, FileID int64
	Place          int
	Version        string
	Current        bool
	Beside         bool          // packs take it as a part, beside the current one
	Metadata       metadata.Face `gorm:"serializer:json"`
	Reader         int           // metadata.Version of the core that read them
	Outcome, Why   string        // what it is beside the file in use, and that in a sentence
	Served         string        // the unicode-range that it was served for
	Sends          string        // of one of several parts in use, the unicode-range that packs send it for
	Chosen         bool          // a person said that packs take it
	ChosenBy       string
	Preferred      int64 // a person said that it counts for its version: the highest wins
	// AsStyle and AsWeight are what a person recorded it as, where it calls itself otherwise.
	AsStyle   string
	AsWeight  int
	LooksLike string // the style that a mislabeled one looks like
	RemovedAt *time.Time
	RemovedBy string
	File      File
}

// Record has the file stand for what a person recorded it as: what styles and roles choose
// by. The names in it stay what they are.
func (f *FaceFile) Record() {
	if f.AsWeight == 0 || f.Metadata.Style.Weight == f.AsWeight {
		return
	}
	f.Metadata.Problems = append(f.Metadata.Problems, metadata.Problem{Code: ProblemRecorded, Message: "It calls itself " + f.Metadata.Names.StyleName() + " and was recorded as " + f.AsStyle + "."})
	f.Metadata.Style.Weight = f.AsWeight
}

// ProblemRecorded is the code of the problem that a file calls itself otherwise than it was
// recorded.
const ProblemRecorded = "recorded-otherwise"

// Print is a face of a file measured (package identity), packed; empty for one that has
// no outlines.
type Print struct {
	SHA256   string `gorm:"column:sha256;primaryKey"`
	Place    int    `gorm:"primaryKey"`
	Measurer int    // identity.Measurer of the core that measured it
	Packed   []byte
	// Look is how the face looks, nil where it cannot be measured.
	Look *appearance.Appearance `gorm:"serializer:json"`
}

// PrintCell says that a face of a file is found by a cell.
type PrintCell struct {
	Cell   uint32
	FileID int64
	Place  int
}

// Derived is a file made from another: by which recipe, and what came out.
type Derived struct {
	Source, Recipe string
	Hash           string
	Bytes          int64
	Told           string // what came of it, as JSON; empty for another format
}

// ToldSupplied is told of a format that was not made: it is the supplier's own file.
const ToldSupplied = `{"supplied":true}`

// TableName keeps GORM from looking for a plural.
func (Derived) TableName() string { return "derived" }
