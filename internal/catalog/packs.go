package catalog

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/font/facts"
	"sparecrate/font/reshape"
	"sparecrate/internal/bucket"
	"sparecrate/internal/css"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
)

// Plan says what a pack for a site would hold.
func (c *Catalog) Plan(ctx context.Context, p *store.Person, site int64) (*api.Plan, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	s, used, err := c.site(ctx, site)
	if err != nil {
		return nil, err
	}
	entries, err := c.assemble(ctx, s, used)
	if err != nil {
		return nil, err
	}
	plan := &api.Plan{Site: c.siteView(s, used), Files: []api.PlanFile{}, Ready: len(used) > 0}
	for _, u := range used {
		plan.Ready = plan.Ready && u.mayGoOut()
	}
	for _, e := range entries {
		n := int64(len(e.Data))
		plan.Files = append(plan.Files, api.PlanFile{Path: e.Path, Why: e.Why, Bytes: n})
		plan.Bytes += n
		if strings.HasSuffix(e.Path, "."+string(font.WOFF2)) {
			plan.Delivered += n
		}
		if e.Path == "fonts.css" {
			plan.Stylesheet = string(e.Data)
		}
	}
	return plan, nil
}

// BuildPack builds a pack for a site. What is not clear and not signed off
// stops it.
func (c *Catalog) BuildPack(ctx context.Context, p *store.Person, site int64) (*api.Pack, error) {
	if err := must(p, api.RoleEditor); err != nil {
		return nil, err
	}
	s, used, err := c.site(ctx, site)
	if err != nil {
		return nil, err
	}
	if err := mayBuild(s, used); err != nil {
		return nil, err
	}
	entries, err := c.assemble(ctx, s, used)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := pack.Zip(&out, entries); err != nil {
		return nil, err
	}
	hash, err := c.bucket.PutBytes(ctx, out.Bytes())
	if err != nil {
		return nil, err
	}
	built := store.Pack{SiteID: site, Name: pack.FileName(s.Name), SHA256: string(hash), Bytes: int64(out.Len()), CreatedAt: c.now(), CreatedBy: p.Name,
		Families: each(used, func(u usedFamily) int64 { return u.family.ID })}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		built.ID = 0
		if err := tx.AddPack(ctx, &built, sources(used)); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "built pack", s.Name, built.Name+", SHA-256 "+built.SHA256)
	})
	if err != nil {
		return nil, err
	}
	v := packView(built, s.Name)
	return &v, nil
}

// sources are the files that a pack is made from.
func sources(used []usedFamily) []int64 {
	var out []int64
	for _, u := range used {
		for _, face := range u.family.Faces {
			if cur := current(face); cur != nil {
				out = append(out, cur.FileID)
			}
		}
	}
	return out
}

func mayBuild(s *store.Site, used []usedFamily) error {
	if len(used) == 0 {
		return problem(Conflict, "empty-pack", "The site %s uses no family yet. Say which ones it uses first.", s.Name)
	}
	var stops []string
	for _, u := range used {
		if err := there(u.family); err != nil {
			return problem(Conflict, "family-deleted", "%s Or take it off the site %s.", strings.Replace(err.Error(), " first.", ".", 1), s.Name)
		}
		if u.mayGoOut() {
			continue
		}
		worst := u.verdict.Worst()
		stops = append(stops, fmt.Sprintf("%s is %s: %s (%s)", u.family.Name, u.verdict.State, worst.Message, worst.Evidence))
	}
	if len(stops) == 0 {
		return nil
	}
	return problem(Conflict, "not-clear", "%s Mend this, or have it signed off: a query by an editor, a bar by an admin.", strings.Join(stops, " "))
}

// assemble gathers what a pack is made of and lays it out.
func (c *Catalog) assemble(ctx context.Context, s *store.Site, used []usedFamily) ([]pack.Entry, error) {
	b, ok := pack.BuilderOf(s.Builder)
	if !ok {
		return nil, problem(Conflict, "unknown-builder", "The site's builder %q is not known any more; choose another.", s.Builder)
	}
	in := pack.Input{Site: s.Name, Client: s.Client.Name, Domains: s.Domains, Builder: b}
	for _, u := range used {
		f := pack.Family{Name: u.family.Name, Verdict: u.verdict, Licenses: each(u.licenses, licenseName)}
		if u.verdict.State != license.Clear && u.signOff != nil {
			f.SignOff = &pack.SignOff{By: u.signOff.Person, At: u.signOff.At.Format(time.RFC3339), Reason: u.signOff.Reason}
			if u.signOff.Ends != nil {
				f.SignOff.Until = u.signOff.Ends.Format(time.DateOnly)
			}
		}
		for _, face := range u.family.Faces {
			cur := current(face)
			if cur == nil {
				continue
			}
			one, err := c.packFace(ctx, &u, cur, face.Style, b)
			if err != nil {
				return nil, err
			}
			f.Faces = append(f.Faces, *one)
		}
		in.Families = append(in.Families, f)
	}
	return pack.Assemble(in)
}

