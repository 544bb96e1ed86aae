package shortlists

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/font"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/bucket"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/finddb"
	"sparecrate/internal/store/shortlistdb"
	"sparecrate/internal/usage"
)

// Shortlists returns a page of shortlists by name.
func (s *Service) Shortlists(ctx context.Context, p *store.Person, q api.ListShortlistsParams) (*api.ShortlistPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	at, err := app.ReadPage(q.Cursor, q.Limit)
	if err != nil {
		return nil, err
	}
	var client int64
	if text := app.Filled(q.Client); text != "" {
		found, err := app.FindClient(ctx, s.store, text)
		if err != nil {
			return nil, err
		}
		client = found.ID
	}
	found, err := shortlistdb.In(s.store).Shortlists(ctx, client, at)
	if err != nil {
		return nil, err
	}
	found, next := app.CutPage(found, at, func(l store.Shortlist) (string, int64) { return l.Name, l.ID })
	out := &api.ShortlistPage{Items: []api.Shortlist{}, Next: next}
	for i := range found {
		v, err := s.shortlistView(ctx, &found[i])
		if err != nil {
			return nil, err
		}
		out.Items = append(out.Items, *v)
	}
	return out, nil
}

// Shortlist returns a shortlist with its families in order.
func (s *Service) Shortlist(ctx context.Context, p *store.Person, id int64) (*api.Shortlist, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	l, err := shortlistdb.In(s.store).Shortlist(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "shortlist")
	}
	return s.shortlistView(ctx, l)
}

func (s *Service) shortlistView(ctx context.Context, l *store.Shortlist) (*api.Shortlist, error) {
	families, err := s.onShortlist(ctx, l)
	if err != nil {
		return nil, err
	}
	v := &api.Shortlist{
		Id: l.ID, Name: l.Name, Client: app.ClientRef(l.Client), Note: l.Note, CreatedAt: l.CreatedAt, CreatedBy: l.CreatedBy, Etag: app.ETag(l.Version),
		Shares: app.Each(l.Shares, func(h store.Share) api.Share { return s.shareView(&h) }),
	}
	v.Families, err = s.finding.Summaries(ctx, families)
	return v, err
}

// onShortlist returns the families of a shortlist that are not deleted, in order.
func (s *Service) onShortlist(ctx context.Context, l *store.Shortlist) ([]store.Found, error) {
	const most = 500
	ids := app.Each(l.Families, func(f store.ShortlistFamily) int64 { return f.FamilyID })
	var all []store.Found
	for _, status := range []store.Status{store.Active, store.Retired} {
		found, err := finddb.In(s.store).Search(ctx, &finddb.Query{Only: ids, Status: status, Sort: finddb.SortName}, store.Page{Limit: most})
		if err != nil {
			return nil, err
		}
		all = append(all, found...)
	}
	slices.SortFunc(all, func(a, b store.Found) int { return slices.Index(ids, a.ID) - slices.Index(ids, b.ID) })
	return all, nil
}

func (s *Service) shareView(h *store.Share) api.Share {
	v := api.Share{Id: h.ID, SampleText: h.SampleText, EndsAt: h.EndsAt, State: api.ShareOpen, Views: h.Views, ViewedAt: h.ViewedAt, CreatedAt: h.CreatedAt, CreatedBy: h.CreatedBy}
	switch {
	case h.RevokedAt != nil:
		v.State = api.ShareRevoked
	case !h.EndsAt.After(s.now()):
		v.State = api.ShareEnded
	}
	return v
}

// picked checks the families of a shortlist: each once, and there.
func (s *Service) picked(ctx context.Context, families *[]int64) ([]int64, error) {
	if families == nil {
		return nil, nil
	}
	out := make([]int64, 0, len(*families))
	for _, id := range *families {
		if slices.Contains(out, id) {
			continue
		}
		f, err := familydb.In(s.store).Family(ctx, id)
		if errors.Is(err, store.ErrNotFound) {
			return nil, app.InvalidField("families", "no-such-family", "There is no family with the number %d.", id)
		}
		if err != nil {
			return nil, err
		}
		if err := app.NotDeleted(f); err != nil {
			return nil, err
		}
		out = append(out, id)
	}
	return out, nil
}

