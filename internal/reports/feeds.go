package reports

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"sparecrate/api"
	"sparecrate/font/metadata"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/mail"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
	"sparecrate/internal/store/reportdb"
)

// AddFeed makes a secret address under which a calendar program reads the due list
// with the rights of the person.
func (r *Reports) AddFeed(ctx context.Context, p *store.Person) (*api.NewFeed, error) {
	const most = 20
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	had, err := reportdb.In(r.store).Feeds(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	if len(had) >= most {
		return nil, app.Problem(app.Conflict, "too-many-feeds", "You have %d secret addresses. Revoke one that is not used any more.", most)
	}
	secret := strings.ToLower(rand.Text())
	f := store.Feed{PersonID: p.ID, Hash: auth.SecretHash(secret), CreatedAt: r.now()}
	err = r.store.Tx(ctx, func(tx *store.Store) error {
		f.ID = 0
		if err := reportdb.In(tx).AddFeed(ctx, &f); err != nil {
			return err
		}
		return r.note(ctx, tx, p, "created calendar feed", p.Name, "")
	})
	if err != nil {
		return nil, err
	}
	return &api.NewFeed{Feed: feedView(f), Path: "/calendar/" + secret + ".ics"}, nil
}

func feedView(f store.Feed) api.Feed {
	return api.Feed{Id: f.ID, CreatedAt: f.CreatedAt, ReadAt: f.ReadAt}
}

// Feeds returns a person's own secret addresses; the secrets themselves are not kept.
func (r *Reports) Feeds(ctx context.Context, p *store.Person) (*api.FeedList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	found, err := reportdb.In(r.store).Feeds(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	return &api.FeedList{Items: app.Each(found, feedView)}, nil
}

// RevokeFeed ends one of a person's own secret addresses.
func (r *Reports) RevokeFeed(ctx context.Context, p *store.Person, id int64) error {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return err
	}
	return r.store.Tx(ctx, func(tx *store.Store) error {
		if err := reportdb.In(tx).RevokeFeed(ctx, p.ID, id, r.now()); err != nil {
			return app.Explain(err, "feed")
		}
		return r.note(ctx, tx, p, "revoked calendar feed", p.Name, "")
	})
}

// Calendar returns the days of the due list as iCalendar (RFC 5545): an entry a day
// for what ends on it.
func (r *Reports) Calendar(ctx context.Context, secret string) (string, error) {
	none := app.Problem(app.Missing, "no-such-calendar", "There is no such calendar, or it was revoked.")
	f, err := reportdb.In(r.store).FeedByHash(ctx, auth.SecretHash(secret))
	if errors.Is(err, store.ErrNotFound) {
		return "", none
	}
	if err != nil {
		return "", err
	}
	p, err := accountdb.In(r.store).Person(ctx, f.PersonID)
	if errors.Is(err, store.ErrNotFound) || p != nil && (p.ClosedAt != nil || p.EndsAt != nil && !r.now().Before(*p.EndsAt)) {
		return "", none
	}
	if err != nil {
		return "", err
	}
	within := maxWithin
	if ctx, err = seenBy(ctx, r.store, p); err != nil {
		return "", err
	}
	due, err := r.due(ctx, p, api.ListDueParams{Within: &within}, math.MaxInt)
	if err != nil {
		return "", err
	}
	cal := ics.NewCalendar()
	cal.SetProductId("-//Spare Crate//Due list//EN")
	cal.SetMethod(ics.MethodPublish)
	cal.SetName("Spare Crate: due")
	cal.SetXWRCalName("Spare Crate: due")
	for _, i := range due.Items {
		if i.Day == nil {
			continue
		}
		id := fmt.Sprintf("%s-%s", i.Kind, i.Day.Format("20060102"))
		if i.License != nil {
			id += fmt.Sprintf("-license-%d", i.License.Id)
		}
		if i.SignOff != nil {
			id += fmt.Sprintf("-sign-off-%d", *i.SignOff)
		}
		e := cal.AddEvent(id + "@sparecrate")
		e.SetDtStampTime(r.now())
		e.SetAllDayStartAt(i.Day.Time)
		e.SetAllDayEndAt(i.Day.AddDate(0, 0, 1))
		e.SetSummary(metadata.Printable(dueTitle(i)))
		e.SetDescription(metadata.Printable(i.Message))
		e.SetURL(r.limits.Address + "/due")
		e.SetTimeTransparency(ics.TransparencyTransparent)
		alarm := e.AddAlarm()
		alarm.SetAction(ics.ActionDisplay)
		alarm.SetProperty(ics.ComponentPropertyDescription, metadata.Printable(dueTitle(i)))
		alarm.SetTrigger("-P14D")
	}
	if err := reportdb.In(r.store).FeedRead(ctx, f.ID, r.now()); err != nil {
		return "", err
	}
	return cal.Serialize(ics.WithNewLineWindows), nil
}

func dueTitle(i api.DueItem) string {
	what := map[api.DueKind]string{api.DueEnds: "License ends", api.DueEnded: "License ended", api.DueSignOff: "Sign-off ends"}[i.Kind]
	if what == "" {
		what = string(i.Kind)
	}
	if len(i.Families) > 0 {
		what += ": " + names(i.Families)
	} else if i.License != nil {
		what += ": " + i.License.Name
	}
	if i.Client != nil {
		what += ", " + i.Client.Name
	}
	return what
}

// SetWeekly says whether a person gets the due list by e-mail each week.
func (r *Reports) SetWeekly(ctx context.Context, p *store.Person, weekly bool) (*store.Person, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	if weekly && r.limits.Mail.Server == "" {
		return nil, app.Problem(app.Conflict, "no-mail-server", "This service knows no mail server, so no e-mail leaves it. Ask whoever runs it to set --mail-server.")
	}
	err := r.store.Tx(ctx, func(tx *store.Store) error {
		if err := reportdb.In(tx).SetWeekly(ctx, p.ID, weekly); err != nil {
			return err
		}
		what := "ordered the weekly e-mail"
		if !weekly {
			what = "stopped the weekly e-mail"
		}
		return r.note(ctx, tx, p, what, p.Email, "")
	})
	if err != nil {
		return nil, err
	}
	changed := *p
	changed.Weekly = weekly
	return &changed, nil
}

// SendDue sends a person the due list by e-mail, now.
func (r *Reports) SendDue(ctx context.Context, p *store.Person) error {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return err
	}
	if r.limits.Mail.Server == "" {
		return app.Problem(app.Conflict, "no-mail-server", "This service knows no mail server, so no e-mail leaves it. Ask whoever runs it to set --mail-server.")
	}
	if err := r.mailDue(ctx, p); err != nil {
		return app.Problem(app.Conflict, "mail-refused", "The e-mail could not be sent: %s", sentence.Of(err))
	}
	return nil
}

