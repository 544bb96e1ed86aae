package metadata_test

import (
	"encoding/binary"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// TestStudioProblems changes one thing of a face without problems and expects
// the one problem.
func TestStudioProblems(t *testing.T) {
	whole := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	os2, err := table.ParseOS2(whole.Table(table.TagOS2))
	require.NoError(t, err)
	head, err := table.ParseHead(whole.Table(table.TagHead))
	require.NoError(t, err)
	name, err := table.ParseName(whole.Table(table.TagName))
	require.NoError(t, err)
	named := func(values map[table.NameID]string) []byte {
		n := &table.Name{}
		for _, r := range name.Records {
			r.Value = r.Text()
			if v, ok := values[r.ID]; ok {
				r.Value = v
			}
			if r.Value != "" {
				n.Records = append(n.Records, table.NameRecord{Platform: r.Platform, Encoding: r.Encoding, Language: r.Language, ID: r.ID, Value: r.Value})
			}
		}
		return n.Encode()
	}
	changed := func(change func(o *table.OS2, h *table.Head)) map[sfnt.Tag][]byte {
		o, h := *os2, *head
		change(&o, &h)
		return map[sfnt.Tag][]byte{table.TagOS2: o.Encode(), table.TagHead: h.Encode()}
	}
	boldInName := changed(func(o *table.OS2, _ *table.Head) { o.WeightClass = 700 })
	boldInName[table.TagName] = named(map[table.NameID]string{2: "Bold"})
	names := func(values map[table.NameID]string) map[sfnt.Tag][]byte {
		return map[sfnt.Tag][]byte{table.TagName: named(values)}
	}
	for _, test := range []struct {
		name    string
		replace map[sfnt.Tag][]byte
		code    string // empty where nothing is wrong
		says    string
	}{
		{"as it is drawn", nil, "", ""},
		{"a bold that only the name tells", boldInName, metadata.ProblemStyleLink, "bold"},
		{"a bold that only one table tells", changed(func(o *table.OS2, _ *table.Head) { o.Selection |= table.SelectBold }), metadata.ProblemStyleLink, "head does not say"},
		{"an italic that head alone tells", changed(func(_ *table.OS2, h *table.Head) { h.MacStyle |= table.MacItalic }), metadata.ProblemStyleLink, "italic"},
		{"a semi bold is no bold", names(map[table.NameID]string{2: "SemiBold", 17: "SemiBold"}), metadata.ProblemWeight, "SemiBold, which is 600"},
		{"a weight of its own", changed(func(o *table.OS2, _ *table.Head) { o.WeightClass = 900 }), metadata.ProblemWeight, "stated as 900"},
		{"a weight a little off", changed(func(o *table.OS2, _ *table.Head) { o.WeightClass = 430 }), "", ""},
		{"a taller Windows line", changed(func(o *table.OS2, _ *table.Head) { o.Selection &^= table.SelectUseTypo; o.WinAscent += 200 }), metadata.ProblemLines, "Windows takes"},
		{"no license text", names(map[table.NameID]string{13: "", 14: ""}), metadata.ProblemNoLicense, "license"},
		{"only a license address", names(map[table.NameID]string{13: ""}), "", ""},
		{"no kerning", map[sfnt.Tag][]byte{table.TagGPOS: nil}, metadata.ProblemNoKerning, "AV"},
		{"an old kern table", map[sfnt.Tag][]byte{table.TagGPOS: nil, sfnt.MakeTag("kern"): make([]byte, 18)}, "", ""},
		{"a space behind the family", names(map[table.NameID]string{1: "Skerrow Sans "}), metadata.ProblemNameSpaces, "family"},
		{"two spaces in the full name", names(map[table.NameID]string{4: "Skerrow  Sans"}), metadata.ProblemNameSpaces, "full name"},
		{"a space nobody sees", names(map[table.NameID]string{1: "Skerrow\u00a0Sans"}), metadata.ProblemNameSpaces, "copy it"},
		{"a line break in a long text", names(map[table.NameID]string{13: "Ask first.\nThen set."}), "", ""},
		{"a PostScript name with a space", names(map[table.NameID]string{6: "Skerrow Sans"}), metadata.ProblemPostScript, `' '`},
		{"a PostScript name with a slash", names(map[table.NameID]string{6: "Skerrow/Sans"}), metadata.ProblemPostScript, `'/'`},
		{"a PostScript name beyond ASCII", names(map[table.NameID]string{6: "SkerrówSans"}), metadata.ProblemPostScript, `'ó'`},
		{"a PostScript name of 64", names(map[table.NameID]string{6: strings.Repeat("a", 64)}), metadata.ProblemPostScript, "64 characters"},
		{"a PostScript name of 63", names(map[table.NameID]string{6: strings.Repeat("a", 63)}), "", ""},
		{"no PostScript name", names(map[table.NameID]string{6: ""}), metadata.ProblemPostScript, "no PostScript name"},
		{"no euro", map[sfnt.Tag][]byte{table.TagCmap: without(t, whole, '€')}, metadata.ProblemNoSigns, "€."},
		{"no curly quotes", map[sfnt.Tag][]byte{table.TagCmap: without(t, whole, '“', '”', '‘')}, metadata.ProblemNoSigns, "‘ “ ”."},
		{"no letters at all is another thing", map[sfnt.Tag][]byte{table.TagCmap: without(t, whole, 'a', '€')}, "", ""},
	} {
		t.Run(test.name, func(t *testing.T) {
			f := face(t, test.replace)
			if test.code == "" {
				assert.Empty(t, f.Problems)
				return
			}
			if assert.Len(t, f.Problems, 1) {
				assert.Equal(t, test.code, f.Problems[0].Code)
				assert.Contains(t, f.Problems[0].Message, test.says)
			}
		})
	}
}

// TestKerningThatNobodyReads is the old table beside PostScript outlines.
func TestKerningThatNobodyReads(t *testing.T) {
	f := foundrytest.Face(t, foundry.Signage()[1], font.OTF)
	f.Tables = slices.DeleteFunc(f.Tables, func(one sfnt.Table) bool { return one.Tag == table.TagGPOS })
	f.Tables = append(f.Tables, sfnt.Table{Tag: sfnt.MakeTag("kern"), Data: make([]byte, 18)})
	whole, err := sfnt.Parse(sfnt.Write(f))
	require.NoError(t, err)
	found := metadata.One(whole[0]).Problems
	if assert.Len(t, found, 1) {
		assert.Equal(t, metadata.ProblemNoKerning, found[0].Code)
		assert.Contains(t, found[0].Message, "pass over beside PostScript outlines")
	}
}

// without returns the face's character map less some characters.
func without(t *testing.T, f *sfnt.Font, missing ...rune) []byte {
	t.Helper()
	runs, err := table.ParseCmap(f.Table(table.TagCmap))
	require.NoError(t, err)
	var pairs []table.Mapping
	for _, run := range runs {
		for i := range run.Count {
			if r := run.First + rune(i); !strings.ContainsRune(string(missing), r) {
				pairs = append(pairs, table.Mapping{Rune: r, Glyph: run.Glyph + table.GlyphID(i)})
			}
		}
	}
	return table.EncodeCmap(pairs)
}

// TestTheOrderOfPacking reads a font from a container that has its tables in
// another order, which says nothing of the font.
func TestTheOrderOfPacking(t *testing.T) {
	for _, as := range []font.Container{font.WOFF2, font.WOFF, font.EOT, font.TTF} {
		b, err := foundry.Build(foundry.Signage()[1], as)
		require.NoError(t, err)
		faces, err := metadata.Read(b)
		require.NoError(t, err)
		for _, p := range faces[0].Problems {
			assert.NotEqual(t, metadata.ProblemTableOrder, p.Code, as)
		}
	}
}

// TestDamageOfTheFrame edits the directory of a file that is right.
func TestDamageOfTheFrame(t *testing.T) {
	whole := sfnt.Write(foundrytest.Face(t, foundry.Signage()[1], font.TTF))
	record := func(i int) int { return 12 + 16*i }
	for _, test := range []struct {
		name string
		edit func(b []byte)
		code string
	}{
		{"a wrong checksum", func(b []byte) { b[record(2)+7] ^= 1 }, metadata.ProblemChecksum},
		{"a changed table", func(b []byte) { b[len(b)-5] ^= 1 }, metadata.ProblemChecksum},
		{"tables out of order", func(b []byte) {
			one, two := record(0), record(1)
			for i := range 16 {
				b[one+i], b[two+i] = b[two+i], b[one+i]
			}
		}, metadata.ProblemTableOrder},
		{"a table without a byte", func(b []byte) { binary.BigEndian.PutUint32(b[record(1)+12:], 0) }, metadata.ProblemTableEmpty},
		{"tables that share bytes", func(b []byte) {
			length := binary.BigEndian.Uint32(b[record(1)+12:])
			binary.BigEndian.PutUint32(b[record(1)+12:], length+8)
		}, metadata.ProblemTableOverlap},
	} {
		t.Run(test.name, func(t *testing.T) {
			b := append([]byte(nil), whole...)
			test.edit(b)
			faces, err := metadata.Read(b)
			require.NoError(t, err)
			assert.Contains(t, codes(faces[0]), test.code)
			assert.Equal(t, test.code == metadata.ProblemChecksum || test.code == metadata.ProblemTableOverlap, faces[0].Checksums.State == metadata.ChecksumsWrong)
		})
	}
	faces, err := metadata.Read(whole)
	require.NoError(t, err)
	assert.Equal(t, metadata.Checksums{State: metadata.ChecksumsRight, Wrong: []string{}}, faces[0].Checksums)
}

func TestNameDiffers(t *testing.T) {
	f := face(t, nil)
	for file, differs := range map[string]bool{
		"SkerrowSans-Regular.ttf": false, "skerrow_sans_regular.woff2": false, "folder/Skerrow Sans.ttf": false,
		"final_FINAL2.ttf": true, "SkerrowSans-Bold.ttf": true,
	} {
		p, ok := f.NameDiffers(file)
		assert.Equal(t, differs, ok, file)
		if ok {
			assert.Equal(t, metadata.ProblemFileName, p.Code)
			assert.Contains(t, p.Message, "Skerrow Sans")
		}
	}
}

func TestNamesOfTheReadersLanguage(t *testing.T) {
	n := &table.Name{Records: []table.NameRecord{
		{Platform: 3, Encoding: 1, Language: 0x0409, ID: 1, Value: "Harbour"},
		{Platform: 3, Encoding: 1, Language: 0x0407, ID: 1, Value: "Hafen"},
		{Platform: 3, Encoding: 1, Language: 0x0807, ID: 1, Value: "Hafe"},
		{Platform: 1, Encoding: 1, Language: 11, ID: 1, Value: "\u6e2f"},
		{Platform: 3, Encoding: 1, Language: 0x0409, ID: 2, Value: "Regular"},
	}}
	f := face(t, map[sfnt.Tag][]byte{table.TagName: n.Encode()})
	for _, test := range []struct {
		languages []string
		family    string
	}{
		{nil, "Harbour"}, {[]string{"fi"}, "Harbour"}, {[]string{"de"}, "Hafen"}, {[]string{"de-CH"}, "Hafe"}, {[]string{"fi", "de-CH"}, "Hafe"}, {[]string{"en", "de"}, "Harbour"},
		{[]string{"ja"}, "\u6e2f"},
	} {
		names := f.NamesIn(test.languages...)
		assert.Equal(t, test.family, names.Family, test.languages)
		assert.Equal(t, "Regular", names.Subfamily, "English where there is no other")
	}
	require.Len(t, f.Records, 5, "all are listed")
	var tags []string
	for _, r := range f.Records {
		tags = append(tags, r.Language)
	}
	assert.ElementsMatch(t, []string{"en-US", "de-DE", "de-CH", "ja", "en-US"}, tags)
}
