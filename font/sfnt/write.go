package sfnt

import (
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
	tables := slices.DeleteFunc(slices.Clone(f.Tables), func(t Table) bool { return len(t.Data) == 0 })
	slices.SortStableFunc(tables, func(a, b Table) int {
		switch {
		case a.Tag < b.Tag:
			return -1
		case a.Tag > b.Tag:
			return 1
		}
		return 0
	})
	size := headerSize + recordSize*len(tables)
	for _, t := range tables {
		size += Padded(len(t.Data))
	}
	out := make([]byte, 0, size)
	out = AppendHeader(out, f.Flavor, len(tables))
	at := headerSize + recordSize*len(tables)
	for _, t := range tables {
		sum := Checksum(t.Data)
		if t.Tag == TagHead {
			sum = HeadChecksum(t.Data)
		}
		out = binary.BigEndian.AppendUint32(out, uint32(t.Tag))
		out = binary.BigEndian.AppendUint32(out, sum)
		out = binary.BigEndian.AppendUint32(out, uint32(at))
		out = binary.BigEndian.AppendUint32(out, uint32(len(t.Data)))
		at += Padded(len(t.Data))
	}
	headAt := -1
	for _, t := range tables {
		if t.Tag == TagHead && len(t.Data) >= headSize {
			headAt = len(out)
		}
		out = append(out, t.Data...)
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
	}
	if headAt >= 0 {
		field := out[headAt+headAdjust:]
		binary.BigEndian.PutUint32(field, 0)
		binary.BigEndian.PutUint32(field, checksumGoal-Checksum(out))
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
