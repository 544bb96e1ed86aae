package catalog

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"time"

	"sparecrate/internal/app"

	openapi "github.com/oapi-codegen/runtime/types"

	"sparecrate/api"
	"sparecrate/font/facts"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
)

// scales hold what verdicts on families need, gathered in a few statements however
// many they are.
type scales struct {
	day    time.Time
	faces  map[int64][]license.Face    // by family
	styles map[int64][]styled          // by family
	papers map[int64][]license.Finding // by family
	terms  map[int64][]license.Terms   // by family
	by     map[int64]store.License     // the licenses by number
	counts *counts                     // against their limits
	// sheets are the stylesheets that families without files are served from.
	sheets map[int64][]store.HostedSheet
}

// weighing is what verdicts on families are worked out from, as it is recorded.
type weighing struct {
	faces    []store.BearingFace
	bearings map[int64]string // by number
	places   map[int64]store.FaceStyle
	sheets   map[int64][]store.HostedSheet
	findings []store.PaperFindings
	licenses []store.License
	whole    func(family int64) (*store.Family, error) // for what an older version listed
	viewed   func() (*viewed, error)                   // for licenses with a limit of page views
}

// weigh reads and works out what verdicts on families need; for nil, on all that sites use.
func (c *Catalog) weigh(ctx context.Context, families []int64) (*scales, error) {
	if families != nil && len(families) == 0 {
		return c.weighed(&weighing{})
	}
	w := &weighing{
		whole:  func(id int64) (*store.Family, error) { return c.store.Family(ctx, id) },
		viewed: func() (*viewed, error) { return c.viewed(ctx) },
	}
	var err error
	if w.faces, err = c.store.BearingFaces(ctx, families); err != nil {
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
	if w.bearings, err = c.store.Bearings(ctx, ids); err != nil {
		return nil, err
	}
	if families != nil {
		if w.places, err = c.store.FaceStyles(ctx, families); err != nil {
			return nil, err
		}
	}
	if w.sheets, err = c.store.SheetsOf(ctx, families); err != nil {
		return nil, err
	}
	if w.findings, err = c.store.PaperFindings(ctx, families); err != nil {
		return nil, err
	}
	if families == nil {
		w.licenses, err = c.store.AllLicenses(ctx, 0)
	} else {
		w.licenses, err = c.store.LicensesOf(ctx, families)
	}
	if err != nil {
		return nil, err
	}
	return c.weighed(w)
}

// weighingOf gives what the verdict on a family is worked out from, out of its page.
func (c *Catalog) weighingOf(v *store.FamilyPage) *weighing {
	w := &weighing{
		bearings: v.Bearings, places: map[int64]store.FaceStyle{}, findings: v.Findings, licenses: v.Licenses,
		whole:  func(int64) (*store.Family, error) { return v.Family, nil },
		viewed: func() (*viewed, error) { return viewedOf(c.now(), v.UsedSites, v.Uses, v.Views, v.Days), nil },
	}
	for _, f := range v.Family.Faces {
		if f.Listing.FileID != 0 {
			w.faces = append(w.faces, f.Bearing())
			w.places[f.ID] = f.Standing()
		}
	}
	if len(v.Family.Faces) == 0 {
		w.sheets = map[int64][]store.HostedSheet{v.Family.ID: v.Sheets}
	}
	return w
}

// weighed works out what verdicts need.
func (c *Catalog) weighed(w *weighing) (*scales, error) {
	s := &scales{day: c.now(), faces: map[int64][]license.Face{}, styles: map[int64][]styled{}, papers: map[int64][]license.Finding{},
		terms: map[int64][]license.Terms{}, by: map[int64]store.License{}, sheets: w.sheets}
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
		s.papers[p.FamilyID] = append(s.papers[p.FamilyID], found...)
	}
	var err error
	if s.counts, err = c.counted(w.licenses, w.viewed); err != nil {
		return nil, err
	}
	for _, l := range w.licenses {
		t := termsOf(l)
		t.Limits = s.counts.limits[l.ID]
		s.by[l.ID] = l
		for _, f := range l.Families {
			s.terms[f.ID] = append(s.terms[f.ID], t)
		}
	}
	return s, nil
}

// addFaces puts faces on the scales.
func (s *scales) addFaces(w *weighing) error {
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
		one.ID, one.Name = f.ID, f.FullName
		s.faces[f.FamilyID] = append(s.faces[f.FamilyID], one)
		s.styles[f.FamilyID] = append(s.styles[f.FamilyID], styled{id: f.ID, variable: f.Variable, postScript: one.PostScript})
	}
	for id := range old {
		f, err := w.whole(id)
		if err != nil {
			return err
		}
		s.faces[id], s.styles[id] = facesOf(f), stylesOf(f)
	}
	return nil
}

