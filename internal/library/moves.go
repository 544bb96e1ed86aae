package library

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/usage"
)

// MoveFaces moves faces of a family into another of the same client: some of them
// to mend where they went or to split the family, all to merge the two. Fonts that
// name the family go to the other one from now on. What goes out stays the same:
// the sites and, where the family is a new one, the licenses hold of both. A family
// without a face is gone.
func (lib *Library) MoveFaces(ctx context.Context, p *store.Person, id int64, m api.FaceMove) (*api.Family, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	into, err := app.RequiredText("into", m.Into)
	if err != nil {
		return nil, err
	}
	var to int64
	err = lib.store.Tx(ctx, func(tx *store.Store) error {
		from, err := familydb.In(tx).Family(ctx, id)
		if err != nil {
			return app.Explain(err, "family")
		}
		if err := app.NotDeleted(from); err != nil {
			return err
		}
		faces, err := chosen(from, m.Faces)
		if err != nil {
			return err
		}
		target, fresh, err := lib.familyFor(ctx, tx, from, into)
		if err != nil {
			return err
		}
		to = target.ID
		ends := len(faces) == len(from.Faces)
		if ends && !fresh {
			if err := covered(ctx, tx, from, target); err != nil {
				return err
			}
		}
		for _, f := range faces {
			if err := lib.Files.move(ctx, tx, f, from, target); err != nil {
				return err
			}
		}
		if err := librarydb.In(tx).ShareUses(ctx, id, to, fresh); err != nil {
			return err
		}
		if err := lib.index(ctx, tx, to); err != nil {
			return err
		}
		if ends {
			err = librarydb.In(tx).EndFamily(ctx, id, to)
		} else {
			err = lib.index(ctx, tx, id)
		}
		if err != nil {
			return err
		}
		return lib.note(ctx, tx, p, "moved faces", from.Name, "into "+target.Name+": "+strings.Join(app.Each(faces, func(f store.Face) string { return f.Style }), ", "))
	})
	if err != nil {
		return nil, err
	}
	return lib.Family(ctx, p, to)
}

// chosen returns the faces of a family that are meant; nil means all.
func chosen(f *store.Family, numbers *[]int64) ([]store.Face, error) {
	if numbers == nil {
		return f.Faces, nil
	}
	var out []store.Face
	for _, n := range *numbers {
		i := slices.IndexFunc(f.Faces, func(face store.Face) bool { return face.ID == n })
		if i < 0 {
			return nil, app.InvalidField("faces", "no-such-face", "%s has no face with the number %d.", f.Name, n)
		}
		out = append(out, f.Faces[i])
	}
	if len(out) == 0 {
		return nil, app.InvalidField("faces", "no-face", "Say which faces are to be moved.")
	}
	return out, nil
}

// familyFor finds the client's family of a name, or starts it like another.
func (lib *Library) familyFor(ctx context.Context, tx *store.Store, like *store.Family, name string) (target *store.Family, fresh bool, err error) {
	target, err = familydb.In(tx).FamilyByName(ctx, like.ClientID, name)
	switch {
	case errors.Is(err, store.ErrNotFound):
		target = &store.Family{ClientID: like.ClientID, Name: name, Origin: like.Origin, Version: 1, CreatedAt: lib.now(), ChangedAt: lib.now(),
			Status: store.Active, Indexer: IndexVersion, Designer: like.Designer, Foundry: like.Foundry}
		return target, true, familydb.In(tx).AddFamily(ctx, target)
	case err != nil:
		return nil, false, err
	case target.ID == like.ID:
		return nil, false, app.InvalidField("into", "same-family", "The faces are in %s already.", target.Name)
	}
	return target, false, nil
}

// covered refuses to merge a family where a license would be lost by it: licenses
// do not pass to fonts they were not given for.
func covered(ctx context.Context, tx *store.Store, from, target *store.Family) error {
	licenses, err := licensedb.In(tx).LicensesOf(ctx, []int64{from.ID, target.ID})
	if err != nil {
		return err
	}
	for _, l := range licenses {
		covers := func(id int64) bool {
			return slices.ContainsFunc(l.Families, func(f store.Family) bool { return f.ID == id })
		}
		if covers(from.ID) && !covers(target.ID) {
			return app.Problem(app.Conflict, "license-differs", "%s covers %s and not %s. Say in the license whether it covers both, then merge them.", usage.LicenseName(l), from.Name, target.Name)
		}
	}
	return nil
}

// move moves one face; where the family has the same, the files go to that.
func (c *Files) move(ctx context.Context, tx *store.Store, f store.Face, from, target *store.Family) error {
	for _, file := range f.Files {
		if err := familydb.In(tx).RememberFamily(ctx, from.ClientID, SaidFamily(&file.Metadata, &file.Metadata), target.ID); err != nil {
			return err
		}
	}
	same, err := familydb.In(tx).FaceByKey(ctx, target.ID, f.FaceKey)
	if errors.Is(err, store.ErrNotFound) {
		return librarydb.In(tx).MoveFace(ctx, f.ID, target.ID)
	}
	if err != nil {
		return err
	}
	if err := librarydb.In(tx).JoinFaces(ctx, f.ID, same.ID); err != nil {
		return fmt.Errorf("join %s of two families: %w", f.Style, err)
	}
	return c.again(ctx, tx, same.ID, target.Name)
}