// packFace gives a face as a pack holds it: in each container, reshaped and in
// parts where the site asks for it, with the rules of its stand-ins.
func (c *Catalog) packFace(ctx context.Context, u *usedFamily, cur *store.FaceFile, style string, b pack.Builder) (*pack.Face, error) {
	one := &pack.Face{Facts: cur.Facts, Style: style}
	if u.recipe.Empty() {
		var err error
		one.Files, err = c.packFiles(ctx, cur, nil)
		return one, err
	}
	whole := *u.recipe.Made()
	whole.Split, whole.Part = nil, ""
	files, err := c.packFiles(ctx, cur, &whole)
	if err != nil {
		return nil, err
	}
	opened, err := font.Open(files[font.WOFF])
	if err != nil {
		return nil, err
	}
	split := len(u.recipe.Split) > 0 && !b.Form // a form has one place for a face
	if split || !whole.Plain() {
		// What is said of the face is what is true of it now.
		one.Facts = facts.One(opened.Faces[0])
		one.Changed = u.recipe.Words()
		if !split {
			one.Changed = whole.Words()
		}
	}
	if u.recipe.Pin != nil || u.recipe.Rename != nil {
		one.Style = one.Facts.Names.StyleName()
	}
	if back := u.recipe.Fallback; back != nil {
		found, err := back.StandIns(opened.Faces[0], one.Facts.Style.Weight >= boldFrom)
		if err != nil {
			one.NoStandIn = sentence(err)
		}
		for _, s := range found {
			one.StandIns = append(one.StandIns, css.Fallbacks(one.Facts, []string{s.Local}, s.Groups)...)
		}
	}
	if !split {
		one.Files = files
		return one, nil
	}
	parts, err := reshape.Parts(opened.Faces[0], u.recipe.Split)
	if err != nil {
		return nil, problem(Conflict, "cannot-split", "%s %s cannot be split: %s", u.family.Name, style, sentence(err))
	}
	for _, p := range parts {
		recipe := *u.recipe.Made()
		recipe.Part = p.Name
		files, err := c.packFiles(ctx, cur, &recipe)
		if err != nil {
			return nil, err
		}
		one.Parts = append(one.Parts, pack.Part{Name: p.Name, Range: p.Characters.String(), Files: files})
	}
	return one, nil
}

// boldFrom is the weight from which the bold of a system font stands in.
const boldFrom = 600

// packFiles reads a face in each container of a pack, made by a recipe, nil for
// none.
func (c *Catalog) packFiles(ctx context.Context, cur *store.FaceFile, recipe *reshape.Recipe) (map[font.Container][]byte, error) {
	files := map[font.Container][]byte{}
	for _, to := range pack.Containers {
		var hash bucket.Hash
		if recipe.Plain() {
			h, err := c.derive(ctx, &cur.File, cur.Place, to)
			if err != nil {
				return nil, err
			}
			hash = h
		} else {
			d, err := c.made(ctx, &cur.File, making{cur.File.SHA256, cur.Place, to, recipe})
			if err != nil {
				return nil, err
			}
			hash = bucket.Hash(d.Hash)
		}
		data, err := c.bucket.Read(ctx, hash)
		if err != nil {
			return nil, err
		}
		files[to] = data
	}
	return files, nil
}

// Packs gives the packs built for a site, newest first.
func (c *Catalog) Packs(ctx context.Context, p *store.Person, site int64) ([]api.Pack, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, err
	}
	s, err := c.store.Site(ctx, site)
	if err != nil {
		return nil, explain(err, "site")
	}
	packs, err := c.store.Packs(ctx, site)
	return each(packs, func(p store.Pack) api.Pack { return packView(p, s.Name) }), err
}

// PackContent opens a pack's zip. A pack built earlier is weighed again: what
// has been barred since does not go out.
func (c *Catalog) PackContent(ctx context.Context, p *store.Person, id int64) (r io.ReadCloser, size int64, name string, err error) {
	if err := must(p, api.RoleViewer); err != nil {
		return nil, 0, "", err
	}
	found, err := c.store.Pack(ctx, id)
	if err != nil {
		return nil, 0, "", explain(err, "pack")
	}
	s, err := c.store.Site(ctx, found.SiteID)
	if err != nil {
		return nil, 0, "", err
	}
	s.Families = each(found.Families, func(id int64) store.Family { return store.Family{ID: id} })
	used, err := c.using(ctx, s)
	if err != nil {
		return nil, 0, "", err
	}
	if err := mayBuild(s, used); err != nil {
		return nil, 0, "", err
	}
	r, size, err = c.bucket.Open(ctx, bucket.Hash(found.SHA256))
	return r, size, found.Name, err
}

func packView(p store.Pack, site string) api.Pack {
	return api.Pack{
		Id: p.ID, Site: api.Ref{Id: p.SiteID, Name: site}, Name: p.Name, Sha256: p.SHA256, Bytes: p.Bytes,
		CreatedAt: p.CreatedAt, CreatedBy: p.CreatedBy,
	}
}
