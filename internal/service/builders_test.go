package service_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"mime/multipart"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/reshape"
	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/demo/foundry"
)

// send gives the bodies of rules, changed.
func rulesOf(t testing.TB, kind string, change func(*builder.Rules)) (string, *bytes.Reader) {
	t.Helper()
	r, ok := builder.ShippedOf(kind)
	require.True(t, ok)
	change(r)
	return "application/json", bytes.NewReader(r.JSON())
}

func TestBuilderRulesAreKept(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	list, err := s.admin.ListBuildersWithResponse(ctx)
	require.NoError(t, err)
	require.Len(t, list.JSON200.Items, len(builder.Shipped()))
	for _, b := range list.JSON200.Items {
		assert.True(t, b.Shipped)
		assert.Equal(t, 1, b.Version)
	}

	kind, body := rulesOf(t, "upload-form", func(r *builder.Rules) { r.Kind, r.Name = "harbour-cms", "Harbour CMS" })
	added, err := s.admin.AddBuilderWithBodyWithResponse(ctx, kind, body)
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, "%s", added.Body)
	assert.False(t, added.JSON201.Shipped)
	kind, body = rulesOf(t, "upload-form", func(r *builder.Rules) { r.Kind = "harbour-cms" })
	twice, err := s.admin.AddBuilderWithBodyWithResponse(ctx, kind, body)
	require.NoError(t, err)
	problemOf(t, twice.HTTPResponse, twice.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "kind-taken")

	// A change is a version; one that was made from an older version is not lost over it.
	change := func(etag string, f func(*builder.Rules)) *api.ChangeBuilderResponse {
		kind, body := rulesOf(t, "upload-form", func(r *builder.Rules) { r.Kind, r.Name = "harbour-cms", "Harbour CMS"; f(r) })
		r, err := s.admin.ChangeBuilderWithBodyWithResponse(ctx, "harbour-cms", &api.ChangeBuilderParams{IfMatch: etag}, kind, body)
		require.NoError(t, err)
		return r
	}
	changed := change(added.JSON201.Etag, func(r *builder.Rules) { r.Files.MaxBytes = 500_000 })
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	assert.Equal(t, 2, changed.JSON200.Version)
	late := change(added.JSON201.Etag, func(r *builder.Rules) { r.Files.MaxBytes = 1 })
	problemOf(t, late.HTTPResponse, late.ApplicationproblemJSONDefault, http.StatusPreconditionFailed, "changed-meanwhile")
	wrong := change(changed.JSON200.Etag, func(r *builder.Rules) { r.Form = nil })
	problemOf(t, wrong.HTTPResponse, wrong.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "bad-rules")
	odd, err := s.admin.AddBuilderWithBodyWithResponse(ctx, "application/json", strings.NewReader(`{"kind": "x"}`))
	require.NoError(t, err)
	problemOf(t, odd.HTTPResponse, odd.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "bad-rules")
	versions, err := s.admin.ListBuilderVersionsWithResponse(ctx, "harbour-cms")
	require.NoError(t, err)
	require.Len(t, versions.JSON200.Items, 2)
	assert.Equal(t, []api.RuleChange{{Field: "files.maxBytes", From: "2000000", To: "500000"}}, versions.JSON200.Items[0].Changes)

	// A shipped one is changed and stays; one of the studio's own goes when no site uses it.
	kind, body = rulesOf(t, "bundler", func(r *builder.Rules) { r.Files.Formats = []font.Container{font.WOFF2, font.WOFF} })
	shipped, err := s.admin.ChangeBuilderWithBodyWithResponse(ctx, "bundler", &api.ChangeBuilderParams{IfMatch: `"1"`}, kind, body)
	require.NoError(t, err)
	require.NotNil(t, shipped.JSON200, "%s", shipped.Body)
	assert.Equal(t, 2, shipped.JSON200.Version)
	stays, err := s.admin.DeleteBuilderWithResponse(ctx, "bundler")
	require.NoError(t, err)
	problemOf(t, stays.HTTPResponse, stays.ApplicationproblemJSONDefault, http.StatusConflict, "shipped-rules")
	site, err := s.admin.AddSiteWithResponse(ctx, api.SiteTerms{Name: "Harbour", Client: 1, Builder: "harbour-cms"})
	require.NoError(t, err)
	require.NotNil(t, site.JSON201, "%s", site.Body)
	used, err := s.admin.DeleteBuilderWithResponse(ctx, "harbour-cms")
	require.NoError(t, err)
	problemOf(t, used.HTTPResponse, used.ApplicationproblemJSONDefault, http.StatusConflict, "rules-in-use")
	_, err = s.admin.ChangeSiteWithResponse(ctx, site.JSON201.Id, &api.ChangeSiteParams{IfMatch: site.JSON201.Etag}, api.SiteTerms{Name: "Harbour", Client: 1, Builder: "bundler"})
	require.NoError(t, err)
	gone, err := s.admin.DeleteBuilderWithResponse(ctx, "harbour-cms")
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, gone.StatusCode())
	kind, body = rulesOf(t, "upload-form", func(r *builder.Rules) { r.Kind, r.Name = "harbour-cms", "Harbour CMS" })
	again, err := s.admin.AddBuilderWithBodyWithResponse(ctx, kind, body)
	require.NoError(t, err)
	require.NotNil(t, again.JSON201, "%s", again.Body)
	assert.Equal(t, 3, again.JSON201.Version, "versions that were are kept")

	viewer := s.Client(t, api.RoleViewer)
	kind, body = rulesOf(t, "upload-form", func(r *builder.Rules) { r.Kind = "mine" })
	refused, err := viewer.AddBuilderWithBodyWithResponse(ctx, kind, body)
	require.NoError(t, err)
	problemOf(t, refused.HTTPResponse, refused.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	schema, err := viewer.GetBuilderSchemaWithResponse(ctx)
	require.NoError(t, err)
	assert.JSONEq(t, string(builder.Schema()), string(schema.Body))
}

