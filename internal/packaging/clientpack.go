package packaging

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/usage"
)

// clientPack is everything of a client for one machine: the families that may go there, and
// those that are left out.
type clientPack struct {
	site  *usage.Site // one that is not recorded
	left  []pack.LeftOut
	seats []seat
}

// seat is a license of which a machine takes a seat.
type seat struct {
	license *store.License
	family  *store.Family
	taken   bool // whom it is for has one already
	full    bool // none is left
}

// Machines packs what goes to a person's machine: everything of a client.
type Machines struct{ packs *Packaging }

// NewMachines returns the packs for machines.
func NewMachines(c *Packaging) *Machines { return &Machines{c} }

// Plan says what a pack of everything of a client would hold for a builder, and which
// licenses a seat is taken of; seat is whom it is for, nil for nobody yet.
func (m *Machines) Plan(ctx context.Context, p *store.Person, client int64, kind string, seat *string) (*api.ClientPackPlan, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	who, err := seatName(seat)
	if err != nil {
		return nil, err
	}
	found, err := everythingOf(ctx, m.packs, client, kind, who)
	if err != nil {
		return nil, err
	}
	out := &api.ClientPackPlan{Client: api.Ref{Id: client, Name: found.site.Client.Name}, Families: []api.ClientPackFamily{}, LeftOut: []api.LeftOutFamily{}, Seats: []api.SeatTaken{}}
	for _, u := range found.site.Uses {
		out.Families = append(out.Families, api.ClientPackFamily{Family: api.Ref{Id: u.Family.ID, Name: u.Family.Name}, Faces: len(u.Sends.Sent), Verdict: api.VerdictState(u.Verdict.State)})
	}
	for _, l := range found.left {
		out.LeftOut = append(out.LeftOut, api.LeftOutFamily{Family: l.Family, Why: l.Why})
	}
	for _, s := range found.seats {
		out.Seats = append(out.Seats, api.SeatTaken{License: api.Ref{Id: s.license.ID, Name: usage.LicenseName(*s.license)}, Family: s.family.Name, Used: seatsOf(s.license), Of: int(*s.license.Seats), Taken: s.taken, Full: s.full})
	}
	return out, nil
}

// Build builds a pack of everything of a client that may go out for a builder, and
// gives whom it is for a seat of each license that counts them.
func (m *Machines) Build(ctx context.Context, p *store.Person, client int64, in api.NewClientPack) (r io.ReadCloser, size int64, name string, err error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, 0, "", err
	}
	who, err := seatName(in.Seat)
	if err != nil {
		return nil, 0, "", err
	}
	found, err := everythingOf(ctx, m.packs, client, in.Builder, who)
	if err != nil {
		return nil, 0, "", err
	}
	if err := found.refused(who); err != nil {
		return nil, 0, "", err
	}
	d := found.site
	l, err := m.packs.layOut(ctx, d, "", m.packs.conversion.Made)
	if err != nil {
		return nil, 0, "", err
	}
	l.LeftOut = found.left
	l.Packed = pack.LayOut(l.Input)
	if err := l.Render(); err != nil {
		return nil, 0, "", err
	}
	staged, err := m.packs.bucket.StageFrom(ctx, maxPack, func(w io.Writer) error { return pack.Zip(w, l.Entries) })
	if err != nil {
		return nil, 0, "", err
	}
	said := "for " + d.Rules.Name
	if who != "" {
		said += ", for " + who
	}
	err = m.packs.store.Tx(ctx, func(tx *store.Store) error {
		for _, s := range found.seats {
			if who == "" || s.taken {
				continue
			}
			// Somebody else may have taken the last one meanwhile.
			n, err := licensedb.In(tx).LockedPlaces(ctx, s.license.ID, string(license.Seats))
			if err != nil {
				return err
			}
			if n >= *s.license.Seats {
				return s.noneLeft()
			}
			err = licensedb.In(tx).AddAllocation(ctx, &store.Allocation{LicenseID: s.license.ID, Measure: string(license.Seats), Name: who, Since: m.packs.now(), Person: p.Name})
			if errors.Is(err, store.ErrTaken) {
				continue // for the same person, at the same time
			}
			if err != nil {
				return err
			}
			if err := m.packs.note(ctx, tx, p, "assigned seat", usage.LicenseName(*s.license), who); err != nil {
				return err
			}
		}
		return m.packs.note(ctx, tx, p, "built pack", d.Client.Name, said+", SHA-256 "+string(staged.Hash))
	})
	if err != nil {
		staged.Close()
		return nil, 0, "", err
	}
	return staged.Reader(), staged.Size, pack.FileName(d.Client.Name+" "+in.Builder, ""), nil
}