// AddShortlist adds a shortlist.
func (s *Service) AddShortlist(ctx context.Context, p *store.Person, n api.NewShortlist) (*api.Shortlist, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	name, err := app.RequiredText("name", n.Name)
	if err != nil {
		return nil, err
	}
	client, err := app.OpenClient(ctx, s.store, app.Filled(n.Client))
	if err != nil {
		return nil, err
	}
	families, err := s.picked(ctx, n.Families)
	if err != nil {
		return nil, err
	}
	l := store.Shortlist{ClientID: client.ID, Name: name, Version: 1, CreatedAt: s.now(), CreatedBy: p.Name}
	app.SetText(&l.Note, n.Note, 5000)
	err = s.store.Tx(ctx, func(tx *store.Store) error {
		l.ID = 0
		if err := shortlistdb.In(tx).AddShortlist(ctx, &l, families); err != nil {
			return err
		}
		return s.note(ctx, tx, p, "added shortlist", name, client.Name)
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.InvalidField("name", "name-taken", "%s has a shortlist of the name %q already.", client.Name, name)
	}
	if err != nil {
		return nil, err
	}
	return s.Shortlist(ctx, p, l.ID)
}

// ChangeShortlist changes a shortlist's name, note, or families and their order.
func (s *Service) ChangeShortlist(ctx context.Context, p *store.Person, id int64, ifMatch string, ch api.ShortlistChange) (*api.Shortlist, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := app.ReadETag(ifMatch)
	if err != nil {
		return nil, err
	}
	families, err := s.picked(ctx, ch.Families)
	if err != nil {
		return nil, err
	}
	if ch.Name != nil {
		if *ch.Name, err = app.RequiredText("name", *ch.Name); err != nil {
			return nil, err
		}
	}
	err = s.store.Tx(ctx, func(tx *store.Store) error {
		l, err := shortlistdb.In(tx).Shortlist(ctx, id)
		if err != nil {
			return err
		}
		l.Version = version
		app.SetTo(&l.Name, ch.Name)
		app.SetText(&l.Note, ch.Note, 5000)
		if err := shortlistdb.In(tx).ChangeShortlist(ctx, l, families); err != nil {
			return err
		}
		return s.note(ctx, tx, p, "changed shortlist", l.Name, l.Client.Name)
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.InvalidField("name", "name-taken", "The client has a shortlist of this name already.")
	}
	if err != nil {
		return nil, app.Explain(err, "shortlist")
	}
	return s.Shortlist(ctx, p, id)
}

// DeleteShortlist ends a shortlist and the links to it.
func (s *Service) DeleteShortlist(ctx context.Context, p *store.Person, id int64) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	return app.Explain(s.store.Tx(ctx, func(tx *store.Store) error {
		l, err := shortlistdb.In(tx).Shortlist(ctx, id)
		if err != nil {
			return err
		}
		if err := shortlistdb.In(tx).DeleteShortlist(ctx, id); err != nil {
			return err
		}
		return s.note(ctx, tx, p, "deleted shortlist", l.Name, l.Client.Name)
	}), "shortlist")
}

// lookPath is where links lead, behind the service's address.
const lookPath = "/look/"

// ShareShortlist makes a link by which somebody without an account sees a
// shortlist. The secret in it is given this once.
func (s *Service) ShareShortlist(ctx context.Context, p *store.Person, id int64, n api.NewShare) (*api.AddedShare, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	days := 14
	app.SetTo(&days, n.Days)
	if days < 1 || days > 365 {
		return nil, app.InvalidField("days", "bad-days", "A link works from 1 to 365 days.")
	}
	secret := strings.ToLower(rand.Text() + rand.Text()[:6])
	h := store.Share{ShortlistID: id, Hash: auth.SecretHash(secret), EndsAt: s.now().AddDate(0, 0, days), CreatedAt: s.now(), CreatedBy: p.Name}
	app.SetText(&h.SampleText, n.SampleText, 400)
	err := s.store.Tx(ctx, func(tx *store.Store) error {
		l, err := shortlistdb.In(tx).Shortlist(ctx, id)
		if err != nil {
			return app.Explain(err, "shortlist")
		}
		h.ID = 0
		if err := shortlistdb.In(tx).AddShare(ctx, &h); err != nil {
			return err
		}
		return s.note(ctx, tx, p, "shared shortlist", l.Name, "until "+h.EndsAt.Format(time.DateOnly))
	})
	if err != nil {
		return nil, err
	}
	return &api.AddedShare{Share: s.shareView(&h), Path: lookPath + secret}, nil
}

// RevokeShare ends a link before its time.
func (s *Service) RevokeShare(ctx context.Context, p *store.Person, list, id int64) error {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return err
	}
	return app.Explain(s.store.Tx(ctx, func(tx *store.Store) error {
		l, err := shortlistdb.In(tx).Shortlist(ctx, list)
		if err != nil {
			return err
		}
		if err := shortlistdb.In(tx).RevokeShare(ctx, list, id, s.now()); err != nil {
			return err
		}
		return s.note(ctx, tx, p, "revoked link", l.Name, "")
	}), "link that works")
}

// Look is a shortlist as somebody with a link sees it.
type Look struct {
	Name, Client, Note, Words string
	EndsAt                    time.Time
	Families                  []LookFamily
	share                     *store.Share
}

