package sfnt_test

import (
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/sfnt"
)

func small() *sfnt.Font {
	return &sfnt.Font{Flavor: sfnt.VersionTrueType, Tables: []sfnt.Table{
		{Tag: sfnt.MakeTag("name"), Data: []byte("seven b")},
		{Tag: sfnt.TagHead, Data: make([]byte, 54)},
		{Tag: sfnt.MakeTag("cvt"), Data: []byte{1, 2}},
	}}
}

func TestWriteSortsPadsAndSums(t *testing.T) {
	b := sfnt.Write(small())
	assert.Zero(t, len(b)%4)
	assert.EqualValues(t, 0xB1B0AFBA, sfnt.Checksum(b), "the whole file sums to the constant of the specification")
	fonts, err := sfnt.Parse(b)
	require.NoError(t, err)
	require.Len(t, fonts, 1)
	var tags []string
	for _, table := range fonts[0].Tables {
		tags = append(tags, table.Tag.String())
		if table.Tag != sfnt.TagHead {
			assert.Equal(t, sfnt.Checksum(table.Data), table.Checksum, table.Tag)
		} else {
			assert.Equal(t, sfnt.HeadChecksum(table.Data), table.Checksum)
		}
	}
	assert.Equal(t, []string{"cvt ", "head", "name"}, tags)
	assert.Equal(t, []byte("seven b"), fonts[0].Table(sfnt.MakeTag("name")))
	assert.Nil(t, fonts[0].Table(sfnt.MakeTag("glyf")))
	assert.Equal(t, []byte{0, 3, 0, 32, 0, 1, 0, 16}, b[4:12], "number of tables and what is derived from it")
}

func TestCollection(t *testing.T) {
	// Two faces that share every table: the same directory twice.
	face := sfnt.Write(small())
	const shift = 20
	for at := 12; at < 12+3*16; at += 16 {
		binary.BigEndian.PutUint32(face[at+8:], binary.BigEndian.Uint32(face[at+8:])+shift)
	}
	b := append([]byte("ttcf\x00\x01\x00\x00\x00\x00\x00\x02\x00\x00\x00\x14\x00\x00\x00\x14"), face...)
	require.True(t, sfnt.IsCollection(b))
	fonts, err := sfnt.Parse(b)
	require.NoError(t, err)
	require.Len(t, fonts, 2)
	assert.Equal(t, fonts[0], fonts[1])
	assert.Equal(t, []byte{1, 2}, fonts[1].Table(sfnt.MakeTag("cvt")))
}

func TestDamageIsNamed(t *testing.T) {
	whole := sfnt.Write(small())
	edit := func(change func(b []byte) []byte) []byte { return change(append([]byte{}, whole...)) }
	for name, test := range map[string]struct {
		data []byte
		is   error
		says string
	}{
		"nothing":       {nil, sfnt.ErrNotFont, "only 0 bytes"},
		"another mark":  {edit(func(b []byte) []byte { copy(b, "ABCD"); return b }), sfnt.ErrNotFont, `"ABCD"`},
		"no tables":     {edit(func(b []byte) []byte { b[5] = 0; return b }), sfnt.ErrDamaged, "sensible number of tables"},
		"too many":      {edit(func(b []byte) []byte { b[4] = 0xFF; return b }), sfnt.ErrDamaged, "sensible number of tables"},
		"cut directory": {whole[:20], sfnt.ErrDamaged, "ends inside its table directory"},
		"far offset":    {edit(func(b []byte) []byte { b[12+8] = 0xFF; return b }), sfnt.ErrDamaged, "table `cvt ` runs past the end of the file"},
		"huge length":   {edit(func(b []byte) []byte { b[12+32+12] = 0xFF; return b }), sfnt.ErrDamaged, "table `name` runs past the end of the file"},
		"repetition":    {repeating(200, 10_000), sfnt.ErrDamaged, "the same bytes over and over"},
		"no faces":      {[]byte("ttcf\x00\x01\x00\x00\x00\x00\x00\x00"), sfnt.ErrDamaged, "sensible number of faces"},
		"missing faces": {[]byte("ttcf\x00\x01\x00\x00\x00\x00\x00\x09"), sfnt.ErrDamaged, "list of its 9 faces"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := sfnt.Parse(test.data)
			require.ErrorIs(t, err, test.is)
			assert.Contains(t, err.Error(), test.says)
		})
	}
}

// repeating returns a font whose tables are all the whole file.
func repeating(tables, size int) []byte {
	b := sfnt.AppendHeader(nil, sfnt.VersionTrueType, tables)
	for i := range tables {
		b = append(b, 't', 'a', byte('0'+i/100), byte(i), 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, byte(size>>8), byte(size))
	}
	return append(b, make([]byte, size-len(b))...)
}

func TestTablesWithoutAByteAreLeftOut(t *testing.T) {
	f := small()
	f.Tables = append(f.Tables, sfnt.Table{Tag: sfnt.MakeTag("TSI3")})
	assert.Equal(t, sfnt.Write(small()), sfnt.Write(f))
}

func FuzzParse(f *testing.F) {
	f.Add(sfnt.Write(small()))
	f.Add([]byte("ttcf\x00\x01\x00\x00\x00\x00\x00\x01\x00\x00\x00\x10OTTO"))
	f.Fuzz(func(t *testing.T, b []byte) {
		fonts, err := sfnt.Parse(b)
		if err != nil {
			return
		}
		for _, font := range fonts {
			full := 0 // tables without a byte are left out
			for _, table := range font.Tables {
				if len(table.Data) > 0 {
					full++
				}
			}
			if full == 0 {
				continue
			}
			again, err := sfnt.Parse(sfnt.Write(font))
			require.NoError(t, err)
			require.Len(t, again[0].Tables, full)
		}
	})
}
