package service_test

import (
	"archive/zip"
	"bytes"
	"io"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/instance"
	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/demo/foundry/foundrytest"
)

// of returns the bytes of a face in a format.
func of(t *testing.T, f *sfnt.Font, as font.Container) []byte {
	t.Helper()
	b, err := font.Make(f, as)
	require.NoError(t, err)
	return b
}

func partOf(t *testing.T, f *sfnt.Font, text string) *sfnt.Font {
	t.Helper()
	out, _, err := subset.Face(f, subset.Options{Characters: coverage.OfText(text)})
	require.NoError(t, err)
	return out
}

// taken takes a font file in and returns what became of it.
func (s *studio) taken(t *testing.T, name string, data []byte) *api.ImportResult {
	t.Helper()
	r := s.add(name, data)
	require.NotNil(t, r.JSON200, "%s", r.Body)
	return r.JSON200
}

// inUse returns the name of the file that packs use of a family's face.
func (s *studio) inUse(t *testing.T, family int64, style string) string {
	t.Helper()
	f, err := s.admin.GetFamilyWithResponse(t.Context(), family)
	require.NoError(t, err)
	require.NotNil(t, f.JSON200)
	for _, face := range f.JSON200.Faces {
		if face.Style == style {
			for _, file := range face.Files {
				if file.Current {
					return file.Name
				}
			}
		}
	}
	return ""
}