// refused says why there is no pack: nothing may go out, or a seat is asked for where none
// is left.
func (all *clientPack) refused(who string) error {
	d := all.site
	if len(d.Uses) == 0 {
		why := "no family belongs to it, is on a site of it, or licensed to it."
		if len(all.left) > 0 {
			why = strings.Join(app.Each(all.left, func(l pack.LeftOut) string { return l.Family + ": " + l.Why }), " ")
		}
		return app.Problem(app.Conflict, "empty-pack", "Nothing of %s may go out for %s: %s", d.Client.Name, d.Rules.Name, why)
	}
	for _, s := range all.seats {
		if who != "" && s.full {
			return s.noneLeft()
		}
	}
	return nil
}

func (s *seat) noneLeft() error {
	return app.Problem(app.Conflict, "no-seats", "All %d seats of %s (%s) are taken. Take one away there, or buy more and record them.", *s.license.Seats, usage.LicenseName(*s.license), s.family.Name)
}

// seatName is whom a seat is for, empty for nobody.
func seatName(given *string) (string, error) {
	if given == nil {
		return "", nil
	}
	return app.RequiredText("seat", *given)
}

// everythingOf weighs all families that a client has, uses on a site or has a license of, as
// a pack for a builder holds them.
func everythingOf(ctx context.Context, c *Packaging, id int64, kind, who string) (*clientPack, error) {
	client, err := c.store.Client(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "client")
	}
	if err := app.Open(client); err != nil {
		return nil, err
	}
	rules, err := c.usage.RulesOf(ctx, kind)
	if err != nil {
		return nil, err
	}
	if rules.URLs.After {
		return nil, app.Problem(app.Conflict, "needs-a-site", "%s gives files their address only after the upload; build packs of the client's sites for it.", rules.Name)
	}
	families, err := familydb.FamiliesFor(ctx, c.store, id)
	if err != nil {
		return nil, err
	}
	out := &clientPack{}
	if out.site, err = c.usage.WithoutSite(ctx, client.Name, *client, *rules, families...); err != nil {
		return nil, err
	}
	var going []usage.SiteFamily
	for _, u := range out.site.Uses {
		if why := staysOut(&u); why != "" {
			out.left = append(out.left, pack.LeftOut{Family: u.Family.Name, Why: why})
			continue
		}
		if s, is := seatFor(&u, who, c.now()); is && rules.For == string(license.Desktop) &&
			!slices.ContainsFunc(out.seats, func(o seat) bool { return o.license.ID == s.license.ID }) {
			out.seats = append(out.seats, s)
		}
		going = append(going, u)
	}
	out.site.Uses = going
	return out, nil
}

// staysOut says why a family does not go along; empty where it does.
func staysOut(u *usage.SiteFamily) string {
	switch {
	case len(u.Sends.Sent) == 0:
		return "No file of it is here."
	case u.MayGoOut():
		return ""
	}
	for _, r := range u.Verdict.Reasons {
		if r.State == u.Verdict.State {
			return r.Message
		}
	}
	return fmt.Sprintf("It %s.", u.Verdict.State.Is())
}

// seatFor finds the license of a family that a machine takes a seat of: the one by which it
// may go out, or another like it that has a seat left; false where seats are not counted.
func seatFor(u *usage.SiteFamily, who string, day time.Time) (seat, bool) {
	of := func(l *store.License) seat {
		s := seat{license: l, family: u.Family, full: seatsOf(l) >= int(*l.Seats)}
		if slices.ContainsFunc(l.Allocations, func(p store.Allocation) bool {
			return p.Measure == string(license.Seats) && who != "" && strings.EqualFold(p.Name, who)
		}) {
			s.taken, s.full = true, false
		}
		return s
	}
	by := slices.IndexFunc(u.Licenses, func(l store.License) bool {
		return slices.ContainsFunc(u.Verdict.Reasons, func(r license.Reason) bool { return r.Code == "licensed" && r.License == l.ID })
	})
	if by < 0 || u.Licenses[by].Seats == nil {
		return seat{}, false
	}
	best := of(&u.Licenses[by])
	for i := range u.Licenses {
		l := &u.Licenses[i]
		if l.Seats == nil || l.GrantedToID != u.Licenses[by].GrantedToID || !slices.Contains(l.Uses, string(license.Desktop)) || l.Begins != nil && l.Begins.After(day) || l.Ends != nil && l.Ends.Before(day) {
			continue
		}
		if one := of(l); one.taken && !best.taken || best.full && !one.full {
			best = one
		}
	}
	return best, true
}

// seatsOf counts the seats of a license that are taken.
func seatsOf(l *store.License) int {
	n := 0
	for _, p := range l.Allocations {
		if p.Measure == string(license.Seats) {
			n++
		}
	}
	return n
}
