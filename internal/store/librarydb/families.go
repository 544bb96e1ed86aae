package librarydb

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/font/metadata"
	"sparecrate/internal/store"
)

// ChangeFamily writes what people say of a family, and its tags, if the version
// still stands.
func (s Queries) ChangeFamily(ctx context.Context, f *store.Family) error {
	err := s.Change(ctx, &store.Family{}, f.ID, f.Version, map[string]any{
		"client_id": f.ClientID, "origin": f.Origin, "note": f.Note, "designer": f.Designer, "foundry": f.Foundry,
		"status": f.Status, "status_at": f.StatusAt, "status_by": f.StatusBy, "gone": f.Gone, "changed_at": f.ChangedAt,
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

// FilesReadBefore returns the files whose metadata were read by a core older than a
// version.
func (s Queries) FilesReadBefore(ctx context.Context, version int) ([]store.File, error) {
	return store.List[store.File](s.On(ctx).Where("id IN (SELECT file_id FROM face_files WHERE reader < ?)", version))
}

// SetMetadata writes what the present core read of a face.
func (s Queries) SetMetadata(ctx context.Context, file int64, place int, f *metadata.Face) error {
	links, err := store.List[store.FaceFile](s.On(ctx).Where("file_id = ? AND place = ?", file, place))
	if err != nil {
		return err
	}
	for i := range links {
		l := &links[i]
		l.Metadata, l.Reader = *f, metadata.Version
		l.Record()
		err := s.On(ctx).Model(&store.FaceFile{}).Where("face_id = ? AND file_id = ? AND place = ?", l.FaceID, file, place).
			Select("Metadata", "Reader").Updates(l).Error
		if err != nil {
			return store.Told(err)
		}
	}
	return nil
}

// PurgeRemoved ends files that were removed from their faces before a time, with faces that
// have none any more, and gives the hashes of bytes that nothing names any more.
func (s Queries) PurgeRemoved(ctx context.Context, before time.Time) ([]string, error) {
	var files []store.File
	err := s.On(ctx).Raw("SELECT * FROM files WHERE id IN (SELECT file_id FROM face_files WHERE removed_at < ?) FOR UPDATE", before).Scan(&files).Error
	if err != nil || len(files) == 0 {
		return nil, store.Told(err)
	}
	for _, q := range []string{
		"DELETE FROM face_files WHERE removed_at < ?",
		"DELETE FROM role_assignments WHERE face_id <> 0 AND face_id NOT IN (SELECT face_id FROM face_files) AND ? IS NOT NULL",
		"DELETE FROM faces WHERE id NOT IN (SELECT face_id FROM face_files) AND ? IS NOT NULL",
	} {
		if err := s.On(ctx).Exec(q, before).Error; err != nil {
			return nil, store.Told(err)
		}
	}
	if err := s.Changed(ctx); err != nil {
		return nil, err
	}
	var ids []int64
	for _, f := range files {
		ids = append(ids, f.ID)
	}
	var gone []store.File
	err = s.On(ctx).Raw("SELECT * FROM files WHERE id IN ? AND id NOT IN (SELECT file_id FROM face_files)", ids).Scan(&gone).Error
	if err != nil {
		return nil, store.Told(err)
	}
	hashes, err := s.forgetFiles(ctx, gone)
	if err != nil {
		return nil, err
	}
	return s.unnamed(ctx, hashes)
}

// AddTags marks a family with words, besides those that it is marked with.
func (s Queries) AddTags(ctx context.Context, family int64, tags []string) error {
	rows := make([]store.FamilyTag, len(tags))
	for i, t := range tags {
		rows[i] = store.FamilyTag{Tag: t, FamilyID: family}
	}
	if len(rows) == 0 {
		return nil
	}
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&rows).Error)
}
