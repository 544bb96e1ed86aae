package librarydb

import (
	"context"

	"sparecrate/internal/store"
)

// MoveFace puts a face into another family, which has none of its key.
func (s Queries) MoveFace(ctx context.Context, face, family int64) error {
	return store.Told(s.On(ctx).Model(&store.Face{}).Where("id = ?", face).Update("family_id", family).Error)
}

// JoinFaces moves the files of a face to another one, which then is the only one
// of the two.
func (s Queries) JoinFaces(ctx context.Context, from, to int64) error {
	for _, q := range []string{
		"UPDATE face_files SET current = FALSE WHERE face_id = @from",
		"UPDATE IGNORE face_files SET face_id = @to WHERE face_id = @from",
		"DELETE FROM face_files WHERE face_id = @from",
		"UPDATE role_assignments SET face_id = @to WHERE face_id = @from",
		"DELETE FROM faces WHERE id = @from",
	} {
		if err := s.Exec(ctx, q, from, to); err != nil {
			return err
		}
	}
	return nil
}

// ShareUses has what a family is used for hold of another too: the sites it is on,
// the packs it is in, the documents that came with it, and, where licenses is set,
// what licenses allow.
func (s Queries) ShareUses(ctx context.Context, from, to int64, licenses bool) error {
	queries := []string{
		"INSERT IGNORE INTO site_families (site_id, family_id, recipe) SELECT site_id, @to, recipe FROM site_families WHERE family_id = @from",
		"INSERT IGNORE INTO pack_families (pack_id, family_id) SELECT pack_id, @to FROM pack_families WHERE family_id = @from",
		`INSERT IGNORE INTO family_documents (family_id, name, sha256, bytes, added_at, added_by)
			SELECT @to, name, sha256, bytes, added_at, added_by FROM family_documents WHERE family_id = @from`,
	}
	if licenses {
		queries = append(queries, "INSERT IGNORE INTO license_families (license_id, family_id) SELECT license_id, @to FROM license_families WHERE family_id = @from")
	}
	for _, q := range queries {
		if err := s.Exec(ctx, q, from, to); err != nil {
			return err
		}
	}
	return nil
}

// EndFamily takes a family away that has no face any more; what named it names
// another.
func (s Queries) EndFamily(ctx context.Context, id, now int64) error {
	for _, q := range []string{
		"DELETE FROM license_families WHERE family_id = @from",
		"DELETE FROM site_families WHERE family_id = @from",
		"UPDATE role_assignments SET family_id = @to WHERE family_id = @from",
		"UPDATE replacements SET family_id = @to WHERE family_id = @from",
		"DELETE FROM family_documents WHERE family_id = @from",
		"DELETE FROM family_words WHERE family_id = @from",
		"UPDATE IGNORE shortlist_families SET family_id = @to WHERE family_id = @from",
		"DELETE FROM shortlist_families WHERE family_id = @from",
		"UPDATE IGNORE hosted_stylesheets SET family_id = @to WHERE family_id = @from",
		"DELETE FROM hosted_stylesheets WHERE family_id = @from",
		"INSERT IGNORE INTO family_tags (tag, family_id) SELECT tag, @to FROM family_tags WHERE family_id = @from",
		"DELETE FROM family_tags WHERE family_id = @from",
		"DELETE FROM pack_families WHERE family_id = @from",
		"UPDATE sign_offs SET family_id = @to WHERE family_id = @from",
		"UPDATE family_names SET family_id = @to WHERE family_id = @from",
		"UPDATE import_items SET family_id = @to WHERE family_id = @from",
	} {
		if err := s.Exec(ctx, q, id, now); err != nil {
			return err
		}
	}
	return s.Exec(ctx, "DELETE FROM families WHERE id = @from", id, now)
}
