package usage

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/store/scope"
	"sparecrate/internal/store/usagedb"
)

// Evidence hold what verdicts on families need, gathered in a few statements however
// many they are.
type Evidence struct {
	Day         time.Time
	Faces       map[int64][]license.Face    // by family
	Styles      map[int64][]FaceStyle       // by family
	Documents   map[int64][]license.Finding // by family
	Terms       map[int64][]license.Terms   // by family
	LicenseByID map[int64]store.License     // the licenses by number
	Counts      *Counts                     // against their limits
	// Sheets are the stylesheets that families without files are served from.
	Sheets map[int64][]store.HostedStylesheet
	// Stays are the files that sites stay on.
	Stays map[store.PinnedFile]store.FaceFile
}

// weighing is what verdicts on families are worked out from, as it is recorded.
type weighing struct {
	faces    []store.BearingFace
	bearings map[int64]string // by number
	places   map[int64]store.FaceStyle
	sheets   map[int64][]store.HostedStylesheet
	findings []store.DocumentFindings
	licenses []store.License
	whole    func(family int64) (*store.Family, error) // for what an older version listed
	viewed   func() (*PageViews, error)                // for licenses with a limit of page views
}

// Weigh reads and works out what verdicts on families need; for nil, on all that sites use.
func (c *Usage) Weigh(ctx context.Context, families []int64) (*Evidence, error) {
	return c.weigh(ctx, families, families)
}

// weigh is Weigh that reads of some families only where their faces stand.
func (c *Usage) weigh(ctx context.Context, families, placed []int64) (*Evidence, error) {
	if families != nil && len(families) == 0 {
		return c.weighed(&weighing{})
	}
	w := &weighing{
		whole:  func(id int64) (*store.Family, error) { return familydb.In(c.store).Family(ctx, id) },
		viewed: func() (*PageViews, error) { return c.ReadPageViews(ctx) },
	}
	var err error
	if w.faces, err = usagedb.In(c.store).BearingFaces(ctx, families); err != nil {
		return nil, err
	}
	var ids []int64
	had := map[int64]bool{}
	for _, f := range w.faces {
		if !had[f.Bearing] {
			had[f.Bearing] = true
			ids = append(ids, f.Bearing)
		}
	}
	if w.bearings, err = usagedb.In(c.store).Bearings(ctx, ids); err != nil {
		return nil, err
	}
	if w.places, err = usagedb.In(c.store).FaceStyles(ctx, placed); err != nil {
		return nil, err
	}
	if w.sheets, err = librarydb.In(c.store).SheetsOf(ctx, families); err != nil {
		return nil, err
	}
	if w.findings, err = usagedb.In(c.store).DocumentFindings(ctx, families); err != nil {
		return nil, err
	}
	if families == nil {
		w.licenses, err = licensedb.In(c.store).AllLicenses(ctx, 0)
	} else {
		w.licenses, err = licensedb.In(c.store).LicensesOf(ctx, families)
	}
	if err != nil {
		return nil, err
	}
	return c.weighed(w)
}

// weighingOf returns what the verdict on a family is worked out from, out of its page.
func (c *Usage) weighingOf(ctx context.Context, v *store.FamilyPage) *weighing {
	w := &weighing{
		bearings: v.Bearings, places: map[int64]store.FaceStyle{}, findings: v.Findings, licenses: v.Licenses,
		whole:  func(int64) (*store.Family, error) { return v.Family, nil },
		viewed: func() (*PageViews, error) { return viewedOf(c.now(), v.UsedSites, v.Uses, v.Views, v.Days), nil },
	}
	if scope.Of(ctx) != nil { // the page holds the sites only that whoever asks sees
		w.viewed = func() (*PageViews, error) { return c.ReadPageViews(ctx) }
	}
	for _, f := range v.Family.Faces {
		if f.Listing.FileID != 0 {
			w.faces = append(w.faces, f.Bearing())
			w.places[f.ID] = f.Standing()
		}
	}
	if len(v.Family.Faces) == 0 {
		w.sheets = map[int64][]store.HostedStylesheet{v.Family.ID: v.Sheets}
	}
	return w
}

// WeighFamily works out what verdicts on a family need, out of its page.
func (c *Usage) WeighFamily(ctx context.Context, v *store.FamilyPage) (*Evidence, error) {
	return c.weighed(c.weighingOf(ctx, v))
}

