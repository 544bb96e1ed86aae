package demo

import (
	"context"

	"sparecrate/api"
	"sparecrate/internal/fakes/published"
	"sparecrate/internal/rooms"
)

// Published says where a client's site of the demo studio is published, and has it inspected
// once, and then each week.
func Published(ctx context.Context, c *rooms.Rooms, in *SignIn, address string) error {
	admin, err := c.Auth.SignIn(ctx, "", in.Email, in.Password)
	if err != nil {
		return err
	}
	const site = 1 // Holmvik timetable
	if _, err := c.Sites.AddSitePages(ctx, admin, site, api.NewSitePages{Pages: []api.NewSitePage{{Url: address + published.Home}, {Url: address + published.Fares}}}); err != nil {
		return err
	}
	if _, err := c.Inspections.Schedule(ctx, admin, site, api.InspectionSchedule{Every: api.EveryWeek}); err != nil {
		return err
	}
	_, err = c.Inspections.Start(ctx, admin, site, api.NewInspection{})
	return err
}
