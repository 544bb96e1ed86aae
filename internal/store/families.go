package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/font/facts"
)

// Family is a font family of one client.
type Family struct {
	ID, ClientID       int64
	Name, Origin, Note string
	Designer, Foundry  string
	Shelf              Shelf      `gorm:"default:catalog"`
	ShelfAt            *time.Time // when it was put there
	ShelfBy            string     // who did
	Gone               int64      // its own number once deleted, so that its name is free
	FaceCount          int
	Version            int
	Indexer            int // catalog's version of what lists and search know of it
	CreatedAt          time.Time
	ChangedAt          time.Time
	Client             Client
	Faces              []Face
	Tags               []FamilyTag
}

// Shelf is where a family is kept: in the catalog, set aside, or on its way out.
type Shelf string

// The shelves.
const (
	InCatalog Shelf = "catalog"
	Retired   Shelf = "retired"
	Deleted   Shelf = "deleted"
)

// FamilyTag is a word a family is marked with.
type FamilyTag struct {
	Tag      string `gorm:"primaryKey"`
	FamilyID int64  `gorm:"primaryKey"`
}

// Face is one design of a family, or one variable font.
type Face struct {
	ID, FamilyID int64
	FaceKey      string // what makes it the same face when it comes again
	Style        string
	Width        float64
	Weight       int
	Slope        string
	Files        []FaceFile
	Listing      Listing `gorm:"embedded"`
}

// Current returns the file of a face that packs take, nil where there is none.
func (f *Face) Current() *FaceFile {
	for i := range f.Files {
		if f.Files[i].Current {
			return &f.Files[i]
		}
	}
	return nil
}

// File is one container's bytes; the bytes themselves are in the bucket.
type File struct {
	ID        int64
	SHA256    string `gorm:"column:sha256"`
	Bytes     int64
	Container string
	Faces     int // how many it holds
	Name      string
	AddedAt   time.Time
	AddedBy   string
}

// FaceFile says that a file holds a face, at a place (0 but in collections).
type FaceFile struct {
	FaceID, FileID int64
	Place          int
	Version        string
	Current        bool
	Facts          facts.Face `gorm:"serializer:json"`
	Reader         int        // facts.Version of the core that read them
	File           File
}

// Derived is a file made from another: by which recipe, and what came out.
type Derived struct {
	Source, Recipe string
	Hash           string
	Bytes          int64
	Told           string // what came of it, as JSON; empty for another container
}

// TableName keeps GORM from looking for a plural.
func (Derived) TableName() string { return "derived" }

// whole loads a family with all that belongs to it, faces in the order of
// width, weight and slope, files newest first.
func whole(q *gorm.DB) *gorm.DB {
	return q.Preload("Client").
		Preload("Tags", func(q *gorm.DB) *gorm.DB { return q.Order("tag") }).
		Preload("Faces", func(q *gorm.DB) *gorm.DB { return q.Order("width, weight, slope DESC, id") }).
		Preload("Faces.Files", func(q *gorm.DB) *gorm.DB { return q.Order("current DESC, file_id DESC, place") }).
		Preload("Faces.Files.File")
}

// Family gives a family with its faces and files.
func (s *Store) Family(ctx context.Context, id int64) (*Family, error) {
	return first[Family](whole(s.db.WithContext(ctx)).Where("families.id = ?", id))
}

// WholeFamilies gives families with their faces and files, by name; ErrNotFound
// where one is not there.
func (s *Store) WholeFamilies(ctx context.Context, ids []int64) ([]Family, error) {
	found, err := list[Family](whole(s.db.WithContext(ctx)).Where("families.id IN ?", ids).Order("families.name, families.id"))
	if err == nil && len(found) < len(ids) {
		err = ErrNotFound
	}
	return found, err
}

// FamilyByName finds a client's family by name; the row is locked until the
// transaction ends. With no client it finds the only family of that name.
func (s *Store) FamilyByName(ctx context.Context, client int64, name string) (*Family, error) {
	return first[Family](s.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).
		Where("client_id = ? AND name = ? AND gone = 0", client, name))
}

// AddFamily adds a family; ErrTaken where the client has one of that name.
func (s *Store) AddFamily(ctx context.Context, f *Family) error {
	return told(s.db.WithContext(ctx).Omit(clause.Associations).Create(f).Error)
}

// ChangeFamily writes what people say of a family, and its tags, if the version
// still stands.
func (s *Store) ChangeFamily(ctx context.Context, f *Family) error {
	err := s.change(ctx, &Family{}, f.ID, f.Version, map[string]any{
		"client_id": f.ClientID, "origin": f.Origin, "note": f.Note, "designer": f.Designer, "foundry": f.Foundry,
		"shelf": f.Shelf, "shelf_at": f.ShelfAt, "shelf_by": f.ShelfBy, "gone": f.Gone, "changed_at": f.ChangedAt,
	})
	if err != nil {
		return err
	}
	if err := s.db.WithContext(ctx).Where("family_id = ?", f.ID).Delete(&FamilyTag{}).Error; err != nil || len(f.Tags) == 0 {
		return err
	}
	return told(s.db.WithContext(ctx).Create(&f.Tags).Error)
}

