package metadata

import (
	"fmt"
	"math/bits"

	"sparecrate/font/table"
)

// Level is the usage permission of OS/2.fsType.
type Level string

// The levels, from the widest to the narrowest.
const (
	Installable  Level = "installable"
	Editable     Level = "editable"
	PreviewPrint Level = "preview-print"
	Restricted   Level = "restricted"
	NotStated    Level = "not-stated" // the font has no OS/2 table
)

// Embedding is the embedding permission (OpenType, `OS/2`, fsType).
type Embedding struct {
	FsType       int   `json:"fsType"` // as it stands in the font; 0 where nothing is stated
	Level        Level `json:"level"`
	NoSubsetting bool  `json:"noSubsetting"`
	BitmapOnly   bool  `json:"bitmapOnly"`
}

// Words says the permission in a sentence, with its number.
func (e Embedding) Words() string {
	if e.Level == NotStated {
		return "The font states no embedding permission."
	}
	s := map[Level]string{
		Installable:  "Installable: embedding and installing are permitted",
		Editable:     "Editable: embedding in editable documents is permitted",
		PreviewPrint: "Preview and print: embedding is permitted for viewing and printing only",
		Restricted:   "Restricted: embedding is not permitted",
	}[e.Level]
	if e.NoSubsetting {
		s += ", no subsetting"
	}
	if e.BitmapOnly {
		s += ", bitmaps only"
	}
	return fmt.Sprintf("%s (fsType %d).", s, e.FsType)
}

// readEmbedding takes the least restrictive of several usage bits, as the
// specification says for table versions before 3; from version 3 on they
// exclude each other, so several are a problem too.
func (r *reading) readEmbedding() {
	if r.os2 == nil {
		r.out.Embedding = Embedding{Level: NotStated}
		return
	}
	e := Embedding{
		FsType:       int(r.os2.Type),
		NoSubsetting: r.os2.Type&table.EmbedNoSubsetting != 0,
		BitmapOnly:   r.os2.Type&table.EmbedBitmapOnly != 0,
	}
	usage := r.os2.Type & table.EmbedLevels
	switch {
	case usage&table.EmbedEditable != 0:
		e.Level = Editable
	case usage&table.EmbedPreviewPrint != 0:
		e.Level = PreviewPrint
	case usage&table.EmbedRestricted != 0:
		e.Level = Restricted
	default:
		e.Level = Installable
	}
	if r.os2.Version >= 3 && bits.OnesCount16(usage) > 1 {
		r.problem(ProblemUsageBits, fmt.Sprintf(
			"Several embedding permissions are set at once (fsType %d), which excludes itself; the least restrictive counts: %s.", e.FsType, e.Level))
	}
	r.out.Embedding = e
}
