package sites

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/builder"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/packaging"
	"sparecrate/internal/store"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// Builders are the rules that sites are delivered by.
type Builders struct {
	store  *store.Store
	bucket *bucket.Bucket
	usage  *usage.Usage
	heavy  *app.Limiter
	limits app.Limits
	now    func() time.Time
	note   app.Noter
}

// NewBuilders returns the builders of a database.
func NewBuilders(c *app.Core, u *usage.Usage) *Builders {
	return &Builders{c.Store, c.Bucket, u, c.Heavy, c.Limits, c.Now, app.Notes(c.Now)}
}

// List returns all builder rules: those that are shipped in their order, then the
// studio's own by name.
func (c *Builders) List(ctx context.Context, p *store.Person) ([]api.BuilderRecord, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	book, err := c.usage.Rules(ctx)
	if err != nil {
		return nil, err
	}
	order := app.Each(builder.Shipped(), func(r builder.Rules) string { return r.Kind })
	for _, kind := range slices.SortedFunc(maps.Keys(book), func(a, b string) int { return strings.Compare(book[a].Name, book[b].Name) }) {
		if !slices.Contains(order, kind) {
			order = append(order, kind)
		}
	}
	out := make([]api.BuilderRecord, 0, len(order))
	for _, kind := range order {
		v, err := c.builderRecord(ctx, book[kind])
		if err != nil {
			return nil, err
		}
		out = append(out, *v)
	}
	return out, nil
}

// Get returns the builder rules of a kind.
func (c *Builders) Get(ctx context.Context, p *store.Person, kind string) (*api.BuilderRecord, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	b, err := c.usage.RulesOf(ctx, kind)
	if err != nil {
		return nil, err
	}
	return c.builderRecord(ctx, *b)
}

func (c *Builders) builderRecord(ctx context.Context, b usage.BuilderRules) (*api.BuilderRecord, error) {
	sites, err := sitedb.In(c.store).SitesWith(ctx, b.Kind)
	if err != nil {
		return nil, err
	}
	v := &api.BuilderRecord{Rules: *b.Rules, Version: b.Version, Shipped: b.Shipped, Etag: app.ETag(b.Version), Sites: app.Each(sites, func(s store.Site) api.Ref { return app.SiteRef(&s) })}
	if b.Kept != nil {
		v.ChangedAt, v.ChangedBy = &b.Kept.ChangedAt, &b.Kept.ChangedBy
	}
	return v, nil
}

// rulesIn reads rules as they were sent.
func rulesIn(in map[string]any) (*builder.Rules, error) {
	b, err := json.Marshal(in)
	if err != nil {
		return nil, err
	}
	r, err := builder.Read(b)
	var wrong builder.WrongRules
	if errors.As(err, &wrong) {
		e := app.InvalidField(wrong[0].Field, "bad-rules", "%s", wrong.Error())
		return nil, e
	}
	return r, err
}

// Add adds builder rules of a new kind.
func (c *Builders) Add(ctx context.Context, p *store.Person, in map[string]any) (*api.BuilderRecord, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	r, err := rulesIn(in)
	if err != nil {
		return nil, err
	}
	book, err := c.usage.Rules(ctx)
	if err != nil {
		return nil, err
	}
	if there, ok := book[r.Kind]; ok {
		return nil, app.InvalidField("kind", "kind-taken", "There are builder rules %q already: %s. Choose another kind, or change those.", r.Kind, there.Name)
	}
	return c.putBuilder(ctx, p, r, 0, "added builder rules", "")
}

