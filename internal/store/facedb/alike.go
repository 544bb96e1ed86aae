package facedb

import (
	"context"

	"sparecrate/font/identity"
	"sparecrate/internal/store"
)

// Alike is a face that shares cells with another, and where it is.
type Alike struct {
	FileID, FaceID, FamilyID int64
	Place, Shared            int
	SHA256                   string `gorm:"column:sha256"`
	Family, Style, Client    string
	Variable                 bool
}

// Siblings returns the files of one face in a format that a face has beside one of
// its files and that are of the same version, the latest first.
func (s Queries) Siblings(ctx context.Context, hash string, place int, format string) ([]store.File, error) {
	var out []store.File
	err := s.On(ctx).Raw(`SELECT f.* FROM files s JOIN face_files c ON c.file_id = s.id AND c.place = ?
		JOIN face_files o ON o.face_id = c.face_id AND o.removed_at IS NULL AND (o.version = c.version AND o.outcome NOT IN ('conflict', 'set-aside', 'mislabeled') OR c.current AND o.outcome = 'sibling') JOIN files f ON f.id = o.file_id
		WHERE s.sha256 = ? AND f.format = ? AND f.faces = 1 AND f.id <> s.id ORDER BY f.id DESC LIMIT 5`, place, hash, format).Scan(&out).Error
	return out, store.Told(err)
}

// FacesAlike returns the faces of the catalog that share most of some cells, at most so
// many, the nearest first.
func (s Queries) FacesAlike(ctx context.Context, cells []identity.Cell, most int) ([]Alike, error) {
	if len(cells) == 0 {
		return nil, nil
	}
	var out []Alike
	err := s.On(ctx).Raw(`SELECT c.file_id, c.place, c.shared, ff.face_id, fa.family_id, f.sha256, fam.name family, fa.style, cl.name client, fa.variable
		FROM (SELECT file_id, place, COUNT(*) shared FROM print_cells WHERE cell IN ? GROUP BY file_id, place ORDER BY shared DESC, file_id LIMIT ?) c
		JOIN files f ON f.id = c.file_id JOIN face_files ff ON ff.file_id = c.file_id AND ff.place = c.place
		JOIN faces fa ON fa.id = ff.face_id JOIN families fam ON fam.id = fa.family_id JOIN clients cl ON cl.id = fam.client_id
		WHERE fam.status <> ? AND ff.removed_at IS NULL ORDER BY c.shared DESC, c.file_id`, cells, most, store.Deleted).Scan(&out).Error
	return out, store.Told(err)
}

// LargeFaces returns the faces of the catalog with the longest measures, at most so many:
// those of which but a small part of the cells is kept.
func (s Queries) LargeFaces(ctx context.Context, most int) ([]Alike, error) {
	const large = 200_000 // bytes, of about 8,000 characters
	var out []Alike
	err := s.On(ctx).Raw(`SELECT ff.file_id, ff.place, 0 shared, ff.face_id, fa.family_id, f.sha256, fam.name family, fa.style, cl.name client, fa.variable
		FROM prints p JOIN files f ON f.sha256 = p.sha256 JOIN face_files ff ON ff.file_id = f.id AND ff.place = p.place
		JOIN faces fa ON fa.id = ff.face_id JOIN families fam ON fam.id = fa.family_id JOIN clients cl ON cl.id = fam.client_id
		WHERE LENGTH(p.packed) > ? AND fam.status <> ? AND ff.removed_at IS NULL ORDER BY LENGTH(p.packed) DESC, ff.file_id LIMIT ?`, large, store.Deleted, most).Scan(&out).Error
	return out, store.Told(err)
}

// FacesOfBytes returns the faces that a file is of: one of the catalog, or one that was made
// of such a file.
func (s Queries) FacesOfBytes(ctx context.Context, hash string) ([]Alike, error) {
	var out []Alike
	err := s.On(ctx).Raw(`SELECT ff.file_id, ff.place, 0 shared, ff.face_id, fa.family_id, f.sha256, fam.name family, fa.style, cl.name client, fa.variable
		FROM files f JOIN face_files ff ON ff.file_id = f.id
		JOIN faces fa ON fa.id = ff.face_id JOIN families fam ON fam.id = fa.family_id JOIN clients cl ON cl.id = fam.client_id
		WHERE (f.sha256 = @hash OR f.sha256 IN (SELECT source FROM derived WHERE hash = @hash)) AND fam.status <> @deleted AND ff.removed_at IS NULL LIMIT 20`,
		map[string]any{"hash": hash, "deleted": store.Deleted}).Scan(&out).Error
	return out, store.Told(err)
}
