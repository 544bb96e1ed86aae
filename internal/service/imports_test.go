package service_test

import (
	"archive/zip"
	"bytes"
	"database/sql"
	"encoding/json"
	"mime/multipart"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
)

// zipped packs things by path.
func zipped(t testing.TB, things map[string][]byte, order ...string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, name := range order {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(things[name])
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

// shopZip is what a shop sends: three styles, a license, a demo page, a file that
// is broken, and what a system left behind.
func shopZip(t testing.TB) []byte {
	things := map[string][]byte{
		"Skerrow/LICENSE.txt": []byte("For one web site."), "Skerrow/demo/index.html": []byte("<!doctype html>"),
		"__MACOSX/._LICENSE.txt": []byte("x"), "Skerrow/broken.woff2": []byte("<!doctype html>"),
	}
	order := []string{"Skerrow/LICENSE.txt", "Skerrow/demo/index.html", "__MACOSX/._LICENSE.txt", "Skerrow/broken.woff2"}
	for _, d := range foundry.Signage() {
		name := "Skerrow/" + d.PostScript + ".ttf"
		things[name] = drawn(t, d, font.TTF)
		order = append(order, name)
	}
	return zipped(t, things, order...)
}

// deliver opens a import.
func (s *studio) deliver(client string) int64 {
	s.t.Helper()
	r, err := s.admin.StartImportWithResponse(s.t.Context(), api.NewImport{Client: &client})
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON201, "%s", r.Body)
	return r.JSON201.Id
}

// put puts a file into a import.
func (s *studio) put(id int64, path string, data []byte) *api.AddImportItemResponse {
	s.t.Helper()
	var body bytes.Buffer
	m := multipart.NewWriter(&body)
	require.NoError(s.t, m.WriteField("path", path))
	part, err := m.CreateFormFile("file", "x")
	require.NoError(s.t, err)
	_, err = part.Write(data)
	require.NoError(s.t, err)
	require.NoError(s.t, m.Close())
	r, err := s.admin.AddImportItemWithBodyWithResponse(s.t.Context(), id, m.FormDataContentType(), &body)
	require.NoError(s.t, err)
	return r
}

// rested waits until nothing of a import is under way.
func (s *studio) rested(id int64) (d *api.Import, items map[string]api.ImportItem) {
	s.t.Helper()
	require.Eventually(s.t, func() bool {
		r, err := s.admin.GetImportWithResponse(s.t.Context(), id)
		require.NoError(s.t, err)
		require.NotNil(s.t, r.JSON200, "%s", r.Body)
		d = r.JSON200
		return d.Unpacking == 0 && d.State != api.ImportAccepting
	}, time.Minute, 20*time.Millisecond)
	items = map[string]api.ImportItem{}
	limit := 3
	for q := (api.ListImportItemsParams{Limit: &limit}); ; {
		r, err := s.admin.ListImportItemsWithResponse(s.t.Context(), id, &q)
		require.NoError(s.t, err)
		require.NotNil(s.t, r.JSON200, "%s", r.Body)
		for _, it := range r.JSON200.Items {
			items[it.Path] = it
		}
		if r.JSON200.Next == nil {
			return d, items
		}
		q.Cursor = r.JSON200.Next
	}
}

func (s *studio) accept(id int64) (*api.Import, map[string]api.ImportItem) {
	s.t.Helper()
	r, err := s.admin.AcceptImportWithResponse(s.t.Context(), id)
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON202, "%s", r.Body)
	return s.rested(id)
}

