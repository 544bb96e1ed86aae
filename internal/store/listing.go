package store

// Listing is what lists and search know of a face, out of the file of it that
// packs take.
type Listing struct {
	FileID               int64
	Place                int
	Format               string
	Formats              Formats // of all its files
	Supplied             Formats // that go out as their supplier made them
	WeightMin, WeightMax int     // the same but for a variable weight
	WidthMin, WidthMax   float64
	Variable, Color      bool
	Permission           string
	Sample               string
	TraitSet             int64 // a number that TraitSet gave
	FullName             string
	Look                 Look  `gorm:"embedded"`
	Bearing              int64 // number of what verdicts need of it, which Bearing gave; 0 where an older version listed it
}

// Look is how a face looks, as package appearance measures it; all 0 where it is not
// measured, or cannot be.
type Look struct {
	Kind                            string // of package appearance
	Serifs, Stem, Contrast, XHeight float64
	LetterWidth, Roundness, Slant   float64
}
