package eot

import (
	"encoding/binary"
	"fmt"
	"unicode/utf16"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// Encode writes a face. It needs the tables head and OS/2, whose fields the
// header repeats; the error wraps table.ErrShort where one is missing. The same
// face gives the same bytes.
func Encode(f *sfnt.Font) ([]byte, error) {
	os2, err := table.ParseOS2(f.Table(table.TagOS2))
	if err != nil {
		return nil, fmt.Errorf("an EOT file repeats what the font says of its weight and characters: %w", err)
	}
	font := sfnt.Write(f)
	head, ok := sfnt.View(f.Table(table.TagHead)).U32(8)
	if !ok {
		return nil, fmt.Errorf("an EOT file repeats the font's checksum: %w: table `head` is missing", table.ErrShort)
	}
	if fonts, err := sfnt.Parse(font); err == nil { // the adjustment as it is written
		head, _ = sfnt.View(fonts[0].Table(table.TagHead)).U32(8)
	}
	name, err := table.ParseName(f.Table(table.TagName))
	if err != nil {
		name = &table.Name{}
	}
	var w writer
	w.u32(0) // the size, known at the end
	w.u32(uint32(len(font)))
	w.u32(version21)
	w.u32(0) // flags
	w = append(w, os2.Panose[:]...)
	w = append(w, charsetDef, byte(os2.Selection&table.SelectItalic))
	w.u32(uint32(os2.WeightClass))
	w.u16(os2.Type)
	w.u16(magic)
	for _, n := range os2.UnicodeRange {
		w.u32(n)
	}
	for _, n := range os2.CodePages {
		w.u32(n)
	}
	w.u32(head)
	w = append(w, make([]byte, 16)...) // reserved
	w.u16(0)
	for _, id := range []table.NameID{table.NameFamily, table.NameSubfamily, table.NameVersion, table.NameFull} {
		w.text(name.Best(id))
		w.u16(0)
	}
	w.text("") // no root addresses: for use everywhere
	binary.LittleEndian.PutUint32(w, uint32(len(w)+len(font)))
	return append(w, font...), nil
}

// writer appends little-endian numbers.
type writer []byte

func (w *writer) u16(n uint16) { *w = binary.LittleEndian.AppendUint16(*w, n) }
func (w *writer) u32(n uint32) { *w = binary.LittleEndian.AppendUint32(*w, n) }

// text writes a length in bytes and UTF-16, cut to what the length can say.
func (w *writer) text(s string) {
	const longest = 0x7FFE
	units := utf16.Encode([]rune(s))
	if len(units) > longest/2 {
		units = units[:longest/2]
	}
	w.u16(uint16(2 * len(units)))
	for _, u := range units {
		w.u16(u)
	}
}
