package sfnt

import (
	"slices"
)

// WrongChecksums returns for each face the tags of tables whose bytes do not sum
// up to what the directory states. What faces share is summed once.
func WrongChecksums(faces []*Font) [][]Tag {
	type part struct {
		first *byte
		size  int
		head  bool
	}
	sums := map[part]uint32{}
	wrong := make([][]Tag, len(faces))
	for i, f := range faces {
		for _, t := range f.Tables {
			if len(t.Data) == 0 {
				continue
			}
			key := part{&t.Data[0], len(t.Data), t.Tag == TagHead}
			sum, known := sums[key]
			if !known {
				if sum = Checksum(t.Data); t.Tag == TagHead {
					sum = HeadChecksum(t.Data)
				}
				sums[key] = sum
			}
			if sum != t.Checksum {
				wrong[i] = append(wrong[i], t.Tag)
			}
		}
	}
	return wrong
}

// Overlapping returns the pairs of tables that share bytes of the file they were
// read from without being the same bytes.
func (f *Font) Overlapping() [][2]Tag {
	// Places in the file, then in the directory: numbers are sorted in no time.
	var room [64]uint64
	order := room[:0]
	for i, t := range f.Tables {
		order = append(order, uint64(t.Offset)<<32|uint64(i))
	}
	slices.Sort(order)
	var pairs [][2]Tag
	for i := 1; i < len(order); i++ {
		a, b := &f.Tables[uint32(order[i-1])], &f.Tables[uint32(order[i])]
		if a.Offset == 0 || len(a.Data) == 0 || len(b.Data) == 0 || a.Offset == b.Offset && len(a.Data) == len(b.Data) {
			continue
		}
		if int(a.Offset)+len(a.Data) > int(b.Offset) {
			pairs = append(pairs, [2]Tag{a.Tag, b.Tag})
		}
	}
	return pairs
}

// Unordered returns the first table whose tag does not come after the one before
// it, as the directory of a font must be ordered; false where all do.
func (f *Font) Unordered() (Tag, bool) {
	for i := 1; i < len(f.Tables); i++ {
		if f.Tables[i].Tag <= f.Tables[i-1].Tag {
			return f.Tables[i].Tag, true
		}
	}
	return 0, false
}
