package builder_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/demo/foundry"
)

func shipped(t testing.TB, kind string) *builder.Rules {
	t.Helper()
	r, ok := builder.ShippedOf(kind)
	require.True(t, ok, kind)
	return r
}

func TestShippedRulesAreWhole(t *testing.T) {
	all := builder.Shipped()
	require.GreaterOrEqual(t, len(all), 13)
	kinds := map[string]bool{}
	for _, r := range all {
		assert.False(t, kinds[r.Kind], r.Kind)
		kinds[r.Kind] = true
		again, err := builder.Read(r.JSON())
		require.NoError(t, err)
		assert.Equal(t, r, *again, "written and read again")
		assert.NotEmpty(t, r.Formats())
	}
	assert.True(t, json.Valid(builder.Schema()))
}

// TestWrongRules has rules that contradict the schema or themselves.
func TestWrongRules(t *testing.T) {
	for name, one := range map[string]struct {
		kind   string
		change func(map[string]any)
		field  string
		says   string
	}{
		"unknown format":  {"self-hosted", func(m map[string]any) { m["files"].(map[string]any)["formats"] = []string{"zip"} }, "files.formats.0", "woff2"},
		"unknown field":   {"self-hosted", func(m map[string]any) { m["colour"] = "red" }, "", "colour"},
		"missing":         {"self-hosted", func(m map[string]any) { delete(m, "styles") }, "", "styles"},
		"capital in kind": {"self-hosted", func(m map[string]any) { m["kind"] = "Self" }, "kind", "kind"},
		"form and folder": {"upload-form", func(m map[string]any) { m["files"].(map[string]any)["upload"] = "folder" }, "files.upload", "not a folder"},
		"web font in app": {"apple-app", func(m map[string]any) { m["files"].(map[string]any)["formats"] = []string{"woff2"} }, "files.formats", "Apps read TTF and OTF"},
		"box and relative": {"style-box", func(m map[string]any) {
			m["urls"] = map[string]any{"after": false, "relative": true}
		}, "urls.relative", "on the page itself"},
		"prefix not known yet": {"style-box", func(m map[string]any) {
			m["urls"] = map[string]any{"after": true, "relative": false, "prefix": "/a/"}
		}, "urls.prefix", "after the upload"},
		"nowhere to choose": {"upload-form", func(m map[string]any) { delete(m, "form") }, "form", "chosen in a form"},
		"weight compared": {"upload-form", func(m map[string]any) {
			m["form"].(map[string]any)["fields"] = []any{map[string]any{"label": "W", "value": "weight", "same": true}}
		}, "form.fields.0.same", "Only a name"},
		"resource with hyphens": {"android-app", func(m map[string]any) { m["files"].(map[string]any)["named"] = "hyphens" }, "files.named", "underscores"},
		"selector ends a rule": {"style-box", func(m map[string]any) {
			m["roles"] = []any{map[string]any{"role": "body", "selector": "p { color: red } h1"}}
		}, "roles.0.selector", "without braces"},
		"role twice": {"style-box", func(m map[string]any) {
			m["roles"] = []any{map[string]any{"role": "body"}, map[string]any{"role": "body"}}
		}, "roles.1", "twice"},
	} {
		t.Run(name, func(t *testing.T) {
			var m map[string]any
			require.NoError(t, json.Unmarshal(shipped(t, one.kind).JSON(), &m))
			one.change(m)
			b, err := json.Marshal(m)
			require.NoError(t, err)
			_, err = builder.Read(b)
			require.ErrorIs(t, err, builder.ErrRules)
			var wrong builder.WrongRules
			require.ErrorAs(t, err, &wrong)
			assert.Equal(t, one.field, wrong[0].Field)
			assert.Contains(t, wrong[0].Message, one.says)
		})
	}
	_, err := builder.Read([]byte("{"))
	require.ErrorContains(t, err, "This is not JSON")
}