func TestRulesAreTried(t *testing.T) {
	s := open(t)
	viewer := s.Client(t, api.RoleViewer)
	for _, r := range builder.Shipped() {
		example, err := viewer.TryBuilderRulesWithBodyWithResponse(t.Context(), "application/json", bytes.NewReader(r.JSON()))
		require.NoError(t, err)
		require.NotNil(t, example.JSON200, "%s: %s", r.Kind, example.Body)
		assert.Empty(t, example.JSON200.Wrong)
		assert.Contains(t, example.JSON200.Slip, "Upload slip: Example site")
		if r.Styles.Form != builder.StylesNone && r.Styles.Form != builder.StylesApple && r.Styles.Form != builder.StylesAndroid {
			assert.NotEmpty(t, example.JSON200.Styles, r.Kind)
		}
	}
	wrong, err := viewer.TryBuilderRulesWithBodyWithResponse(t.Context(), "application/json", strings.NewReader(`{"kind": "x", "name": "X"}`))
	require.NoError(t, err)
	assert.NotEmpty(t, wrong.JSON200.Wrong)
	assert.Empty(t, wrong.JSON200.Files)

	// What a person means to upload is weighed with what was typed.
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	bold := drawn(t, foundry.Signage()[2], font.WOFF2)
	fields, err := json.Marshal(map[string]string{"Font name": "Skerrow Sans Bold", "Weight": "400", "Style": "normal", "Fallback": "serif"})
	require.NoError(t, err)
	require.NoError(t, m.WriteField("fields", string(fields)))
	for _, name := range []string{"Skerrow Sans Bold.woff2", "SkerrowSans-Bold.woff2"} {
		part, err := m.CreateFormFile("file", name)
		require.NoError(t, err)
		_, err = part.Write(bold)
		require.NoError(t, err)
	}
	require.NoError(t, m.Close())
	tried, err := viewer.TryUploadWithBodyWithResponse(t.Context(), "upload-form", m.FormDataContentType(), &b)
	require.NoError(t, err)
	require.NotNil(t, tried.JSON200, "%s", tried.Body)
	require.Len(t, tried.JSON200.Items, 2)
	assert.Equal(t, []string{"“Weight” is 400, but the font is 700; the platform would accept it and show it wrong."}, tried.JSON200.Items[0].Says)
	assert.Contains(t, strings.Join(tried.JSON200.Items[1].Says, " "), "Upload one file at a time")
	assert.Contains(t, strings.Join(tried.JSON200.Items[1].Says, " "), "“SkerrowSans-Bold”")

	// What is tried lies in memory, so all of it together is bounded.
	var large bytes.Buffer
	m = multipart.NewWriter(&large)
	for _, name := range []string{"a.ttf", "b.ttf"} {
		part, err := m.CreateFormFile("file", name)
		require.NoError(t, err)
		_, err = part.Write(make([]byte, app.DefaultLimits.FontBytes/2+1))
		require.NoError(t, err)
	}
	require.NoError(t, m.Close())
	refused, err := viewer.TryUploadWithBodyWithResponse(t.Context(), "upload-form", m.FormDataContentType(), &large)
	require.NoError(t, err)
	problemOf(t, refused.HTTPResponse, refused.ApplicationproblemJSONDefault, http.StatusRequestEntityTooLarge, "file-too-large")

	nothing, err := viewer.TryUploadWithBodyWithResponse(t.Context(), "nobody", m.FormDataContentType(), strings.NewReader(""))
	require.NoError(t, err)
	problemOf(t, nothing.HTTPResponse, nothing.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
}

// signage is a studio with the signage family, licensed, on a site of a builder.
func signage(t *testing.T, kind string) (s *studio, family int64, site *api.Site) {
	t.Helper()
	s = open(t)
	for _, d := range foundry.Signage() {
		family = s.family(d)
	}
	l, err := s.admin.AddLicenseWithResponse(t.Context(), api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb, api.UseApp}, Families: []int64{family}})
	require.NoError(t, err)
	require.NotNil(t, l.JSON201, "%s", l.Body)
	s.document(l.JSON201.Id)
	id := s.site("Pages", 1, family)
	got, err := s.admin.GetSiteWithResponse(t.Context(), id)
	require.NoError(t, err)
	terms := api.SiteTerms{Name: "Pages", Client: 1, Builder: kind, Environments: &[]api.SiteEnvironment{{Name: "live"}, {Name: "staging", Prefix: ptr("/stage/fonts/")}}}
	changed, err := s.admin.ChangeSiteWithResponse(t.Context(), id, &api.ChangeSiteParams{IfMatch: got.JSON200.Etag}, terms)
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	return s, family, changed.JSON200
}

func ptr[T any](v T) *T { return &v }

func placed(role string, family int64, weight int) api.RoleAssignment {
	return api.RoleAssignment{Role: role, Family: family, Weight: weight, Slope: api.StyleNormal, Fallbacks: []string{"Arial", "sans-serif"}}
}