// Change changes builder rules; the version before is kept.
func (c *Builders) Change(ctx context.Context, p *store.Person, kind, ifMatch string, in map[string]any) (*api.BuilderRecord, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := app.ReadETag(ifMatch)
	if err != nil {
		return nil, err
	}
	was, err := c.usage.RulesOf(ctx, kind)
	if err != nil {
		return nil, err
	}
	r, err := rulesIn(in)
	if err != nil {
		return nil, err
	}
	if r.Kind != kind {
		return nil, app.InvalidField("kind", "other-kind", "The kind stays %q: sites name it. Copy the rules to have another.", kind)
	}
	if version != was.Version {
		return nil, app.Explain(store.ErrStale, "set of rules")
	}
	changes := differences(was.Rules, r)
	if len(changes) == 0 {
		return c.builderRecord(ctx, *was)
	}
	said := app.Each(changes, func(d difference) string { return d.field + ": " + d.from + " → " + d.to })
	return c.putBuilder(ctx, p, r, version, "changed builder rules", strings.Join(said, "; "))
}

func (c *Builders) putBuilder(ctx context.Context, p *store.Person, r *builder.Rules, before int, action, detail string) (*api.BuilderRecord, error) {
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		b := store.Builder{Kind: r.Kind, Name: r.Name, Rules: string(r.JSON()), ChangedAt: c.now(), ChangedBy: p.Name}
		if err := sitedb.In(tx).PutBuilder(ctx, &b, before); err != nil {
			if errors.Is(err, store.ErrTaken) { // somebody else was first
				err = store.ErrStale
			}
			return app.Explain(err, "set of rules")
		}
		return c.note(ctx, tx, p, action, r.Name, app.Shorten(detail, 2000))
	})
	if err != nil {
		return nil, err
	}
	return c.Get(ctx, p, r.Kind)
}

// Drop takes away rules of the studio's own that no site uses.
func (c *Builders) Drop(ctx context.Context, p *store.Person, kind string) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	b, err := c.usage.RulesOf(ctx, kind)
	if err != nil {
		return err
	}
	if b.Shipped {
		return app.Problem(app.Conflict, "shipped-rules", "%s came with the service and stays; change it, or copy it under another kind.", b.Name)
	}
	return c.store.Tx(ctx, func(tx *store.Store) error {
		sites, err := sitedb.In(tx).SitesWith(ctx, kind)
		if err != nil {
			return err
		}
		if len(sites) > 0 {
			return app.Problem(app.Conflict, "rules-in-use", "%s is used by %s; give them another builder first.", b.Name, strings.Join(app.Each(sites, func(s store.Site) string { return s.Name }), ", "))
		}
		if _, err := sitedb.In(tx).DeleteBuilder(ctx, kind); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "deleted builder rules", b.Name, "")
	})
}

// Versions returns the versions of builder rules, newest first, each with what
// it changed.
func (c *Builders) Versions(ctx context.Context, p *store.Person, kind string) ([]api.BuilderVersion, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if _, err := c.usage.RulesOf(ctx, kind); err != nil {
		return nil, err
	}
	kept, err := sitedb.In(c.store).BuilderVersions(ctx, kind)
	if err != nil {
		return nil, err
	}
	out := make([]api.BuilderVersion, 0, len(kept)+1)
	shipped, _ := builder.ShippedOf(kind)
	for i, v := range kept {
		var r builder.Rules
		if err := json.Unmarshal([]byte(v.Rules), &r); err != nil {
			return nil, err
		}
		before := shipped
		if i+1 < len(kept) {
			before = &builder.Rules{}
			if err := json.Unmarshal([]byte(kept[i+1].Rules), before); err != nil {
				return nil, err
			}
		}
		one := api.BuilderVersion{Version: v.Version, At: v.At, Person: v.Person, Rules: r}
		one.Changes = differenceViews(before, &r)
		out = append(out, one)
	}
	if shipped != nil {
		out = append(out, api.BuilderVersion{Version: 1, Person: "shipped", Rules: *shipped, Changes: differenceViews(nil, shipped)})
	}
	return out, nil
}

// difference is a field of rules that is otherwise than it was.
type difference struct{ field, from, to string }