// TestADelivery goes from a zip to the catalog.
func TestADelivery(t *testing.T) {
	s := open(t)
	id := s.deliver("")
	first := s.put(id, "shop.zip", shopZip(t))
	require.NotNil(t, first.JSON200, "%s", first.Body)
	assert.Equal(t, api.ItemArchive, first.JSON200.Kind)
	regular := drawn(t, foundry.Signage()[1], font.TTF)
	s.put(id, `old\copies\regular again.ttf`, regular)
	s.put(id, "web/SkerrowSans-Regular.woff2", drawn(t, foundry.Signage()[1], font.WOFF2))
	d, items := s.rested(id)
	assert.Equal(t, 5, d.Counts.Fonts)
	assert.Equal(t, 1, d.Counts.Documents)
	assert.Equal(t, 2, d.Counts.LeftOut)
	assert.Equal(t, 1, d.Counts.Refused)
	require.Len(t, d.Families, 1)
	assert.Equal(t, []string{"Light", "Regular", "Bold"}, d.Families[0].Styles, "in the order of their weights")
	assert.Empty(t, d.Families[0].Warnings)
	assert.Contains(t, items["shop.zip/Skerrow/broken.woff2"].Why, "web page saved as a font")
	assert.Equal(t, "New: Skerrow Sans Light.", items["shop.zip/Skerrow/SkerrowSans-Light.ttf"].Why)
	again := items["old/copies/regular again.ttf"]
	assert.Contains(t, again.Problems[len(again.Problems)-1], `file name is "regular again.ttf"`)
	families, err := s.admin.ListFamiliesWithResponse(t.Context(), &api.ListFamiliesParams{})
	require.NoError(t, err)
	assert.Empty(t, families.JSON200.Items, "nothing is in the catalog yet")

	no := false
	left := []int64{items["shop.zip/Skerrow/SkerrowSans-Bold.ttf"].Id}
	changed, err := s.admin.ChangeImportItemsWithResponse(t.Context(), id, api.ImportChange{Items: &left, Mark: &no})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	assert.Equal(t, []string{"There is no bold face; bold text will be faux bold."}, changed.JSON200.Families[0].Warnings)
	d, items = s.accept(id)
	assert.Equal(t, api.ImportOpen, d.State, "one font is left to resolve")
	assert.Equal(t, 3, d.Counts.Taken, "and not the copy")
	assert.Equal(t, api.OutcomeSibling, *items["web/SkerrowSans-Regular.woff2"].Outcome)
	family, err := s.admin.GetFamilyWithResponse(t.Context(), *items["web/SkerrowSans-Regular.woff2"].FamilyId)
	require.NoError(t, err)
	require.Len(t, family.JSON200.Faces, 2)
	require.Len(t, family.JSON200.Documents, 1)
	assert.Equal(t, "LICENSE.txt", family.JSON200.Documents[0].Name)
	read, err := s.admin.GetFamilyDocumentWithResponse(t.Context(), family.JSON200.Documents[0].Id, &api.GetFamilyDocumentParams{})
	require.NoError(t, err)
	assert.Equal(t, "For one web site.", string(read.Body))

	yes := true
	_, err = s.admin.ChangeImportItemsWithResponse(t.Context(), id, api.ImportChange{Mark: &yes})
	require.NoError(t, err)
	d, items = s.accept(id)
	assert.Equal(t, api.ImportFinished, d.State)
	assert.True(t, items["shop.zip/Skerrow/SkerrowSans-Bold.ttf"].Taken)

	l := s.license(1, nil, *items["web/SkerrowSans-Regular.woff2"].FamilyId)
	kept, err := s.admin.AttachFamilyDocumentWithResponse(t.Context(), l.Id, api.AttachFamilyDocumentJSONRequestBody{Document: family.JSON200.Documents[0].Id})
	require.NoError(t, err)
	require.NotNil(t, kept.JSON201, "%s", kept.Body)
	twice, err := s.admin.AttachFamilyDocumentWithResponse(t.Context(), l.Id, api.AttachFamilyDocumentJSONRequestBody{Document: family.JSON200.Documents[0].Id})
	require.NoError(t, err)
	assert.Equal(t, "same-document", twice.ApplicationproblemJSONDefault.Code)
}