// weighed works out what verdicts need.
func (c *Usage) weighed(w *weighing) (*Evidence, error) {
	s := &Evidence{Day: c.now(), Faces: map[int64][]license.Face{}, Styles: map[int64][]FaceStyle{}, Documents: map[int64][]license.Finding{},
		Terms: map[int64][]license.Terms{}, LicenseByID: map[int64]store.License{}, Sheets: w.sheets}
	if err := s.addFaces(w); err != nil {
		return nil, err
	}
	s.place(w.places)
	for _, p := range w.findings {
		var found []license.Finding
		if err := json.Unmarshal([]byte(p.Findings), &found); err != nil {
			return nil, err
		}
		for i := range found {
			found[i].Source = p.Name
		}
		s.Documents[p.FamilyID] = append(s.Documents[p.FamilyID], found...)
	}
	var err error
	if s.Counts, err = c.Counted(w.licenses, w.viewed); err != nil {
		return nil, err
	}
	for _, l := range w.licenses {
		t := termsOf(l)
		t.Limits = s.Counts.Limits[l.ID]
		s.LicenseByID[l.ID] = l
		for _, f := range l.Families {
			s.Terms[f.ID] = append(s.Terms[f.ID], t)
		}
	}
	return s, nil
}

// addFaces puts faces on the scales.
func (s *Evidence) addFaces(w *weighing) error {
	read := make(map[int64]license.Face, len(w.bearings))
	for id, body := range w.bearings {
		var f license.Face
		if err := json.Unmarshal([]byte(body), &f); err != nil {
			return err
		}
		read[id] = f
	}
	old := map[int64]bool{}
	for _, f := range w.faces {
		one, ok := read[f.Bearing]
		if !ok { // listed by an older version, and not yet listed anew
			old[f.FamilyID] = true
			continue
		}
		one.ID, one.Name, one.Webfont = f.ID, f.FullName, webfont(f.Supplied)
		s.Faces[f.FamilyID] = append(s.Faces[f.FamilyID], one)
		s.Styles[f.FamilyID] = append(s.Styles[f.FamilyID], FaceStyle{ID: f.ID, Variable: f.Variable, PostScript: one.PostScript, Supplied: f.Supplied})
	}
	for id := range old {
		f, err := w.whole(id)
		if err != nil {
			return err
		}
		s.Faces[id], s.Styles[id] = facesOf(f), StylesOf(f)
	}
	return nil
}

// webfont reports whether a web font is among formats.
func webfont(supplied store.Formats) bool {
	return supplied.Has(string(font.WOFF2)) || supplied.Has(string(font.WOFF))
}

// facesOf returns a family's faces as verdicts need them, out of their metadata.
func facesOf(f *store.Family) []license.Face {
	var out []license.Face
	for _, face := range f.Faces {
		if cur := face.Current(); cur != nil {
			one := license.FaceOf(&cur.Metadata)
			one.ID, one.Webfont = face.ID, webfont(store.SuppliedOf(face.Files))
			out = append(out, one)
		}
	}
	return out
}

// StylesOf returns a family's faces as the choice of what is sent needs them, out of
// their metadata.
func StylesOf(f *store.Family) []FaceStyle {
	var out []FaceStyle
	for _, face := range f.Faces {
		if cur := face.Current(); cur != nil {
			postScript := cur.Metadata.Outlines == metadata.CFF || cur.Metadata.Outlines == metadata.CFF2
			out = append(out, FaceStyle{ID: face.ID, Style: face.Style, Variable: len(cur.Metadata.Axes) > 0, PostScript: postScript, Supplied: store.SuppliedOf(face.Files), Metadata: metadata.Face{Style: cur.Metadata.Style, Axes: cur.Metadata.Axes}})
		}
	}
	return out
}

func termsOf(l store.License) license.Terms {
	t := license.Terms{
		ID: l.ID, Name: LicenseName(l), GrantedTo: l.GrantedTo.Name, Anyone: l.Kind == string(api.KindOpen), Begins: l.Begins, Ends: l.Ends, Documents: len(l.Documents),
		Uses: app.Each(l.Uses, func(u string) license.Use { return license.Use(u) }), Changes: map[license.Change]license.Consent{}, Domains: l.Domains,
		Unapproved: l.ApprovedAt == nil, Continued: l.Continued(),
	}
	for change, said := range l.Changes {
		t.Changes[license.Change(change)] = license.Consent(said)
	}
	if len(l.FaceIDs) > 0 {
		t.Faces = l.FaceIDs
	}
	return t
}