// TestTake asks each kind of platform about files as people hand them in.
func TestTake(t *testing.T) {
	bold := foundry.Signage()[2]
	ttf, err := foundry.Build(bold, font.TTF)
	require.NoError(t, err)
	opened, err := font.Open(ttf)
	require.NoError(t, err)
	woff2, err := opened.Make(0, font.WOFF2)
	require.NoError(t, err)
	variable, err := foundry.BuildVariable(foundry.Signage(), font.WOFF2)
	require.NoError(t, err)
	full := metadata.One(opened.Faces[0]).Names.Full
	typed := func(name, weight, style string) map[string]string {
		return map[string]string{"Font name": name, "Weight": weight, "Style": style, "Fallback": "serif"}
	}
	for name, one := range map[string]struct {
		kind   string
		offers []builder.Offer
		says   string // empty where it is taken
	}{
		"right":             {"upload-form", []builder.Offer{{Name: full + ".woff2", Data: woff2, Fields: typed(full, "700", "normal")}}, ""},
		"wrong format":      {"upload-form", []builder.Offer{{Name: full + ".ttf", Data: ttf}}, "This file is TTF; the platform accepts woff2"},
		"wrong ending":      {"upload-form", []builder.Offer{{Name: full + ".woff", Data: woff2}}, "ends in .woff, but what it holds is WOFF2"},
		"a space less":      {"upload-form", []builder.Offer{{Name: strings.ReplaceAll(full, " ", "") + ".woff2", Data: woff2}}, "a space is missing after"},
		"a capital":         {"upload-form", []builder.Offer{{Name: strings.ToLower(full) + ".woff2", Data: woff2}}, "upper and lower case differ"},
		"form says another": {"upload-form", []builder.Offer{{Name: full + ".woff2", Data: woff2, Fields: typed(full+" ", "700", "normal")}}, "it has an extra space after"},
		"left at 400":       {"upload-form", []builder.Offer{{Name: full + ".woff2", Data: woff2, Fields: typed(full, "400", "normal")}}, "“Weight” is 400, but the font is 700"},
		"nothing typed":     {"upload-form", []builder.Offer{{Name: full + ".woff2", Data: woff2, Fields: typed("", "700", "normal")}}, "“Font name” is empty"},
		"no such field":     {"upload-form", []builder.Offer{{Name: full + ".woff2", Data: woff2, Fields: map[string]string{"Name": full}}}, "no field “Name”"},
		"variable":          {"upload-form", []builder.Offer{{Name: "x.woff2", Data: variable}}, "Variable fonts are not accepted"},
		"spaces":            {"android-app", []builder.Offer{{Name: "Skerrow Sans.ttf", Data: ttf}}, "contains 'S'; only lower-case letters, digits and underscores"},
		"no font":           {"self-hosted", []builder.Offer{{Name: "x.woff2", Data: []byte("<!doctype html>")}}, "web page"},
		"any name":          {"desktop", []builder.Offer{{Name: "whatever it is.ttf", Data: ttf}}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			answer := take(t, shipped(t, one.kind), one.offers)[0]
			assert.Equal(t, one.says == "", answer.Taken, answer.Says)
			if one.says != "" {
				assert.Contains(t, strings.Join(answer.Says, " "), one.says)
			}
		})
	}
	two := take(t, shipped(t, "fields-only"), []builder.Offer{{Name: "a.woff2", Data: woff2}, {Name: "b.woff2", Data: woff2}})
	assert.Contains(t, strings.Join(two[1].Says, " "), "Upload one file at a time")
	assert.NotContains(t, strings.Join(two[0].Says, " "), "Upload one file at a time", "the first may come")
	both := take(t, shipped(t, "self-hosted"), []builder.Offer{{Name: "a.woff2", Data: woff2}, {Name: "b.woff2", Data: woff2}})
	assert.NotContains(t, strings.Join(both[1].Says, " "), "Upload one file at a time", "a folder takes many")
	small := shipped(t, "self-hosted")
	small.Files.MaxBytes = 100
	assert.Contains(t, strings.Join(take(t, small, []builder.Offer{{Name: "a.woff2", Data: woff2}})[0].Says, " "), "the limit is 100")
	same := take(t, shipped(t, "upload-form-several"), []builder.Offer{{Name: "a.woff2", Data: woff2}, {Name: "b.woff2", Data: woff2}})
	assert.True(t, same[0].Taken)
	assert.Contains(t, same[0].Says[0], "Into “Family” belongs Skerrow Sans")
	assert.Contains(t, strings.Join(same[1].Says, " "), "there as WOFF2 already")
}

func TestFormatsOf(t *testing.T) {
	for _, one := range []struct {
		kind     string
		outlines metadata.Outlines
		want     []font.Container
		retype   bool
	}{
		{"self-hosted", metadata.CFF, []font.Container{font.WOFF2, font.WOFF}, false},
		{"desktop", metadata.CFF, []font.Container{font.OTF}, false},
		{"desktop", metadata.TrueType, []font.Container{font.TTF}, false},
		{"app-form", metadata.CFF, []font.Container{font.TTF}, true},
		{"upload-form-several", metadata.CFF2, []font.Container{font.WOFF2, font.WOFF, font.TTF}, true},
		{"fields-only", metadata.CFF, []font.Container{font.WOFF}, false},
	} {
		got, retype, err := shipped(t, one.kind).FormatsOf(one.outlines)
		require.NoError(t, err)
		assert.Equal(t, one.want, got, one.kind)
		assert.Equal(t, one.retype, retype, one.kind)
	}
	only := shipped(t, "desktop")
	only.Files.Formats = []font.Container{font.OTF}
	_, _, err := only.FormatsOf(metadata.TrueType)
	require.ErrorContains(t, err, "takes OTF")
	old := shipped(t, "self-hosted").WithOld()
	assert.Equal(t, []font.Container{font.WOFF2, font.WOFF, font.TTF, font.EOT, font.SVG}, old.Files.Formats)
	assert.Equal(t, shipped(t, "upload-form"), shipped(t, "upload-form").WithOld(), "a form has no place for them")
}

