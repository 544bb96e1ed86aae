package pack_test

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/pack"
)

// families of names that meet one another once they are written as code writes names, begin with
// digits, are words of the languages, or have no letter that code takes.
func trickyFamilies(kind string, t *testing.T) []pack.Family {
	r := rules(t, kind)
	var out []pack.Family
	for n, name := range []string{"Pier Sans", "Pier-Sans", "PIER  SANS", "2nd Quay", "Über Möwe", "class", "default", "Int", "Pier Sans Bold", "海風", "Q&A <Sans>", "_", "Inter\u00adQuay"} {
		f := pack.Family{Name: name}
		for k, style := range []string{"Regular", "Bold", "Bold Italic", ""} {
			face := pack.Face{ID: int64(10*n + k), Style: style, Metadata: metadata.Face{Names: metadata.Names{Full: strings.TrimSpace(name + " " + style), PostScript: fmt.Sprintf("F%d-%d", n, k)}, Style: metadata.Style{Weight: 400 + 300*min(k, 1), WidthPercent: 100, Slope: metadata.Upright}}}
			if k == 2 {
				face.Metadata.Style.Slope = metadata.Italic
			}
			for _, c := range r.Formats() {
				if c == font.OTF {
					continue
				}
				face.Files = append(face.Files, pack.File{Format: c, Blob: pack.BlobOf([]byte(face.Metadata.Names.PostScript))})
			}
			f.Faces = append(f.Faces, face)
		}
		out = append(out, f)
	}
	return out
}

// words that name nothing in the code of apps (The Java Language Specification, section 3.9;
// Kotlin's hard keywords; The Swift Programming Language, Keywords and Punctuation).
var (
	javaWords  = strings.Fields("abstract assert boolean break byte case catch char class const continue default do double else enum extends final finally float for goto if implements import instanceof int interface long native new package private protected public return short static strictfp super switch synchronized this throw throws transient try void volatile while true false null as fun in is object typealias typeof val var when")
	swiftWords = strings.Fields("associatedtype class deinit enum extension fileprivate func import init inout internal let open operator private precedencegroup protocol public rethrows static struct subscript typealias var break case catch continue default defer do else fallthrough for guard if in repeat return throw switch where while any as await false is nil self super throws true try")
)

// parsed reads XML to its end, strictly.
func parsed(t *testing.T, name string, text []byte) []xml.StartElement {
	t.Helper()
	d := xml.NewDecoder(bytes.NewReader(text))
	var out []xml.StartElement
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return out
		}
		require.NoError(t, err, name)
		if e, ok := token.(xml.StartElement); ok {
			out = append(out, e.Copy())
		}
	}
}

// TestAndroidFilesCompile reads every XML file as the resource compiler does: names are
// resources, each reference is a file of the pack, and each code name on the slip is one.
func TestAndroidFilesCompile(t *testing.T) {
	in := input(t, "android-app")
	in.Families = trickyFamilies("android-app", t)
	files, _ := assemble(t, in)
	resources := map[string]string{}
	for at := range files {
		if folder, name := path.Split(at); folder == "res/font/" {
			r := strings.TrimSuffix(name, path.Ext(name))
			assert.Regexp(t, `^[a-z][a-z0-9_]*$`, r)
			assert.NotContains(t, javaWords, r)
			assert.Empty(t, resources[r], "%s is there twice", r)
			resources[r] = at
		}
	}
	faces := map[string]int{}
	families := 0
	for at, text := range files {
		if path.Ext(at) != ".xml" || !strings.HasPrefix(at, "res/font/") {
			continue
		}
		families++
		elements := parsed(t, at, text)
		require.Equal(t, "font-family", elements[0].Name.Local)
		styles := map[string]bool{}
		for _, e := range elements[1:] {
			attributes := map[string]string{}
			for _, a := range e.Attr {
				require.Equal(t, "http://schemas.android.com/apk/res/android", a.Name.Space)
				attributes[a.Name.Local] = a.Value
			}
			r, ok := strings.CutPrefix(attributes["font"], "@font/")
			require.True(t, ok)
			assert.Equal(t, ".ttf", path.Ext(resources[r]), "%s names %s", at, r)
			faces[r]++
			styles[attributes["fontWeight"]+attributes["fontStyle"]] = true
		}
		assert.NotEmpty(t, styles)
	}
	assert.Equal(t, len(in.Families), families)
	for r, n := range faces {
		assert.Equal(t, 1, n, "%s is in one family", r)
	}
	names := regexp.MustCompile(`<kbd>(?:R\.font\.|android:fontFamily=&#34;@font/|android:fontFamily="@font/)([^<"&]+)`).FindAllSubmatch(files["upload-slip.html"], -1)
	require.Len(t, names, 2*len(in.Families))
	for _, m := range names {
		assert.Contains(t, resources, string(m[1]), "a code name on the slip is a resource")
	}
}

// TestAppleFilesCompile reads the property list and the constants: each entry is a font of the
// pack, each constant a name that code takes and the PostScript name of one font.
func TestAppleFilesCompile(t *testing.T) {
	in := input(t, "apple-app")
	in.Families = trickyFamilies("apple-app", t)
	files, packed := assemble(t, in)
	var list struct {
		Keys   []string `xml:"dict>key"`
		Fonts  []string `xml:"dict>array>string"`
		Folder string   `xml:"dict>string"`
	}
	require.NoError(t, xml.Unmarshal(files["Info-fonts.plist"], &list))
	parsed(t, "Info-fonts.plist", files["Info-fonts.plist"])
	assert.Equal(t, []string{"UIAppFonts", "ATSApplicationFontsPath"}, list.Keys)
	postScript := map[string]bool{}
	for _, f := range in.Families {
		for _, face := range f.Faces {
			postScript[face.Metadata.Names.PostScript] = true
		}
	}
	assert.Len(t, list.Fonts, len(postScript))
	for _, f := range list.Fonts {
		assert.Contains(t, files, list.Folder+"/"+f)
	}
	lines := strings.Split(strings.TrimSpace(string(files["FontNames.swift"])), "\n")
	assert.Equal(t, "enum FontName {", lines[1])
	assert.Equal(t, "}", lines[len(lines)-1])
	had := map[string]bool{}
	for _, line := range lines[2 : len(lines)-1] {
		m := regexp.MustCompile(`^    static let ([a-zA-Z_][a-zA-Z0-9_]*) = "([^"\\]+)"$`).FindStringSubmatch(line)
		require.NotNil(t, m, line)
		assert.False(t, slices.Contains(swiftWords, m[1]), m[1])
		assert.False(t, had[m[1]], m[1])
		had[m[1]] = true
		assert.True(t, postScript[m[2]], m[2])
		delete(postScript, m[2])
		assert.Contains(t, string(files["upload-slip.html"]), "<kbd>"+m[2]+"</kbd>")
	}
	assert.Empty(t, postScript, "each font has a constant")
	assert.NotEmpty(t, packed.Entries)
}
