package demo

import (
	"context"

	"sparecrate/api"
	"sparecrate/internal/fakes/hosting"
	"sparecrate/internal/rooms"
)

// Hosted adds what the demo studio has from a server of hosted fonts at an
// address: a family that a client's old site still loads from there.
func Hosted(ctx context.Context, c *rooms.Rooms, in *SignIn, address string) error {
	admin, err := c.Auth.SignIn(ctx, "", in.Email, in.Password)
	if err != nil {
		return err
	}
	client := Seeds
	_, err = c.Library.AddHosted(ctx, admin, api.NewHosted{Client: &client, Text: `<link rel="stylesheet" href="` + address + hosting.SheetPath + `">`})
	return err
}
