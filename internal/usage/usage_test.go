package usage

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
)

const family = int64(7)

func shipped(t *testing.T, kind string) *builder.Rules {
	t.Helper()
	r, ok := builder.ShippedOf(kind)
	require.True(t, ok, kind)
	return r
}

// sans is a family of four static faces and a variable one, with outlines of both kinds.
func sans() *Evidence {
	style := func(id int64, name string, weight int, slope metadata.Slope) FaceStyle {
		return FaceStyle{ID: id, Style: name, Metadata: metadata.Face{Style: metadata.Style{Weight: weight, WidthPercent: 100, Slope: slope}}}
	}
	s := &Evidence{
		Day:   time.Date(2026, 11, 29, 0, 0, 0, 0, time.UTC),
		Faces: map[int64][]license.Face{}, Documents: map[int64][]license.Finding{}, Terms: map[int64][]license.Terms{},
		Styles: map[int64][]FaceStyle{family: {
			style(1, "Regular", 400, metadata.Upright), style(2, "Italic", 400, metadata.Italic), style(3, "Bold", 700, metadata.Upright), style(4, "Thin", 100, metadata.Upright),
		}},
	}
	for _, f := range s.Styles[family] {
		s.Faces[family] = append(s.Faces[family], license.Face{ID: f.ID, Name: f.Style})
	}
	return s
}

// TestWhatIsSent chooses faces by roles, by what is sent besides, and by what is left.
func TestWhatIsSent(t *testing.T) {
	body := store.RoleAssignment{FamilyID: family, Role: "body", Weight: 400, Slope: "upright"}
	for _, c := range []struct {
		why   string
		site  store.Site
		sent  []int64
		needs []int64
	}{
		{"no role: everything, for nothing in particular", store.Site{}, []int64{1, 2, 3, 4}, nil},
		{"no role, and one left", store.Site{Choices: store.Choices{Exclude: []int64{4}}}, []int64{1, 2, 3}, nil},
		{"running text needs bold and italic", store.Site{RoleAssignments: []store.RoleAssignment{body}}, []int64{1, 2, 3}, []int64{1, 2, 3}},
		{"one sent besides", store.Site{RoleAssignments: []store.RoleAssignment{body}, Choices: store.Choices{Include: []int64{4}}}, []int64{1, 2, 3, 4}, []int64{1, 2, 3}},
		{"one needed and left", store.Site{RoleAssignments: []store.RoleAssignment{body}, Choices: store.Choices{Exclude: []int64{3}}}, []int64{1, 2}, []int64{1, 2, 3}},
		{"a role of another family", store.Site{RoleAssignments: []store.RoleAssignment{{FamilyID: 8, Role: "body", Weight: 400, Slope: "upright"}}}, []int64{1, 2, 3, 4}, nil},
		{"a stand-in counts", store.Site{Replacements: []store.Replacement{{FamilyID: family, Name: "Arial", Weight: 700, Slope: "upright"}}}, []int64{3}, []int64{3}},
	} {
		s := sans()
		got := s.sends(&c.site, family, "Skerrow Sans", shipped(t, "self-hosted"), false)
		assert.Equal(t, c.sent, got.Sent, c.why)
		var needs []int64
		for _, f := range s.Styles[family] {
			if _, is := got.Needs[f.ID]; is {
				needs = append(needs, f.ID)
			}
		}
		assert.Equal(t, c.needs, needs, c.why)
		assert.Empty(t, got.With(nil), c.why)

		question, _ := s.On(&c.site, &store.Family{ID: family, Name: "Skerrow Sans"}, shipped(t, "self-hosted"), nil)
		if len(c.sent) == 4 {
			assert.Empty(t, question.Faces, "%s: all are asked about", c.why)
		} else {
			assert.Equal(t, c.sent, question.Faces, c.why)
		}
		assert.Equal(t, license.Web, question.Use)
	}
}

