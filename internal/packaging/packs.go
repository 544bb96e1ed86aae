package packaging

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/conversion"
	"sparecrate/internal/fingerprint"
	"sparecrate/internal/pack"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/usage"
)

// PlanFile shows a file of a pack.
func PlanFile(e pack.Entry) api.PlanFile {
	v := api.PlanFile{Path: e.Path, Why: e.Why, Bytes: e.Bytes}
	if e.Pending {
		v.Pending = &e.Pending
	}
	if e.Place >= 0 {
		format := string(e.Format)
		v.Family, v.Style, v.Format = &e.Family, &e.Style, &format
		if e.Changed {
			v.Replace = &e.Changed
		}
		if e.Address != "" {
			v.Url = &e.Address
		}
	}
	return v
}

// PlanFaces returns every face of the families on a site: those that are sent and
// those that could be.
func (c *Packaging) PlanFaces(ctx context.Context, d *usage.Site, l *laid) ([]api.PlanFace, error) {
	weights := weightsOf(l.Entries)
	changed := map[int64][]string{}
	for _, f := range l.Families {
		for _, face := range f.Faces {
			if face.Changed != "" {
				changed[face.ID] = append(changed[face.ID], face.Changed)
			}
			for _, file := range face.Files {
				if file.Changed != "" {
					changed[face.ID] = append(changed[face.ID], "as "+strings.ToUpper(string(file.Format))+" "+file.Changed)
				}
			}
		}
	}
	out := []api.PlanFace{}
	for _, u := range d.Uses {
		var sources []string
		for _, face := range u.Family.Faces {
			if cur := face.Current(); cur != nil && !slices.Contains(u.Sends.Sent, face.ID) {
				sources = append(sources, cur.File.SHA256)
			}
		}
		var known []store.Derived
		if len(sources) > 0 {
			var err error
			if known, err = familydb.In(c.store).DerivedOf(ctx, sources); err != nil {
				return nil, err
			}
		}
		saves, err := saved(ctx, c, d, &u, weights)
		if err != nil {
			return nil, err
		}
		for _, face := range u.Family.Faces {
			cur := face.Current()
			if cur == nil {
				continue
			}
			v := api.PlanFace{Face: face.ID, Family: api.Ref{Id: u.Family.ID, Name: u.Family.Name}, Style: face.Style, Full: cur.Metadata.Names.Full, Postscript: cur.Metadata.Names.PostScript,
				File: planSource(cur), Pinned: d.Choices.PinnedTo(face.ID) == cur.FileID, OtherFiles: []api.PlanSource{},
				Included: slices.Contains(u.Sends.Sent, face.ID), Needed: u.Sends.Needs[face.ID], Changes: saidOnce(changed[face.ID]), Verdict: api.VerdictState(u.Verdict.State), Bytes: weights[face.ID].bytes}
			v.Changes = strings.TrimPrefix(strings.Join([]string{v.Changes, standing(&v, face.Parts())}, "; "), "; ")
			v.Changes = strings.TrimSuffix(v.Changes, "; ")
			for k := range face.Files {
				if o := &face.Files[k]; !o.Current && !o.Beside {
					v.OtherFiles = append(v.OtherFiles, planSource(o))
				}
			}
			if n := len(face.Parts()); n > 0 {
				v.Parts = &n
			}
			switch w, is := saves[face.ID]; {
			case is && w.pending:
				v.Measuring = new(true)
			case w.bytes > 0:
				v.SubsetSaves = &w.bytes
			}
			if !v.Included { // what sending it would cost, where that is known
				for _, to := range l.Rules.Formats() {
					if conversion.AsItCame(&cur.File, to) {
						v.Bytes = cur.File.Bytes
						break
					}
					recipe := conversion.Making{Source: cur.File.SHA256, Place: cur.Place, To: to, Reshape: nil}.Recipe()
					if at := slices.IndexFunc(known, func(k store.Derived) bool { return k.Source == cur.File.SHA256 && k.Recipe == recipe }); at >= 0 {
						v.Bytes = known[at].Bytes
						break
					}
				}
			}
			out = append(out, v)
		}
	}
	return out, nil
}

// standing says which files a face goes out from, where that is not the usual one.
func standing(v *api.PlanFace, parts []store.FaceFile) string {
	switch {
	case v.Pinned:
		return fmt.Sprintf("stays on %s (%s)", v.File.Name, cmp.Or(v.File.Version, "no version"))
	case len(parts) > 0:
		return fmt.Sprintf("in %d parts, each for its characters", len(parts))
	}
	return ""
}

// planSource shows a file that a face goes out from, or could.
func planSource(l *store.FaceFile) api.PlanSource {
	return api.PlanSource{Id: l.FileID, Name: l.File.Name, Version: l.Version, Format: api.FileFormat(l.File.Format)}
}

// saidOnce writes what becomes of a face that goes as several, with a reason that
// all share said once.
func saidOnce(said []string) string {
	for i := range len(said) - 1 {
		if _, reason, ok := strings.Cut(said[i], ", because"); ok {
			if _, next, ok := strings.Cut(said[i+1], ", because"); ok && next == reason {
				said[i] = strings.TrimSuffix(said[i], ", because"+reason)
			}
		}
	}
	return strings.Join(said, "; ")
}

