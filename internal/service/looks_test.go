package service_test

import (
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/service/servicetest"
)

// TestLookingCloser moves an axis, switches a feature, finds and copies a
// character, and compares families, in a browser that has the fonts.
func TestLookingCloser(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor)
	const closer = `document.querySelector("[data-tab=specimen] .set")`
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/4"), openFace("Regular"), allSet(),
		browsertest.Until(closer+`?.dataset.state === "ready"`))
	width := `(r => { r.selectNodeContents(` + closer + `); return r.getBoundingClientRect().width })(document.createRange())`
	regular := browsertest.Eval[float64](t, ctx, width)
	browsertest.Do(t, ctx, press("Bold"), browsertest.Until(`getComputedStyle(`+closer+`).fontVariationSettings === '"wght" 700'`))
	bold := browsertest.Eval[float64](t, ctx, width)
	assert.Greater(t, bold, regular+5, "the axis moves what is set")
	browsertest.Do(t, ctx, browsertest.Click(`//label[contains(.,"kerning")]`), browsertest.Until(`getComputedStyle(`+closer+`).fontFeatureSettings === '"kern" 0'`))
	assert.Equal(t, 11, browsertest.Eval[int](t, ctx, `document.querySelectorAll(".waterfall .set").length`))
	browsertest.Do(t, ctx, openTab("Characters"), browsertest.Visible(".map .grid button"),
		fill("Find a character", "euro"), browsertest.Until(`document.querySelectorAll(".map .grid button").length === 1`), browsertest.Click(".map .grid button"),
		browsertest.Until(`document.querySelector(".map .at").innerText.replaceAll(/\s+/g, " ").includes("U+20AC euro sign copied")`))
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families"), allSet(), choose("Alphabet of", "Polish"), browsertest.Until(`[...document.querySelectorAll(".set")].every(e => e.textContent.includes("łódź jeża"))`),
		browsertest.Click(`//label[contains(.,"Light on dark")]`), browsertest.Until(`document.querySelectorAll(".set.reversed").length > 2`),
		chromedp.Navigate(s.Address+"/compare?id=4&id=1&id=2"), browsertest.Visible(".columns section"), browsertest.Until(`document.querySelectorAll(".columns section").length === 3`))
	said := `[...document.querySelectorAll(".columns section p:first-of-type")].map(p => p.textContent.split(";")[0]).join()`
	browsertest.Do(t, ctx, browsertest.Until(said+` === "Regular, weight 400,Regular, weight 400,Regular, weight 400"`),
		browsertest.Type(`.weight [role="slider"]`, kb.End),
		browsertest.Until(said+` === "Regular, weight 700,Bold, weight 700,Regular, weight 400"`))
}

// TestViewersSeeCharactersDrawn looks as somebody who may see fonts and not have
// them.
func TestViewersSeeCharactersDrawn(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleViewer)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/2"), openFace("Regular"), openTab("Characters"), browsertest.Visible(".map .grid button"), scrollTo(".map"),
		browsertest.Until(`[...document.querySelectorAll(".map .grid img")].slice(0, 8).every(i => i.complete && i.naturalWidth > 0) && document.querySelectorAll(".map .grid img").length > 100`))
	// Axes and features move the pictures, too.
	const closer = `document.querySelector("[data-tab=specimen] .waterfall img")`
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/4"), openFace("Regular"), browsertest.Until(closer+`?.naturalWidth > 0`))
	regular := browsertest.Eval[int](t, ctx, closer+`.naturalWidth`)
	browsertest.Do(t, ctx, press("Bold"), browsertest.Until(closer+`.src.includes("wght%3D700") && `+closer+`.complete && `+closer+`.naturalWidth > `+strconv.Itoa(regular+5)),
		browsertest.Click(`//label[contains(.,"kerning")]`), browsertest.Until(closer+`.src.includes("features=-kern")`))
	assert.Zero(t, browsertest.Eval[int](t, ctx, catalogFonts+`.length`))
}

func TestCharacters(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleViewer)
	list := func(q api.ListCharactersParams) *api.CharacterPage {
		r, err := c.ListCharactersWithResponse(t.Context(), 1, &q)
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
		return r.JSON200
	}
	all := list(api.ListCharactersParams{})
	assert.Len(t, all.Items, all.Total)
	assert.Equal(t, api.Character{Code: 0x21, Name: "exclamation mark"}, all.Items[1])
	var paged []api.Character
	q := api.ListCharactersParams{Limit: new(100)}
	for {
		page := list(q)
		paged = append(paged, page.Items...)
		if q.After = page.Next; page.Next == nil {
			break
		}
	}
	assert.Equal(t, all.Items, paged)
	for text, want := range map[string]string{"é": "É é", "U+00E9": "é", "latin small acute e": "é", "20ac": "€"} {
		got := ""
		for i, k := range list(api.ListCharactersParams{Q: &text}).Items {
			if i > 0 {
				got += " "
			}
			got += string(rune(k.Code))
		}
		assert.Equal(t, want, got, text)
	}
}

