package librarydb

import (
	"context"

	"gorm.io/gorm/clause"

	"sparecrate/font/identity"
	"sparecrate/internal/store"
)

// KeepPrint keeps the measures of a face.
func (s Queries) KeepPrint(ctx context.Context, p *store.Print) error {
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(p).Error)
}

// Print returns the measures of a face; ErrNotFound where they are not kept.
func (s Queries) Print(ctx context.Context, hash string, place int) (*store.Print, error) {
	return store.First[store.Print](s.On(ctx).Where("sha256 = ? AND place = ?", hash, place))
}

// SetCells writes the cells by which a face of a file is found.
func (s Queries) SetCells(ctx context.Context, file int64, place int, cells []identity.Cell) error {
	if err := s.On(ctx).Where("file_id = ? AND place = ?", file, place).Delete(&store.PrintCell{}).Error; err != nil {
		return store.Told(err)
	}
	rows := make([]store.PrintCell, len(cells))
	for i, c := range cells {
		rows[i] = store.PrintCell{Cell: uint32(c), FileID: file, Place: place}
	}
	if len(rows) == 0 {
		return nil
	}
	return store.Told(s.On(ctx).CreateInBatches(rows, 500).Error)
}

// ForgetPrints forgets the measures of files that are neither in the catalog nor waiting to
// be taken in, and the cells of files that are gone.
func (s Queries) ForgetPrints(ctx context.Context) error {
	err := s.On(ctx).Exec(`DELETE FROM prints WHERE NOT EXISTS (SELECT 1 FROM files f WHERE f.sha256 = prints.sha256)
		AND NOT EXISTS (SELECT 1 FROM arrived_facts a WHERE a.sha256 = prints.sha256)`).Error
	if err != nil {
		return store.Told(err)
	}
	return store.Told(s.On(ctx).Exec("DELETE FROM print_cells WHERE NOT EXISTS (SELECT 1 FROM files f WHERE f.id = print_cells.file_id)").Error)
}

// FilesNotMeasured returns the files with a face that this version has not measured.
func (s Queries) FilesNotMeasured(ctx context.Context, version int) ([]store.File, error) {
	return store.List[store.File](s.On(ctx).Where(`id IN (SELECT ff.file_id FROM face_files ff JOIN files f ON f.id = ff.file_id
		LEFT JOIN prints p ON p.sha256 = f.sha256 AND p.place = ff.place AND p.measurer = ? WHERE p.sha256 IS NULL)`, version))
}

// Siblings returns the files of one face in a container that a face has beside one of
// its files and that say the same version, the latest first.
func (s Queries) Siblings(ctx context.Context, hash string, place int, container string) ([]store.File, error) {
	var out []store.File
	err := s.On(ctx).Raw(`SELECT f.* FROM files s JOIN face_files c ON c.file_id = s.id AND c.place = ?
		JOIN face_files o ON o.face_id = c.face_id AND o.version = c.version AND o.removed_at IS NULL AND o.outcome NOT IN ('conflict', 'set-aside', 'mislabeled') JOIN files f ON f.id = o.file_id
		WHERE s.sha256 = ? AND f.container = ? AND f.faces = 1 AND f.id <> s.id ORDER BY f.id DESC LIMIT 5`, place, hash, container).Scan(&out).Error
	return out, store.Told(err)
}

// Alike is a face that shares cells with another, and where it is.
type Alike struct {
	FileID, FaceID, FamilyID int64
	Place, Shared            int
	SHA256                   string `gorm:"column:sha256"`
	Family, Style, Client    string
	Variable                 bool
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
		WHERE fam.shelf <> ? AND ff.removed_at IS NULL ORDER BY c.shared DESC, c.file_id`, cells, most, store.Deleted).Scan(&out).Error
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
		WHERE LENGTH(p.packed) > ? AND fam.shelf <> ? AND ff.removed_at IS NULL ORDER BY LENGTH(p.packed) DESC, ff.file_id LIMIT ?`, large, store.Deleted, most).Scan(&out).Error
	return out, store.Told(err)
}