// Parts counts the parts of a site's pack, and those of them that are made.
func (c *Packaging) Parts(ctx context.Context, p *store.Person, site int64) (*api.PartCount, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	made, of, err := c.waiting(ctx, InputFor(d, ""))
	return &api.PartCount{Made: made, Of: of}, err
}

// BuildPack builds a pack for a site. What is not clear and not signed off
// stops it.
func (c *Packaging) BuildPack(ctx context.Context, p *store.Person, site int64, environment *string) (*api.Pack, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	d, err := c.usage.LoadSite(ctx, site)
	if err != nil {
		return nil, err
	}
	where, err := EnvironmentOf(d.Site, environment)
	if err != nil {
		return nil, err
	}
	built, err := build(ctx, c, p, d, where)
	if err != nil {
		return nil, err
	}
	if err := c.store.Tx(ctx, func(tx *store.Store) error { return built.record(ctx, c, tx, p) }); err != nil {
		return nil, err
	}
	v := packView(built.pack, d.Name)
	return &v, nil
}

// builtPack is a pack whose bytes are kept, to be recorded.
type builtPack struct {
	site    string
	pack    store.Pack
	sources []int64
	slip    []byte
}

// build builds a pack and keeps its bytes; nobody knows of it before it is recorded.
func build(ctx context.Context, c *Packaging, p *store.Person, d *usage.Site, where string) (*builtPack, error) {
	if err := app.Open(&d.Client); err != nil {
		return nil, err
	}
	if err := mayBuild(d); err != nil {
		return nil, err
	}
	madeOf, err := json.Marshal(fingerprint.For(d, where))
	if err != nil {
		return nil, err
	}
	l, staged, err := c.assembleZip(ctx, d, where)
	if err != nil {
		return nil, err
	}
	defer staged.Close()
	if err := c.bucket.Put(ctx, staged); err != nil {
		return nil, err
	}
	out := &builtPack{site: d.Name, slip: l.Slip, pack: store.Pack{SiteID: d.ID, Name: pack.FileName(d.Name, where), SHA256: string(staged.Hash), Bytes: staged.Size, CreatedAt: c.now(), CreatedBy: p.Name,
		Families: app.Each(d.Uses, func(u usage.SiteFamily) int64 { return u.Family.ID }), Environment: where, Fingerprint: string(madeOf)}}
	for i := range l.faces {
		for _, from := range l.faces[i].sources() {
			out.sources = append(out.sources, from.FileID)
		}
	}
	return out, nil
}

func (b *builtPack) record(ctx context.Context, c *Packaging, tx *store.Store, p *store.Person) error {
	b.pack.ID = 0
	if err := packdb.In(tx).AddPack(ctx, &b.pack, b.sources); err != nil {
		return err
	}
	return c.note(ctx, tx, p, "built pack", b.site, b.pack.Name+", SHA-256 "+b.pack.SHA256)
}

// assembleZip lays a pack out and writes it into a file on the bucket's disk, a piece
// at a time.
func (c *Packaging) assembleZip(ctx context.Context, d *usage.Site, where string) (l *laid, staged *bucket.Staged, err error) {
	err = c.conversion.Repairing(ctx, func() (err error) {
		if l, err = c.Assemble(ctx, d, where); err != nil {
			return err
		}
		staged, err = c.bucket.StageFrom(ctx, maxPack, func(w io.Writer) error { return pack.Zip(w, l.Entries) })
		return err
	})
	return l, staged, err
}

// FamilyPack builds a pack of a family for a builder, without a site: for its own
// client, with every face. It is not kept.
func (c *Packaging) FamilyPack(ctx context.Context, p *store.Person, id int64, kind string) (r io.ReadCloser, size int64, name string, err error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, 0, "", err
	}
	f, err := familydb.In(c.store).Family(ctx, id)
	if err != nil {
		return nil, 0, "", app.Explain(err, "family")
	}
	rules, err := c.usage.RulesOf(ctx, kind)
	if err != nil {
		return nil, 0, "", err
	}
	if rules.URLs.After {
		return nil, 0, "", app.Problem(app.Conflict, "needs-a-site", "%s gives files their address only after the upload; put %s on a site, which keeps them.", rules.Name, f.Name)
	}
	d, err := c.usage.WithoutSite(ctx, f.Name, f.Client, *rules, id)
	if err != nil {
		return nil, 0, "", err
	}
	if err := mayBuild(d); err != nil {
		return nil, 0, "", err
	}
	_, staged, err := c.assembleZip(ctx, d, "")
	if err != nil {
		return nil, 0, "", err
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		return c.note(ctx, tx, p, "built pack", f.Name, "for "+rules.Name+", SHA-256 "+string(staged.Hash))
	})
	if err != nil {
		staged.Close()
		return nil, 0, "", err
	}
	return staged.Reader(), staged.Size, pack.FileName(f.Name+" "+kind, ""), nil
}

// maxPack bounds a pack, bytes.
const maxPack = 4 << 30

