// Package studio says what the studio has, and how its service is set up.
package studio

import (
	"context"
	"fmt"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
	"sparecrate/internal/store/backupdb"
	"sparecrate/internal/store/studiodb"
)

// Service reads the studio's records and settings.
type Service struct {
	store  *store.Store
	bucket *bucket.Bucket
	limits app.Limits
	now    func() time.Time
}

// New returns the service over a database and a bucket.
func New(c *app.Core) *Service {
	return &Service{store: c.Store, bucket: c.Bucket, limits: c.Limits, now: c.Now}
}

// Counts returns how much of everything the studio has.
func (s *Service) Counts(ctx context.Context, p *store.Person) (*api.Studio, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	own, err := s.store.Studio(ctx)
	if err != nil {
		return nil, err
	}
	n, err := studiodb.In(s.store).Counts(ctx)
	if err != nil {
		return nil, err
	}
	return &api.Studio{Client: app.ClientRef(*own), Clients: n.Clients, Families: n.Families, Licenses: n.Licenses, Sites: n.Sites, Packs: n.Packs}, nil
}

// Settings returns how the service is set up. What concerns sessions is left to the caller,
// who keeps them.
func (s *Service) Settings(ctx context.Context, p *store.Person) (*api.Settings, error) {
	if err := app.Require(p, api.RoleAdmin); err != nil {
		return nil, err
	}
	q := studiodb.In(s.store)
	stored, err := q.Stored(ctx)
	if err != nil {
		return nil, err
	}
	weekly, err := q.Weekly(ctx)
	if err != nil {
		return nil, err
	}
	inspected, err := q.Inspections(ctx)
	if err != nil {
		return nil, err
	}
	out := &api.Settings{Address: s.limits.Address, Stored: app.Each(stored, func(k studiodb.Stored) api.StoredFiles {
		return api.StoredFiles{What: api.StoredFilesWhat(k.What), Files: k.Files, Bytes: k.Bytes}
	})}
	out.Mail.Server, out.Mail.From, out.Mail.Encrypted, out.Mail.Weekly = s.limits.Mail.Server, s.limits.Mail.From, !s.limits.Mail.Plain, int(weekly)
	out.Limits.FontBytes, out.Limits.DocumentBytes, out.Limits.ArchiveBytes = s.limits.FontBytes, s.limits.DocumentBytes, s.limits.ArchiveBytes
	if free, ok := s.bucket.Free(); ok {
		out.Free = &free
	}
	out.Schedules = []api.ScheduledWork{
		{Name: "Weekly e-mail of what needs attention", Every: "on Mondays", Next: monday(s.now())},
		{Name: "Removal of what was deleted more than 30 days ago, and of files that nothing needs", Every: "every hour"},
	}
	if s.limits.Mail.Server == "" || weekly == 0 {
		out.Schedules = out.Schedules[1:]
	}
	last, err := backupdb.In(s.store).Last(ctx)
	if err != nil {
		return nil, err
	}
	if last != nil {
		out.Backup = &api.MadeBackup{At: last.MadeAt, Place: last.Place, Records: last.Records, Files: last.Files, Bytes: last.Bytes, Encrypted: last.Encrypted}
	}
	if plan := s.limits.Backup; plan.Place != "" {
		next := s.now()
		if last != nil {
			next = last.MadeAt.Add(plan.Every)
		}
		if now := s.now(); next.Before(now) { // it is being made
			next = now
		}
		out.Schedules = append(out.Schedules, api.ScheduledWork{Name: "Backup to " + plan.Place, Every: plan.Often(), Next: &next})
	}
	if len(inspected) > 0 {
		what := fmt.Sprintf("Inspection of the published pages of %d sites", len(inspected))
		if len(inspected) == 1 {
			what = "Inspection of the published pages of one site"
		}
		out.Schedules = append(out.Schedules, api.ScheduledWork{Name: what, Every: "at night, daily or weekly as set at the site", Next: &inspected[0].NextAt})
	}
	return out, nil
}

// monday returns the start of the next week.
func monday(now time.Time) *time.Time {
	day := now.UTC().Truncate(24 * time.Hour)
	ahead := (8 - int(day.Weekday())) % 7
	if ahead == 0 {
		ahead = 7
	}
	next := day.AddDate(0, 0, ahead)
	return &next
}