// facesOf gives a family's faces as verdicts need them, out of their facts.
func facesOf(f *store.Family) []license.Face {
	var out []license.Face
	for _, face := range f.Faces {
		if cur := face.Current(); cur != nil {
			one := license.FaceOf(&cur.Facts)
			one.ID = face.ID
			out = append(out, one)
		}
	}
	return out
}

// stylesOf gives a family's faces as the choice of what is sent needs them, out of
// their facts.
func stylesOf(f *store.Family) []styled {
	var out []styled
	for _, face := range f.Faces {
		if cur := face.Current(); cur != nil {
			postScript := cur.Facts.Outlines == facts.CFF || cur.Facts.Outlines == facts.CFF2
			out = append(out, styled{id: face.ID, style: face.Style, variable: len(cur.Facts.Axes) > 0, postScript: postScript, facts: facts.Face{Style: cur.Facts.Style, Axes: cur.Facts.Axes}})
		}
	}
	return out
}

func termsOf(l store.License) license.Terms {
	t := license.Terms{
		ID: l.ID, Name: licenseName(l), GrantedTo: l.GrantedTo.Name, Anyone: l.Kind == string(api.KindOpen), Begins: l.Begins, Ends: l.Ends, Documents: len(l.Documents),
		Uses: app.Each(l.Uses, func(u string) license.Use { return license.Use(u) }), Changes: map[license.Change]license.Consent{}, Domains: l.Domains,
		Unapproved: l.ApprovedAt == nil,
	}
	for change, said := range l.Changes {
		t.Changes[license.Change(change)] = license.Consent(said)
	}
	if len(l.FaceIDs) > 0 {
		t.Faces = l.FaceIDs
	}
	return t
}

// asked is a question about a family, for a client or one of its sites.
type asked struct {
	family  *store.Family // its number and name
	client  string
	site    *store.Site // nil for none
	use     license.Use // the usual one when empty
	changes []license.Change
	face    int64   // one face; 0 for all
	faces   []int64 // some; all when empty
	day     *time.Time
}

func (s *scales) question(a asked) license.Question {
	q := license.Question{Family: a.family.Name, Faces: s.faces[a.family.ID], Papers: s.papers[a.family.ID], Terms: s.terms[a.family.ID],
		Client: a.client, Use: s.usual(a.family.ID), Day: s.day, Changes: a.changes}
	if a.site != nil {
		q.Site, q.Domains = a.site.Name, a.site.Domains
	}
	if a.use != "" {
		q.Use = a.use
	}
	if a.day != nil {
		q.Day = *a.day
	}
	if len(a.faces) > 0 {
		q.Faces = slices.DeleteFunc(slices.Clone(q.Faces), func(f license.Face) bool { return !slices.Contains(a.faces, f.ID) })
	}
	if a.face != 0 {
		q.Faces = slices.DeleteFunc(slices.Clone(s.faces[a.family.ID]), func(f license.Face) bool { return f.ID != a.face })
	}
	return q
}

func (s *scales) judge(a asked) license.Verdict { return license.Judge(s.question(a)) }

func verdictView(f *store.Family, client store.Client, a asked, v license.Verdict, today time.Time) *api.Verdict {
	out := &api.Verdict{Family: api.Ref{Id: f.ID, Name: f.Name}, Client: app.ClientRef(client), Use: api.Use(a.use), Day: openapi.Date{Time: today.UTC().Truncate(24 * time.Hour)},
		State: api.VerdictState(v.State), MayGoOut: v.State == license.Clear, Reasons: reasonViews(v.Reasons)}
	if a.site != nil {
		out.Site = &api.Ref{Id: a.site.ID, Name: a.site.Name}
	}
	if a.day != nil {
		out.Day = openapi.Date{Time: *a.day}
	}
	return out
}

// holding gives the sign-off that lets a family go out in spite of a verdict, nil
// for none.
func holding(signed []store.SignOff, family int64, v license.Verdict, day time.Time) *store.SignOff {
	if v.State == license.Clear {
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

func (s *scales) inOrder() []store.License {
	out := make([]store.License, 0, len(s.by))
	for _, l := range s.by {
		out = append(out, l)
	}
	slices.SortFunc(out, func(a, b store.License) int { return cmp.Compare(a.ID, b.ID) })
	return out
}

func (s *scales) familiesInOrder() []int64 {
	out := make([]int64, 0, len(s.terms))
	for id := range s.terms {
		out = append(out, id)
	}
	slices.Sort(out)
	return out
}

// licensesOf gives the licenses that cover a family.
func (s *scales) licensesOf(family int64) []store.License {
	return app.Each(s.terms[family], func(t license.Terms) store.License { return s.by[t.ID] })
}