func mayBuild(d *usage.Site) error {
	if len(d.Uses) == 0 {
		return app.Problem(app.Conflict, "empty-pack", "The site %s uses no family yet. Say which ones it uses first.", d.Name)
	}
	var stops []string
	where := ", on the page of the site or with `sparecrate site sign-off`"
	if d.ID == 0 {
		where = ", where the pack was asked for in the console or with `sparecrate sign-offs add --builder " + d.Builder + "`"
	}
	sent, hosted := 0, []string(nil)
	for _, u := range d.Uses {
		sent += len(u.Sends.Sent)
		if len(u.Sheets) > 0 {
			hosted = append(hosted, u.Family.Name)
		}
		if err := app.NotDeleted(u.Family); err != nil {
			return app.Problem(app.Conflict, "family-deleted", "%s Or remove it from the site %s.", strings.Replace(err.Error(), " first.", ".", 1), d.Name)
		}
		if u.MayGoOut() {
			continue
		}
		worst := u.Verdict.Worst()
		stops = append(stops, fmt.Sprintf("%s %s: %s (%s)", u.Family.Name, u.Verdict.State.Is(), worst.Message, worst.Evidence))
	}
	if len(stops) > 0 {
		return app.Problem(app.Conflict, "not-clear", "%s Record a license that covers this, or ask for a sign-off%s: an editor for a family that needs review, an admin for a blocked one.", strings.Join(stops, " "), where)
	}
	switch {
	case sent > 0 || len(hosted) > 0 && d.Rules.Styles.Form.Loads():
	case len(hosted) > 0:
		return app.Problem(app.Conflict, "only-hosted", "A pack for %s would be empty: %s has no files here, it is served from elsewhere, and “%s” takes files. Self-host it first.", d.Name, sentence.List(hosted), d.Rules.Name)
	default:
		return app.Problem(app.Conflict, "nothing-sent", "Every face is excluded, so a pack for %s would be empty. Include one.", d.Name)
	}
	return nil
}

// Packs returns the packs built for a site, newest first.
func (c *Packaging) Packs(ctx context.Context, p *store.Person, site int64) ([]api.Pack, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	s, err := sitedb.In(c.store).Site(ctx, site)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	packs, err := packdb.In(c.store).Packs(ctx, site)
	return app.Each(packs, func(p store.Pack) api.Pack { return packView(p, s.Name) }), err
}

// PackContent opens a pack's zip. A pack built earlier is weighed again: what
// has been blocked since does not go out. Packs hold fonts, which viewers do not get.
func (c *Packaging) PackContent(ctx context.Context, p *store.Person, id int64) (r io.ReadCloser, size int64, name string, err error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, 0, "", err
	}
	found, err := packdb.In(c.store).Pack(ctx, id)
	if err != nil {
		return nil, 0, "", app.Explain(err, "pack")
	}
	s, err := sitedb.In(c.store).Site(ctx, found.SiteID)
	if err != nil {
		return nil, 0, "", err
	}
	if err := c.weighPack(ctx, s, found); err != nil {
		return nil, 0, "", err
	}
	r, size, err = c.bucket.Open(ctx, bucket.Hash(found.SHA256))
	return r, size, found.Name, err
}

// weighPack judges a pack by what it holds and whom it was made for, whatever is sent
// to whom by now.
func (c *Packaging) weighPack(ctx context.Context, s *store.Site, p *store.Pack) error {
	h := &usage.PackContents{}
	var err error
	if h.Faces, err = packdb.In(c.store).PackedFaces(ctx, p.ID); err != nil {
		return err
	}
	book, err := c.usage.Rules(ctx)
	if err != nil {
		return err
	}
	rules := book.Of(s)
	if p.Fingerprint != "" {
		var was fingerprint.Pack
		if err := json.Unmarshal([]byte(p.Fingerprint), &was); err != nil {
			return fmt.Errorf("read what pack %d was made of: %w", p.ID, err)
		}
		h.Changes = was.Changes
		h.Away = app.Each(was.Elsewhere, func(s fingerprint.Sheet) int64 { return s.Family })
		if as, ok := book[was.Builder]; ok {
			rules = as
		}
	}
	s.Families = app.Each(p.Families, func(id int64) store.Family { return store.Family{ID: id} })
	d, err := c.usage.WeighSite(ctx, s, rules, h)
	if err != nil {
		return err
	}
	return mayBuild(d)
}

func packView(p store.Pack, site string) api.Pack {
	return api.Pack{
		Id: p.ID, Site: api.Ref{Id: p.SiteID, Name: site}, Environment: p.Environment, Name: p.Name, Sha256: p.SHA256, Bytes: p.Bytes,
		CreatedAt: p.CreatedAt, CreatedBy: p.CreatedBy,
	}
}

// PasteView shows what is pasted into a builder.
func PasteView(p pack.Paste) api.Paste { return api.Paste{Name: p.Name, Where: p.Where, Text: p.Text} }

// WarningView shows what to look out for on a site.
func WarningView(w pack.Warning) api.SiteWarning {
	return api.SiteWarning{Code: w.Code, About: w.About, Message: w.Message}
}
