package store_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/metadata"
	"sparecrate/internal/css"
	"sparecrate/internal/mariadb/mariadbtest"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/store/usagedb"
)

// TestAFamilyPageHoldsWhatPlainQueriesFind records a family with texts that JSON and SQL
// would each write in their own way, and holds its page against the records that GORM
// reads one by one.
func TestAFamilyPageHoldsWhatPlainQueriesFind(t *testing.T) {
	s, ctx := open(t, mariadbtest.New(t)), t.Context()
	odd := "O'Neill \"Größe\" \\ \n\t\u2028 漢字 🖋 %s ?"
	now := time.Now().UTC().Truncate(time.Microsecond)
	day := time.Date(2027, 2, 28, 0, 0, 0, 0, time.UTC)
	client := &store.Client{Name: odd}
	require.NoError(t, s.AddClient(ctx, client))
	family := &store.Family{ClientID: client.ID, Name: odd, Note: strings.Repeat(odd, 50), Version: 1, CreatedAt: now, ChangedAt: now, StatusAt: &now, StatusBy: odd, Status: store.Retired}
	require.NoError(t, familydb.In(s).AddFamily(ctx, family))
	family.Tags = []store.FamilyTag{{Tag: "poster", FamilyID: family.ID}, {Tag: odd[:7], FamilyID: family.ID}}
	require.NoError(t, librarydb.In(s).ChangeFamily(ctx, family))
	for i, width := range []float64{100, 87.5, 62.50001} {
		bearing, err := usagedb.In(s).Bearing(ctx, `{"name":"`+string(rune('a'+i))+`"}`)
		require.NoError(t, err)
		face := &store.Face{FamilyID: family.ID, FaceKey: string(rune('a' + i)), Style: odd, Width: width, Weight: 400, Slope: "upright"}
		require.NoError(t, familydb.In(s).AddFace(ctx, face))
		file := &store.File{SHA256: strings.Repeat(string(rune('a'+i)), 64), Bytes: 1 << 40, Format: "ttf", Faces: 1, Name: odd, AddedAt: now, AddedBy: odd}
		require.NoError(t, familydb.In(s).AddFile(ctx, file))
		require.NoError(t, familydb.In(s).AddFaceFile(ctx, &store.FaceFile{FaceID: face.ID, FileID: file.ID, Current: true, Version: odd, Metadata: metadata.Face{Names: metadata.Names{Family: odd}}}))
		require.NoError(t, familydb.In(s).SetListing(ctx, face.ID, store.Listing{FileID: file.ID, Format: "ttf", WeightMin: 100, WeightMax: 900, Variable: i == 1, FullName: odd, Bearing: bearing}))
	}
	views, none := int64(50_000), []string{}
	for i, l := range []store.License{
		{Kind: "desktop", Uses: none, Begins: &day, Changes: map[string]string{"subset": odd}, Domains: none, PageViews: &views, Price: &views, ApprovedAt: &now},
		{Kind: "open", Uses: []string{"web"}, Changes: map[string]string{}, Ends: &day, SPDX: "OFL-1.1", FaceIDs: []int64{1, 3}, Note: odd, Domains: []string{"a.example"}},
	} {
		l.GrantedToID, l.Licensor, l.Version, l.CreatedAt, l.CreatedBy = client.ID, odd, 1, now, odd
		require.NoError(t, licensedb.In(s).AddLicense(ctx, &l, []int64{family.ID}))
		require.NoError(t, licensedb.In(s).AddDocument(ctx, &store.Document{LicenseID: l.ID, Name: odd, SHA256: strings.Repeat("d", 64), Bytes: int64(i), AddedAt: now, AddedBy: odd}))
		require.NoError(t, licensedb.In(s).AddAllocation(ctx, &store.Allocation{LicenseID: l.ID, Measure: "seats", Name: odd, Since: now, Person: odd}))
	}
	require.NoError(t, librarydb.In(s).PutHostedStylesheet(ctx, &store.HostedStylesheet{FamilyID: family.ID, URL: "https://fonts.example/a", Host: "fonts.example", Faces: []css.Hosted{}, ReadAt: now, ReadBy: odd}))

	page, err := librarydb.In(s).FamilyPage(ctx, family.ID)
	require.NoError(t, err)
	alone, err := familydb.In(s).Family(ctx, family.ID)
	require.NoError(t, err)
	assert.Equal(t, alone, page.Family)
	assert.Equal(t, odd, page.Family.Faces[0].Style)
	licenses, err := licensedb.In(s).LicensesOf(ctx, []int64{family.ID})
	require.NoError(t, err)
	assert.Equal(t, licenses, page.Licenses)
	sheets, err := librarydb.In(s).HostedStylesheets(ctx, family.ID)
	require.NoError(t, err)
	assert.Equal(t, sheets, page.Sheets)
	styles, err := usagedb.In(s).FaceStyles(ctx, []int64{family.ID})
	require.NoError(t, err)
	bearing, err := usagedb.In(s).BearingFaces(ctx, []int64{family.ID})
	require.NoError(t, err)
	for i, f := range page.Family.Faces {
		assert.Equal(t, styles[f.ID], f.Standing())
		assert.Equal(t, bearing[i], f.Bearing())
	}
	_, err = librarydb.In(s).FamilyPage(ctx, family.ID+1)
	assert.ErrorIs(t, err, store.ErrNotFound)

	counting, n := store.CountStatements(ctx)
	_, err = librarydb.In(s).FamilyPage(counting, family.ID)
	require.NoError(t, err)
	assert.EqualValues(t, 2, n.Load(), "statements")
}
