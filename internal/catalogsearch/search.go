package catalogsearch

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/font/coverage"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/library"
	"sparecrate/internal/search"
	"sparecrate/internal/store"
	"sparecrate/internal/store/finddb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/shortlistdb"
)

// Families returns a page of the families that are asked for.
func (c *Finding) Families(ctx context.Context, p *store.Person, q api.ListFamiliesParams) (*api.FamilyPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(q.Cursor, q.Limit)
	if err != nil {
		return nil, err
	}
	query, meant, err := c.query(ctx, &q)
	if err != nil {
		return nil, err
	}
	items, err := finddb.In(c.store).Search(ctx, query, at)
	if err != nil {
		return nil, err
	}
	counted := at.AfterID == 0 && (q.Total == nil || *q.Total)
	total := len(items)
	if counted && total == at.Limit {
		if total, err = finddb.In(c.store).Count(ctx, query); err != nil {
			return nil, err
		}
	}
	items, next := app.CutPage(items, at, func(f store.Found) (string, int64) { return f.SortValue, f.ID })
	views, err := c.Summaries(ctx, items)
	if err != nil {
		return nil, err
	}
	out := &api.FamilyPage{Next: next, Meant: meant, Items: views}
	if counted {
		out.Total = &total
	}
	if q.Choices != nil && *q.Choices {
		if out.Choices, err = c.choices(ctx, query); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Summaries returns families as lists show them.
func (c *Finding) Summaries(ctx context.Context, found []store.Found) ([]api.FamilySummary, error) {
	hosts, err := librarydb.In(c.store).Hosts(ctx, app.Each(found, func(f store.Found) int64 { return f.ID }))
	return app.Each(found, func(f store.Found) api.FamilySummary {
		s := summary(f)
		s.Hosts = append([]string{}, hosts[f.ID]...)
		return s
	}), err
}

func summary(f store.Found) api.FamilySummary {
	s := api.FamilySummary{
		Id: f.ID, Name: f.Name, Client: api.Ref{Id: f.ClientID, Name: f.ClientName}, Origin: api.Origin(f.Origin), Designer: f.Designer, Foundry: f.Foundry,
		Status: api.FamilyStatus(f.Status), Licenses: f.Licenses, Sites: f.Sites, Unsettled: f.Unsettled, Faces: make([]api.PreviewFace, 0, len(f.Faces)),
	}
	worst := -1
	order := []metadata.Level{metadata.Installable, metadata.NotStated, metadata.Editable, metadata.PreviewPrint, metadata.Restricted}
	for _, face := range f.Faces {
		l := face.Listing
		if face.Parts {
			s.InParts++
		}
		s.Faces = append(s.Faces, api.PreviewFace{
			Style: face.Style, Weight: face.Weight, Width: float32(face.Width), Slope: face.Slope, Variable: l.Variable, Meets: face.Meets,
			FileId: l.FileID, Place: l.Place, Format: api.FileFormat(l.Format),
		})
		if s.Sample == "" {
			s.Sample = l.Sample
		}
		if r := slices.Index(order, metadata.Level(l.Permission)); r > worst {
			worst, s.Permission = r, l.Permission
		}
	}
	return s
}

// query turns what was asked into what the store looks for, and says which words
// were read as others.
func (c *Finding) query(ctx context.Context, q *api.ListFamiliesParams) (*finddb.Query, []api.MeantWord, error) {
	out := &finddb.Query{Day: c.now().UTC().Truncate(24 * time.Hour), Used: q.Used}
	if text := app.Filled(q.Client); text != "" {
		found, err := app.FindClient(ctx, c.store, text)
		if err != nil {
			return nil, nil, err
		}
		out.Clients = []int64{found.ID}
	}
	steps := []func() error{
		func() (err error) { out.Origins, err = oneOf("origin", q.Origin); return err },
		func() (err error) { out.Licenses, err = states(q.License); return err },
		func() error { return sortOf(q, out) },
		func() error { return statusOf(q, out) },
		func() error { return faceQuery(q, &out.Face) },
	}
	for _, step := range steps {
		if err := step(); err != nil {
			return nil, nil, err
		}
	}
	if q.Shortlist != nil {
		l, err := shortlistdb.In(c.store).Shortlist(ctx, *q.Shortlist)
		if err != nil {
			return nil, nil, app.Explain(err, "shortlist")
		}
		out.Only = app.Each(l.Families, func(f store.ShortlistFamily) int64 { return f.FamilyID })
	}
	for _, t := range listed(q.Tag) {
		out.Tags = append(out.Tags, library.Tag(t))
	}
	meant, err := c.words(ctx, app.Filled(q.Q), out)
	return out, meant, err
}

func listed[T any](l *[]T) []T {
	if l == nil {
		return nil
	}
	return *l
}

// oneOf checks values of a list of the contract.
func oneOf[T interface {
	~string
	Valid() bool
}](field string, values *[]T) ([]string, error) {
	var out []string
	for _, v := range listed(values) {
		if !v.Valid() {
			return nil, app.InvalidField(field, "bad-"+field, "%q is not a value of the filter %s.", v, field)
		}
		out = append(out, string(v))
	}
	return out, nil
}

func states(l *[]api.LicenseState) ([]store.LicenseState, error) {
	all, err := oneOf("license", l)
	return app.Each(all, func(s string) store.LicenseState { return store.LicenseState(s) }), err
}

func sortOf(q *api.ListFamiliesParams, out *finddb.Query) error {
	out.Sort, out.Name = finddb.SortName, app.Filled(q.Q)
	if out.Name != "" {
		out.Sort = finddb.SortBest
	}
	if q.Sort != nil {
		if !q.Sort.Valid() {
			return app.InvalidField("sort", "bad-sort", "%q is not a sort order. Choose best, name, newest, changed or faces.", *q.Sort)
		}
		out.Sort = store.Sort(*q.Sort)
	}
	return nil
}

func statusOf(q *api.ListFamiliesParams, out *finddb.Query) error {
	if q.Status != nil {
		if !q.Status.Valid() {
			return app.InvalidField("status", "bad-status", "%q is not a status. Choose active, retired or deleted.", *q.Status)
		}
		out.Status = store.Status(*q.Status)
	}
	return nil
}

// faceQuery reads what is asked of faces.
func faceQuery(q *api.ListFamiliesParams, out *finddb.FaceQuery) (err error) {
	if out.Permissions, err = oneOf("permission", q.Permission); err != nil {
		return err
	}
	if out.Slopes, err = oneOf("slope", q.Slope); err != nil {
		return err
	}
	if out.Kinds, err = oneOf("kind", q.Kind); err != nil {
		return err
	}
	if out.Looks, err = looks(q); err != nil {
		return err
	}
	weightMin, weightMax, err := between("weight", q.Weight)
	if err != nil {
		return err
	}
	out.WeightMin, out.WeightMax = int(weightMin), int(weightMax)
	if out.WidthMin, out.WidthMax, err = between("width", q.Width); err != nil {
		return err
	}
	out.Variable, out.Color = q.Variable, q.Color
	for _, k := range listed(q.Format) {
		if k = strings.ToLower(k); !api.FileFormat(k).Valid() {
			return app.InvalidField("format", "bad-format", "%q is not a format; choose ttf, otf, ttc, woff, woff2 or eot.", k)
		}
		out.Formats = append(out.Formats, k)
	}
	for _, l := range listed(q.Language) {
		code, ok := languageCode(l)
		if !ok {
			return app.InvalidField("language", "unknown-language", "No language is called %q. Give its English name or its code, such as Polish or pl.", l)
		}
		out.Traits = append(out.Traits, []string{library.Trait(library.TraitLanguage, code)})
	}
	for _, f := range listed(q.Feature) {
		out.Traits = append(out.Traits, []string{library.Trait(library.TraitFeature, f)})
	}
	if scripts := listed(q.Script); len(scripts) > 0 {
		out.Traits = append(out.Traits, app.Each(scripts, func(s string) string { return library.Trait(library.TraitScript, s) }))
	}
	if problems := listed(q.Problem); len(problems) > 0 {
		out.Traits = append(out.Traits, app.Each(problems, func(s string) string { return library.Trait(library.TraitProblem, s) }))
	}
	return nil
}

// between reads a number, which is both ends, or a range: 300-500, 600-, -400.
func between(field string, text *string) (low, high float64, err error) {
	t := strings.TrimSuffix(app.Filled(text), "%")
	if t == "" {
		return 0, 0, nil
	}
	from, to, isRange := strings.Cut(t, "-")
	if !isRange {
		to = from
	}
	read := func(s string) float64 {
		s = strings.TrimSpace(s)
		if s == "" {
			return 0
		}
		n, bad := strconv.ParseFloat(s, 64)
		if bad != nil || n < 1 || n > 1000 {
			err = app.InvalidField(field, "bad-range", "%q is no %s; give a number from 1 to 1000 or a range such as 300-500.", t, field)
		}
		return n
	}
	low, high = read(from), read(to)
	if err == nil && high > 0 && low > high {
		err = app.InvalidField(field, "bad-range", "The range %s of %s runs backwards; write the smaller number first.", t, field)
	}
	return low, high, err
}

// languageCode finds a language by code or by English name.
func languageCode(text string) (string, bool) {
	text = strings.TrimSpace(text)
	for _, code := range coverage.Codes() {
		if strings.EqualFold(code, text) || search.Fold(coverage.LanguageName(code)) == search.Fold(text) {
			return code, true
		}
	}
	return "", false
}

// words says which words families must have.
func (c *Finding) words(ctx context.Context, text string, out *finddb.Query) ([]api.MeantWord, error) {
	const maxWords = 12 // more than anybody types
	meant := []api.MeantWord{}
	typed := search.Words(text)
	typed = typed[:min(len(typed), maxWords)]
	for _, w := range typed {
		known, err := finddb.In(c.store).WordBegins(ctx, w)
		if err != nil {
			return nil, err
		}
		if known {
			out.Words = append(out.Words, store.Word{Begins: w})
			continue
		}
		begins, holds := search.Sieve(w)
		vocabulary, err := finddb.In(c.store).WordsLike(ctx, begins, holds)
		if err != nil {
			return nil, err
		}
		others := search.Meant(w, vocabulary)
		if len(others) == 0 {
			out.Words = append(out.Words, store.Word{Begins: w}) // nothing will be found
			continue
		}
		out.Words = append(out.Words, store.Word{Any: others})
		meant = append(meant, api.MeantWord{Typed: w, Words: others[:min(len(others), 5)]})
	}
	if text != "" && len(typed) == 0 {
		out.Only = []int64{} // nothing but signs was typed
	}
	return meant, nil
}

// SearchWords returns what families can be found by.
func (c *Finding) SearchWords(ctx context.Context, p *store.Person) (*api.SearchWords, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	out := &api.SearchWords{}
	for kind, list := range map[string]*[]string{library.TraitScript: &out.Scripts, library.TraitFeature: &out.Features, library.TraitProblem: &out.Problems} {
		all, err := finddb.In(c.store).Traits(ctx, kind)
		if err != nil {
			return nil, err
		}
		*list = app.Each(slices.DeleteFunc(all, func(s string) bool { return s == library.AnyProblem }), func(s string) string { return s })
	}
	tags, err := finddb.In(c.store).Tags(ctx)
	if err != nil {
		return nil, err
	}
	out.Tags = app.Each(tags, func(t store.TagCount) api.TagCount { return api.TagCount{Tag: t.Tag, Families: t.Families} })
	return out, nil
}