// TestVersions brings a newer version of a face: what it changed is told, and the
// site whose last pack holds the old one is named until it has another.
func TestVersions(t *testing.T) {
	s := servicetest.Start(t, servicetest.Demo)
	c := s.Client(t, api.RoleEditor)
	data, err := foundry.Build(foundry.Signage()[1], font.TTF)
	require.NoError(t, err)
	opened, err := font.Open(data)
	require.NoError(t, err)
	newer, _, err := subset.Face(opened.Faces[0], subset.Options{Characters: coverage.All.Without(coverage.OfText("Ā"))})
	require.NoError(t, err)
	r := addFile(t, c, "SkerrowSans-Regular.ttf", sfnt.Write(versioned(t, newer, "Version 9.0")), demo.Ferries, "commissioned")
	require.NotNil(t, r.JSON200, "%s", r.Body)
	require.Equal(t, api.OutcomeNewer, r.JSON200.Outcome)

	face := func() api.Face {
		f, err := c.GetFamilyWithResponse(t.Context(), 1)
		require.NoError(t, err)
		for _, face := range f.JSON200.Faces {
			if face.Style == "Regular" {
				return face
			}
		}
		t.Fatal("no regular")
		return api.Face{}
	}
	f := face()
	require.Len(t, f.Files, 2)
	now, old := f.Files[0], f.Files[1]
	assert.True(t, now.Current)
	assert.Empty(t, now.CarriedBy)
	assert.Equal(t, []api.Ref{{Id: 1, Name: "Holmvik timetable"}}, old.CarriedBy)
	ch, err := c.CompareVersionsWithResponse(t.Context(), f.Id, &api.CompareVersionsParams{From: old.Id, To: now.Id})
	require.NoError(t, err)
	require.NotNil(t, ch.JSON200, "%s", ch.Body)
	assert.Contains(t, ch.JSON200.Gone.Text, "Ā")
	assert.Zero(t, ch.JSON200.RedrawnOf)
	assert.Equal(t, "version", ch.JSON200.Values[0].Name)
	assert.Equal(t, "Version 9.0", ch.JSON200.Values[0].To)
	wrong, err := c.CompareVersionsWithResponse(t.Context(), f.Id, &api.CompareVersionsParams{From: 4, To: now.Id})
	require.NoError(t, err)
	assert.Equal(t, "no-such-version", wrong.ApplicationproblemJSONDefault.Code)

	ctx := tab(t, "")
	signIn(t, ctx, s, api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(s.Address+"/families/1"), says("old version in use"), browsertest.Click(`//li[contains(., "old version in use")]//a[1]`), openTab("Files"),
		browsertest.Until(`document.body.innerText.includes("Old version, still used by")`), browsertest.Click(".since summary"),
		browsertest.Until(`document.body.innerText.includes("→ Version 9.0") && document.body.innerText.includes("Gone")`))

	// The old one is chosen, and the new one again; what every site carries folds up.
	for _, again := range []api.File{old, now} {
		browsertest.Do(t, ctx, browsertest.Click(`//button[text()="Use in packs" or .//span[text()="Use in packs"]]`))
		require.Eventually(t, func() bool {
			files := face().Files
			return files[slices.IndexFunc(files, func(f api.File) bool { return f.Current })].Id == again.Id
		}, time.Minute, 50*time.Millisecond)
		browsertest.Do(t, ctx, browsertest.Until(`[...document.querySelectorAll("[data-tab=files] strong")].some(s => s.parentElement.innerText.includes("Version 9.0")) === `+strconv.FormatBool(again.Id == now.Id)))
	}

	built, err := c.BuildPackWithResponse(t.Context(), 1, nil)
	require.NoError(t, err)
	require.NotNil(t, built.JSON201, "%s", built.Body)
	f = face()
	assert.Empty(t, f.Files[1].CarriedBy)
	assert.Equal(t, []api.Ref{{Id: 1, Name: "Holmvik timetable"}}, f.Files[0].CarriedBy)
}

// versioned returns a face with another version in its name table.
func versioned(t testing.TB, f *sfnt.Font, version string) *sfnt.Font {
	t.Helper()
	names, err := table.ParseName(f.Table(table.TagName))
	require.NoError(t, err)
	for i, r := range names.Records {
		r = table.NameRecord{Platform: r.Platform, Encoding: r.Encoding, Language: r.Language, ID: r.ID, Value: r.Text()}
		if r.ID == table.NameVersion {
			r.Value = version
		}
		names.Records[i] = r
	}
	out := &sfnt.Font{Flavor: f.Flavor}
	for _, tb := range f.Tables {
		if tb.Tag == table.TagName {
			tb.Data = names.Encode()
		}
		out.Tables = append(out.Tables, tb)
	}
	return out
}
