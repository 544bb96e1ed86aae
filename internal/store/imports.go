package store

import (
	"crypto/sha256"
	"encoding/hex"
	"time"
)

// Import is what arrived together and is looked through before it is taken in.
type Import struct {
	ID        int64
	Title     string
	ClientID  int64
	Origin    string
	State     string
	CreatedAt time.Time
	CreatedBy string
	Moved     int64 // goes up with changes of what is in it
	Client    Client
}

// ImportItem is one thing of a import, archives counting as folders.
type ImportItem struct {
	ID, ImportID   int64
	Path, PathHash string
	Kind, Why      string
	SHA256         string `gorm:"column:sha256"`
	Bytes          int64
	Summary        ItemSummary `gorm:"serializer:json"` // of a font
	// Of a font: the family and face that its first face names, and how many it has.
	Said, FaceKey string
	Faces         int
	ClientID      *int64 // where it is not the import's
	Origin        string // the same
	Family        string // where it is not the one that the font names
	Marked, Taken bool
	Settle        string   // what a person said of one in conflict: use or keep
	Tags          []string `gorm:"serializer:json"` // that its family gets
	Outcome       string   // once taken
	FamilyID      *int64   // that it went into
	Unpacked      bool     // of an archive: nothing of it is left to unpack
	Packed        bool     // it came in an archive
	Client        *Client
	Meets         *Meeting `gorm:"-"` // of a font that is not put into its import yet
}

// ItemSummary is what looking through a import needs to know of a font; all
// metadata are read again when it is taken in.
type ItemSummary struct {
	Format   string     `json:"format,omitempty"`
	Faces    []ItemFace `json:"faces,omitempty"`
	Problems []string   `json:"problems,omitempty"`
	Part     string     `json:"part,omitempty"`  // the characters it is for, of a face that was served in parts
	Range    string     `json:"range,omitempty"` // the same in full, as a unicode-range
}

// ItemFace is a face of a font in a import.
type ItemFace struct {
	Family   string  `json:"family"` // as the font names it
	Key      string  `json:"key"`    // as in Face
	Style    string  `json:"style"`
	Version  string  `json:"version"`
	Weight   int     `json:"weight"`
	Width    float64 `json:"width"`
	Italic   bool    `json:"italic"`
	Variable bool    `json:"variable,omitempty"`
}

// FamilyDocument is a document that came with a family's files.
type FamilyDocument struct {
	ID, FamilyID int64
	Name         string
	SHA256       string `gorm:"column:sha256"`
	Bytes        int64
	AddedAt      time.Time
	AddedBy      string
}

// Arrived is what was read of a font that is not in the catalog yet, so that it is not
// read again when it is taken in.
type Arrived struct {
	SHA256   string `gorm:"column:sha256;primaryKey"`
	Reader   int    // version of the reading
	Metadata []byte // of its faces, as packed JSON
	At       time.Time
}

// TableName keeps GORM from guessing.
func (Arrived) TableName() string { return "arrived_metadata" }

// PathHash returns what a path is found by: its SHA-256.
func PathHash(path string) string {
	sum := sha256.Sum256([]byte(path))
	return hex.EncodeToString(sum[:])
}

// Name sets the columns that things are found and grouped by.
func (it *ImportItem) Name() {
	it.PathHash, it.Faces = PathHash(it.Path), max(1, len(it.Summary.Faces))
	if len(it.Summary.Faces) > 0 {
		it.Said, it.FaceKey = it.Summary.Faces[0].Family, it.Summary.Faces[0].Key
	}
}

// Meeting is what a new thing of a import meets.
type Meeting struct {
	There     bool // the import has one at its path
	Twice     bool // its bytes are in the import at another path, too
	InCatalog bool // its bytes are in the catalog
	Elsewhere bool // they are there for another client alone
	Named     bool // the name of its family leads to a family of the client
}

// ImportCount says how many things of a kind there are.
type ImportCount struct {
	Kind                 string
	Count, Marked, Taken int
	Bytes                int64
}

// FaceHead is what looking through a import needs of a face.
type FaceHead struct {
	ID                    int64
	FaceKey, Style, Slope string
	Weight                int
	Variable              bool
}

// FamilyHead is a family with the heads of its faces.
type FamilyHead struct {
	ID    int64
	Name  string
	Faces []FaceHead
}

// Holder is a family that has a file.
type Holder struct {
	FileID, FaceID, FamilyID, ClientID int64
	Place                              int
	SHA256                             string `gorm:"column:sha256"`
	File, Family, Client               string // names
	Status                             Status
	Removed                            bool // the file was removed from it, and can be brought back
}
