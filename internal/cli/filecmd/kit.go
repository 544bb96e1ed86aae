package filecmd

import (
	"bytes"
	"cmp"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/metadata"
	"sparecrate/font/table"
	"sparecrate/internal/builder"
	"sparecrate/internal/cli/terminal"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
)

// kitFace is a face of a kit, with the characters that its files write.
type kitFace struct {
	pack.Face
	characters coverage.Characters
}

// writeKit writes what puts fonts to work on a page beside them: a stylesheet, a sample
// page, and the license texts that open fonts ask to go along. It returns their paths.
func (j *makeJob) writeKit(files []made, words string) ([]string, error) {
	shipped, _ := builder.ShippedOf("self-hosted")
	rules := *shipped
	rules.Files.Named, rules.Files.Folder, rules.Files.Formats = builder.NamedAsIs, "", j.to
	families := map[string][]kitFace{}
	var names []string
	for i := 0; i < len(files); {
		first := files[i]
		one := kitFace{Face: pack.Face{Came: filepath.Base(first.Out)}}
		for ; i < len(files) && files[i].Path == first.Path && files[i].Face == first.Face; i++ {
			blob, err := blobOf(files[i].Out)
			if err != nil {
				return nil, err
			}
			one.Files = append(one.Files, pack.File{Format: files[i].Format, Blob: blob})
		}
		b, err := load(first.Path)
		if err != nil {
			return nil, err
		}
		opened, err := font.Open(b)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", first.Path, err)
		}
		face := opened.Faces[first.Face]
		one.Metadata = metadata.One(face)
		one.Style = one.Metadata.Names.StyleName()
		if runs, err := table.ParseCmap(face.Table(table.TagCmap)); err == nil {
			one.characters = coverage.NewCharacters(runs)
		}
		family := cmp.Or(one.Metadata.Names.FamilyName(), stem(first.Path))
		if families[family] == nil {
			names = append(names, family)
		}
		families[family] = append(families[family], one)
	}
	in := pack.Input{Site: strings.Join(names, ", "), Rules: &rules, Words: words}
	for _, name := range names {
		in.Families = append(in.Families, kitFamily(name, families[name]))
	}
	packed, err := pack.Assemble(in)
	if err != nil {
		return nil, err
	}
	return j.writeParts(packed)
}

// kitFamily puts the faces of a family together. Of faces of one style each is for its own
// characters, those of the ones before left out.
func kitFamily(name string, faces []kitFace) pack.Family {
	f := pack.Family{Name: name, Generic: builder.GenericOf(name), Verdict: license.Verdict{State: license.Cleared}}
	type style struct {
		weight, axes int
		width        float64
		slope        metadata.Slope
	}
	styleOf := func(f kitFace) style {
		return style{f.Metadata.Style.Weight, len(f.Metadata.Axes), f.Metadata.Style.WidthPercent, f.Metadata.Style.Slope}
	}
	had := map[style]coverage.Characters{}
	var found []license.Finding
	var texts []license.Text
	for _, one := range faces {
		s := styleOf(one)
		if n := len(slices.DeleteFunc(slices.Clone(faces), func(o kitFace) bool { return styleOf(o) != s })); n > 1 {
			one.Range = one.characters.Without(had[s]).String()
			had[s] = had[s].Plus(one.characters)
		}
		f.Faces = append(f.Faces, one.Face)
		found = append(found, license.FaceOf(&one.Metadata).Findings...)
		texts = append(texts, license.Text{Source: "name record 13", Body: one.Metadata.Names.License})
	}
	if p := license.Propose(found); len(p) > 0 {
		text := license.TextFor(p[0].License, texts)
		f.Licenses = []pack.License{{Name: p[0].Title + ", as the font itself says; not confirmed", SPDX: p[0].License, Reserved: p[0].Reserved, Text: text.Body, Source: text.Source, Unconfirmed: true}}
	}
	return f
}

// kitPart reports whether a file of a pack belongs into a kit, besides fonts.
func kitPart(path string) bool {
	return path == "fonts.css" || path == "sample.html" || strings.HasPrefix(path, "licenses/")
}

// writeParts writes the stylesheet, the sample page and the license texts beside the fonts,
// which are there already.
func (j *makeJob) writeParts(packed *pack.Packed) ([]string, error) {
	var out []string
	for _, e := range packed.Entries {
		path := filepath.Join(j.out, filepath.FromSlash(e.Path))
		switch {
		case e.Place >= 0:
			if _, err := os.Stat(path); err != nil {
				return nil, fmt.Errorf("a stylesheet cannot name %s: give the font file a name without : * ? \" < > |", strings.TrimSuffix(path, filepath.Ext(path)))
			}
		case kitPart(e.Path):
			content, err := e.Open()
			if err != nil {
				return nil, err
			}
			b, err := io.ReadAll(content)
			_ = content.Close()
			if err != nil {
				return nil, err
			}
			if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil { //nolint:gosec // a folder of the user's, as any tool makes it
				return nil, err
			}
			if _, err := terminal.WriteWhole(path, bytes.NewReader(b)); err != nil {
				return nil, err
			}
			out = append(out, path)
		}
	}
	return out, nil
}

// blobOf is a file on disk as packs take content.
func blobOf(path string) (pack.Blob, error) {
	b, err := load(path)
	if err != nil {
		return pack.Blob{}, err
	}
	blob := pack.BlobOf(b)
	blob.Open = func() (io.ReadCloser, error) { return os.Open(path) }
	return blob, nil
}
