package eot_test

import (
	"bytes"
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/eot"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

func demoFont(t testing.TB) []byte {
	t.Helper()
	b, err := foundry.Build(foundry.Signage()[2], font.TTF)
	require.NoError(t, err)
	return b
}

func encoded(t testing.TB, f *sfnt.Font) []byte {
	t.Helper()
	b, err := eot.Encode(f)
	require.NoError(t, err)
	return b
}

func TestComesBack(t *testing.T) {
	plain := demoFont(t)
	b := encoded(t, foundrytest.Parsed(t, plain))
	require.True(t, eot.Is(b))
	back, err := eot.Decode(b)
	require.NoError(t, err)
	assert.Equal(t, plain, sfnt.Write(back.Fonts[0]))
	assert.Empty(t, back.Roots)
	assert.False(t, back.Encrypted)
	assert.Equal(t, b, encoded(t, back.Fonts[0]), "the same bytes each time")
	assert.Contains(t, string(b), utf16("Skerrow Sans Bold"), "the header repeats the names")
	assert.EqualValues(t, len(b), binary.LittleEndian.Uint32(b))
	assert.EqualValues(t, 700, binary.LittleEndian.Uint32(b[28:]), "the weight")
	assert.Equal(t, binary.BigEndian.Uint32(foundrytest.Parsed(t, plain).Table(table.TagHead)[8:]), binary.LittleEndian.Uint32(b[60:]), "head's checksum adjustment")
}

func utf16(s string) string {
	var out []byte
	for _, r := range s {
		out = append(out, byte(r), byte(r>>8))
	}
	return string(out)
}

// header writes the variable part of one of the versions by hand, as old
// makers' files have it.
func file(font []byte, version, flags uint32, roots string) []byte {
	b := make([]byte, 82)
	binary.LittleEndian.PutUint32(b[4:], uint32(len(font)))
	binary.LittleEndian.PutUint32(b[8:], version)
	binary.LittleEndian.PutUint32(b[12:], flags)
	b[34], b[35] = 0x4C, 0x50
	text := func(s string) {
		b = binary.LittleEndian.AppendUint16(b, uint16(len(s)))
		b = append(b, s...)
	}
	for i, name := range []string{"Family", "Style", "Version 1", "Full name"} {
		if i > 0 {
			b = append(b, 0, 0)
		}
		text(utf16(name))
	}
	if version != 0x00010000 {
		b = append(b, 0, 0)
		text(utf16(roots))
	}
	if version == 0x00020002 {
		b = append(b, make([]byte, 10)...)
		text("signed")
		b = append(b, make([]byte, 4)...)
		b = append(b, 3, 0, 0, 0, 'o', 'w', 'n')
	}
	b = append(b, font...)
	binary.LittleEndian.PutUint32(b, uint32(len(b)))
	return b
}

func TestAllVersions(t *testing.T) {
	plain := demoFont(t)
	hidden := bytes.Clone(plain)
	for i := range hidden {
		hidden[i] ^= 0x50
	}
	for _, test := range []struct {
		name           string
		version, flags uint32
		data           []byte
		roots          string
		want           eot.File
	}{
		{"version 1", 0x00010000, 0, plain, "", eot.File{}},
		{"version 2.1", 0x00020001, 1, plain, "", eot.File{Subset: true}},
		{"version 2.2", 0x00020002, 0, plain, "", eot.File{}},
		{"bound to addresses", 0x00020002, 0, plain, "http://holmvik.example\x00http://orrery.example\x00", eot.File{Roots: []string{"http://holmvik.example", "http://orrery.example"}}},
		{"encrypted", 0x00020001, 0x10000000, hidden, "", eot.File{Encrypted: true}},
	} {
		t.Run(test.name, func(t *testing.T) {
			b := file(test.data, test.version, test.flags, test.roots)
			back, err := eot.Decode(b)
			require.NoError(t, err)
			assert.Equal(t, plain, sfnt.Write(back.Fonts[0]))
			back.Fonts = nil
			assert.Equal(t, test.want, *back)
			opened, err := font.Open(append(b, "trailing bytes"...))
			require.NoError(t, err)
			assert.Equal(t, font.EOT, opened.Container)
		})
	}
}

func TestWhatCannotBeRead(t *testing.T) {
	plain := demoFont(t)
	whole := file(plain, 0x00020001, 0, "")
	edit := func(at int, value uint32) []byte {
		b := bytes.Clone(whole)
		binary.LittleEndian.PutUint32(b[at:], value)
		return b
	}
	for name, test := range map[string]struct {
		data []byte
		is   error
	}{
		"packed":                {edit(12, 4), eot.ErrCompressed},
		"packed and encrypted":  {edit(12, 0x10000004), eot.ErrCompressed},
		"unknown version":       {edit(8, 0x00030000), sfnt.ErrDamaged},
		"longer than it is":     {edit(0, 1<<30), sfnt.ErrDamaged},
		"shorter than a header": {edit(0, 40), sfnt.ErrDamaged},
		"a font of gigabytes":   {edit(4, 0xFFFFFFFF), sfnt.ErrDamaged},
		"a header in the font":  {edit(4, uint32(len(whole)-84)), sfnt.ErrDamaged},
		"no font inside":        {file([]byte("nothing like a font"), 0x00020001, 0, ""), sfnt.ErrNotFont},
		"header only":           {whole[:60], sfnt.ErrDamaged},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := eot.Decode(test.data)
			require.ErrorIs(t, err, test.is)
		})
	}
	_, err := eot.Encode(&sfnt.Font{Flavor: sfnt.VersionTrueType})
	require.ErrorIs(t, err, table.ErrShort)
}

func FuzzDecode(f *testing.F) {
	tiny := sfnt.Write(&sfnt.Font{Flavor: sfnt.VersionTrueType, Tables: []sfnt.Table{{Tag: sfnt.TagHead, Data: make([]byte, 54)}, {Tag: table.TagOS2, Data: (&table.OS2{}).Encode()}}})
	f.Add(file(tiny, 0x00010000, 0, ""))
	f.Add(file(tiny, 0x00020002, 0x10000000, "http://a.example"))
	f.Add(encoded(f, foundrytest.Parsed(f, tiny)))
	f.Fuzz(func(t *testing.T, b []byte) {
		back, err := eot.Decode(b)
		if err != nil {
			return
		}
		for _, one := range back.Fonts {
			again, err := eot.Encode(one)
			if err != nil {
				continue
			}
			got, err := eot.Decode(again)
			require.NoError(t, err)
			require.Equal(t, sfnt.Write(one), sfnt.Write(got.Fonts[0]))
		}
	})
}