func (s *studio) place(site *api.Site, p ...api.RoleAssignment) *api.AssignRolesResponse {
	s.t.Helper()
	r, err := s.admin.AssignRolesWithResponse(s.t.Context(), site.Id, &api.AssignRolesParams{IfMatch: site.Etag}, api.RoleAssignments{Assignments: p, Replacements: []api.Replacement{}})
	require.NoError(s.t, err)
	return r
}

// planned returns the plan of a pack once all files in it are made.
func planned(ctx context.Context, c *api.ClientWithResponses, site int64, params *api.PlanPackParams) (*api.PlanPackResponse, error) {
	for {
		r, err := c.PlanPackWithResponse(ctx, site, params)
		if err != nil || r.JSON200 == nil || r.JSON200.Pending == 0 {
			return r, err
		}
		time.Sleep(20 * time.Millisecond)
	}
}

func (s *studio) plan(site int64, environment *string) *api.Plan {
	s.t.Helper()
	r, err := planned(s.t.Context(), s.admin, site, &api.PlanPackParams{Environment: environment})
	require.NoError(s.t, err)
	require.NotNil(s.t, r.JSON200, "%s", r.Body)
	return r.JSON200
}

func sent(p *api.Plan) []string {
	var out []string
	for _, f := range p.Faces {
		if f.Included {
			out = append(out, f.Style)
		}
	}
	return out
}

// TestRoleAssignmentsChooseFaces has roles say which faces are sent, and a person decide
// otherwise.
func TestRoleAssignmentsChooseFaces(t *testing.T) {
	s, family, site := signage(t, "self-hosted")
	assert.Equal(t, []string{"Light", "Regular", "Bold"}, sent(s.plan(site.Id, nil)), "nothing is said of roles")
	r := s.place(site, placed("heading-1", family, 700), placed("body", family, 400))
	require.NotNil(t, r.JSON200, "%s", r.Body)
	site = r.JSON200
	plan := s.plan(site.Id, nil)
	assert.Equal(t, []string{"Regular", "Bold"}, sent(plan))
	assert.Equal(t, "heading 1, bold in body text", plan.Faces[2].Needed)
	assert.Contains(t, plan.Stylesheet, "h1 {\n  font-family: \"Skerrow Sans\", \"Skerrow Sans Fallback\", \"Arial\", sans-serif;")
	assert.Contains(t, plan.Stylesheet, "size-adjust", "Arial is made to its measure")
	require.Len(t, plan.Warnings, 1)
	assert.Contains(t, plan.Warnings[0].Message, "Italic text in body text will be faux italic")

	choose := func(c api.PackChoices) *api.SetChoicesResponse {
		r, err := s.admin.SetChoicesWithResponse(t.Context(), site.Id, &api.SetChoicesParams{IfMatch: site.Etag}, c)
		require.NoError(t, err)
		if r.JSON200 != nil {
			site = r.JSON200
		}
		return r
	}
	require.NotNil(t, choose(api.PackChoices{Include: &[]int64{plan.Faces[0].Face}, Exclude: &[]int64{plan.Faces[2].Face}, LegacyFormats: ptr(true)}).JSON200)
	plan = s.plan(site.Id, nil)
	assert.Equal(t, []string{"Light", "Regular"}, sent(plan))
	assert.Contains(t, fmt.Sprint(plan.Warnings), "will be faux bold", "what was left out is missed")
	for _, end := range []string{"woff2", "woff", "ttf", "eot", "svg"} {
		assert.True(t, slices.ContainsFunc(plan.Files, func(f api.PlanFile) bool { return f.Path == "fonts/skerrow-sans-light."+end }), end)
	}
	odd := choose(api.PackChoices{Include: &[]int64{999}})
	problemOf(t, odd.HTTPResponse, odd.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "unknown-face")
	require.NotNil(t, choose(api.PackChoices{Exclude: &[]int64{plan.Faces[0].Face, plan.Faces[1].Face, plan.Faces[2].Face}}).JSON200)
	built, err := s.admin.BuildPackWithResponse(t.Context(), site.Id, nil)
	require.NoError(t, err)
	problemOf(t, built.HTTPResponse, built.ApplicationproblemJSONDefault, http.StatusConflict, "nothing-sent")

	// An environment says where the files will be.
	assert.NotContains(t, s.plan(site.Id, nil).Stylesheet, "/stage/")
	require.NotNil(t, choose(api.PackChoices{}).JSON200)
	staging := s.plan(site.Id, ptr("Staging"))
	assert.Contains(t, staging.Stylesheet, `url("/stage/fonts/skerrow-sans-bold.woff2")`)
	assert.Contains(t, staging.Pastes[0].Text, "/stage/fonts/fonts.css")
	unknown, err := planned(t.Context(), s.admin, site.Id, &api.PlanPackParams{Environment: ptr("moon")})
	require.NoError(t, err)
	problemOf(t, unknown.HTTPResponse, unknown.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "unknown-environment")

	// A face that is named counts, whatever weight is said beside it.
	now, err := s.admin.GetSiteWithResponse(t.Context(), site.Id)
	require.NoError(t, err)
	light := placed("quotes", family, 700)
	light.Face = &s.plan(site.Id, nil).Faces[0].Face
	named := s.place(now.JSON200, placed("heading-1", family, 700), placed("body", family, 400), light)
	require.NotNil(t, named.JSON200, "%s", named.Body)
	assert.Equal(t, []string{"Light", "Regular", "Bold"}, sent(s.plan(site.Id, nil)))
	assert.Contains(t, s.plan(site.Id, nil).Stylesheet, "blockquote {\n  font-family: \"Skerrow Sans\", \"Skerrow Sans Fallback\", \"Arial\", sans-serif;\n  font-weight: 300;")
	light.Face = ptr(int64(999))
	unnamed := s.place(named.JSON200, light)
	problemOf(t, unnamed.HTTPResponse, unnamed.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "unknown-face")
	require.NotNil(t, s.place(named.JSON200, placed("heading-1", family, 700), placed("body", family, 400)).JSON200)

	// Which sites use a family, and for what, is seen from its end too; off the site, it does nothing there.
	f, err := s.admin.GetFamilyWithResponse(t.Context(), family)
	require.NoError(t, err)
	require.Len(t, f.JSON200.Sites, 1)
	assert.Equal(t, []string{"Heading 1", "Body text"}, f.JSON200.Sites[0].Roles)
	dropped, err := s.admin.RemoveSiteFamilyWithResponse(t.Context(), site.Id, family)
	require.NoError(t, err)
	assert.Empty(t, dropped.JSON200.Roles)
}