// TestWhatAReceiverChanges asks which changes a platform makes necessary.
func TestWhatAReceiverChanges(t *testing.T) {
	for _, c := range []struct {
		why, kind string
		change    func(*FaceStyle)
		want      []license.Change
	}{
		{"a static face of a form", "upload-form", func(*FaceStyle) {}, nil},
		{"a variable face where none is taken", "upload-form", func(f *FaceStyle) { f.Variable = true }, []license.Change{license.Outlines}},
		{"a variable face where one is taken", "self-hosted", func(f *FaceStyle) { f.Variable = true }, nil},
		{"PostScript outlines where only TrueType is taken", "app-form", func(f *FaceStyle) { f.PostScript = true }, []license.Change{license.Outlines}},
		{"TrueType outlines there", "app-form", func(*FaceStyle) {}, nil},
		{"PostScript outlines where they are taken", "apple-app", func(f *FaceStyle) { f.PostScript = true }, nil},
	} {
		s := sans()
		c.change(&s.Styles[family][0])
		got := s.sends(&store.Site{}, family, "Skerrow Sans", shipped(t, c.kind), false)
		assert.Equal(t, c.want, got.With(nil), c.why)
		assert.Equal(t, append([]license.Change{license.Subset}, c.want...), got.With([]license.Change{license.Subset}), c.why)
		assert.Len(t, got.With([]license.Change{license.Outlines}), 1, "%s: not asked for twice", c.why)
	}
}

// TestWhatIsConverted asks which formats a face goes out in by what its supplier
// delivered and what the site chose, and whether that converts it.
func TestWhatIsConverted(t *testing.T) {
	all := func(c ...string) store.Formats { return c }
	for _, c := range []struct {
		why, kind string
		site      store.Site
		supplied  store.Formats
		changed   bool
		want      string
		converts  bool
	}{
		{"a desktop font", "self-hosted", store.Site{}, all("ttf"), false, "woff2 and woff", true},
		{"with the supplier's web font", "self-hosted", store.Site{}, all("ttf", "woff2"), false, "woff2", false},
		{"with the supplier's older web font", "self-hosted", store.Site{}, all("ttf", "woff"), false, "woff", false},
		{"with both", "self-hosted", store.Site{}, all("ttf", "woff", "woff2"), false, "woff2 and woff", false},
		{"for old browsers, too", "self-hosted", store.Site{Choices: store.Choices{LegacyFormats: true}}, all("ttf", "woff2"), false, "woff2, woff, ttf, eot and svg", true},
		{"made here", "self-hosted", store.Site{Choices: store.Choices{Source: store.SourceConverted}}, all("ttf", "woff", "woff2"), false, "woff2 and woff", true},
		{"the smaller", "self-hosted", store.Site{Choices: store.Choices{Source: store.SourceSmaller}}, all("ttf", "woff", "woff2"), false, "woff2 and woff", true},
		{"changed on the way", "self-hosted", store.Site{}, all("ttf", "woff2"), true, "woff2 and woff", true},
		{"an app", "app-form", store.Site{}, all("ttf", "woff2"), false, "ttf", false},
		{"a form that takes the best", "upload-form", store.Site{}, all("ttf", "woff"), false, "woff2", true},
		{"a form that takes several together", "upload-form-several", store.Site{}, all("ttf", "woff2"), false, "woff2, woff and ttf", true},
		{"not known", "self-hosted", store.Site{}, nil, false, "woff2 and woff", false},
	} {
		s := sans()
		s.Styles[family] = s.Styles[family][:1]
		s.Styles[family][0].Supplied = c.supplied
		formats, _, err := s.Styles[family][0].FormatsOn(&c.site, shipped(t, c.kind), c.changed)
		require.NoError(t, err)
		assert.Equal(t, c.want, font.Listed(formats), c.why)
		got := s.sends(&c.site, family, "Skerrow Sans", shipped(t, c.kind), c.changed)
		assert.Equal(t, c.converts, slices.Contains(got.With(nil), license.Format), c.why)
	}
}

// TestPins chooses the weights of a variable face for a platform that takes none.
func TestPins(t *testing.T) {
	variable := &metadata.Face{Style: metadata.Style{Weight: 400}, Axes: []metadata.Axis{{Tag: "wdth", Min: 50, Max: 75}, {Tag: "wght", Min: 200, Max: 800}}}
	at := func(role builder.Role, weight int) store.RoleAssignment {
		return store.RoleAssignment{FamilyID: family, Role: string(role), Weight: weight, Slope: "upright"}
	}
	for _, c := range []struct {
		why  string
		site store.Site
		face *metadata.Face
		want []int
	}{
		{"no role", store.Site{}, variable, []int{400, 700}},
		{"running text has bold too", store.Site{RoleAssignments: []store.RoleAssignment{at("body", 400)}}, variable, []int{400, 700}},
		{"text that is bold already", store.Site{RoleAssignments: []store.RoleAssignment{at("body", 600)}}, variable, []int{600, 800}},
		{"beyond the axis", store.Site{RoleAssignments: []store.RoleAssignment{at("headings", 900)}}, variable, []int{800}},
		{"by choice", store.Site{Choices: store.Choices{Weights: []int{500, 300, 500, 100}}, RoleAssignments: []store.RoleAssignment{at("body", 400)}}, variable, []int{200, 300, 500}},
		{"no axis of weight", store.Site{}, &metadata.Face{Style: metadata.Style{Weight: 300}}, []int{300}},
	} {
		assert.Equal(t, c.want, PinsOf(&c.site, c.face, RoleAssignmentsOf(&c.site, family, "Skerrow Sans")), c.why)
	}
}