// Question is a question about a family, for a client or one of its sites.
type Question struct {
	Family  *store.Family // its number and name
	Client  string
	Site    *store.Site // nil for none
	Use     license.Use // the usual one when empty
	Changes []license.Change
	Face    int64   // one face; 0 for all
	Faces   []int64 // some; all when empty
	// Instead are faces as a site that stays on older files of them has them.
	Instead []license.Face
	Day     *time.Time
}

func (s *Evidence) question(a Question) license.Question {
	q := license.Question{Family: a.Family.Name, Faces: s.Faces[a.Family.ID], Documents: s.Documents[a.Family.ID], Terms: s.Terms[a.Family.ID],
		Client: a.Client, Use: s.Usual(a.Family.ID), Day: s.Day, Changes: a.Changes}
	if a.Site != nil {
		q.Site, q.Domains = a.Site.Name, a.Site.Domains
	}
	if a.Use != "" {
		q.Use = a.Use
	}
	if a.Day != nil {
		q.Day = *a.Day
	}
	if len(a.Faces) > 0 {
		q.Faces = slices.DeleteFunc(slices.Clone(q.Faces), func(f license.Face) bool { return !slices.Contains(a.Faces, f.ID) })
	}
	if len(a.Instead) > 0 {
		q.Faces = slices.Clone(q.Faces)
		for _, f := range a.Instead {
			if i := slices.IndexFunc(q.Faces, func(o license.Face) bool { return o.ID == f.ID }); i >= 0 {
				q.Faces[i] = f
			}
		}
	}
	if a.Face != 0 {
		q.Faces = slices.DeleteFunc(slices.Clone(s.Faces[a.Family.ID]), func(f license.Face) bool { return f.ID != a.Face })
	}
	return q
}

// Judge returns the verdict on what is asked.
func (s *Evidence) Judge(a Question) license.Verdict { return license.Judge(s.question(a)) }

// VerdictView shows a verdict on a family.
func VerdictView(f *store.Family, client store.Client, a Question, v license.Verdict, today time.Time) *api.Verdict {
	out := &api.Verdict{Family: api.Ref{Id: f.ID, Name: f.Name}, Client: app.ClientRef(client), Use: api.Use(a.Use), Day: openapi.Date{Time: today.UTC().Truncate(24 * time.Hour)},
		State: api.VerdictState(v.State), MayGoOut: v.State == license.Cleared, Reasons: ReasonViews(v.Reasons)}
	if a.Site != nil {
		out.Site = &api.Ref{Id: a.Site.ID, Name: a.Site.Name}
	}
	if a.Day != nil {
		out.Day = openapi.Date{Time: *a.Day}
	}
	return out
}

// Holding returns the sign-off that lets a family go out in spite of a verdict, nil
// for none.
func Holding(signed []store.SignOff, family int64, v license.Verdict, day time.Time) *store.SignOff {
	if v.State == license.Cleared {
		return nil
	}
	grounds := v.Grounds()
	for i, o := range signed {
		if o.FamilyID == family && o.Grounds == grounds && o.Holds(day) {
			return &signed[i]
		}
	}
	return nil
}

// InOrder returns the licenses by number.
func (s *Evidence) InOrder() []store.License {
	out := make([]store.License, 0, len(s.LicenseByID))
	for _, l := range s.LicenseByID {
		out = append(out, l)
	}
	slices.SortFunc(out, func(a, b store.License) int { return cmp.Compare(a.ID, b.ID) })
	return out
}

// FamiliesInOrder returns the numbers of the families that licenses cover, in order.
func (s *Evidence) FamiliesInOrder() []int64 {
	out := make([]int64, 0, len(s.Terms))
	for id := range s.Terms {
		out = append(out, id)
	}
	slices.Sort(out)
	return out
}

// Said returns what the files of a family and the documents beside them say of a license. Of
// faces that say the same, one speaks.
func (s *Evidence) Said(family int64) []license.Finding {
	var found []license.Finding
	had := map[string]bool{}
	for _, f := range s.Faces[family] {
		for i, one := range f.Says() {
			key := f.Findings[i].Source + one.License + string(one.Signal) + one.Phrase + strings.Join(one.Reserved, ",")
			if !had[key] {
				had[key] = true
				found = append(found, one)
			}
		}
	}
	return append(found, s.Documents[family]...)
}

// LicensesOf returns the licenses that cover a family.
func (s *Evidence) LicensesOf(family int64) []store.License {
	return app.Each(s.Terms[family], func(t license.Terms) store.License { return s.LicenseByID[t.ID] })
}
