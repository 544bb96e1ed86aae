package store

import (
	"time"

	"sparecrate/font/facts"
)

// Family is a font family of one client.
type Family struct {
	ID, ClientID       int64
	Name, Origin, Note string
	Designer, Foundry  string
	Shelf              Shelf      `gorm:"default:catalog"`
	ShelfAt            *time.Time // when it was put there
	ShelfBy            string     // who did
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

// Shelf is where a family is kept: in the catalog, set aside, or on its way out.
type Shelf string

// The shelves.
const (
	InCatalog Shelf = "catalog"
	Retired   Shelf = "retired"
	Deleted   Shelf = "deleted"
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
	Files        []FaceFile
	Listing      Listing `gorm:"embedded"`
}

// Current returns the file of a face that packs take, nil where there is none.
func (f *Face) Current() *FaceFile {
	for i := range f.Files {
		if f.Files[i].Current {
			return &f.Files[i]
		}
	}
	return nil
}

// File is one container's bytes; the bytes themselves are in the bucket.
type File struct {
	ID        int64
	SHA256    string `gorm:"column:sha256"`
	Bytes     int64
	Container string
	Faces     int // how many it holds
	Name      string
	AddedAt   time.Time
	AddedBy   string
}

// FaceFile says that a file holds a face, at a place (0 but in collections).
type FaceFile struct {
	FaceID, FileID int64
	Place          int
	Version        string
	Current        bool
	Facts          facts.Face `gorm:"serializer:json"`
	Reader         int        // facts.Version of the core that read them
	Outcome, Why   string     // what it was beside the file in use when it came, and that in a sentence; empty for the first
	File           File
}

// Print is a face of a file measured (package identity), packed; empty for one that has
// no outlines.
type Print struct {
	SHA256   string `gorm:"column:sha256;primaryKey"`
	Place    int    `gorm:"primaryKey"`
	Measurer int    // identity.Measurer of the core that measured it
	Packed   []byte
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
	Told           string // what came of it, as JSON; empty for another container
}

// ToldSupplied is told of a container that was not made: it is the supplier's own file.
const ToldSupplied = `{"supplied":true}`

// TableName keeps GORM from looking for a plural.
func (Derived) TableName() string { return "derived" }
