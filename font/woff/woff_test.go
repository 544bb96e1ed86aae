package woff_test

import (
	"bytes"
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/woff"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

func encoded(t testing.TB, f *woff.File) []byte {
	t.Helper()
	b, err := woff.Encode(f)
	require.NoError(t, err)
	return b
}

func TestBlocksComeBack(t *testing.T) {
	for name, f := range map[string]*woff.File{
		"neither":  {},
		"metadata": {Blocks: woff.Blocks{Metadata: []byte("<metadata version=\"1.0\"/>")}},
		"private":  {Blocks: woff.Blocks{Private: []byte{1, 2, 3}}},
		"both":     {Blocks: woff.Blocks{Metadata: bytes.Repeat([]byte("<p/>"), 100), Private: []byte("kept as it is")}},
	} {
		t.Run(name, func(t *testing.T) {
			f.Font = foundrytest.Face(t, foundry.Signage()[1], font.TTF)
			b := encoded(t, f)
			assert.EqualValues(t, len(b), binary.BigEndian.Uint32(b[8:]), "the header says the file's length")
			back, err := woff.Decode(b)
			require.NoError(t, err)
			assert.Equal(t, f.Metadata, back.Metadata)
			require.True(t, bytes.HasPrefix(back.Private, f.Private))
			plain := sfnt.Write(back.Font)
			assert.EqualValues(t, len(plain), binary.BigEndian.Uint32(b[16:]), "totalSfntSize is the size of the font unpacked")
			assert.EqualValues(t, 0xB1B0AFBA, sfnt.Checksum(plain))
		})
	}
}

func TestDamageIsRefused(t *testing.T) {
	whole := encoded(t, &woff.File{Font: foundrytest.Face(t, foundry.Signage()[1], font.TTF), Blocks: woff.Blocks{Metadata: []byte("<metadata/>")}})
	edit := func(at int, value ...byte) []byte {
		b := bytes.Clone(whole)
		copy(b[at:], value)
		return b
	}
	for name, test := range map[string]struct {
		data []byte
		is   error
	}{
		"header only":    {whole[:20], sfnt.ErrDamaged},
		"wrong length":   {whole[:len(whole)-8], sfnt.ErrDamaged},
		"no tables":      {edit(12, 0, 0), sfnt.ErrDamaged},
		"too many":       {edit(12, 0xFF, 0xFF), sfnt.ErrDamaged},
		"no font inside": {edit(4, 'x', 'x', 'x', 'x'), sfnt.ErrDamaged},
		"broken stream":  {edit(len(whole)/2, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF), sfnt.ErrDamaged},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := woff.Decode(test.data)
			require.ErrorIs(t, err, test.is)
			assert.Contains(t, err.Error(), "WOFF")
		})
	}
}

// tiny is a font small enough that a fuzzer gets through many of its kind.
func tiny() *sfnt.Font {
	return &sfnt.Font{Flavor: sfnt.VersionTrueType, Tables: []sfnt.Table{
		{Tag: sfnt.TagHead, Data: make([]byte, 54)}, {Tag: sfnt.MakeTag("name"), Data: []byte{0, 0, 0, 0, 0, 6}}, {Tag: sfnt.MakeTag("own1"), Data: []byte("aaaaaaaaaaaaaaaaaaaaaaaa")},
	}}
}

func FuzzDecode(f *testing.F) {
	f.Add(encoded(f, &woff.File{Font: tiny()}))
	f.Add(encoded(f, &woff.File{Font: tiny(), Blocks: woff.Blocks{Metadata: []byte("<m/>"), Private: []byte("p")}}))
	f.Fuzz(func(t *testing.T, b []byte) {
		file, err := woff.Decode(b)
		if err != nil || len(sfnt.Write(file.Font)) > 1<<12 || len(sfnt.Write(file.Font)) <= 12 { // too much to write, or nothing
			return
		}
		again, err := woff.Decode(encoded(t, file))
		require.NoError(t, err)
		require.Equal(t, file.Metadata, again.Metadata)
	})
}