// TestAPartNeverStandsInForTheWhole adds a font and parts of it in either order and in
// one zip: packs use the whole.
func TestAPartNeverStandsInForTheWhole(t *testing.T) {
	whole := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	style := "Regular"
	latin, rest := of(t, partOf(t, whole, "Skerrow Sans to the pier"), font.WOFF2), of(t, partOf(t, whole, "åæøÅÆØéèê"), font.TTF)
	t.Run("the whole first", func(t *testing.T) {
		s := open(t)
		family := s.taken(t, "whole.ttf", of(t, whole, font.TTF)).Family.Id
		for name, b := range map[string][]byte{"latin.woff2": latin, "rest.ttf": rest} {
			r := s.taken(t, name, b)
			assert.Equal(t, api.OutcomePart, r.Outcome, name)
			assert.Contains(t, r.Message, "A part of")
			assert.Equal(t, family, r.Family.Id)
		}
		assert.Equal(t, "whole.ttf", s.inUse(t, family, style))
	})
	t.Run("parts first", func(t *testing.T) {
		s := open(t)
		family := s.taken(t, "latin.woff2", latin).Family.Id
		s.taken(t, "rest.ttf", rest)
		r := s.taken(t, "whole.ttf", of(t, whole, font.TTF))
		assert.Equal(t, api.OutcomeWhole, r.Outcome)
		assert.Contains(t, r.Message, "more characters. Packs will use it")
		assert.Equal(t, "whole.ttf", s.inUse(t, family, style))
	})
	t.Run("in one zip", func(t *testing.T) {
		s := open(t)
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, one := range []struct {
			name string
			data []byte
		}{{"a/rest.ttf", rest}, {"b/whole.ttf", of(t, whole, font.TTF)}, {"c/latin.woff2", latin}} {
			w, err := z.Create(one.name)
			require.NoError(t, err)
			_, err = w.Write(one.data)
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		id := s.deliver("")
		require.NotNil(t, s.put(id, "fonts.zip", b.Bytes()).JSON200)
		s.rested(id)
		_, items := s.accept(id)
		f := items["fonts.zip/b/whole.ttf"]
		require.NotNil(t, f.FamilyId, "%v", items)
		assert.Equal(t, "whole.ttf", s.inUse(t, *f.FamilyId, style))
	})
}

// TestAMislabeledBoldReplacesNothing adds a bold under the names of the regular: it is
// kept and not used, until somebody chooses it, and back.
func TestAMislabeledBoldReplacesNothing(t *testing.T) {
	s := open(t)
	regular, bold := *foundry.Signage()[1], *foundry.Signage()[2]
	bold.Family, bold.Style, bold.PostScript, bold.Weight, bold.Version = regular.Family, regular.Style, regular.PostScript, regular.Weight, "9.000"
	family := s.taken(t, "regular.ttf", of(t, foundrytest.Face(t, &regular, font.TTF), font.TTF)).Family.Id
	r := s.taken(t, "bold.ttf", of(t, foundrytest.Face(t, &bold, font.TTF), font.TTF))
	assert.Equal(t, api.OutcomeMislabeled, r.Outcome)
	assert.Contains(t, r.Message, "a bolder one (upright strokes are")
	assert.Equal(t, "regular.ttf", s.inUse(t, family, "Regular"))

	f, err := s.admin.GetFamilyWithResponse(t.Context(), family)
	require.NoError(t, err)
	face := f.JSON200.Faces[0]
	for _, f := range face.Files {
		assert.Equal(t, f.Name == "bold.ttf", f.Outcome != nil && *f.Outcome == api.OutcomeMislabeled && *f.Why == r.Message, f.Name)
	}
	file := func(name string) int64 {
		return face.Files[slices.IndexFunc(face.Files, func(f api.File) bool { return f.Name == name })].Id
	}
	for _, name := range []string{"bold.ttf", "regular.ttf"} {
		used, err := s.admin.UseFileWithResponse(t.Context(), face.Id, api.FileInUse{File: file(name)})
		require.NoError(t, err)
		require.NotNil(t, used.JSON200, "%s", used.Body)
		assert.Equal(t, name, s.inUse(t, family, "Regular"))
	}
	viewer, err := s.Client(t, api.RoleViewer).UseFileWithResponse(t.Context(), face.Id, api.FileInUse{File: file("bold.ttf")})
	require.NoError(t, err)
	assert.Equal(t, 403, viewer.StatusCode())
	none, err := s.admin.UseFileWithResponse(t.Context(), face.Id, api.FileInUse{File: 999})
	require.NoError(t, err)
	assert.Equal(t, "no-such-version", none.ApplicationproblemJSONDefault.Code)
}

// TestFontsAreLookedUpByWhatTheyDraw looks up a subset under another name, an instance
// of a variable font, another design, and what is no font.
func TestFontsAreLookedUpByWhatTheyDraw(t *testing.T) {
	s := open(t)
	for _, d := range append(foundry.Signage(), foundry.Display(), foundry.Poster()) {
		s.taken(t, d.PostScript+".ttf", of(t, foundrytest.Face(t, d, font.TTF), font.TTF))
	}
	variable, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	s.taken(t, "variable.ttf", variable)
	like := func(f *sfnt.Font) []api.Alike {
		kind, body := upload(t, "asked.woff2", of(t, f, font.WOFF2))
		r, err := s.Client(t, api.RoleViewer).FindAlikeWithBodyWithResponse(t.Context(), kind, body)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200.Items
	}
	const text = "Skerrow Sans goes to the pier at 16:35, by Quay 4"
	other, _, err := rename.Face(partOf(t, foundrytest.Face(t, foundry.Display(), font.OTF), text), rename.Options{Family: "Elsewhere"})
	require.NoError(t, err)
	found := like(other)
	require.NotEmpty(t, found)
	assert.Equal(t, foundry.Display().Family, found[0].Family.Name)
	assert.Equal(t, api.RelationPart, found[0].Relation)
	assert.InDelta(t, 1, found[0].Closeness, 0.001)
	for _, one := range found[1:] {
		assert.Equal(t, api.RelationDifferent, one.Relation)
	}

	static, _, err := instance.Face(foundrytest.Parsed(t, variable), instance.Options{At: map[string]instance.Range{"wght": {Min: 620, Max: 620}}})
	require.NoError(t, err)
	found = like(partOf(t, static, text))
	require.NotEmpty(t, found)
	assert.Equal(t, api.RelationInstance, found[0].Relation, "%+v", found)
	assert.InDelta(t, 620, (*found[0].At)["wght"], 0.5)
	assert.True(t, strings.HasPrefix(found[0].Why, "An instance of the variable face"), found[0].Why)

	kind, body := upload(t, "page.woff2", []byte("<!doctype html><html></html>"))
	r, err := s.admin.FindAlikeWithBodyWithResponse(t.Context(), kind, body)
	require.NoError(t, err)
	assert.Equal(t, "not-a-font", r.ApplicationproblemJSONDefault.Code)
}

// TestSuppliedFilesGoOutAsTheyCame adds a font and the WOFF2 that its shop made of it, in
// either order: packs hold those very bytes, and what is made beside them.
func TestSuppliedFilesGoOutAsTheyCame(t *testing.T) {
	regular := foundrytest.Face(t, foundry.Signage()[1], font.TTF)
	theirs := &sfnt.Font{Flavor: regular.Flavor, Tables: append(slices.Clone(regular.Tables), sfnt.Table{Tag: sfnt.MakeTag("shop"), Data: []byte("made by the shop")})}
	plain, supplied := of(t, regular, font.TTF), of(t, theirs, font.WOFF2)
	part := of(t, partOf(t, regular, "Skerrow Sans to the pier"), font.WOFF)
	for name, order := range map[string][]string{"behind the plain one": {"a.ttf", "a.woff2", "part.woff"}, "before it": {"part.woff", "a.woff2", "a.ttf"}} {
		t.Run(name, func(t *testing.T) {
			s := open(t)
			var family int64
			for _, one := range order {
				family = s.taken(t, one, map[string][]byte{"a.ttf": plain, "a.woff2": supplied, "part.woff": part}[one]).Family.Id
			}
			assert.Equal(t, "a.ttf", s.inUse(t, family, "Regular"))
			f, err := s.admin.GetFamilyWithResponse(t.Context(), family)
			require.NoError(t, err)
			files := f.JSON200.Faces[0].Files
			current := files[slices.IndexFunc(files, func(f api.File) bool { return f.Current })].Id
			require.Eventually(t, func() bool { return bytes.Equal(supplied, s.content(current, api.WOFF2).Body) }, time.Minute, 50*time.Millisecond, "the shop's own")
			assert.NotEqual(t, part, s.content(current, api.WOFF).Body, "a part is no WOFF of the whole")
			assert.Equal(t, api.AsItCame, s.formats(family)[api.WOFF2].State)
			assert.NotEqual(t, api.AsItCame, s.formats(family)[api.WOFF].State)

			site := s.site("Timetable", 1, family)
			s.document(s.license(1, nil, family).Id)
			built, err := s.admin.BuildPackWithResponse(t.Context(), site, nil)
			require.NoError(t, err)
			require.NotNil(t, built.JSON201, "%s", built.Body)
			r, err := s.admin.GetPackContentWithResponse(t.Context(), built.JSON201.Id)
			require.NoError(t, err)
			z, err := zip.NewReader(bytes.NewReader(r.Body), int64(len(r.Body)))
			require.NoError(t, err)
			found := 0
			for _, member := range z.File {
				if strings.HasSuffix(member.Name, ".woff2") {
					in, err := member.Open()
					require.NoError(t, err)
					b, err := io.ReadAll(in)
					require.NoError(t, err)
					assert.Equal(t, supplied, b, member.Name)
					found++
				}
			}
			assert.Equal(t, 1, found)
		})
	}
}