func differenceViews(was, now *builder.Rules) []api.RuleChange {
	if was == nil {
		return []api.RuleChange{}
	}
	return app.Each(differences(was, now), func(d difference) api.RuleChange { return api.RuleChange{Field: d.field, From: d.from, To: d.to} })
}

// differences compares rules field by field, in the order of their names.
func differences(was, now *builder.Rules) []difference {
	a, b := map[string]string{}, map[string]string{}
	flatten("", was.JSON(), a)
	flatten("", now.JSON(), b)
	fields := slices.Collect(maps.Keys(a))
	for f := range b {
		if _, ok := a[f]; !ok {
			fields = append(fields, f)
		}
	}
	slices.Sort(fields)
	var out []difference
	for _, f := range fields {
		if a[f] != b[f] {
			out = append(out, difference{f, a[f], b[f]})
		}
	}
	return out
}

// flatten writes JSON as paths with values; lists of plain values are one.
func flatten(path string, raw json.RawMessage, into map[string]string) {
	var object map[string]json.RawMessage
	if json.Unmarshal(raw, &object) == nil && object != nil {
		for name, v := range object {
			flatten(strings.TrimPrefix(path+"."+name, "."), v, into)
		}
		return
	}
	var list []json.RawMessage
	if json.Unmarshal(raw, &list) == nil && len(list) > 0 && strings.HasPrefix(string(list[0]), "{") {
		for i, v := range list {
			flatten(fmt.Sprintf("%s.%d", path, i), v, into)
		}
		return
	}
	into[path] = strings.Trim(strings.Join(strings.Fields(string(raw)), " "), `"`)
}

// TryRules shows what a pack by some rules would look like, for an invented family.
// What is wrong with the rules is part of the answer.
func (c *Builders) TryRules(p *store.Person, in map[string]any) (*api.BuilderExample, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	out := &api.BuilderExample{Files: []api.PlanFile{}, Wrong: []api.WrongRule{}}
	b, err := json.Marshal(in)
	if err != nil {
		return nil, err
	}
	r, err := builder.Read(b)
	wrong := builder.WrongRules{}
	if err != nil && !errors.As(err, &wrong) {
		return nil, err
	}
	for _, w := range wrong {
		out.Wrong = append(out.Wrong, api.WrongRule{Field: w.Field, Message: w.Message})
	}
	if len(wrong) > 0 {
		return out, nil
	}
	packed, err := pack.Assemble(exampleOf(r))
	if err != nil {
		return nil, err
	}
	for _, e := range packed.Entries {
		out.Files = append(out.Files, packaging.PlanFile(e))
	}
	out.Slip, out.Styles = string(packed.Slip), packed.Styles
	return out, nil
}

// exampleSizes are, in bytes, what a face with the letters of Latin has in each format.
var exampleSizes = map[font.Container]int64{font.WOFF2: 21_600, font.WOFF: 27_400, font.TTF: 52_300, font.OTF: 38_900, font.EOT: 52_500, font.SVG: 88_200}