// TestQuestions holds what a verdict is asked about against what was meant.
func TestQuestions(t *testing.T) {
	s := sans()
	s.Terms[family] = []license.Terms{{ID: 1}}
	f := &store.Family{ID: family, Name: "Skerrow Sans"}
	ids := func(q license.Question) (out []int64) {
		for _, face := range q.Faces {
			out = append(out, face.ID)
		}
		return out
	}
	q := s.question(Question{Family: f, Client: "Holmvik Ferries"})
	assert.Equal(t, []int64{1, 2, 3, 4}, ids(q))
	assert.Equal(t, license.Web, q.Use, "the usual one")
	assert.Equal(t, s.Day, q.Day)
	assert.Len(t, q.Terms, 1)
	assert.Equal(t, []int64{2, 3}, ids(s.question(Question{Family: f, Faces: []int64{3, 2}})))
	assert.Equal(t, []int64{4}, ids(s.question(Question{Family: f, Faces: []int64{1}, Face: 4})), "one face is one face")
	day := s.Day.AddDate(1, 0, 0)
	q = s.question(Question{Family: f, Day: &day, Use: license.Desktop, Site: &store.Site{Name: "Timetable", Domains: []string{"holmvik.example"}}})
	assert.Equal(t, day, q.Day)
	assert.Equal(t, license.Desktop, q.Use)
	assert.Equal(t, "Timetable", q.Site)
	assert.Equal(t, []string{"holmvik.example"}, q.Domains)
	assert.Len(t, s.Faces[family], 4, "asking takes nothing away")

	s.Sheets = map[int64][]store.HostedStylesheet{family: {{}}}
	assert.Equal(t, license.WebHosted, s.question(Question{Family: f}).Use, "what others serve")
	assert.Equal(t, license.WebHosted, s.useOn(family, shipped(t, "self-hosted")))
	assert.Equal(t, license.App, s.useOn(family, shipped(t, "apple-app")), "an app takes it along")

	held := s.asHeld(&store.Site{}, f, shipped(t, "self-hosted"), []license.Change{license.Subset}, &PackContents{Faces: []int64{3, 9}})
	assert.Equal(t, []int64{3}, held.Faces)
	assert.Equal(t, license.Web, held.Use)
	assert.Equal(t, []license.Change{license.Subset}, held.Changes, "the pack does not say")
	held = s.asHeld(&store.Site{}, f, shipped(t, "self-hosted"), []license.Change{license.Subset}, &PackContents{Changes: map[int64][]license.Change{}, Away: []int64{family}})
	assert.Equal(t, license.WebHosted, held.Use)
	assert.Empty(t, held.Changes)
}

// TestSignOffsHold finds the sign-off that stands for the very reasons of a verdict.
func TestSignOffsHold(t *testing.T) {
	day := time.Date(2026, 11, 29, 12, 0, 0, 0, time.UTC)
	blocked := license.Judge(license.Question{Family: "Skerrow Sans", Faces: []license.Face{{ID: 1}}, Client: "Holmvik Ferries", Use: license.Web, Day: day})
	require.NotEqual(t, license.Cleared, blocked.State, "nothing allows it")
	good := store.SignOff{ID: 5, FamilyID: family, Grounds: blocked.Grounds()}
	today, yesterday := day.Truncate(24*time.Hour), day.AddDate(0, 0, -1).Truncate(24*time.Hour)
	with := func(change func(*store.SignOff)) []store.SignOff {
		o := good
		change(&o)
		return []store.SignOff{{}, o}
	}
	assert.Equal(t, int64(5), Holding(with(func(*store.SignOff) {}), family, blocked, day).ID)
	assert.NotNil(t, Holding(with(func(o *store.SignOff) { o.Ends = &today }), family, blocked, day), "to the end of its last day")
	assert.Nil(t, Holding(with(func(o *store.SignOff) { o.Ends = &yesterday }), family, blocked, day))
	assert.Nil(t, Holding(with(func(o *store.SignOff) { o.RevokedAt = &day }), family, blocked, day))
	assert.Nil(t, Holding(with(func(o *store.SignOff) { o.Grounds = "others" }), family, blocked, day))
	assert.Nil(t, Holding(with(func(o *store.SignOff) { o.FamilyID = 8 }), family, blocked, day))
	assert.Nil(t, Holding(with(func(*store.SignOff) {}), family, license.Verdict{State: license.Cleared}, day), "nothing is in its way")
}

