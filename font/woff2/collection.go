package woff2

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"

	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// member is a face of the file: its flavor, and its tables by their place in
// the directory.
type member struct {
	flavor uint32
	tables []int
}

// readMembers reads the collection header (section 4.2) and gives the offset
// behind it.
func readMembers(v sfnt.View, at, entries int) ([]member, int, error) {
	damaged := fmt.Errorf("%w: its list of faces cannot be read", errDamaged)
	s := &stream{v: v, at: at + 4, ok: true} // behind the version, which says nothing a reader needs
	count := s.u255()
	if !s.ok || count == 0 || count > sfnt.MaxFaces {
		return nil, 0, damaged
	}
	faces := make([]member, 0, count)
	for range count {
		tables := s.u255()
		flavor := binary.BigEndian.Uint32(append(s.take(4), 0, 0, 0, 0))
		if !s.ok || tables == 0 || tables > sfnt.MaxTables || !sfnt.KnownFlavor(flavor) {
			return nil, 0, damaged
		}
		m := member{flavor: flavor}
		for range tables {
			i := s.u255()
			if !s.ok || i >= entries {
				return nil, 0, damaged
			}
			m.tables = append(m.tables, i)
		}
		faces = append(faces, m)
	}
	return faces, s.at, nil
}

// restoreMetrics restores a face's hmtx from its outlines; a table that an
// earlier face shares with it is restored already.
func (m *member) restoreMetrics(entries []entry, left map[int][]int16) error {
	hmtx, glyf, hhea := -1, -1, -1
	for _, i := range m.tables {
		switch e := &entries[i]; {
		case e.tag == tagHmtx && e.transformed:
			hmtx = i
		case e.tag == tagGlyf && e.transformed:
			glyf = i
		case e.tag == tagHhea:
			hhea = i
		}
	}
	if hmtx < 0 {
		return nil
	}
	if glyf < 0 || hhea < 0 {
		return fmt.Errorf("%w: its `hmtx` is transformed without its outlines", errDamaged)
	}
	lines, err := table.ParseHhea(entries[hhea].data)
	if err != nil {
		return fmt.Errorf("%w: %w", errDamaged, err)
	}
	e := &entries[hmtx]
	if e.data, err = restoreHmtx(e.data, int(lines.LongMetrics), left[glyf]); err != nil {
		return err
	}
	e.transformed = false
	return nil
}

// gathered is the directory and the stream while faces are added to them.
type gathered struct {
	directory []byte
	stream    [][]byte // a piece a table
	entries   int
	places    map[place]int // entries that later faces may share; nil for a single face
	size      int           // of the tables, restored and padded
}

// place is what makes two tables one entry. What hmtx restores to depends on
// the outlines too, and offsets follow their outlines always.
type place struct {
	tag         sfnt.Tag
	transformed bool
	outlines    int
	sum         [sha256.Size]byte
}

// add puts a face's tables into the directory, those that are there already by
// their number.
func (g *gathered) add(f *sfnt.Font) member {
	m := member{flavor: f.Flavor}
	forms := transform(f)
	arrange(f.Tables)
	outlines, shared := -1, false
	for _, t := range f.Tables {
		as, transformed := forms[t.Tag]
		if !transformed {
			as = form{len(t.Data), t.Data}
		}
		if t.Tag == tagLoca && shared {
			m.tables = append(m.tables, outlines+1)
			continue
		}
		i, known := g.find(t, f, as.data, transformed, outlines)
		if t.Tag == tagGlyf {
			outlines, shared = i, known
		}
		m.tables = append(m.tables, i)
		if known {
			continue
		}
		g.directory = appendEntry(g.directory, t.Tag, as, transformed)
		g.stream = append(g.stream, as.data)
		g.size += sfnt.Padded(as.length)
		g.entries++
	}
	return m
}

// find returns the entry a table has already, or the one it will have.
func (g *gathered) find(t sfnt.Table, f *sfnt.Font, data []byte, transformed bool, outlines int) (entry int, known bool) {
	if g.places == nil || t.Tag == tagLoca {
		return g.entries, false
	}
	sum := sha256.New()
	sum.Write(data)
	key := place{tag: t.Tag, transformed: transformed, outlines: -1}
	switch {
	case t.Tag == tagGlyf:
		sum.Write(f.Table(tagLoca))
	case t.Tag == tagHmtx && transformed:
		key.outlines = outlines
	}
	sum.Sum(key.sum[:0])
	if i, ok := g.places[key]; ok {
		return i, true
	}
	g.places[key] = g.entries
	return g.entries, false
}

// appendMembers writes the collection header.
func appendMembers(out []byte, faces []member) []byte {
	out = binary.BigEndian.AppendUint32(out, ttcVersion)
	out = append255(out, len(faces))
	for _, m := range faces {
		out = append255(out, len(m.tables))
		out = binary.BigEndian.AppendUint32(out, m.flavor)
		for _, i := range m.tables {
			out = append255(out, i)
		}
	}
	return out
}