func TestPlainNames(t *testing.T) {
	for in, want := range map[string]string{
		"Skerrow Sans Bold": "skerrow-sans-bold", "Grün  & Co.": "grun-co", "../../etc": "etc", "Łódź Straße": "lodz-strasse", "字体": "font", "": "font", "A--B": "a-b",
	} {
		assert.Equal(t, want, builder.Plain(in))
	}
	full := metadata.Face{Names: metadata.Names{Full: `A/B\ C`, PostScript: "AB-C"}}
	none := &metadata.Face{}
	assert.Equal(t, "AB C", shipped(t, "upload-form").FileBase("x", "y", "", &full), "no name leads out of its folder")
	assert.Equal(t, "x-y", shipped(t, "upload-form").FileBase("x", "y", "", none))
	assert.Equal(t, "AB-C", shipped(t, "apple-app").FileBase("x", "y", "", &full))
	assert.Equal(t, "font_3_days_bold", shipped(t, "android-app").FileBase("3 Days", "Bold", "", none))
	assert.Equal(t, "came in.v2", shipped(t, "desktop").FileBase("x", "y", "came in.v2.otf", none))
}

func TestSelectors(t *testing.T) {
	for _, good := range []string{"h1", ".a > .b", `a[href^="x"]`, ":is(h1, h2) span", "#x, .y"} {
		assert.NoError(t, builder.CheckSelector(good), good)
	}
	for bad, says := range map[string]string{"": "needs a selector", "h1 {": "without braces", "a; b": "without braces", `a[href="x`: "not closed", "h1,": "before or after a comma",
		":is(h1": "bracket is not closed", "a[x=“y”]": "curly quotes", "</style>": "without braces", strings.Repeat("a", 501): "longer"} {
		assert.ErrorContains(t, builder.CheckSelector(bad), says, bad)
	}
}

func take(t *testing.T, r *builder.Rules, offers []builder.Offer) []builder.Answer {
	t.Helper()
	answers, err := r.Take(t.Context(), offers)
	require.NoError(t, err)
	return answers
}

// TestSizesAndEndingsAreTakenToTheByte tries the largest file that is taken and one byte more,
// endings in capitals, and collections.
func TestSizesAndEndingsAreTakenToTheByte(t *testing.T) {
	woff2, err := foundry.Build(foundry.Signage()[1], font.WOFF2)
	require.NoError(t, err)
	opened, err := font.Open(woff2)
	require.NoError(t, err)
	name := metadata.One(opened.Faces[0]).Names.Full + ".WOFF2"
	for most, taken := range map[int64]bool{0: true, int64(len(woff2)): true, int64(len(woff2)) - 1: false, 1: false} {
		r := *shipped(t, "self-hosted")
		r.Files.MaxBytes = most
		answer := take(t, &r, []builder.Offer{{Name: name, Data: woff2}})[0]
		said := strings.Join(answer.Says, " ")
		assert.Equal(t, !taken, strings.Contains(said, "bytes; the limit is"), "%d: %s", most, said)
		assert.NotContains(t, said, "ends in", "capitals in an ending are the same ending")
	}
}

// TestNamesAsTheyCame keeps the name that a file came under, without its ending.
func TestNamesAsTheyCame(t *testing.T) {
	r := shipped(t, "self-hosted")
	r.Files.Named = builder.NamedAsIs
	face := &metadata.Face{Names: metadata.Names{Full: "Example Bold", PostScript: "Example-Bold"}}
	for came, want := range map[string]string{"a.woff2": "a", "Example Bold.final.ttf": "Example Bold.final", "plain": "plain", ".woff2": ".woff2"} {
		assert.Equal(t, strings.TrimPrefix(want, "."), strings.TrimPrefix(r.FileBase("Example", "Bold", came, face), "."), came)
	}
	assert.NotEmpty(t, r.FileBase("Example", "Bold", "", face))
}
