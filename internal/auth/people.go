package auth

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"net/mail"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	mailer "sparecrate/internal/mail"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
	"sparecrate/internal/store/factordb"
)

// People returns everyone with an account.
func (c *Auth) People(ctx context.Context, p *store.Person) ([]api.Person, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	people, err := accountdb.In(c.store).People(ctx)
	if err != nil {
		return nil, err
	}
	with, err := factordb.In(c.store).With(ctx)
	if err != nil {
		return nil, err
	}
	limited, err := accountdb.In(c.store).ClientsOfPeople(ctx, nil)
	for i := range people {
		people[i].Clients, people[i].SecondFactor = limited[people[i].ID], with[people[i].ID]
	}
	return app.Each(people, personView), err
}

// AddPerson makes an account with a one-time password.
func (c *Auth) AddPerson(ctx context.Context, p *store.Person, n api.NewPerson) (*api.AddedPerson, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	name, err := app.RequiredText("name", n.Name)
	if err != nil {
		return nil, err
	}
	email, err := app.RequiredText("email", n.Email)
	if err != nil {
		return nil, err
	}
	if a, err := mail.ParseAddress(email); err != nil || a.Address != email || strings.ContainsAny(email, " ,;<>\"") {
		return nil, app.InvalidField("email", "bad-email", "%q is not an e-mail address.", email)
	}
	if err := isRole(n.Role); err != nil {
		return nil, err
	}
	if p.Token != nil && n.Role == api.RoleAdmin {
		return nil, needsPassword("A token cannot make a person an admin. Sign in with your password.")
	}
	secret, hash, err := oneTime(ctx)
	if err != nil {
		return nil, err
	}
	added := store.Person{Name: name, Email: email, Role: string(n.Role), PasswordHash: hash, MustChangePassword: true, PasswordEnds: c.oneTimeEnds(), CreatedAt: c.now()}
	if err := limits(ctx, c, &added, n); err != nil {
		return nil, err
	}
	invite := n.Invite != nil && *n.Invite
	if invite && c.mail.Server == "" {
		return nil, app.InvalidField("invite", "no-mail-server", "This service knows no mail server, so no e-mail leaves it. Add the person without an invitation and pass the password on, or ask whoever runs the service to set --mail-server.")
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		added.ID = 0
		if err := accountdb.In(tx).AddPerson(ctx, &added); err != nil {
			return err
		}
		if err := c.note(ctx, tx, p, "added person", name, strings.Trim(string(n.Role)+", "+seenBy(&added), ", ")); err != nil {
			return err
		}
		if !invite {
			return nil
		}
		studio, err := tx.Studio(ctx)
		if err != nil {
			return err
		}
		// Sent before the account is there for good: without the e-mail it is of no use.
		letter := mailer.Letter{To: email, Subject: "Your account in the font catalog of " + studio.Name, Text: invitation(p, &added, studio.Name, c.at, secret)}
		if err := c.mail.Send(ctx, letter); err != nil {
			return app.Problem(app.Conflict, "mail-refused", "The invitation could not be sent, so the person was not added: %s", sentence.Of(err))
		}
		return nil
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.InvalidField("email", "email-taken", "An account with %s already exists.", email)
	}
	if err != nil {
		return nil, err
	}
	if invite {
		secret = ""
	}
	return &api.AddedPerson{Person: personView(added), OneTimePassword: secret, Invited: invite}, nil
}

// oneTime returns a one-time password and its hash.
func oneTime(ctx context.Context) (secret, hash string, err error) {
	secret = rand.Text()
	hash, err = hashed(ctx, secret)
	return secret, hash, err
}

func isRole(r api.Role) error {
	if !r.Valid() {
		return app.InvalidField("role", "bad-role", "%q is not a role; choose guest, viewer, editor or admin.", r)
	}
	return nil
}

// ChangePerson gives somebody another name or role, and closes or opens an account. A
// closed one can do nothing: its sessions, tokens and calendar addresses end at once,
// and what its person did stays in the records. There is always an open admin.
func (c *Auth) ChangePerson(ctx context.Context, p *store.Person, id int64, change api.PersonChange) (*api.Person, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	var now *store.Person
	err := c.store.Tx(ctx, func(tx *store.Store) error {
		admins, err := accountdb.In(tx).OpenAdmins(ctx)
		if err != nil {
			return err
		}
		was, err := accountdb.In(tx).Person(ctx, id)
		if err != nil {
			return app.Explain(err, "person")
		}
		if was, err = c.withLimits(ctx, was); err != nil {
			return err
		}
		next := *was
		if change.Name != nil {
			if next.Name, err = app.RequiredText("name", *change.Name); err != nil {
				return err
			}
		}
		if change.Role != nil {
			if err := isRole(*change.Role); err != nil {
				return err
			}
			if next.Role = string(*change.Role); p.Token != nil && *change.Role == api.RoleAdmin && next.Role != was.Role {
				return needsPassword("A token cannot make a person an admin. Sign in with your password.")
			}
		}
		if err := changeLimits(ctx, c, tx, &next, change); err != nil {
			return err
		}
		closes := change.Closed != nil && *change.Closed && was.ClosedAt == nil
		opens := change.Closed != nil && !*change.Closed && was.ClosedAt != nil
		others := slices.ContainsFunc(admins, func(a store.Person) bool { return a.ID != id })
		if !others && was.ClosedAt == nil && was.Role == string(api.RoleAdmin) && (closes || next.Role != was.Role) {
			return app.Problem(app.Conflict, "last-admin", "%s is the only admin. Give another person the role admin first.", was.Name)
		}
		if closes && id == p.ID {
			return app.Problem(app.Conflict, "own-account", "You cannot close your own account; another admin can.")
		}
		if next.Name != was.Name || next.Role != was.Role {
			if err := accountdb.In(tx).ChangePerson(ctx, &next); err != nil {
				return err
			}
			if err := c.note(ctx, tx, p, "changed person", next.Name, accountChanges(was, &next)); err != nil {
				return err
			}
		}
		if !sameLimits(was, &next) {
			if err := accountdb.In(tx).SetLimits(ctx, &next); err != nil {
				return err
			}
			if err := c.note(ctx, tx, p, "changed limits", next.Name, cmp.Or(seenBy(&next), "none")); err != nil {
				return err
			}
		}
		if closes {
			if err := accountdb.In(tx).ClosePerson(ctx, id, c.now()); err != nil {
				return err
			}
			if err := c.note(ctx, tx, p, "closed account", next.Name, next.Email); err != nil {
				return err
			}
		}
		if opens {
			if err := accountdb.In(tx).OpenPerson(ctx, id); err != nil {
				return err
			}
			if err := c.note(ctx, tx, p, "reopened account", next.Name, next.Email); err != nil {
				return err
			}
		}
		now, err = accountdb.In(tx).Person(ctx, id)
		return err
	})
	if err != nil {
		return nil, err
	}
	if now, err = c.withLimits(ctx, now); err != nil {
		return nil, err
	}
	v := personView(*now)
	return &v, nil
}