func TestRoleAssignmentsAreChecked(t *testing.T) {
	s, family, site := signage(t, "self-hosted")
	with := func(change func(*api.RoleAssignment)) api.RoleAssignment {
		p := placed("body", family, 400)
		change(&p)
		return p
	}
	for code, p := range map[string][]api.RoleAssignment{
		"bad-role":      {with(func(p *api.RoleAssignment) { p.Role = "Body Text" })},
		"bad-selector":  {with(func(p *api.RoleAssignment) { p.Role = "lead" })},
		"bad-weight":    {with(func(p *api.RoleAssignment) { p.Weight = 0 })},
		"bad-slope":     {with(func(p *api.RoleAssignment) { p.Slope = "leaning" })},
		"bad-fallback":  {with(func(p *api.RoleAssignment) { p.Fallbacks = []string{"Arial; color: red"} })},
		"generic-first": {with(func(p *api.RoleAssignment) { p.Fallbacks = []string{"serif", "Arial"} })},
		"role-twice":    {placed("body", family, 400), placed("body", family, 700)},
		"too-long": {with(func(p *api.RoleAssignment) {
			p.Role, p.Name, p.Selector = "other", ptr(strings.Repeat("x", 101)), ptr(".x")
		})},
	} {
		r := s.place(site, p...)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, code)
	}
	none := s.place(site, placed("body", 99, 400))
	problemOf(t, none.HTTPResponse, none.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
	old := *site
	require.NotNil(t, s.place(site, placed("body", family, 400)).JSON200)
	late := s.place(&old, placed("body", family, 400))
	problemOf(t, late.HTTPResponse, late.ApplicationproblemJSONDefault, http.StatusPreconditionFailed, "changed-meanwhile")
	swap := func(names ...string) *api.AssignRolesResponse {
		now, err := s.admin.GetSiteWithResponse(t.Context(), site.Id)
		require.NoError(t, err)
		in := api.RoleAssignments{Assignments: []api.RoleAssignment{}, Replacements: []api.Replacement{}}
		for _, n := range names {
			in.Replacements = append(in.Replacements, api.Replacement{Name: n, Family: family, Weight: 400, Slope: api.StyleNormal})
		}
		r, err := s.admin.AssignRolesWithResponse(t.Context(), site.Id, &api.AssignRolesParams{IfMatch: now.JSON200.Etag}, in)
		require.NoError(t, err)
		return r
	}
	for code, names := range map[string][]string{"missing-value": {"“”"}, "generic-name": {"Serif"}, "too-long": {strings.Repeat("x", 201)}, "twice": {"Georgia", "georgia"}} {
		r := swap(names...)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, code)
	}
	done := swap("Georgia")
	require.NotNil(t, done.JSON200, "%s", done.Body)
	assert.Contains(t, done.JSON200.Warnings[0].Message, "Every text set in Georgia on the site changes")
}

