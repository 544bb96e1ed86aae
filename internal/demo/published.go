package demo

import (
	"context"
	"fmt"
	"slices"

	"sparecrate/api"
	"sparecrate/internal/fakes/published"
	"sparecrate/internal/rooms"
)

// membersSite is the site that a page without mistakes is published for.
const membersSite = "Holmvik members' pages"

// PublishedMembers has a page inspected on which nothing is wrong.
func PublishedMembers(ctx context.Context, c *rooms.Rooms, in *SignIn, address string) error {
	admin, err := c.Auth.SignIn(ctx, "", in.Email, in.Password)
	if err != nil {
		return err
	}
	found, err := c.Sites.Sites(ctx, admin, nil, new(100), nil, false)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(found.Items, func(s api.Site) bool { return s.Name == membersSite })
	if at < 0 {
		return fmt.Errorf("the demo has no site %q", membersSite)
	}
	site := found.Items[at].Id
	_, err = c.Inspections.Start(ctx, admin, site, api.NewInspection{Pages: &[]string{address + published.Members}})
	return err
}

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
