package woff2_test

import (
	"bytes"
	"encoding/binary"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/woff2"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestCollections writes faces that share some tables, all, or none, and
// expects each face's tables back.
func TestCollections(t *testing.T) {
	regular := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	renamed := &sfnt.Font{Flavor: regular.Flavor, Tables: slices.Clone(regular.Tables)}
	for i := range renamed.Tables {
		if renamed.Tables[i].Tag == table.TagName {
			renamed.Tables[i].Data = (&table.Name{Records: []table.NameRecord{{Platform: 3, Encoding: 1, Language: 0x409, ID: 1, Value: "Other"}}}).Encode()
		}
	}
	shifted := &sfnt.Font{Flavor: regular.Flavor, Tables: slices.Clone(regular.Tables)}
	for i := range shifted.Tables {
		if shifted.Tables[i].Tag == table.TagHmtx { // bearings that are not the outlines' own
			shifted.Tables[i].Data = bytes.Clone(shifted.Tables[i].Data)
			shifted.Tables[i].Data[3]++
		}
	}
	heavy := foundrytest.Face(t, foundry.Signage()[2], font.TTF)
	alone := len(encoded(t, &woff2.File{Fonts: []*sfnt.Font{regular}}))
	for _, test := range []struct {
		name  string
		fonts []*sfnt.Font
		most  int // times the size of one face
	}{
		{"one", []*sfnt.Font{regular}, 2},
		{"the same twice", []*sfnt.Font{regular, regular}, 2},
		{"other names", []*sfnt.Font{regular, renamed}, 2},
		{"other metrics", []*sfnt.Font{regular, shifted, regular}, 2},
		{"nothing shared", []*sfnt.Font{heavy, regular}, 3},
	} {
		t.Run(test.name, func(t *testing.T) {
			b := encoded(t, &woff2.File{Fonts: test.fonts, Collection: true})
			assert.Less(t, len(b), test.most*alone, "shared tables are kept once")
			back, err := woff2.Decode(b)
			require.NoError(t, err)
			assert.True(t, back.Collection)
			require.Len(t, back.Fonts, len(test.fonts))
			for i, want := range test.fonts {
				sameTables(t, want, back.Fonts[i])
			}
			opened, err := font.Open(b)
			require.NoError(t, err)
			assert.Len(t, opened.Faces, len(test.fonts))
			again := encoded(t, &woff2.File{Fonts: back.Fonts, Collection: true})
			assert.Equal(t, b, again, "the same bytes from what came back")
		})
	}
}

// sameTables compares all but head, in which a flag is set, and outlines, which
// are compared by what restoring and writing them again gives.
func sameTables(t *testing.T, want, got *sfnt.Font) {
	t.Helper()
	require.Len(t, got.Tables, len(want.Tables))
	for _, w := range want.Tables {
		switch w.Tag {
		case table.TagHead, table.TagGlyf, table.TagLoca:
			assert.True(t, got.Has(w.Tag))
		default:
			assert.Equal(t, w.Data, got.Table(w.Tag), w.Tag)
		}
	}
}

func TestHostileCollections(t *testing.T) {
	whole := encoded(t, &woff2.File{Fonts: []*sfnt.Font{foundrytest.Face(t, foundry.Signage()[1], font.TTF), foundrytest.Face(t, foundry.Signage()[1], font.TTF)}, Collection: true})
	list := bytes.Index(whole, []byte{0, 1, 0, 0, 2}) // version and number of faces
	require.Positive(t, list)
	edit := func(at int, value ...byte) []byte {
		b := bytes.Clone(whole)
		copy(b[list+at:], value)
		return b
	}
	for name, b := range map[string][]byte{
		"no faces":               edit(4, 0),
		"more faces than listed": edit(4, 252),
		"thousands of faces":     edit(4, 253, 0xFF, 0xFF),
		"a face of no tables":    edit(5, 0),
		"no flavor":              edit(6, 'n', 'o', 'n', 'e'),
		"a table that is not":    edit(10, 252),
		"cut off":                bytes.Clone(whole[:list+5]),
	} {
		t.Run(name, func(t *testing.T) {
			binary.BigEndian.PutUint32(b[8:], uint32(len(b)))
			_, err := woff2.Decode(b)
			require.ErrorIs(t, err, sfnt.ErrDamaged)
		})
	}
}
