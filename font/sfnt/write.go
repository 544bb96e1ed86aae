package sfnt

import (
	"cmp"
	"encoding/binary"
	"math/bits"
	"slices"
)

// Checksum sums b as big-endian 32-bit words, the last one padded with zeros
// (OpenType, "Calculating checksums").
func Checksum(b []byte) uint32 {
	var sum uint32
	for len(b) >= 4 {
		sum += binary.BigEndian.Uint32(b)
		b = b[4:]
	}
	var last [4]byte
	copy(last[:], b)
	return sum + binary.BigEndian.Uint32(last[:])
}

// HeadChecksum is the checksum of a head table, whose adjustment field counts
// as zero.
func HeadChecksum(head []byte) uint32 {
	sum := Checksum(head)
	if adjust, ok := View(head).U32(headAdjust); ok {
		sum -= adjust
	}
	return sum
}

// Write lays the face out as a file: tables sorted by tag, padded to four
// bytes, checksums right, head.checkSumAdjustment computed. Tables without a
// byte are left out: they say nothing, and browsers refuse a file that has one.
// The same tables give the same bytes. The font given is not changed.
func Write(f *Font) []byte {
	f = Settle(f)
	out := f.directory()
	size := len(out)
	for _, t := range f.Tables {
		size += Padded(len(t.Data))
	}
	out = slices.Grow(out, size-len(out))
	for _, t := range f.Tables {
		out = append(out, t.Data...)
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
	}
	return out
}

// Settle returns the face as Write lays it out and Parse reads it back, without
// writing it: tables in their order with their checksums and offsets. Only head
// is copied.
func Settle(f *Font) *Font {
	out := &Font{Flavor: f.Flavor, Tables: slices.DeleteFunc(slices.Clone(f.Tables), func(t Table) bool { return len(t.Data) == 0 })}
	slices.SortStableFunc(out.Tables, func(a, b Table) int { return cmp.Compare(a.Tag, b.Tag) })
	at := headerSize + recordSize*len(out.Tables)
	var all uint32
	var head []byte
	for i := range out.Tables {
		t := &out.Tables[i]
		if t.Tag == TagHead && len(t.Data) >= headSize {
			t.Data = slices.Clone(t.Data)
			head = t.Data
			binary.BigEndian.PutUint32(head[headAdjust:], 0)
		}
		t.Checksum, t.Offset = Checksum(t.Data), uint32(at)
		all += t.Checksum
		at += Padded(len(t.Data))
	}
	if head != nil {
		binary.BigEndian.PutUint32(head[headAdjust:], checksumGoal-all-Checksum(out.directory()))
	}
	return out
}

// directory writes the header and the records of tables that are finished.
func (f *Font) directory() []byte {
	out := AppendHeader(make([]byte, 0, headerSize+recordSize*len(f.Tables)), f.Flavor, len(f.Tables))
	for _, t := range f.Tables {
		for _, n := range []uint32{uint32(t.Tag), t.Checksum, t.Offset, uint32(len(t.Data))} {
			out = binary.BigEndian.AppendUint32(out, n)
		}
	}
	return out
}

// AppendHeader writes the twelve bytes before a table directory: flavor, number
// of tables and the three numbers derived from it.
func AppendHeader(out []byte, flavor uint32, tables int) []byte {
	selector := 0
	if tables > 0 {
		selector = bits.Len(uint(tables)) - 1
	}
	searchRange := 16 << selector
	out = binary.BigEndian.AppendUint32(out, flavor)
	out = binary.BigEndian.AppendUint16(out, uint16(tables))
	out = binary.BigEndian.AppendUint16(out, uint16(searchRange))
	out = binary.BigEndian.AppendUint16(out, uint16(selector))
	return binary.BigEndian.AppendUint16(out, uint16(16*tables-searchRange))
}

// Padded rounds a length up to four bytes.
func Padded(n int) int { return (n + 3) &^ 3 }

// TagHead is the one table whose content depends on the whole file.
var TagHead = MakeTag("head")
