package librarydb

import (
	"context"
	"time"

	"gorm.io/gorm"

	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
)

// DeletedBefore returns the numbers of families deleted before a time.
func (s Queries) DeletedBefore(ctx context.Context, at time.Time) ([]int64, error) {
	var ids []int64
	err := s.On(ctx).Model(&store.Family{}).Where("status = ? AND status_at < ?", store.Deleted, at).Order("id").Pluck("id", &ids).Error
	return ids, store.Told(err)
}

// PurgeFamily ends a family with its faces, and with its files and what was made
// of them where no other family has them. It gives the hashes of bytes that nothing
// names any more. Packs that hold the family still say so.
func (s Queries) PurgeFamily(ctx context.Context, id int64) (free []string, err error) {
	var f store.Family
	if err := s.On(ctx).Raw("SELECT * FROM families WHERE id = ? FOR UPDATE", id).Scan(&f).Error; err != nil {
		return nil, store.Told(err)
	}
	if f.Status != store.Deleted {
		return nil, nil // brought back, or ended by another process
	}
	var files []store.File
	err = s.On(ctx).Raw(`SELECT * FROM files WHERE id IN (SELECT l.file_id FROM face_files l JOIN faces c ON c.id = l.face_id WHERE c.family_id = ?)
		AND id NOT IN (SELECT l.file_id FROM face_files l JOIN faces c ON c.id = l.face_id WHERE c.family_id <> ?)`, id, id).Scan(&files).Error
	if err != nil {
		return nil, store.Told(err)
	}
	if err := s.Changed(ctx); err != nil {
		return nil, err
	}
	if free, err = s.forgetFamily(ctx, id, files); err != nil {
		return nil, err
	}
	return s.unnamed(ctx, free)
}

// forgetFamily takes the records away and gives the hashes they named.
func (s Queries) forgetFamily(ctx context.Context, id int64, files []store.File) (hashes []string, err error) {
	if err := s.On(ctx).Model(&store.FamilyDocument{}).Where("family_id = ?", id).Pluck("sha256", &hashes).Error; err != nil {
		return nil, store.Told(err)
	}
	queries := []string{
		"DELETE FROM face_files WHERE face_id IN (SELECT id FROM faces WHERE family_id = @from)",
		"DELETE FROM faces WHERE family_id = @from",
		"DELETE FROM license_families WHERE family_id = @from",
		"DELETE FROM site_families WHERE family_id = @from",
		"DELETE FROM role_assignments WHERE family_id = @from",
		"DELETE FROM replacements WHERE family_id = @from",
		"DELETE FROM sign_offs WHERE family_id = @from",
		"DELETE FROM family_documents WHERE family_id = @from",
		"DELETE FROM family_words WHERE family_id = @from",
		"DELETE FROM family_tags WHERE family_id = @from",
		"DELETE FROM hosted_stylesheets WHERE family_id = @from",
		"DELETE FROM shortlist_families WHERE family_id = @from",
		"DELETE FROM family_names WHERE family_id = @from",
		"UPDATE import_items SET family_id = NULL WHERE family_id = @from",
		"DELETE FROM families WHERE id = @from",
	}
	for _, q := range queries {
		if err := s.Exec(ctx, q, id, 0); err != nil {
			return nil, err
		}
	}
	made, err := s.forgetFiles(ctx, files)
	return append(hashes, made...), err
}

// forgetFiles takes the records of files away, and gives the hashes of their bytes and of
// what was made of them.
func (s Queries) forgetFiles(ctx context.Context, files []store.File) (hashes []string, err error) {
	for _, f := range files {
		made, err := familydb.In(s.Store).DerivedOf(ctx, []string{f.SHA256})
		if err != nil {
			return nil, err
		}
		for _, d := range made {
			hashes = append(hashes, d.Hash)
		}
		hashes = append(hashes, f.SHA256)
		if err := s.On(ctx).Exec("DELETE FROM derived WHERE source = ?", f.SHA256).Error; err != nil {
			return nil, store.Told(err)
		}
		if err := s.On(ctx).Exec("DELETE FROM pack_files WHERE file_id = ?", f.ID).Error; err != nil {
			return nil, store.Told(err)
		}
		if err := s.On(ctx).Exec("DELETE FROM files WHERE id = ?", f.ID).Error; err != nil {
			return nil, store.Told(err)
		}
	}
	return hashes, nil
}

// unnamed returns those of some hashes that no record names.
func (s Queries) unnamed(ctx context.Context, hashes []string) ([]string, error) {
	var out []string
	for _, h := range hashes {
		var n int
		err := s.On(ctx).Raw(`SELECT (SELECT COUNT(*) FROM files WHERE sha256 = @h) + (SELECT COUNT(*) FROM derived WHERE hash = @h)
			+ (SELECT COUNT(*) FROM documents WHERE sha256 = @h) + (SELECT COUNT(*) FROM family_documents WHERE sha256 = @h)
			+ (SELECT COUNT(*) FROM packs WHERE sha256 = @h) + (SELECT COUNT(*) FROM import_items WHERE sha256 = @h)`, map[string]any{"h": h}).Scan(&n).Error
		if err != nil {
			return nil, store.Told(err)
		}
		if n == 0 {
			out = append(out, h)
		}
	}
	return out, nil
}

// SetAsideWith retires the families of a client that are in the catalog, because it is closed, or
// puts those back that were. It gives their numbers.
func (s Queries) SetAsideWith(ctx context.Context, client int64, closed bool, at time.Time, by string) ([]int64, error) {
	from, to, marked := store.Active, store.Retired, false
	if !closed {
		from, to, marked = store.Retired, store.Active, true
	}
	var ids []int64
	where := s.On(ctx).Model(&store.Family{}).Where("client_id = ? AND status = ? AND closed = ?", client, from, marked)
	if err := where.Order("id").Pluck("id", &ids).Error; err != nil || len(ids) == 0 {
		return ids, store.Told(err)
	}
	err := s.On(ctx).Model(&store.Family{}).Where("id IN ?", ids).
		Updates(map[string]any{"status": to, "closed": closed, "status_at": at, "status_by": by, "version": gorm.Expr("version + 1"), "changed_at": at}).Error
	return ids, store.Told(err)
}
