package catalog

import (
	"context"
	"errors"
	"fmt"

	"sparecrate/font"
	"sparecrate/internal/bucket"
	"sparecrate/internal/store"
)

// makerVersion is part of every recipe: it goes up when the core's output for
// the same input changes, so that old results are made anew.
const makerVersion = 1

// derive gives a face of a file in another container, made once and kept.
func (c *Catalog) derive(ctx context.Context, source string, place int, to font.Container) (bucket.Hash, error) {
	recipe := fmt.Sprintf("%s/%d/v%d", to, place, makerVersion)
	if d, err := c.store.DerivedFile(ctx, source, recipe); err == nil {
		return bucket.Hash(d.Hash), nil
	} else if !errors.Is(err, store.ErrNotFound) {
		return "", err
	}
	data, err := c.bucket.Read(ctx, bucket.Hash(source))
	if err != nil {
		return "", err
	}
	opened, err := font.Open(data)
	if err != nil {
		return "", err
	}
	if place < 0 || place >= len(opened.Faces) {
		return "", invalid("place", "no-such-face", "The file holds %d face(s), counted from 0; there is no face %d.", len(opened.Faces), place)
	}
	made, err := font.Make(opened.Faces[place], to)
	if errors.Is(err, font.ErrContainer) {
		return "", invalid("container", "container-impossible", "%s.", err)
	}
	if err != nil {
		return "", err
	}
	hash, err := c.bucket.PutBytes(ctx, made)
	if err != nil {
		return "", err
	}
	return hash, c.store.AddDerived(ctx, &store.Derived{Source: source, Recipe: recipe, Hash: string(hash), Bytes: int64(len(made))})
}