// TestAddressesComeBack has addresses given in several forms, and a later pack that
// uses what has not changed.
func TestAddressesComeBack(t *testing.T) {
	s, family, site := signage(t, "style-box")
	require.NotNil(t, s.place(site, placed("heading-1", family, 700)).JSON200)
	give := func(in api.NewFileURLs) *api.AddFileURLsResponse {
		r, err := s.admin.AddFileURLsWithResponse(t.Context(), site.Id, in)
		require.NoError(t, err)
		return r
	}
	assert.Equal(t, []string{"fonts/skerrow-sans-bold.woff2", "fonts/skerrow-sans-bold.woff"}, s.plan(site.Id, nil).MissingUrls)
	odd := give(api.NewFileURLs{Text: "they are up"})
	problemOf(t, odd.HTTPResponse, odd.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "nothing-matched")
	odd = give(api.NewFileURLs{Text: "file:///home/skerrow-sans-bold.woff", File: ptr("skerrow-sans-bold.woff")})
	problemOf(t, odd.HTTPResponse, odd.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "bad-address")
	one := give(api.NewFileURLs{Text: "https://files.example/1f/skerrow-sans-bold.woff", File: ptr("fonts/skerrow-sans-bold.woff")})
	require.NotNil(t, one.JSON200, "%s", one.Body)
	assert.Equal(t, []string{"fonts/skerrow-sans-bold.woff2"}, one.JSON200.Missing)
	assert.Empty(t, one.JSON200.Pastes)
	all := give(api.NewFileURLs{Text: `<link href="https://files.example/2a/Skerrow_Sans_Bold-v2.woff2"> and https://files.example/logo.png`})
	require.NotNil(t, all.JSON200, "%s", all.Body)
	assert.Empty(t, all.JSON200.Missing)
	assert.Contains(t, all.JSON200.Notes[0], "logo.png")
	require.Len(t, all.JSON200.Pastes, 1)
	assert.Contains(t, all.JSON200.Pastes[0].Text, `url("https://files.example/2a/Skerrow_Sans_Bold-v2.woff2") format("woff2")`)
	assert.Len(t, s.plan(site.Id, ptr("staging")).MissingUrls, 2, "another environment has addresses of its own")

	// Once it is blocked, nothing that puts it to work comes out.
	license, err := s.admin.GetLicenseWithResponse(t.Context(), 1)
	require.NoError(t, err)
	terms := api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb, api.UseApp}, Families: []int64{family}, Until: inDays(-3)}
	ended, err := s.admin.ChangeLicenseWithResponse(t.Context(), 1, &api.ChangeLicenseParams{IfMatch: license.JSON200.Etag}, terms)
	require.NoError(t, err)
	require.NotNil(t, ended.JSON200, "%s", ended.Body)
	stopped, err := s.admin.ListFileURLsWithResponse(t.Context(), site.Id, &api.ListFileURLsParams{})
	require.NoError(t, err)
	assert.Empty(t, stopped.JSON200.Pastes)
	assert.Contains(t, stopped.JSON200.Notes[0], "Skerrow Sans is blocked")
	assert.Empty(t, s.plan(site.Id, nil).Styles)
	terms.Until = nil
	_, err = s.admin.ChangeLicenseWithResponse(t.Context(), 1, &api.ChangeLicenseParams{IfMatch: ended.JSON200.Etag}, terms)
	require.NoError(t, err)

	// A newer version of the face: what it replaces is said, the rest stays.
	newer := *foundry.Signage()[2]
	newer.Version = "1.300"
	newer.Thin++
	s.family(&newer)
	plan := s.plan(site.Id, nil)
	assert.Len(t, plan.MissingUrls, 2)
	for _, f := range plan.Files {
		if f.Format != nil {
			require.NotNil(t, f.Replace, f.Path)
		}
	}
	now, err := s.admin.ListFileURLsWithResponse(t.Context(), site.Id, &api.ListFileURLsParams{})
	require.NoError(t, err)
	assert.True(t, now.JSON200.Items[0].Replaced)
	forgotten, err := s.admin.RemoveFileURLsWithResponse(t.Context(), site.Id, &api.RemoveFileURLsParams{})
	require.NoError(t, err)
	assert.Empty(t, forgotten.JSON200.Items)
	viewer, err := s.Client(t, api.RoleViewer).AddFileURLsWithResponse(t.Context(), site.Id, api.NewFileURLs{Text: "https://files.example/x.woff2"})
	require.NoError(t, err)
	problemOf(t, viewer.HTTPResponse, viewer.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
}

// TestPacksFallBehind changes what a pack was made of, and reads what is said of it.
func TestPacksFallBehind(t *testing.T) {
	s, family, site := signage(t, "self-hosted")
	ctx := t.Context()
	r := s.place(site, placed("heading-1", family, 700))
	require.NotNil(t, r.JSON200, "%s", r.Body)
	built, err := s.admin.BuildPackWithResponse(ctx, site.Id, nil)
	require.NoError(t, err)
	require.NotNil(t, built.JSON201, "%s", built.Body)
	assert.Equal(t, "live", built.JSON201.Environment)
	said := func() string {
		now, err := s.admin.GetSiteWithResponse(ctx, site.Id)
		require.NoError(t, err)
		site = now.JSON200
		due, err := s.admin.ListDueWithResponse(ctx, &api.ListDueParams{})
		require.NoError(t, err)
		listed := slices.ContainsFunc(due.JSON200.Items, func(i api.DueItem) bool { return i.Kind == api.DueOutdated })
		assert.Equal(t, len(site.Outdated) > 0, listed, "the due list says the same")
		var out []string
		for _, o := range site.Outdated {
			out = append(out, o.Changes...)
		}
		return strings.Join(out, " ")
	}
	assert.Empty(t, said())
	require.NotNil(t, s.place(site, placed("heading-1", family, 400), placed("heading-2", family, 400)).JSON200)
	got := said()
	assert.Contains(t, got, "Heading 1 is Skerrow Sans, weight 400, then Arial, sans-serif now; it was Skerrow Sans, weight 700")
	assert.Contains(t, got, "Heading 2 is set now")
	assert.Contains(t, got, "Skerrow Sans Regular is included now.")
	assert.Contains(t, got, "Skerrow Sans Bold is no longer included; remove it from the platform.")
	require.NotNil(t, s.place(site, placed("heading-1", family, 700)).JSON200)
	assert.Empty(t, said(), "as it was")
	newer := *foundry.Signage()[2]
	newer.Version = "1.300"
	newer.Thin++
	s.family(&newer)
	assert.Contains(t, said(), "Skerrow Sans Bold has a newer file: Version 1.300, it was Version 1.200.")
	_, err = s.admin.BuildPackWithResponse(ctx, site.Id, nil)
	require.NoError(t, err)
	assert.Empty(t, said(), "built anew")
	kind, body := rulesOf(t, "self-hosted", func(r *builder.Rules) { r.Files.Formats = []font.Container{font.WOFF2} })
	_, err = s.admin.ChangeBuilderWithBodyWithResponse(ctx, "self-hosted", &api.ChangeBuilderParams{IfMatch: `"1"`}, kind, body)
	require.NoError(t, err)
	assert.Contains(t, said(), "The builder rules are now version 2; the pack was built with version 1.")
	// A retired family lists the sites to clean.
	f, err := s.admin.GetFamilyWithResponse(ctx, family)
	require.NoError(t, err)
	_, err = s.admin.ChangeFamilyWithResponse(ctx, family, &api.ChangeFamilyParams{IfMatch: f.JSON200.Etag}, api.FamilyChange{Retired: ptr(true)})
	require.NoError(t, err)
	due, err := s.admin.ListDueWithResponse(ctx, &api.ListDueParams{})
	require.NoError(t, err)
	at := slices.IndexFunc(due.JSON200.Items, func(i api.DueItem) bool { return i.Kind == api.DueRetired })
	require.GreaterOrEqual(t, at, 0)
	assert.Equal(t, "Pages", due.JSON200.Items[at].Sites[0].Name)
}

