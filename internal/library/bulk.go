package library

import (
	"context"
	"slices"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
)

// ChangeFamilies changes the origin, tags or status of several families, one after the other.
func (lib *Library) ChangeFamilies(ctx context.Context, p *store.Person, ch api.FamiliesChange) (*api.DoneFamilies, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	if ch.Origin == nil && ch.Tags == nil && ch.Retired == nil {
		return nil, app.InvalidField("", "nothing-changed", "Say what is to change: origin, tags or retired.")
	}
	return app.EachFamily(ctx, ch.Families, func(id int64) (*store.Family, error) { return familydb.In(lib.store).Family(ctx, id) }, func(f *store.Family) error {
		one := api.FamilyChange{Origin: ch.Origin, Retired: ch.Retired}
		if ch.Tags != nil {
			tags := slices.Concat(app.Each(f.Tags, func(t store.FamilyTag) string { return t.Tag }), *ch.Tags)
			one.Tags = &tags
		}
		_, err := lib.ChangeFamily(ctx, p, f.ID, app.ETag(f.Version), one)
		return err
	})
}
