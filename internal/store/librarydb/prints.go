package librarydb

import (
	"context"
	"errors"

	"gorm.io/gorm/clause"

	"sparecrate/font/appearance"
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

// Look returns how a face looks, nil where that is not measured or cannot be.
func (s Queries) Look(ctx context.Context, hash string, place int) (*appearance.Appearance, error) {
	kept, err := store.First[store.Print](s.On(ctx).Select("look").Where("sha256 = ? AND place = ?", hash, place))
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil //nolint:nilnil // not measured yet
	}
	if err != nil {
		return nil, err
	}
	return kept.Look, nil
}

// SetCells writes the cells by which a face of a file is found.
func (s Queries) SetCells(ctx context.Context, file int64, place int, cells []identity.Cell) error {
	// A file that comes in has none. To delete what is not there would lock the place where
	// others, too, are about to write theirs.
	var old int64
	err := s.On(ctx).Model(&store.PrintCell{}).Where("file_id = ? AND place = ?", file, place).Count(&old).Error
	if err == nil && old > 0 {
		err = s.On(ctx).Where("file_id = ? AND place = ?", file, place).Delete(&store.PrintCell{}).Error
	}
	if err != nil {
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
		AND NOT EXISTS (SELECT 1 FROM arrived_metadata a WHERE a.sha256 = prints.sha256)`).Error
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