func TestPagesAreTicked(t *testing.T) {
	s, family, site := signage(t, "page-block")
	ctx := t.Context()
	require.NotNil(t, s.place(site, placed("heading-1", family, 700)).JSON200)
	add := func(addresses ...string) *api.AddSitePagesResponse {
		in := api.NewSitePages{Pages: []api.NewSitePage{}}
		for _, a := range addresses {
			in.Pages = append(in.Pages, api.NewSitePage{Url: a})
		}
		r, err := s.admin.AddSitePagesWithResponse(ctx, site.Id, in)
		require.NoError(t, err)
		return r
	}
	for _, bad := range [][]string{{}, {"a page"}, {"ftp://x.example/"}, {""}} {
		assert.Equal(t, http.StatusUnprocessableEntity, add(bad...).StatusCode(), bad)
	}
	r := add("/", "prices", "/", "https://x.example/contact")
	require.NotNil(t, r.JSON200, "%s", r.Body)
	require.Len(t, r.JSON200.Items, 3, "each once")
	assert.True(t, r.JSON200.EachPage)
	assert.Equal(t, "/prices", r.JSON200.Items[1].Url)
	editor := s.Client(t, api.RoleEditor)
	done, err := editor.MarkSitePageWithResponse(ctx, site.Id, r.JSON200.Items[0].Id, api.PageMark{Done: true})
	require.NoError(t, err)
	require.NotNil(t, done.JSON200, "%s", done.Body)
	assert.Equal(t, "The editor", *done.JSON200.Items[0].DoneBy)
	assert.Nil(t, done.JSON200.Items[0].Behind)
	_, err = s.admin.BuildPackWithResponse(ctx, site.Id, nil)
	require.NoError(t, err)
	_, err = s.admin.MarkSitePageWithResponse(ctx, site.Id, r.JSON200.Items[1].Id, api.PageMark{Done: true})
	require.NoError(t, err)
	_, err = s.admin.BuildPackWithResponse(ctx, site.Id, nil)
	require.NoError(t, err)
	now, err := s.admin.ListSitePagesWithResponse(ctx, site.Id)
	require.NoError(t, err)
	require.NotNil(t, now.JSON200.Items[1].Behind, "a newer pack was built since")

	// What must come off when the license ends: the pages that carry it.
	ending, err := s.admin.EndLicenseWithResponse(ctx, 1)
	require.NoError(t, err)
	require.Len(t, ending.JSON200.Families[0].Sites, 1)
	assert.Equal(t, []string{"/", "/prices"}, ending.JSON200.Families[0].Sites[0].Pages, "the ones that were done")
	assert.Equal(t, []string{"Heading 1"}, ending.JSON200.Families[0].Sites[0].Roles)

	undone, err := s.admin.MarkSitePageWithResponse(ctx, site.Id, r.JSON200.Items[0].Id, api.PageMark{Done: false})
	require.NoError(t, err)
	assert.False(t, undone.JSON200.Items[0].Done)
	dropped, err := s.admin.RemoveSitePageWithResponse(ctx, site.Id, r.JSON200.Items[0].Id)
	require.NoError(t, err)
	assert.Len(t, dropped.JSON200.Items, 2)
	missing, err := s.admin.RemoveSitePageWithResponse(ctx, site.Id, 999)
	require.NoError(t, err)
	problemOf(t, missing.HTTPResponse, missing.ApplicationproblemJSONDefault, http.StatusNotFound, "not-found")
	viewer, err := s.Client(t, api.RoleViewer).MarkSitePageWithResponse(ctx, site.Id, r.JSON200.Items[1].Id, api.PageMark{Done: true})
	require.NoError(t, err)
	problemOf(t, viewer.HTTPResponse, viewer.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
}

// TestWhatAReceiverNeedsIsMade has a variable font and PostScript outlines go where
// neither is taken; the license is asked about it.
func TestWhatAReceiverNeedsIsMade(t *testing.T) {
	s := open(t)
	variable, err := foundry.BuildVariable(foundry.Signage(), font.TTF)
	require.NoError(t, err)
	added := s.add("v.ttf", variable)
	require.NotNil(t, added.JSON200, "%s", added.Body)
	otf, err := foundry.Build(foundry.Display(), font.OTF)
	require.NoError(t, err)
	display := s.add("d.otf", otf)
	require.NotNil(t, display.JSON200, "%s", display.Body)
	families := []int64{added.JSON200.Family.Id, display.JSON200.Family.Id}
	license, err := s.admin.AddLicenseWithResponse(t.Context(), api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb}, Families: families})
	require.NoError(t, err)
	s.document(license.JSON201.Id)
	site, err := s.admin.AddSiteWithResponse(t.Context(), api.SiteTerms{Name: "App", Client: 1, Builder: "app-form"})
	require.NoError(t, err)
	r := s.place(site.JSON201, placed("body", families[0], 350), placed("heading-1", families[1], 400))
	require.NotNil(t, r.JSON200, "%s", r.Body)
	for _, f := range r.JSON200.Families {
		assert.Equal(t, "other-use", f.Reasons[0].Code, "the license is for the web, this is an app")
	}
	register, err := s.admin.GetRegisterWithResponse(t.Context(), nil)
	require.NoError(t, err)
	for i, f := range r.JSON200.Families {
		assert.Equal(t, f.Verdict, register.JSON200.Items[i].Verdict, "the register says what the site says")
		assert.Contains(t, register.JSON200.Items[i].Missing, f.Reasons[0].Message)
	}
	l, err := s.admin.GetLicenseWithResponse(t.Context(), license.JSON201.Id)
	require.NoError(t, err)
	changed, err := s.admin.ChangeLicenseWithResponse(t.Context(), license.JSON201.Id, &api.ChangeLicenseParams{IfMatch: l.JSON200.Etag},
		api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseApp, api.UseWeb}, Families: families})
	require.NoError(t, err)
	require.NotNil(t, changed.JSON200, "%s", changed.Body)
	plan := s.plan(site.JSON201.Id, nil)
	for _, f := range plan.Site.Families {
		assert.Equal(t, api.Review, f.Verdict, "the license does not speak of changing outlines")
		assert.True(t, slices.ContainsFunc(f.Reasons, func(r api.Reason) bool { return strings.Contains(r.Message, "outlines") }), "%v", f.Reasons)
	}
	var paths []string
	for _, f := range plan.Files {
		if f.Format != nil {
			paths = append(paths, f.Path)
		}
	}
	assert.Equal(t, []string{"fonts/Skerrow Sans Variable Weight350.ttf", "fonts/Skerrow Sans Variable Bold.ttf", "fonts/Umbrisk Display Regular.ttf"}, paths, "the variable font in two weights")
	assert.Contains(t, plan.Faces[0].Changes, "because the platform does not accept variable fonts")
	assert.Contains(t, plan.Faces[1].Changes, "as TTF its outlines become TrueType ones")
}