// TestAFamilyIsRemembered moves fonts to a family of another name; the next of
// that name go there by themselves, for that client only.
func TestAFamilyIsRemembered(t *testing.T) {
	s := open(t)
	_, err := s.admin.AddClientWithResponse(t.Context(), api.AddClientJSONRequestBody{Name: "Orrery Hall"})
	require.NoError(t, err)
	id := s.deliver("Orrery Hall")
	s.put(id, "a.ttf", drawn(t, foundry.Signage()[1], font.TTF))
	name, origin := "Dome Sans", api.OriginBought
	changed, err := s.admin.ChangeImportItemsWithResponse(t.Context(), id, api.ImportChange{Family: &name, Origin: &origin})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	_, items := s.rested(id)
	assert.True(t, *items["a.ttf"].Moved)
	_, items = s.accept(id)
	family, err := s.admin.GetFamilyWithResponse(t.Context(), *items["a.ttf"].FamilyId)
	require.NoError(t, err)
	assert.Equal(t, "Dome Sans", family.JSON200.Name)
	assert.Equal(t, api.OriginBought, family.JSON200.Origin)
	next := s.deliver("Orrery Hall")
	s.put(next, "bold.ttf", drawn(t, foundry.Signage()[2], font.TTF))
	_, items = s.rested(next)
	assert.Equal(t, "Dome Sans", *items["bold.ttf"].Family)
	assert.Equal(t, "New: Bold, a style that Dome Sans does not have yet.", items["bold.ttf"].Why)
	_, items = s.accept(next)
	assert.Equal(t, family.JSON200.Id, *items["bold.ttf"].FamilyId)
	other := s.deliver("")
	s.put(other, "light.ttf", drawn(t, foundry.Signage()[0], font.TTF))
	_, items = s.rested(other)
	assert.Equal(t, "Skerrow Sans", *items["light.ttf"].Family)
	s.put(other, "again.ttf", drawn(t, foundry.Signage()[2], font.TTF))
	_, items = s.rested(other)
	assert.Equal(t, api.OutcomeSame, *items["again.ttf"].Outcome)
	assert.Equal(t, family.JSON200.Id, *items["again.ttf"].FamilyId, "the family that has the bytes, whoever's it is")
}

// TestImportsThatCannotBe asks for what is refused, with the reason.
func TestImportsThatCannotBe(t *testing.T) {
	s := open(t)
	id := s.deliver("")
	nested := zipped(t, map[string][]byte{"page.html": []byte("x")}, "page.html")
	for range 4 {
		nested = zipped(t, map[string][]byte{"inner.zip": nested}, "inner.zip")
	}
	s.put(id, "deep.zip", nested)
	s.put(id, "cut.zip", shopZip(t)[:3000])
	s.put(id, "bomb.zip", zipped(t, map[string][]byte{"zeros.ttf": make([]byte, 40<<20)}, "zeros.ttf"))
	s.put(id, "old.rar", []byte("Rar!\x1a\x07\x00"))
	s.put(id, "../../etc/passwd", []byte("root"))
	d, items := s.rested(id)
	assert.Zero(t, d.Counts.Fonts)
	assert.Contains(t, items["deep.zip/inner.zip/inner.zip/inner.zip"].Why, "unpacked 3 deep")
	assert.Contains(t, items["cut.zip"].Why, "damaged or cut short")
	assert.Contains(t, items["bomb.zip"].Why, "times as large unpacked")
	assert.Contains(t, items["old.rar"].Why, "another kind than zip")
	assert.Contains(t, items, "etc/passwd", "a path stays within its import")
	check := func(code string, p *api.Problem) {
		t.Helper()
		require.NotNil(t, p, code)
		refusedFor(t, code, p.Code)
	}
	accepted, err := s.admin.AcceptImportWithResponse(t.Context(), id)
	require.NoError(t, err)
	check("nothing-marked", accepted.ApplicationproblemJSONDefault)
	for code, change := range map[string]api.ImportChange{
		"nothing-changed": {}, "not-open": {Items: &[]int64{999}, Mark: new(bool)},
		"unknown-client": {Client: new("Nobody")}, "bad-origin": {Origin: new(api.Origin("found"))},
	} {
		r, err := s.admin.ChangeImportItemsWithResponse(t.Context(), id, change)
		require.NoError(t, err)
		check(code, r.ApplicationproblemJSONDefault)
	}
	down, err := s.admin.DiscardImportWithResponse(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, api.ImportDiscarded, down.JSON200.State)
	check("discarded", s.put(id, "a.ttf", nil).ApplicationproblemJSONDefault)
	missing, err := s.admin.GetImportWithResponse(t.Context(), 99)
	require.NoError(t, err)
	check("not-found", missing.ApplicationproblemJSONDefault)
	viewer := s.Client(t, api.RoleViewer)
	opened, err := viewer.StartImportWithResponse(t.Context(), api.NewImport{})
	require.NoError(t, err)
	check("role-too-low", opened.ApplicationproblemJSONDefault)
	list, err := viewer.ListImportsWithResponse(t.Context(), &api.ListImportsParams{})
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, 1)
	assert.True(t, strings.HasPrefix(list.JSON200.Items[0].Title, "Import of "))
}