// TestTermsOfALicense turns a record into what a verdict weighs.
func TestTermsOfALicense(t *testing.T) {
	l := store.License{
		ID: 3, Kind: "bought", Licensor: "Lanternjaw Type", Reference: "LJ-1", GrantedTo: store.Client{Name: "Holmvik Ferries"}, Uses: []string{"web", "app"},
		Changes: map[string]string{"subset": "allowed"}, Domains: []string{"holmvik.example"}, Documents: []store.Document{{}},
	}
	got := termsOf(l)
	assert.Equal(t, "license 3, Lanternjaw Type, LJ-1", got.Name)
	assert.False(t, got.Anyone)
	assert.True(t, got.Unapproved)
	assert.Equal(t, []license.Use{license.Web, license.App}, got.Uses)
	assert.Equal(t, license.Consent("allowed"), got.Changes[license.Subset])
	assert.Equal(t, 1, got.Documents)
	assert.Nil(t, got.Faces, "all faces")
	at := time.Now()
	l.Kind, l.ApprovedAt, l.FaceIDs = "open", &at, []int64{4}
	got = termsOf(l)
	assert.True(t, got.Anyone)
	assert.False(t, got.Unapproved)
	assert.Equal(t, []int64{4}, got.Faces)
	assert.Equal(t, "license", LicenseName(store.License{}))
}

// TestPageViewsOfALicense adds up the views of the sites that use what a license covers.
func TestPageViewsOfALicense(t *testing.T) {
	now := time.Date(2026, 11, 29, 0, 0, 0, 0, time.UTC)
	month := func(m time.Month) time.Time { return time.Date(2026, m, 1, 0, 0, 0, 0, time.UTC) }
	v := viewedOf(now,
		[]store.Site{{ID: 1, ClientID: 5}, {ID: 2, ClientID: 5}, {ID: 3, ClientID: 6, Domains: []string{"orrery.example"}}, {ID: 4, ClientID: 6}},
		[]store.Using{{SiteID: 1, FamilyID: family}, {SiteID: 2, FamilyID: 8}, {SiteID: 3, FamilyID: family}, {SiteID: 4, FamilyID: family}},
		[]store.Views{{SiteID: 1, Month: month(10), Views: 100}, {SiteID: 1, Month: month(9), Views: 10}, {SiteID: 2, Month: month(10), Views: 1000}, {SiteID: 3, Month: month(10), Views: 7}, {SiteID: 4, Month: month(10), Views: 5000}},
		[]store.LiveDay{{SiteID: 1, Day: now, Visitors: 3}, {SiteID: 1, Day: now.AddDate(0, -1, 0), Visitors: 50}, {SiteID: 4, Day: now, Visitors: 90}})
	l := store.License{Kind: "bought", GrantedToID: 5, Domains: []string{"orrery.example"}, Families: []store.Family{{ID: family}}}
	assert.Equal(t, []license.Count{{Month: month(9), Views: 10}, {Month: month(10), Views: 107}}, v.Of(l), "its client's sites and its domains")
	assert.Equal(t, int64(3), v.visitors(l), "of the month that goes on")
	l.Kind = "open"
	assert.Equal(t, int64(5107), v.Of(l)[1].Views, "an open license is everybody's")
	assert.Equal(t, int64(93), v.visitors(l))
}

// TestGenericFamilies guesses from names.
func TestGenericFamilies(t *testing.T) {
	for name, want := range map[string]string{
		"Skerrow Sans": "sans-serif", "Skerrow Mono": "monospace", "Umbrisk Brush": "cursive", "Tidegarth Slab": "serif", "Sans Serif": "sans-serif", "Serifa": "sans-serif", "SKERROW TEXT": "serif",
	} {
		assert.Equal(t, want, builder.GenericOf(name), name)
	}
}
