package finddb

import (
	"context"

	"sparecrate/internal/store"
)

// LookedAt is a face of a family in the catalog with what is measured of it.
type LookedAt struct {
	FaceID, FamilyID int64
	Style            string
	Weight           int
	Slope            string
	SHA256           string `gorm:"column:sha256"`
	Place            int
	Look             store.Look `gorm:"embedded"`
}

const lookedAt = `SELECT c.id AS face_id, c.family_id, c.style, c.weight, c.slope, x.sha256, c.place, c.kind, c.serifs, c.stem, c.contrast, c.x_height,
	c.letter_width, c.roundness, c.slant FROM faces c JOIN files x ON x.id = c.file_id `

// Representative returns the measured face that stands for a family: upright, of a weight
// next to 400, of a width next to 100 %. It returns ErrNotFound where none is measured.
func (s Queries) Representative(ctx context.Context, family int64) (*LookedAt, error) {
	found, err := s.lookedAt(ctx, lookedAt+`WHERE c.family_id = ? AND c.kind <> ''
		ORDER BY c.slope <> 'upright', ABS(c.weight - 400), ABS(c.width - 100), c.id LIMIT 1`, family)
	if err != nil || len(found) == 0 {
		return nil, firstOf(err, store.ErrNotFound)
	}
	return &found[0], nil
}

func firstOf(err, otherwise error) error {
	if err != nil {
		return err
	}
	return otherwise
}

// LooksNear returns the faces of other active families that are measured nearest to a look,
// at most n. The distance is that of package appearance, but for the kind.
func (s Queries) LooksNear(ctx context.Context, family int64, l *store.Look, n int) ([]LookedAt, error) {
	return s.lookedAt(ctx, lookedAt+`JOIN families f ON f.id = c.family_id AND f.status = ? WHERE c.kind <> '' AND c.family_id <> ?
		ORDER BY POW((c.stem - ?) / 5, 2) + POW(LN(c.contrast / ?) / 0.35, 2) + POW((c.x_height - ?) / 6, 2) + POW((c.letter_width - ?) / 14, 2)
			+ POW((c.roundness - ?) / 16, 2) + POW((c.slant - ?) / 6, 2) + POW((c.serifs - ?) / 0.45, 2), c.id LIMIT ?`,
		store.Active, family, l.Stem, max(l.Contrast, 1), l.XHeight, l.LetterWidth, l.Roundness, l.Slant, l.Serifs, n)
}

// LooksBeside returns upright faces of other active families whose small letters are about as
// tall, at most n of each kind: those next to weight 400 first.
func (s Queries) LooksBeside(ctx context.Context, family int64, l *store.Look, n int) ([]LookedAt, error) {
	var out []LookedAt
	kinds := []string{}
	if err := s.On(ctx).Raw("SELECT DISTINCT kind FROM faces WHERE kind <> ''").Scan(&kinds).Error; err != nil {
		return nil, store.Told(err)
	}
	for _, kind := range kinds {
		found, err := s.lookedAt(ctx, lookedAt+`JOIN families f ON f.id = c.family_id AND f.status = ?
			WHERE c.kind = ? AND c.x_height BETWEEN ? AND ? AND c.slope = 'upright' AND c.family_id <> ?
			ORDER BY ROUND(ABS(c.x_height - ?) / 2), ABS(c.weight - 400), c.id LIMIT ?`,
			store.Active, kind, l.XHeight-nearXHeight, l.XHeight+nearXHeight, family, l.XHeight, n)
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

// nearXHeight is how far x-heights of a pair may lie apart, in percent of the cap height.
const nearXHeight = 12

func (s Queries) lookedAt(ctx context.Context, query string, values ...any) ([]LookedAt, error) {
	var found []LookedAt
	err := s.On(ctx).Raw(query, values...).Scan(&found).Error
	return found, store.Told(err)
}

// FamiliesOf returns families of the catalog as lists show them, in the order of ids.
func (s Queries) FamiliesOf(ctx context.Context, ids []int64) ([]store.Found, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	found, err := s.Search(ctx, &Query{Only: ids, Sort: SortName}, store.Page{Limit: len(ids)})
	if err != nil {
		return nil, err
	}
	at := map[int64]store.Found{}
	for _, f := range found {
		at[f.ID] = f
	}
	out := make([]store.Found, 0, len(ids))
	for _, id := range ids {
		if f, ok := at[id]; ok {
			out = append(out, f)
		}
	}
	return out, nil
}
