package licensedb

import (
	"context"

	"sparecrate/internal/store"
)

// Papers returns the documents that came with a family.
func (s Queries) Papers(ctx context.Context, family int64) ([]store.Paper, error) {
	return store.List[store.Paper](s.On(ctx).Where("family_id = ?", family).Order("name, id"))
}

// Paper returns a document that came with a family.
func (s Queries) Paper(ctx context.Context, id int64) (*store.Paper, error) {
	return store.First[store.Paper](s.On(ctx).Where("id = ?", id))
}