// TestAFontIsReadOnce takes a import in: what was read when its fonts arrived is used,
// in a zip as well, and nothing of it stays. Where it is gone the fonts are read again, and
// come out the same.
func TestAFontIsReadOnce(t *testing.T) {
	s := open(t)
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	kept := func() (n int) {
		require.NoError(t, db.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM arrived_metadata").Scan(&n))
		return n
	}
	for _, client := range []string{"Orrery Hall", "Holmvik Ferries", "Saltmarsh Seed Exchange"} {
		s.client(client)
	}
	var pages []string
	take := func(client string, change func(), fonts map[string][]byte) {
		t.Helper()
		id := s.deliver(client)
		for name, data := range fonts {
			require.NotNil(t, s.put(id, name, data).JSON200)
		}
		s.rested(id)
		change()
		_, items := s.accept(id)
		for name, it := range items {
			if it.Kind != api.ItemFont {
				continue
			}
			require.NotNil(t, it.FamilyId, "%s: %s", name, it.Why)
			family, err := s.admin.GetFamilyWithResponse(t.Context(), *it.FamilyId)
			require.NoError(t, err)
			info, err := json.Marshal(family.JSON200.Faces[0].Metadata)
			require.NoError(t, err)
			pages = append(pages, string(info))
		}
	}
	// The same design three times, told apart by its last bytes.
	regular := drawn(t, foundry.Signage()[1], font.TTF)
	take("Orrery Hall", func() { assert.Equal(t, 1, kept()) }, map[string][]byte{"a.ttf": regular})
	assert.Zero(t, kept(), "what was imported is not kept twice")
	other := slices.Concat(regular, make([]byte, 4))
	take("Holmvik Ferries", func() {
		_, err := db.ExecContext(t.Context(), "DELETE FROM arrived_metadata")
		require.NoError(t, err)
	}, map[string][]byte{"a.ttf": other})
	older := slices.Concat(regular, make([]byte, 8))
	take("Saltmarsh Seed Exchange", func() {
		_, err := db.ExecContext(t.Context(), "UPDATE arrived_metadata SET reader = reader - 1, metadata = 'x'")
		require.NoError(t, err)
	}, map[string][]byte{"a.ttf": older})
	require.Len(t, pages, 3)
	assert.JSONEq(t, pages[0], pages[1], "read again it is the same")
	assert.JSONEq(t, pages[0], pages[2], "as where an older version read it")

	packed := s.deliver("Orrery Hall")
	s.put(packed, "shop.zip", shopZip(t))
	s.rested(packed)
	assert.Positive(t, kept())
	_, items := s.accept(packed)
	for name, it := range items {
		if it.Kind == api.ItemFont {
			assert.NotNil(t, it.Outcome, name)
		}
	}
	assert.Zero(t, kept())
}
