package library

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/diff"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
)

// Changes says what a file changed of a face since another file of the same face.
func (lib *Library) Changes(ctx context.Context, p *store.Person, face, from, to int64) (*diff.Changes, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	f, err := familydb.In(lib.store).Face(ctx, face)
	if err != nil {
		return nil, app.Explain(err, "face")
	}
	place := func(field string, file int64) (*int, error) {
		i := slices.IndexFunc(f.Files, func(l store.FaceFile) bool { return l.FileID == file })
		if i < 0 {
			return nil, app.InvalidField(field, "no-such-version", "The file %d holds no version of this face.", file)
		}
		return &f.Files[i].Place, nil
	}
	at, err := place("from", from)
	if err != nil {
		return nil, err
	}
	then, err := place("to", to)
	if err != nil {
		return nil, err
	}
	var was *sfnt.Font
	if err := lib.conversion.Face(ctx, from, at, 0, func(f *sfnt.Font) error { was = f; return nil }); err != nil {
		return nil, err
	}
	var out *diff.Changes
	err = lib.conversion.Face(ctx, to, then, 0, func(is *sfnt.Font) error {
		out = diff.Between(was, is)
		return nil
	})
	return out, err
}

// SaidFamily is the family that a face names, as records keep it.
func SaidFamily(f, first *metadata.Face) string {
	return app.Shorten(cmp.Or(strings.TrimSpace(f.Names.FamilyName()), first.Names.FamilyName()), 250)
}
