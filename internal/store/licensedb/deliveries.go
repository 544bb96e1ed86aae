package licensedb

import (
	"context"

	"gorm.io/gorm/clause"

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

// AddPapers keeps documents with families; those that are kept already stay.
func (s Queries) AddPapers(ctx context.Context, papers []store.Paper) error {
	if len(papers) == 0 {
		return nil
	}
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(papers, 200).Error)
}