// LookFamily is a family on it. Fonts are sent only where the license is clear for
// the client's web; others are drawn here and sent as pictures.
type LookFamily struct {
	Name, Designer, Sample string
	AsFont                 bool
	Faces                  []LookFace
}

// LookFace is a face of it.
type LookFace struct {
	ID, FileID int64
	Place      int
	Style      string
	Weight     int
	Slope      string
}

const lookFaces = 24 // of one family; more would be a wall

// Look returns what a link shows. The error is Missing where no link has this
// secret, or it no longer works.
func (s *Service) Look(ctx context.Context, secret string) (*Look, error) {
	h, err := shortlistdb.In(s.store).ShareByHash(ctx, auth.SecretHash(secret))
	if errors.Is(err, store.ErrNotFound) {
		return nil, app.Problem(app.Missing, "no-such-link", "There is no such link; look whether the address is whole.")
	}
	if err != nil {
		return nil, err
	}
	if s.shareView(h).State != api.ShareOpen {
		return nil, app.Problem(app.Missing, "link-ended", "This link no longer works. Ask the studio for another one.")
	}
	l, err := shortlistdb.In(s.store).Shortlist(ctx, h.ShortlistID)
	if err != nil {
		return nil, err
	}
	found, err := s.onShortlist(ctx, l)
	if err != nil {
		return nil, err
	}
	weighed, err := s.usage.Weigh(ctx, app.Each(found, func(f store.Found) int64 { return f.ID }))
	if err != nil {
		return nil, err
	}
	out := &Look{Name: l.Name, Client: l.Client.Name, Note: l.Note, Words: h.SampleText, EndsAt: h.EndsAt, share: h}
	for _, f := range found {
		if len(f.Faces) == 0 {
			continue // hosted elsewhere: looking at it would call that server
		}
		verdict := weighed.Judge(usage.Question{Family: &store.Family{ID: f.ID, Name: f.Name}, Client: l.Client.Name})
		v := LookFamily{Name: f.Name, Designer: f.Designer, AsFont: verdict.State == license.Cleared}
		for _, face := range f.Faces[:min(len(f.Faces), lookFaces)] {
			v.Faces = append(v.Faces, LookFace{face.ID, face.Listing.FileID, face.Listing.Place, face.Style, face.Weight, face.Slope})
			if v.Sample == "" {
				v.Sample = face.Listing.Sample
			}
		}
		out.Families = append(out.Families, v)
	}
	return out, nil
}

// Viewed counts that somebody opened a link.
func (s *Service) Viewed(ctx context.Context, l *Look) error {
	return shortlistdb.In(s.store).ShareViewed(ctx, l.share.ID, s.now())
}

// face finds a face among those a link shows.
func (l *Look) face(id int64) (*LookFamily, *LookFace) {
	for i := range l.Families {
		for j := range l.Families[i].Faces {
			if l.Families[i].Faces[j].ID == id {
				return &l.Families[i], &l.Families[i].Faces[j]
			}
		}
	}
	return nil, nil
}

var errNotShown = app.Problem(app.Missing, "not-shown", "This is not on the page of the link.")

// LookPicture draws the words of a link in one of its faces, size in pixels.
func (s *Service) LookPicture(ctx context.Context, secret string, face int64, size float32, width int) ([]byte, error) {
	l, err := s.Look(ctx, secret)
	if err != nil {
		return nil, err
	}
	family, f := l.face(face)
	if f == nil {
		return nil, errNotShown
	}
	text := l.WordsOf(family)
	return s.conversion.Draw(ctx, f.FileID, api.DrawSpecimenParams{Place: &f.Place, Text: &text, Size: &size, Width: &width})
}

// WordsOf returns what a family is set in.
func (l *Look) WordsOf(f *LookFamily) string {
	for _, words := range []string{l.Words, f.Sample} {
		if words != "" {
			return words
		}
	}
	return f.Name
}

// LookFont returns a face that a link shows as a font, and says which link and which face.
func (s *Service) LookFont(ctx context.Context, secret string, face int64) (r io.ReadCloser, link, what string, err error) {
	l, err := s.Look(ctx, secret)
	if err != nil {
		return nil, "", "", err
	}
	family, f := l.face(face)
	if f == nil || !family.AsFont {
		return nil, "", "", errNotShown
	}
	file, err := familydb.In(s.store).File(ctx, f.FileID)
	if err != nil {
		return nil, "", "", err
	}
	r, _, err = s.conversion.OpenSound(ctx, func() (bucket.Hash, error) { return s.conversion.Derive(ctx, file, f.Place, font.WOFF2) })
	return r, fmt.Sprintf("share %d", l.share.ID), l.Name + ": " + family.Name + " " + f.Style, err
}