// TestAPackIsJudgedByWhatItHolds asks licenses about what a pack was made into and for
// whom, whatever its site asks for by now.
func TestAPackIsJudgedByWhatItHolds(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	otf, err := foundry.Build(foundry.Display(), font.OTF)
	require.NoError(t, err)
	added := s.add("d.otf", otf)
	require.NotNil(t, added.JSON200, "%s", added.Body)
	family := added.JSON200.Family.Id
	bought := api.LicenseTerms{Kind: api.KindBought, GrantedTo: 1, Uses: []api.Use{api.UseWeb, api.UseApp}, Families: []int64{family}, Changes: &api.LicensedChanges{Subset: ptr(api.ConsentYes)}}
	license, err := s.admin.AddLicenseWithResponse(ctx, bought)
	require.NoError(t, err)
	require.NotNil(t, license.JSON201, "%s", license.Body)
	s.document(license.JSON201.Id)
	site := s.site("Pages", 1, family)
	now := func() *api.Site {
		r, err := s.admin.GetSiteWithResponse(ctx, site)
		require.NoError(t, err)
		return r.JSON200
	}
	content := func(pack int64) *api.GetPackContentResponse {
		r, err := s.admin.GetPackContentWithResponse(ctx, pack)
		require.NoError(t, err)
		return r
	}
	recipe := func(text string) {
		r, err := s.admin.AddSiteFamilyWithResponse(ctx, site, family, api.FamilyOnSite{Recipe: &reshape.Recipe{Subset: &reshape.Subset{Text: text}}})
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, r.StatusCode(), "%s", r.Body)
	}
	builder := func(kind string) {
		r, err := s.admin.ChangeSiteWithResponse(ctx, site, &api.ChangeSiteParams{IfMatch: now().Etag}, api.SiteTerms{Name: "Pages", Client: 1, Builder: kind})
		require.NoError(t, err)
		require.NotNil(t, r.JSON200, "%s", r.Body)
	}
	recipe("Boats")
	require.Equal(t, api.Cleared, now().Families[0].Verdict)
	built, err := s.admin.BuildPackWithResponse(ctx, site, nil)
	require.NoError(t, err)
	require.NotNil(t, built.JSON201, "%s", built.Body)
	for _, text := range []string{"Ferries", "Boats"} {
		recipe(text)
		var said []string
		for _, o := range now().Outdated {
			said = append(said, o.Changes...)
		}
		if text == "Boats" {
			assert.Empty(t, said, "as it was")
		} else {
			require.Len(t, said, 1, "the words of both recipes are the same")
			assert.Contains(t, said[0], "with other settings.")
		}
	}

	// Old browsers take TrueType outlines, of which the license does not speak.
	chosen, err := s.admin.SetChoicesWithResponse(ctx, site, &api.SetChoicesParams{IfMatch: now().Etag}, api.PackChoices{LegacyFormats: ptr(true)})
	require.NoError(t, err)
	require.NotNil(t, chosen.JSON200, "%s", chosen.Body)
	assert.Equal(t, api.Review, chosen.JSON200.Families[0].Verdict)
	assert.Contains(t, fmt.Sprint(chosen.JSON200.Families[0].Reasons), "outlines")
	refused, err := s.admin.BuildPackWithResponse(ctx, site, nil)
	require.NoError(t, err)
	problemOf(t, refused.HTTPResponse, refused.ApplicationproblemJSONDefault, http.StatusConflict, "not-clear")
	assert.Equal(t, http.StatusOK, content(built.JSON201.Id).StatusCode(), "that pack has no such file")

	// The license ends for the web: a pack of web fonts stays in, though its site is an app by now.
	builder("apple-app")
	relicense := func(uses []api.Use, changes api.LicensedChanges) {
		l, err := s.admin.GetLicenseWithResponse(ctx, license.JSON201.Id)
		require.NoError(t, err)
		bought.Uses, bought.Changes = uses, &changes
		changed, err := s.admin.ChangeLicenseWithResponse(ctx, license.JSON201.Id, &api.ChangeLicenseParams{IfMatch: l.JSON200.Etag}, bought)
		require.NoError(t, err)
		require.NotNil(t, changed.JSON200, "%s", changed.Body)
		assert.Equal(t, api.Cleared, now().Families[0].Verdict, "%v", now().Families[0].Reasons)
		kept := content(built.JSON201.Id)
		problemOf(t, kept.HTTPResponse, kept.ApplicationproblemJSONDefault, http.StatusConflict, "not-clear")
	}
	relicense([]api.Use{api.UseApp}, api.LicensedChanges{Subset: ptr(api.ConsentYes), Outlines: ptr(api.ConsentYes)})

	// It may be trimmed no more: the pack holds a trimmed one, though its site asks for none.
	unchanged, err := s.admin.AddSiteFamilyWithResponse(ctx, site, family, api.FamilyOnSite{})
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, unchanged.StatusCode(), "%s", unchanged.Body)
	relicense([]api.Use{api.UseApp, api.UseWeb}, api.LicensedChanges{Subset: ptr(api.ConsentNo), Outlines: ptr(api.ConsentYes)})
}

