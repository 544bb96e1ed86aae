package licensedb

import (
	"context"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// FamilyDocuments returns the documents that came with a family.
func (s Queries) FamilyDocuments(ctx context.Context, family int64) ([]store.FamilyDocument, error) {
	return store.List[store.FamilyDocument](s.On(ctx).Where("family_id = ?", family).Order("name, id"))
}

// FamilyDocument returns a document that came with a family.
func (s Queries) FamilyDocument(ctx context.Context, id int64) (*store.FamilyDocument, error) {
	return store.First[store.FamilyDocument](s.On(ctx).Where("id = ?", id))
}

// AddFamilyDocuments keeps documents with families; those that are kept already stay.
func (s Queries) AddFamilyDocuments(ctx context.Context, docs []store.FamilyDocument) error {
	if len(docs) == 0 {
		return nil
	}
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(docs, 200).Error)
}
