package familydb

import (
	"context"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// whole loads a family with all that belongs to it, faces in the order of
// width, weight and slope, files newest first.
func whole(q *gorm.DB) *gorm.DB {
	return with(q, func(q *gorm.DB) *gorm.DB { return q })
}

// with loads a family with some of its faces.
func with(q *gorm.DB, some func(faces *gorm.DB) *gorm.DB) *gorm.DB {
	return q.Preload("Client").
		Preload("Tags", func(q *gorm.DB) *gorm.DB { return q.Order("tag") }).
		Preload("Faces", func(q *gorm.DB) *gorm.DB { return some(q).Order("width, weight, slope DESC, id") }).
		Preload("Faces.Files", func(q *gorm.DB) *gorm.DB { return kept(q).Order("current DESC, beside DESC, file_id DESC, place") }).
		Preload("Faces.Files.File")
}

// kept leaves out files that were removed.
func kept(q *gorm.DB) *gorm.DB { return q.Where("removed_at IS NULL") }

// Family returns a family with its faces and files.
func (s Queries) Family(ctx context.Context, id int64) (*store.Family, error) {
	return store.First[store.Family](whole(s.On(ctx)).Where("families.id = ?", id))
}

// WholeFamilies returns families with their faces and files, by name; ErrNotFound
// where one is not there.
func (s Queries) WholeFamilies(ctx context.Context, ids []int64) ([]store.Family, error) {
	found, err := store.List[store.Family](whole(s.On(ctx)).Where("families.id IN ?", ids).Order("families.name, families.id"))
	if err == nil && len(found) < len(ids) {
		err = store.ErrNotFound
	}
	return found, err
}

// FamiliesWith returns families with some of their faces and the files of these, by name;
// ErrNotFound where a family is not there.
func FamiliesWith(ctx context.Context, s *store.Store, ids, faces []int64) ([]store.Family, error) {
	q := with(s.On(ctx), func(q *gorm.DB) *gorm.DB { return q.Where("id IN ?", faces) })
	found, err := store.List[store.Family](q.Where("families.id IN ?", ids).Order("families.name, families.id"))
	if err == nil && len(found) < len(ids) {
		err = store.ErrNotFound
	}
	return found, err
}

// FamilyByName finds a client's family by name; the row is locked until the
// transaction ends. With no client it finds the only family of that name.
func (s Queries) FamilyByName(ctx context.Context, client int64, name string) (*store.Family, error) {
	return store.First[store.Family](s.On(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).
		Where("client_id = ? AND name = ? AND gone = 0", client, name))
}

// AddFamily adds a family; ErrTaken where the client has one of that name.
func (s Queries) AddFamily(ctx context.Context, f *store.Family) error {
	return store.Told(s.On(ctx).Omit(clause.Associations).Create(f).Error)
}

// SetOrigin says where a family came from.
func (s Queries) SetOrigin(ctx context.Context, family int64, origin string) error {
	return store.Told(s.On(ctx).Model(&store.Family{}).Where("id = ?", family).Update("origin", origin).Error)
}

// FaceByKey finds a face of a family by what makes it the same.
func (s Queries) FaceByKey(ctx context.Context, family int64, key string) (*store.Face, error) {
	return store.First[store.Face](s.On(ctx).Preload("Files", kept).Preload("Files.File").Where("family_id = ? AND face_key = ?", family, key))
}

// Face returns a face with its files.
func (s Queries) Face(ctx context.Context, id int64) (*store.Face, error) {
	return store.First[store.Face](s.On(ctx).Preload("Files", kept).Preload("Files.File").Where("id = ?", id))
}

// AddFace adds a face.
func (s Queries) AddFace(ctx context.Context, f *store.Face) error {
	return store.Told(s.On(ctx).Omit(clause.Associations).Create(f).Error)
}

// File returns a file by its number.
func (s Queries) File(ctx context.Context, id int64) (*store.File, error) {
	return store.First[store.File](s.On(ctx).Where("id = ?", id))
}

// FamiliesWithFile returns the numbers of the families that have a file, those of the oldest
// first; deleted ones are left out.
func (s Queries) FamiliesWithFile(ctx context.Context, file int64) ([]int64, error) {
	var ids []int64
	err := s.On(ctx).Raw(`SELECT DISTINCT m.id FROM families m JOIN faces c ON c.family_id = m.id JOIN face_files l ON l.face_id = c.id
		WHERE l.file_id = ? AND l.removed_at IS NULL AND m.status <> ? ORDER BY m.id`, file, store.Deleted).Scan(&ids).Error
	return ids, store.Told(err)
}

// AddFile adds a file; ErrTaken where the same bytes are there.
func (s Queries) AddFile(ctx context.Context, f *store.File) error { return store.Add(ctx, s.Store, f) }

// AddFaceFile says that a file holds a face.
func (s Queries) AddFaceFile(ctx context.Context, f *store.FaceFile) error {
	return store.Told(s.On(ctx).Omit(clause.Associations).Create(f).Error)
}

// DerivedFile finds what a recipe made from a source.
func (s Queries) DerivedFile(ctx context.Context, source, recipe string) (*store.Derived, error) {
	return store.First[store.Derived](s.On(ctx).Where("source = ? AND recipe = ?", source, recipe))
}

// DerivedOf returns all that was made from some sources.
func (s Queries) DerivedOf(ctx context.Context, sources []string) ([]store.Derived, error) {
	return store.List[store.Derived](s.On(ctx).Where("source IN ?", sources))
}

// DerivedByHash finds what was made from a source by what came out.
func (s Queries) DerivedByHash(ctx context.Context, source, hash string) (*store.Derived, error) {
	return store.First[store.Derived](s.On(ctx).Where("source = ? AND hash = ?", source, hash))
}

// AddDerived keeps what was made; where another process was first, its result stands.
func (s Queries) AddDerived(ctx context.Context, d *store.Derived) error {
	return s.On(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(d).Error
}

// FamiliesFor returns the IDs of the families that a client has, uses on a site or has a
// license of, by name.
func FamiliesFor(ctx context.Context, in *store.Store, client int64) ([]int64, error) {
	var ids []int64
	err := In(in).On(ctx).Raw(`SELECT id FROM families WHERE gone = 0 AND (client_id = @c
		OR id IN (SELECT f.family_id FROM site_families f JOIN sites s ON s.id = f.site_id WHERE s.client_id = @c)
		OR id IN (SELECT f.family_id FROM license_families f JOIN licenses l ON l.id = f.license_id WHERE l.granted_to_id = @c)) ORDER BY name, id`,
		map[string]any{"c": client}).Scan(&ids).Error
	return ids, store.Told(err)
}

// SetDerived keeps what stands for what was made; it takes the place of what was made before.
func (s Queries) SetDerived(ctx context.Context, d *store.Derived) error {
	return s.On(ctx).Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"hash", "bytes", "told"})}).Create(d).Error
}

// ForgetMade forgets what was made of a file by a recipe, also what the transaction has not
// seen yet.
func (s Queries) ForgetMade(ctx context.Context, source, recipe string) error {
	return store.Told(s.On(ctx).Exec("DELETE FROM derived WHERE source = ? AND recipe = ?", source, recipe).Error)
}

// familyName says that fonts of a client which name one family belong to another.
type familyName struct {
	ClientID int64
	Name     string
	FamilyID int64
}

// TableName keeps GORM from guessing.
func (familyName) TableName() string { return "family_names" }

// RememberFamily says that fonts of a client which name a family go into
// another, when they come again too.
func (s Queries) RememberFamily(ctx context.Context, client int64, name string, family int64) error {
	return store.Told(s.On(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&familyName{client, name, family}).Error)
}

// RememberedFamily returns the family that fonts of a client which name one go
// into; ErrNotFound where it is the one they name.
func (s Queries) RememberedFamily(ctx context.Context, client int64, name string) (*store.Family, error) {
	return store.First[store.Family](s.On(ctx).Joins("JOIN family_names ON family_names.family_id = families.id").
		Where("family_names.client_id = ? AND family_names.name = ? AND families.gone = 0", client, name))
}