// TestAFamilyIsPackedWithoutASite has the fonts of a family for a machine where people
// design; a builder that gives addresses afterwards needs a site, and a bar stops it.
func TestAFamilyIsPackedWithoutASite(t *testing.T) {
	s, family, _ := signage(t, "self-hosted")
	get := func(c *api.ClientWithResponses, id int64, kind string) *api.GetFamilyPackResponse {
		r, err := c.GetFamilyPackWithResponse(t.Context(), id, &api.GetFamilyPackParams{Builder: kind})
		require.NoError(t, err)
		return r
	}
	app := get(s.admin, family, "apple-app")
	require.Equal(t, http.StatusOK, app.StatusCode(), "%s", app.Body)
	z, err := zip.NewReader(bytes.NewReader(app.Body), int64(len(app.Body)))
	require.NoError(t, err)
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	assert.Subset(t, names, []string{"fonts/SkerrowSans-Light.ttf", "fonts/SkerrowSans-Regular.ttf", "fonts/SkerrowSans-Bold.ttf", "Info-fonts.plist", "upload-slip.html"})
	assert.Equal(t, app.Body, get(s.Client(t, api.RoleEditor), family, "apple-app").Body, "the same bytes each time")
	refuse := func(r *api.GetFamilyPackResponse, status int, code string) {
		t.Helper()
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, status, code)
	}
	refuse(get(s.admin, family, "desktop"), http.StatusConflict, "not-clear") // the license is for web and apps
	refuse(get(s.admin, family, "style-box"), http.StatusConflict, "needs-a-site")
	refuse(get(s.admin, family, "nobody"), http.StatusNotFound, "not-found")
	refuse(get(s.admin, 99, "desktop"), http.StatusNotFound, "not-found")
	refuse(get(s.admin, s.family(foundry.Poster()), "self-hosted"), http.StatusConflict, "not-clear")
	refuse(get(s.Client(t, api.RoleViewer), family, "apple-app"), http.StatusForbidden, "role-too-low")
}

// TestAPlanDoesNotWait asks for the plan of a pack whose files are not made yet: it comes
// at once, says so, and has all of it once they are.
func TestAPlanDoesNotWait(t *testing.T) {
	s := open(t)
	family := s.family(foundry.Signage()[0])
	client := s.client("Holmvik Ferries")
	site := s.site("Timetable", client, family)
	used, err := s.admin.AddSiteFamilyWithResponse(t.Context(), site, family, api.FamilyOnSite{Recipe: &latinOnly})
	require.NoError(t, err)
	require.NotNil(t, used.JSON200, "%s", used.Body)
	first, err := s.Client(t, api.RoleViewer).PlanPackWithResponse(t.Context(), site, nil)
	require.NoError(t, err)
	require.NotNil(t, first.JSON200, "%s", first.Body)
	require.Positive(t, first.JSON200.Pending, "nobody made these files before")
	assert.Empty(t, first.JSON200.Slip)
	var pending []string
	for _, f := range first.JSON200.Files {
		if f.Pending != nil {
			pending = append(pending, f.Path)
			assert.Zero(t, f.Bytes)
		}
	}
	assert.Len(t, pending, first.JSON200.Pending)
	whole := s.plan(site, nil)
	assert.NotEmpty(t, whole.Slip)
	var paths []string
	for _, f := range whole.Files {
		assert.Nil(t, f.Pending)
		assert.Positive(t, f.Bytes, f.Path)
		paths = append(paths, f.Path)
	}
	assert.Subset(t, paths, pending, "the names were the final ones")
}
