package librarydb

import (
	"context"

	"sparecrate/font/facts"
	"sparecrate/internal/store"
)

// ChangeFamily writes what people say of a family, and its tags, if the version
// still stands.
func (s Queries) ChangeFamily(ctx context.Context, f *store.Family) error {
	err := s.Change(ctx, &store.Family{}, f.ID, f.Version, map[string]any{
		"client_id": f.ClientID, "origin": f.Origin, "note": f.Note, "designer": f.Designer, "foundry": f.Foundry,
		"shelf": f.Shelf, "shelf_at": f.ShelfAt, "shelf_by": f.ShelfBy, "gone": f.Gone, "changed_at": f.ChangedAt,
	})
	if err != nil {
		return err
	}
	if err := s.On(ctx).Where("family_id = ?", f.ID).Delete(&store.FamilyTag{}).Error; err != nil || len(f.Tags) == 0 {
		return err
	}
	return store.Told(s.On(ctx).Create(&f.Tags).Error)
}

// SetMakers writes a family's designer and foundry.
func (s Queries) SetMakers(ctx context.Context, f *store.Family) error {
	return store.Told(s.On(ctx).Model(&store.Family{}).Where("id = ?", f.ID).Updates(map[string]any{"designer": f.Designer, "foundry": f.Foundry}).Error)
}

// FamiliesOfFile returns the numbers of all families that a file has faces of.
func (s Queries) FamiliesOfFile(ctx context.Context, file int64) ([]int64, error) {
	var ids []int64
	err := s.On(ctx).Model(&store.Face{}).Distinct("family_id").Where("id IN (SELECT face_id FROM face_files WHERE file_id = ?)", file).
		Order("family_id").Pluck("family_id", &ids).Error
	return ids, store.Told(err)
}

// FilesReadBefore returns the files whose facts were read by a core older than a
// version.
func (s Queries) FilesReadBefore(ctx context.Context, version int) ([]store.File, error) {
	return store.List[store.File](s.On(ctx).Where("id IN (SELECT file_id FROM face_files WHERE reader < ?)", version))
}

// SetFacts writes what the present core read of a face.
func (s Queries) SetFacts(ctx context.Context, file int64, place int, f *facts.Face) error {
	return s.On(ctx).Model(&store.FaceFile{}).Where("file_id = ? AND place = ?", file, place).
		Select("Facts", "Reader").Updates(&store.FaceFile{Facts: *f, Reader: facts.Version}).Error
}
