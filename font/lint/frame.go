package lint

import (
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"errors"
	"io"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// required are the tables every OpenType font has (OpenType, "Required tables").
var required = []sfnt.Tag{
	table.TagCmap, table.TagHead, table.TagHhea, table.TagHmtx, table.TagMaxp, table.TagName, table.TagOS2, table.TagPost,
}

// checkFrame checks the table directory as a face has it.
func (c *checker) checkFrame() {
	seen := map[sfnt.Tag]bool{}
	var unaligned tally
	for _, t := range c.font.Tables {
		if seen[t.Tag] {
			c.wrong(t.Tag, "table-twice", "The table `%s` is there twice; readers differ in which they take.", t.Tag)
		}
		seen[t.Tag] = true
		if len(t.Data) == 0 && c.plain() {
			c.wrong(t.Tag, "table-empty", "The table `%s` has no bytes; browsers refuse the file. Convert it to any format.", t.Tag)
		}
		if c.plain() && t.Offset%4 != 0 {
			unaligned.add("The table `%s` starts at byte %d, which is no multiple of four; strict readers refuse the file.", t.Tag, t.Offset)
		}
	}
	c.report(Error, 0, "table-not-aligned", &unaligned)
	for _, tag := range required {
		switch {
		case seen[tag]:
		case tag == table.TagOS2 || tag == table.TagName || tag == table.TagPost:
			// Fonts for Apple's systems alone leave OS/2 out, and readers make up all three.
			c.odd(tag, "table-missing", "The table `%s` is missing, which every font must have.", tag)
		default:
			c.wrong(tag, "table-missing", "The table `%s` is missing, which every font must have.", tag)
		}
	}
	if tag, bad := c.font.Unordered(); bad && c.plain() {
		c.odd(tag, "directory-order", "The directory is out of order at `%s`.", tag)
	}
	for _, pair := range c.font.Overlapping() {
		c.wrong(pair[1], "table-overlap", "The tables `%s` and `%s` share bytes of the file.", pair[0], pair[1])
	}
	if c.container == font.WOFF2 {
		return // it carries no sums; they were computed on reading
	}
	for _, tag := range c.wrongSums {
		c.odd(tag, "checksum", "The checksum of the table `%s` is not that of its bytes: it was changed or damaged after the file was made.", tag)
	}
}

// plain reports whether the directory read is the file's own.
func (c *checker) plain() bool {
	return c.container == font.TTF || c.container == font.OTF || c.container == font.TTC
}

// checkWrapping checks what stands around the faces.
func checkWrapping(b []byte, opened *font.File) []Finding {
	c := &checker{}
	v := sfnt.View(b)
	header := v.Cursor() // the file was opened, so its header is whole
	switch opened.Container {
	case font.TTF, font.OTF:
		c.checkSearchFields(v)
		c.checkWholeSum(b, opened.Faces[0])
	case font.WOFF:
		c.checkReserved(header.Count(14))
		if want := len(sfnt.Write(opened.Faces[0])); header.Offset(16) != want {
			c.odd(0, "woff-size", "The header says the font unpacks to %d bytes; it comes to %d.", header.Offset(16), want)
		}
		c.checkWOFFDirectory(v, header.Count(12))
	case font.WOFF2:
		c.checkReserved(header.Count(14))
		if opened.Faces[0].Has(sfnt.MakeTag("DSIG")) {
			c.odd(sfnt.MakeTag("DSIG"), "woff2-signature", "The file carries a digital signature, which the transforms make wrong; a WOFF2 file must be made without.")
		}
		for i, f := range opened.Faces {
			c.face = i
			if flags, ok := sfnt.View(f.Table(table.TagHead)).U16(16); ok && flags&(1<<11) == 0 {
				c.odd(table.TagHead, "woff2-flag", "Bit 11 of the flags in `head` is not set, which says that the font went through a transform.")
			}
		}
	case font.EOT:
		f := opened.Faces[0]
		if o, err := table.ParseOS2(f.Table(table.TagOS2)); err == nil && int(binary.LittleEndian.Uint16(b[32:])) != int(o.Type) {
			c.wrong(table.TagOS2, "eot-permission", "The header says fsType 0x%04X and the font 0x%04X; Internet Explorer goes by the header.", binary.LittleEndian.Uint16(b[32:]), o.Type)
		}
	}
	if opened.Metadata != nil {
		if err := wellFormed(opened.Metadata); err != nil {
			c.odd(0, "metadata", "The metadata document is no well-formed XML (%v); readers ignore it.", err)
		}
	}
	return c.findings
}

func (c *checker) checkReserved(n int) {
	if n != 0 {
		c.odd(0, "reserved", "A field of the header that must be zero holds %d.", n)
	}
}

// checkSearchFields checks the three numbers derived from the number of tables.
func (c *checker) checkSearchFields(v sfnt.View) {
	count, _ := v.U16(4)
	want := sfnt.AppendHeader(nil, 0, int(count))[6:12]
	if got, ok := v.Sub(6, 6); ok && !bytes.Equal(got, want) {
		c.odd(0, "directory-search", "The numbers for searching the directory do not fit its %d tables.", count)
	}
}

// checkWholeSum checks head.checkSumAdjustment against the whole file.
func (c *checker) checkWholeSum(b []byte, f *sfnt.Font) {
	const goal = 0xB1B0AFBA
	stated, ok := sfnt.View(f.Table(table.TagHead)).U32(8)
	if sum := sfnt.Checksum(b); ok && sum != goal && len(b)%4 == 0 {
		c.odd(table.TagHead, "checksum-file", "The checksum of the whole file is not what `head` says (0x%08X).", stated)
	}
}

// checkWOFFDirectory checks order and alignment of the packed tables (WOFF 1.0,
// section 4).
func (c *checker) checkWOFFDirectory(v sfnt.View, tables int) {
	last := sfnt.Tag(0)
	for i := range tables {
		tag, _ := v.U32(44 + 20*i)
		at, _ := v.U32(48 + 20*i)
		if sfnt.Tag(tag) <= last && i > 0 {
			c.odd(sfnt.Tag(tag), "directory-order", "The directory is out of order at `%s`.", sfnt.Tag(tag))
		}
		if at%4 != 0 {
			c.wrong(sfnt.Tag(tag), "table-not-aligned", "The packed table `%s` starts at byte %d, which is no multiple of four; strict readers refuse the file.", sfnt.Tag(tag), at)
		}
		last = sfnt.Tag(tag)
	}
}

func wellFormed(doc []byte) error {
	d := xml.NewDecoder(bytes.NewReader(doc))
	for {
		if _, err := d.Token(); errors.Is(err, io.EOF) {
			return nil
		} else if err != nil {
			return err
		}
	}
}