func (r *Reports) mailDue(ctx context.Context, p *store.Person) error {
	ctx, err := seenBy(ctx, r.store, p)
	if err != nil {
		return err
	}
	due, err := r.due(ctx, p, api.ListDueParams{}, math.MaxInt)
	if err != nil {
		return err
	}
	return r.limits.Mail.Send(ctx, mail.Letter{To: p.Email, Subject: dueSubject(due), Text: dueLetter(p.Name, due, r.limits.Address)})
}

// seenBy returns a context whose statements see what a person sees who does not ask now.
func seenBy(ctx context.Context, s *store.Store, p *store.Person) (context.Context, error) {
	if !p.Limited {
		return ctx, nil
	}
	limited := *p
	found, err := accountdb.In(s).ClientsOfPeople(ctx, []int64{p.ID})
	limited.Clients = found[p.ID]
	return app.AsSeenBy(ctx, &limited), err
}

func dueSubject(due *api.DueList) string {
	if len(due.Items) == 0 {
		return "Fonts: nothing needs attention"
	}
	blocked := 0
	for _, i := range due.Items {
		if i.State == api.Blocked {
			blocked++
		}
	}
	s := fmt.Sprintf("Fonts: %d due", len(due.Items))
	if blocked > 0 {
		s += fmt.Sprintf(", %d blocked", blocked)
	}
	return s
}

// dueLetter writes the due list as a letter in plain text.
func dueLetter(name string, due *api.DueList, address string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "Hello %s,\n\n", name)
	if len(due.Items) == 0 {
		fmt.Fprintf(&b, "Nothing needs attention: no license ends within %d days, and no font in use is blocked.\n", due.Within)
	} else {
		fmt.Fprintf(&b, "This needs attention within the next %d days, blocked fonts first.\n", due.Within)
	}
	last := api.VerdictState("")
	for _, i := range due.Items {
		if i.State != last {
			last = i.State
			fmt.Fprintf(&b, "\n%s\n", map[api.VerdictState]string{api.Blocked: "BLOCKED", api.Review: "NEEDS REVIEW", api.Cleared: "COMING UP"}[last])
		}
		fmt.Fprintf(&b, "\n- %s", i.Message)
		if i.Client != nil {
			fmt.Fprintf(&b, " (%s)", i.Client.Name)
		}
		if i.Owner != nil {
			fmt.Fprintf(&b, " Assigned to %s.", i.Owner.Name)
		}
		b.WriteByte('\n')
	}
	if address != "" {
		fmt.Fprintf(&b, "\nAct on it: %s/\n", address)
	}
	b.WriteString("\nYou subscribed to this weekly e-mail. You can unsubscribe at the end of the home page.\n")
	return b.String()
}

// MailWeekly sends the due list to everybody who asked for it and did not get it
// this week, from Monday on. Of several processes one sends it.
func (r *Reports) MailWeekly(ctx context.Context) error {
	if r.limits.Mail.Server == "" {
		return nil
	}
	people, err := accountdb.In(r.store).People(ctx)
	if err != nil {
		return err
	}
	year, week := r.now().UTC().ISOWeek()
	name := fmt.Sprintf("%d-W%02d", year, week)
	var failed []error
	for i := range people {
		p := &people[i]
		if !p.Weekly || p.MustChangePassword || p.EndsAt != nil && !r.now().Before(*p.EndsAt) {
			continue
		}
		ours, err := reportdb.In(r.store).ClaimMailing(ctx, p.ID, name, r.now())
		if err != nil {
			return err
		}
		if !ours {
			continue
		}
		if err := r.mailDue(ctx, p); err != nil {
			failed = append(failed, fmt.Errorf("to %s: %w", p.Email, err))
			if err := reportdb.In(r.store).ReleaseMailing(context.WithoutCancel(ctx), p.ID, name); err != nil {
				failed = append(failed, err)
			}
		}
	}
	return errors.Join(failed...)
}

// Mailing sends what is to be sent, now and then, until ctx ends. What fails is
// tried again the next time.
func (r *Reports) Mailing(ctx context.Context) {
	tick := time.NewTicker(10 * time.Minute)
	defer tick.Stop()
	for {
		if err := r.MailWeekly(ctx); err != nil && ctx.Err() == nil {
			r.log.Warn("the weekly e-mail was not sent; it is tried again", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}