// SetMakers writes a family's designer and foundry.
func (s *Store) SetMakers(ctx context.Context, f *Family) error {
	return told(s.db.WithContext(ctx).Model(&Family{}).Where("id = ?", f.ID).Updates(map[string]any{"designer": f.Designer, "foundry": f.Foundry}).Error)
}

// SetOrigin says where a family came from.
func (s *Store) SetOrigin(ctx context.Context, family int64, origin string) error {
	return told(s.db.WithContext(ctx).Model(&Family{}).Where("id = ?", family).Update("origin", origin).Error)
}

// FaceByKey finds a face of a family by what makes it the same.
func (s *Store) FaceByKey(ctx context.Context, family int64, key string) (*Face, error) {
	return first[Face](s.db.WithContext(ctx).Preload("Files.File").Where("family_id = ? AND face_key = ?", family, key))
}

// Face gives a face with its files.
func (s *Store) Face(ctx context.Context, id int64) (*Face, error) {
	return first[Face](s.db.WithContext(ctx).Preload("Files.File").Where("id = ?", id))
}

// AddFace adds a face.
func (s *Store) AddFace(ctx context.Context, f *Face) error {
	return told(s.db.WithContext(ctx).Omit(clause.Associations).Create(f).Error)
}

// FileByHash finds a file by its bytes' hash.
func (s *Store) FileByHash(ctx context.Context, sha256 string) (*File, error) {
	return first[File](s.db.WithContext(ctx).Where("sha256 = ?", sha256))
}

// File gives a file by its number.
func (s *Store) File(ctx context.Context, id int64) (*File, error) {
	return first[File](s.db.WithContext(ctx).Where("id = ?", id))
}

// FamilyOfFile gives the family a file's first face belongs to.
func (s *Store) FamilyOfFile(ctx context.Context, file int64) (*Family, error) {
	return first[Family](s.db.WithContext(ctx).Preload("Client").Joins("JOIN faces ON faces.family_id = families.id").
		Joins("JOIN face_files ON face_files.face_id = faces.id").Where("face_files.file_id = ?", file).Limit(1))
}

// FamiliesOfFile gives the numbers of all families that a file has faces of.
func (s *Store) FamiliesOfFile(ctx context.Context, file int64) ([]int64, error) {
	var ids []int64
	err := s.db.WithContext(ctx).Model(&Face{}).Distinct("family_id").Where("id IN (SELECT face_id FROM face_files WHERE file_id = ?)", file).
		Order("family_id").Pluck("family_id", &ids).Error
	return ids, told(err)
}

// AddFile adds a file; ErrTaken where the same bytes are there.
func (s *Store) AddFile(ctx context.Context, f *File) error { return add(s, ctx, f) }

// AddFaceFile says that a file holds a face.
func (s *Store) AddFaceFile(ctx context.Context, f *FaceFile) error {
	return told(s.db.WithContext(ctx).Omit(clause.Associations).Create(f).Error)
}

// SetCurrent makes one file the current one of a face.
func (s *Store) SetCurrent(ctx context.Context, face, file int64) error {
	return s.db.WithContext(ctx).Model(&FaceFile{}).Where("face_id = ?", face).
		Update("current", gorm.Expr("file_id = ?", file)).Error
}

// DerivedFile finds what a recipe made from a source.
func (s *Store) DerivedFile(ctx context.Context, source, recipe string) (*Derived, error) {
	return first[Derived](s.db.WithContext(ctx).Where("source = ? AND recipe = ?", source, recipe))
}

// DerivedOf gives all that was made from some sources.
func (s *Store) DerivedOf(ctx context.Context, sources []string) ([]Derived, error) {
	return list[Derived](s.db.WithContext(ctx).Where("source IN ?", sources))
}

// DerivedByHash finds what was made from a source by what came out.
func (s *Store) DerivedByHash(ctx context.Context, source, hash string) (*Derived, error) {
	return first[Derived](s.db.WithContext(ctx).Where("source = ? AND hash = ?", source, hash))
}

// FilesReadBefore gives the files whose facts were read by a core older than a
// version.
func (s *Store) FilesReadBefore(ctx context.Context, version int) ([]File, error) {
	return list[File](s.db.WithContext(ctx).Where("id IN (SELECT file_id FROM face_files WHERE reader < ?)", version))
}

// SetFacts writes what the present core read of a face.
func (s *Store) SetFacts(ctx context.Context, file int64, place int, f *facts.Face) error {
	return s.db.WithContext(ctx).Model(&FaceFile{}).Where("file_id = ? AND place = ?", file, place).
		Select("Facts", "Reader").Updates(&FaceFile{Facts: *f, Reader: facts.Version}).Error
}

// AddDerived keeps what was made; where another process was first, its result stands.
func (s *Store) AddDerived(ctx context.Context, d *Derived) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(d).Error
}