// exampleOf is an invented site with an invented family: what rules do to names,
// forms and styles is seen on it.
func exampleOf(r *builder.Rules) pack.Input {
	family := pack.Family{Name: "Brackmoor Sans", Generic: "sans-serif", Verdict: license.Verdict{State: license.Cleared}, Licenses: []pack.License{{Name: "an example"}}}
	for _, one := range []struct {
		style  string
		weight int
		slope  metadata.Slope
	}{{"Regular", 400, metadata.Upright}, {"Italic", 400, metadata.Italic}, {"Bold", 700, metadata.Upright}} {
		f := pack.Face{Style: one.style, Came: "Brackmoor_" + one.style + "_v2.ttf", Metadata: metadata.Face{
			Names: metadata.Names{Full: "Brackmoor Sans " + one.style, PostScript: "BrackmoorSans-" + one.style, Version: "Version 2.0"},
			Style: metadata.Style{Weight: one.weight, WidthPercent: 100, Slope: one.slope},
		}}
		formats, _, _ := r.FormatsOf(metadata.TrueType)
		for _, c := range formats {
			blob := pack.BlobOf([]byte("an example of " + string(c) + " " + one.style))
			if blob.Bytes = exampleSizes[c]; r.Files.MaxBytes > 0 {
				blob.Bytes = min(blob.Bytes, r.Files.MaxBytes)
			}
			f.Files = append(f.Files, pack.File{Format: c, Blob: blob})
		}
		family.Faces = append(family.Faces, f)
	}
	in := pack.Input{Site: "Example site", Client: "Example client", Domains: []string{"example.example"}, Rules: r, Families: []pack.Family{family},
		RoleAssignments: []pack.RoleAssignment{{Role: builder.Body, Family: family.Name, Weight: 400, Stack: []string{"Arial", "sans-serif"}}, {Role: builder.Heading1, Family: family.Name, Weight: 700, Stack: []string{"Arial", "sans-serif"}}},
		Pages:           []pack.Page{{Title: "Home", Address: "/"}, {Title: "Prices", Address: "/prices"}}}
	if r.Styles.Form == builder.StylesURLs {
		in.Replacements = []pack.Replacement{{Name: "Georgia", Family: family.Name, Weight: 700}}
	}
	if r.URLs.After { // as if they were up
		in.FileURLs = map[string]pack.FileURLs{}
		if first, err := pack.Assemble(in); err == nil {
			for _, e := range first.Entries {
				if e.Place >= 0 {
					in.FileURLs[e.Path] = pack.FileURLs{Address: "https://files.example/8f3a/" + e.Path[strings.LastIndexByte(e.Path, '/')+1:], SHA256: e.SHA256}
				}
			}
		}
	}
	return in
}

// TryUpload says what a platform would say to files.
func (c *Builders) TryUpload(ctx context.Context, p *store.Person, kind string, offers []Offered) (*api.UploadAnswerList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	b, err := c.usage.RulesOf(ctx, kind)
	if err != nil {
		return nil, err
	}
	if len(offers) == 0 {
		return nil, app.InvalidField("file", "missing-value", "Give at least one file.")
	}
	most := int64(0) // each is read when those before it are done with
	for _, o := range offers {
		head := make([]byte, font.HeadSize)
		n, err := o.Staged.ReadAt(head, 0)
		if err != nil && !errors.Is(err, io.EOF) {
			return nil, err
		}
		most = max(most, app.UnpackedSize(head[:n], o.Staged.Size))
	}
	var answers []builder.Answer
	err = c.heavy.Do(ctx, most, func() (err error) {
		answers, err = b.Take(ctx, app.Each(offers, func(o Offered) builder.Offer {
			return builder.Offer{Name: o.Name, Fields: o.Fields, Read: o.Staged.Bytes}
		}))
		return err
	})
	if err != nil {
		return nil, err
	}
	return &api.UploadAnswerList{Items: app.Each(answers, func(a builder.Answer) api.UploadAnswer {
		return api.UploadAnswer{Name: a.Name, Taken: a.Taken, Says: append([]string{}, a.Says...)}
	})}, nil
}

// Offered is a file someone means to upload, on disk.
type Offered struct {
	Name   string
	Staged *bucket.Staged
	Fields map[string]string // typed into the form, by label
}

// StageOffer keeps a file that is to be tried on disk, at most so many bytes. Close it.
func (c *Builders) StageOffer(r io.Reader, most int64) (*bucket.Staged, error) {
	s, err := c.bucket.Stage(r, most)
	if errors.Is(err, bucket.ErrTooLarge) {
		e := app.Problem(app.TooLarge, "file-too-large", "These files have more than %d MB together; try fewer at a time.", c.OfferLimit()>>20)
		e.Field = "file"
		return nil, e
	}
	return s, err
}

// OfferLimit is how much may be tried in one go, bytes.
func (c *Builders) OfferLimit() int64 { return c.limits.FontBytes }
