package service_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/license"
)

// inZip returns the files of a zip by name.
func inZip(t testing.TB, data []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		b, err := io.ReadAll(r)
		require.NoError(t, err)
		out[f.Name] = string(b)
	}
	return out
}

// built builds a pack for a site and returns its files.
func (s *studio) built(site int64) map[string]string {
	s.t.Helper()
	p, err := s.admin.BuildPackWithResponse(s.t.Context(), site, nil)
	require.NoError(s.t, err)
	require.NotNil(s.t, p.JSON201, "%s", p.Body)
	r, err := s.admin.GetPackContentWithResponse(s.t.Context(), p.JSON201.Id)
	require.NoError(s.t, err)
	return inZip(s.t, r.Body)
}

// TestLicenseTextsGoAlong takes open fonts in with and without the text of their license:
// packs of every kind hold the text and the notices of the makers.
func TestLicenseTextsGoAlong(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	// One has its makers' own text beside it, one only a line in its names.
	full := "Copyright 2026 Ines Halloran, with Reserved Font Name \"Skerrow Sans\".\n\nThis Font Software is licensed under the SIL Open Font License, Version 1.1.\n\n" + license.FullText("OFL-1.1")
	sans, display := *foundry.Signage()[0], *foundry.Display()
	sans.License, sans.LicenseURL = "", ""
	display.License = "Licensed under the Apache License, Version 2.0"
	id := s.deliver("")
	s.put(id, "open.zip", zipped(t, map[string][]byte{"a/skerrow.ttf": drawn(t, &sans, font.TTF), "a/OFL.txt": []byte(full), "b/display.ttf": drawn(t, &display, font.TTF)}, "a/skerrow.ttf", "a/OFL.txt", "b/display.ttf"))
	s.rested(id)
	s.accept(id)
	families := map[string]int64{}
	list, err := s.admin.ListFamiliesWithResponse(ctx, &api.ListFamiliesParams{})
	require.NoError(t, err)
	for _, f := range list.JSON200.Items {
		families[f.Name] = f.Id
	}
	open, apache := families[sans.Family], families[display.Family]
	require.NotZero(t, open)
	require.NotZero(t, apache)
	c, err := s.admin.ConfirmProposalWithResponse(ctx, open, api.Confirmation{Spdx: "OFL-1.1"})
	require.NoError(t, err)
	require.NotNil(t, c.JSON201, "%s", c.Body)

	for _, kind := range []struct{ builder, folder string }{{"self-hosted", "fonts/"}, {"bundler", "fonts/"}, {"upload-form", "licenses/"}, {"android-app", "licenses/"}, {"apple-app", "fonts/"}, {"desktop", "fonts/"}} {
		a, err := s.admin.AddSiteWithResponse(ctx, api.SiteTerms{Name: "Site for " + kind.builder, Client: 1, Builder: kind.builder})
		require.NoError(t, err)
		require.NotNil(t, a.JSON201, "%s", a.Body)
		site := a.JSON201.Id
		for _, f := range []int64{open, apache} {
			used, err := s.admin.AddSiteFamilyWithResponse(ctx, site, f, api.FamilyOnSite{})
			require.NoError(t, err)
			require.NotNil(t, used.JSON200, "%s", used.Body)
		}
		off, err := s.admin.AddSignOffWithResponse(ctx, site, api.NewSignOff{Family: apache, Reason: "Its makers say so on their page"})
		require.NoError(t, err)
		require.NotNil(t, off.JSON201, "%s", off.Body)
		files := s.built(site)

		ofl, apa := files[kind.folder+"skerrow-sans-license.txt"], files[kind.folder+strings.ToLower(strings.ReplaceAll(display.Family, " ", "-"))+"-license.txt"]
		assert.Contains(t, ofl, "\n"+full, "%s: the very text of its makers", kind.builder)
		assert.Contains(t, ofl, "Reserved font names: Skerrow Sans\n")
		assert.Contains(t, ofl, "Lanternjaw")
		assert.Contains(t, apa, license.FullText("Apache-2.0"), "%s: the standard text", kind.builder)
		assert.Contains(t, apa, "Lanternjaw")
		note := files["license-note.txt"]
		assert.NotContains(t, note, "may not be passed on")
		assert.Contains(t, note, "It may be passed on under OFL-1.1, together with "+kind.folder+"skerrow-sans-license.txt.")
		assert.Contains(t, note, "Its own words point to Apache-2.0")
		assert.Contains(t, note, "License: none recorded")
		assert.Contains(t, files["upload-slip.html"], kind.folder+"skerrow-sans-license.txt")
	}
}

// TestLicensesThatAreNotListed records an open license of an identifier that the SPDX License
// List does not have: the SPDX document carries its text.
func TestLicensesThatAreNotListed(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	family := s.family(foundry.Poster())
	id := "Harbor-1.0"
	l, err := s.admin.AddLicenseWithResponse(ctx, api.LicenseTerms{Kind: api.KindOpen, Spdx: &id, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: []int64{family}})
	require.NoError(t, err)
	require.NotNil(t, l.JSON201, "%s", l.Body)
	kind, body := upload(t, "Harbor.txt", []byte("The Harbor License\n\nDo as you please, and keep this text with the font.\n"))
	d, err := s.admin.AddDocumentWithBodyWithResponse(ctx, l.JSON201.Id, kind, body)
	require.NoError(t, err)
	require.NotNil(t, d.JSON201, "%s", d.Body)
	files := s.built(s.site("Pages", 1, family))

	assert.Contains(t, files["licenses/tidegarth-poster-license.txt"]+files["fonts/tidegarth-poster-license.txt"], "Do as you please, and keep this text with the font.\n")
	var spdx struct {
		Packages  []struct{ LicenseDeclared string }
		Extracted []struct{ LicenseID, ExtractedText string } `json:"hasExtractedLicensingInfos"`
	}
	require.NoError(t, json.Unmarshal([]byte(files["licenses.spdx.json"]), &spdx))
	assert.Equal(t, "LicenseRef-1", spdx.Packages[0].LicenseDeclared)
	require.Len(t, spdx.Extracted, 1)
	assert.Contains(t, spdx.Extracted[0].ExtractedText, "Do as you please")
}