// accountChanges says what a person's account was before.
func accountChanges(was, now *store.Person) string {
	var all []string
	if was.Name != now.Name {
		all = append(all, was.Name+" → "+now.Name)
	}
	if was.Role != now.Role {
		all = append(all, was.Role+" → "+now.Role)
	}
	return strings.Join(all, ", ")
}

// NewPassword gives somebody who forgot the password, or whose password others know,
// a one-time one. All sessions, tokens and calendar links of the account end. A token
// cannot do it.
func (c *Auth) NewPassword(ctx context.Context, p *store.Person, id int64) (*api.AddedPerson, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	if p.Token != nil {
		return nil, needsPassword("A token cannot set a password. Sign in with your own password.")
	}
	if id == p.ID {
		return nil, app.Problem(app.Conflict, "own-account", "Change your own password with the one you have.")
	}
	found, err := accountdb.In(c.store).Person(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "person")
	}
	if found.ClosedAt != nil {
		return nil, app.Problem(app.Conflict, "account-closed", "%s's account is closed; open it again first.", found.Name)
	}
	secret, hash, err := oneTime(ctx)
	if err != nil {
		return nil, err
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		if err := accountdb.In(tx).SetPassword(ctx, id, hash, c.oneTimeEnds(), c.now()); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "reset password", found.Name, found.Email)
	})
	if err != nil {
		return nil, err
	}
	found.MustChangePassword = true
	return &api.AddedPerson{Person: personView(*found), OneTimePassword: secret}, nil
}

// ResetAdmin gives an admin who is locked out a one-time password, and opens a closed
// account. It asks nobody: it is for whoever has the service's data. With no e-mail
// address it is for the only admin.
func (c *Auth) ResetAdmin(ctx context.Context, email string) (address, secret string, err error) {
	people, err := accountdb.In(c.store).People(ctx)
	if err != nil {
		return "", "", err
	}
	admins := slices.DeleteFunc(people, func(p store.Person) bool { return p.Role != string(api.RoleAdmin) })
	names := strings.Join(app.Each(admins, func(p store.Person) string { return p.Email }), ", ")
	i := slices.IndexFunc(admins, func(p store.Person) bool { return strings.EqualFold(p.Email, strings.TrimSpace(email)) })
	switch {
	case len(admins) == 0:
		return "", "", app.Problem(app.Missing, "no-admin", "This service has no admin yet; the first start creates one.")
	case email == "" && len(admins) == 1:
		i = 0
	case email == "":
		return "", "", app.InvalidField("email", "missing-value", "There are several admins. Choose whose password to reset: %s.", names)
	case i < 0:
		return "", "", app.InvalidField("email", "not-an-admin", "%s is not an admin of this service. The admins are %s.", email, names)
	}
	p := &admins[i]
	secret, hash, err := oneTime(ctx)
	if err != nil {
		return "", "", err
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		if err := accountdb.In(tx).OpenPerson(ctx, p.ID); err != nil {
			return err
		}
		if err := accountdb.In(tx).SetPassword(ctx, p.ID, hash, c.oneTimeEnds(), c.now()); err != nil {
			return err
		}
		if err := accountdb.In(tx).ForgetAttempts(ctx, SecretHash("account "+strings.ToLower(p.Email))); err != nil {
			return err
		}
		if err := factordb.In(tx).Forget(ctx, p.ID); err != nil {
			return err
		}
		return c.note(ctx, tx, &store.Person{Name: "the service's machine"}, "reset password", p.Name, p.Email)
	})
	return p.Email, secret, err
}

func personView(p store.Person) api.Person {
	if p.Guest { // whatever the role is for this call
		p.Role = string(api.RoleGuest)
	}
	var signedOn *bool
	if p.SignedOn {
		signedOn = &p.SignedOn
	}
	return api.Person{
		SignedOn: signedOn, Id: p.ID, Name: p.Name, Email: p.Email, Role: api.Role(p.Role), MustChangePassword: p.MustChangePassword, MustAddFactor: p.MustAddFactor, SecondFactor: p.SecondFactor, Weekly: p.Weekly, Closed: p.ClosedAt != nil,
		Limited: p.Limited, Clients: app.Each(p.Clients, app.ClientRef), Prices: p.Prices, Documents: p.Documents, EndsOn: lastDay(p),
	}
}
