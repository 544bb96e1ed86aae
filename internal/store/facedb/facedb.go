// Package facedb holds the statements about the files of faces: which of them are in use,
// who has which, and what became of them.
package facedb

import (
	"context"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
	"sparecrate/internal/store/scope"
)

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// SetStanding writes what a file of a face is beside the others.
func (s Queries) SetStanding(ctx context.Context, f *store.FaceFile) error {
	return store.Told(s.On(ctx).Model(&store.FaceFile{}).Where("face_id = ? AND file_id = ? AND place = ?", f.FaceID, f.FileID, f.Place).
		Select("Current", "Beside", "Sends", "Outcome", "Why", "LooksLike", "Chosen", "ChosenBy", "Preferred", "RemovedAt", "RemovedBy").Updates(f).Error)
}

// SetTogether writes what can be written with all parts of a face, nil where it is one file.
func (s Queries) SetTogether(ctx context.Context, f *store.Face) error {
	return store.Told(s.On(ctx).Model(&store.Face{}).Where("id = ?", f.ID).Select("Together").Updates(&store.Face{Together: f.Together}).Error)
}

// Holders returns the families that have files with some bytes, those of the oldest first.
func (s Queries) Holders(ctx context.Context, hashes []string) ([]store.Holder, error) {
	if len(hashes) == 0 {
		return nil, nil
	}
	var out []store.Holder
	err := s.On(ctx).Raw(`SELECT f.id AS file_id, f.sha256, f.name AS file, l.face_id, l.place, c.family_id, m.name AS family, m.client_id, o.name AS client, m.status,
			l.removed_at IS NOT NULL AS removed
		FROM files f JOIN face_files l ON l.file_id = f.id JOIN faces c ON c.id = l.face_id JOIN families m ON m.id = c.family_id JOIN clients o ON o.id = m.client_id
		WHERE f.sha256 IN ? ORDER BY m.id, l.place`, hashes).Scan(&out).Error
	return out, store.Told(err)
}

// SitesUsing returns the sites that use a family, by name.
func (s Queries) SitesUsing(ctx context.Context, family int64) ([]store.Site, error) {
	return store.List[store.Site](s.On(ctx).Where("id IN (SELECT site_id FROM site_families WHERE family_id = ?)", family).Order("name, id"))
}

// RemovedFiles returns the files that were removed from a face and can be brought back.
func (s Queries) RemovedFiles(ctx context.Context, face int64) ([]store.FaceFile, error) {
	return store.List[store.FaceFile](s.On(ctx).Preload("File").Where("face_id = ? AND removed_at IS NOT NULL", face).Order("file_id"))
}

// MoveFile puts a file of a face with another one, and what was recorded of it.
func (s Queries) MoveFile(ctx context.Context, f *store.FaceFile, to int64) error {
	err := s.On(ctx).Model(&store.FaceFile{}).Where("face_id = ? AND file_id = ? AND place = ?", f.FaceID, f.FileID, f.Place).
		Select("FaceID", "Current", "Beside", "Chosen", "ChosenBy", "Preferred", "AsStyle", "AsWeight", "Metadata").
		Updates(&store.FaceFile{FaceID: to, AsStyle: f.AsStyle, AsWeight: f.AsWeight, Metadata: f.Metadata}).Error
	return store.Told(err)
}

// Drawn is a face of a family with the file in use.
type Drawn struct {
	Style  string
	SHA256 string `gorm:"column:sha256"`
	Place  int
}

// FacesInUse returns the faces of a family but for one, with their files in use.
func (s Queries) FacesInUse(ctx context.Context, family, but int64) ([]Drawn, error) {
	var out []Drawn
	err := s.On(ctx).Raw(`SELECT c.style, f.sha256, c.place FROM faces c JOIN files f ON f.id = c.file_id WHERE c.family_id = ? AND c.id <> ? ORDER BY c.id LIMIT 60`, family, but).Scan(&out).Error
	return out, store.Told(err)
}

// LinksOf returns the files of a face, without what was read of them.
func (s Queries) LinksOf(ctx context.Context, face int64) ([]store.FaceFile, error) {
	return store.List[store.FaceFile](s.On(ctx).Omit("metadata").Preload("File").Where("face_id = ? AND removed_at IS NULL", face).Order("file_id"))
}

// LockedLinks returns the files of a face as they are now, and keeps others from changing
// them until the transaction ends.
func (s Queries) LockedLinks(ctx context.Context, face int64) ([]store.FaceFile, error) {
	return store.List[store.FaceFile](s.On(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Preload("File").
		Where("face_id = ? AND removed_at IS NULL", face).Order("current DESC, beside DESC, file_id DESC, place"))
}

// FileNow finds a file by its bytes' hash as it is now, whoever has it in a family: bytes
// are kept once. ErrNotFound where there is none.
func (s Queries) FileNow(ctx context.Context, hash string) (*store.File, error) {
	return store.First[store.File](s.On(scope.Everything(ctx)).Clauses(clause.Locking{Strength: "SHARE"}).Where("sha256 = ?", hash))
}
