package importdb

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// The states of a import.
const (
	ImportOpen      = "open"
	ImportAccepting = "accepting"
	ImportFinished  = "finished"
	ImportDiscarded = "discarded"
)

// The kinds of things in a import.
const (
	ItemFont     = "font"
	ItemDocument = "document"
	ItemArchive  = "archive"
	ItemLeftOut  = "left-out"
	ItemRefused  = "refused"
)

// AddImport adds a import.
func (s Queries) AddImport(ctx context.Context, d *store.Import) error {
	return store.Told(s.On(ctx).Omit(clause.Associations).Create(d).Error)
}

// Import returns a import; with lock, its row is locked until the transaction ends.
func (s Queries) Import(ctx context.Context, id int64, lock bool) (*store.Import, error) {
	if lock {
		return store.First[store.Import](s.On(ctx).Preload("Client").Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id))
	}
	return store.First[store.Import](s.On(ctx).Joins("Client").Where("imports.id = ?", id))
}

// SharedImport returns a import without its client, with a lock that keeps its
// state as it is until the transaction ends; alone keeps others from reading it so,
// for who wants to change the state.
func (s Queries) SharedImport(ctx context.Context, id int64, alone bool) (*store.Import, error) {
	strength := "SHARE"
	if alone {
		strength = "UPDATE"
	}
	return store.First[store.Import](s.On(ctx).Clauses(clause.Locking{Strength: strength}).Where("id = ?", id))
}

// Imports returns a page of imports, newest first.
func (s Queries) Imports(ctx context.Context, p store.Page) ([]store.Import, error) {
	return store.List[store.Import](p.Newest(s.On(ctx).Preload("Client")))
}

// SetImportState moves a import on.
func (s Queries) SetImportState(ctx context.Context, id int64, state string) error {
	return store.Told(s.On(ctx).Model(&store.Import{}).Where("id = ?", id).
		Updates(map[string]any{"state": state, "moved": gorm.Expr("moved + 1")}).Error)
}

// moved notes that something in a import changed, for those who watch it. What is
// added needs no note: its number is the highest.
func (s Queries) moved(ctx context.Context, imp string, of any) error {
	return store.Told(s.On(ctx).Exec("UPDATE imports SET moved = moved + 1 WHERE id = "+imp, of).Error)
}

const importOfItem = "(SELECT import_id FROM import_items WHERE id = ?)"

// PutImportItem adds a thing, or writes it anew where the import has one at
// its path that is not taken in; it sets the ID. What is taken in stays. known says
// that Meets found none at its path.
func (s Queries) PutImportItem(ctx context.Context, it *store.ImportItem, known bool) error {
	it.Name()
	fresh := clause.Set{}
	// MariaDB sets columns one after the other; taken, which they ask for, is not among them.
	for _, column := range anew {
		fresh = append(fresh, clause.Assignment{Column: clause.Column{Name: column}, Value: gorm.Expr("IF(taken, " + column + ", VALUES(" + column + "))")})
	}
	fresh = append(fresh, clause.Assignment{Column: clause.Column{Name: "id"}, Value: gorm.Expr("LAST_INSERT_ID(id)")})
	r := s.On(ctx).Omit(clause.Associations).Clauses(clause.OnConflict{DoUpdates: fresh}).Create(it)
	if r.Error != nil {
		return store.Told(r.Error)
	}
	if known && r.RowsAffected == 1 {
		return nil // it was added, and is what was written
	}
	if r.RowsAffected != 1 {
		if err := s.moved(ctx, "?", it.ImportID); err != nil {
			return err
		}
	}
	found, err := store.First[store.ImportItem](s.On(ctx).Where("import_id = ? AND path_hash = ?", it.ImportID, it.PathHash))
	if err == nil {
		*it = *found
	}
	return err
}

// anew are the columns that are written when a thing comes again.
var anew = []string{"kind", "why", "sha256", "bytes", "summary", "marked", "unpacked", "packed", "said", "face_key", "faces", "settle"}

// PutInOpen adds a thing of which Meets found none at its path to a import that
// is open, in one statement. It gives false and adds nothing where the import is
// not open any more, or where another came to that path meanwhile.
func (s Queries) PutInOpen(ctx context.Context, it *store.ImportItem) (bool, error) {
	summary, err := json.Marshal(it.Summary)
	if err != nil {
		return false, err
	}
	it.Name()
	r, err := s.On(ctx).Statement.ConnPool.ExecContext(ctx, `INSERT INTO import_items
			(import_id, path, path_hash, kind, why, sha256, bytes, summary, marked, unpacked, said, face_key, faces, taken, origin, family, outcome)
		SELECT id, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, FALSE, '', '', '' FROM imports WHERE id = ? AND state = ? LOCK IN SHARE MODE`,
		it.Path, it.PathHash, it.Kind, it.Why, it.SHA256, it.Bytes, string(summary), it.Marked, it.Unpacked, it.Said, it.FaceKey, it.Faces, it.ImportID, ImportOpen)
	if err = store.Told(err); errors.Is(err, store.ErrTaken) || store.Again(err) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return false, err
	}
	it.ID, err = r.LastInsertId()
	return err == nil, err
}

// UnmarkCopies leaves of the things of a import with the bytes of one only the first
// marked: Meets may not have seen what came at the same time. It is asked once what came
// is committed, so that of two the later one sees both.
func UnmarkCopies(ctx context.Context, in *store.Store, it *store.ImportItem) error {
	s := In(in)
	if it.Kind != ItemFont || !it.Marked || it.Taken {
		return nil
	}
	var marked []int64
	err := s.On(ctx).Model(&store.ImportItem{}).Where("import_id = ? AND sha256 = ? AND kind = ? AND marked AND NOT taken", it.ImportID, it.SHA256, ItemFont).Order("id").Pluck("id", &marked).Error
	if err != nil || len(marked) < 2 {
		return store.Told(err)
	}
	if err := s.On(ctx).Model(&store.ImportItem{}).Where("id IN ? AND NOT taken", marked[1:]).Update("marked", false).Error; err != nil {
		return store.Told(err)
	}
	it.Marked = it.ID == marked[0]
	return s.moved(ctx, "?", it.ImportID)
}

// Meets says what a thing of a client's import meets that is not put into it yet.
func (s Queries) Meets(ctx context.Context, it *store.ImportItem, client int64, family string) (m store.Meeting, err error) {
	err = s.On(ctx).Raw(`SELECT EXISTS (SELECT 1 FROM import_items WHERE import_id = @d AND path_hash = @p) AS there,
		EXISTS (SELECT 1 FROM import_items WHERE import_id = @d AND sha256 = @h AND path_hash <> @p) AS twice,
		EXISTS (SELECT 1 FROM files WHERE sha256 = @h) AS in_catalog,
		EXISTS (SELECT 1 FROM files WHERE sha256 = @h) AND NOT EXISTS (SELECT 1 FROM files f JOIN face_files l ON l.file_id = f.id JOIN faces c ON c.id = l.face_id JOIN families m ON m.id = c.family_id
			WHERE f.sha256 = @h AND m.client_id = @c) AS elsewhere,
		EXISTS (SELECT 1 FROM family_names WHERE client_id = @c AND name = @f)
			OR EXISTS (SELECT 1 FROM families WHERE client_id = @c AND name = @f AND gone = 0) AS named`,
		map[string]any{"d": it.ImportID, "p": store.PathHash(it.Path), "h": it.SHA256, "c": client, "f": family}).Scan(&m).Error
	return m, store.Told(err)
}

// ImportItem returns one thing.
func (s Queries) ImportItem(ctx context.Context, id int64) (*store.ImportItem, error) {
	return store.First[store.ImportItem](s.On(ctx).Preload("Client").Where("id = ?", id))
}

// ImportItems returns a page of a import's things in the order they came, of
// one kind or, where it is empty, of all.
func (s Queries) ImportItems(ctx context.Context, imp int64, kind string, p store.Page) ([]store.ImportItem, error) {
	q := s.On(ctx).Preload("Client").Where("import_id = ? AND id > ?", imp, p.AfterID)
	if kind != "" {
		q = q.Where("kind = ?", kind)
	}
	return store.List[store.ImportItem](q.Order("id").Limit(p.Limit))
}

// Unpacking returns the archives of a import that are not unpacked.
func (s Queries) Unpacking(ctx context.Context, imp int64) ([]store.ImportItem, error) {
	return store.List[store.ImportItem](s.On(ctx).Where("import_id = ? AND kind = ? AND NOT unpacked", imp, ItemArchive).Order("id"))
}

// Unpacked counts what archives have put into a import, and its bytes, but for what
// lies below a path.
func (s Queries) Unpacked(ctx context.Context, imp int64, but string) (things int, bytes int64, err error) {
	var sum struct {
		Things int
		Bytes  int64
	}
	err = s.On(ctx).Raw(`SELECT COUNT(*) AS things, COALESCE(SUM(bytes), 0) AS bytes FROM import_items
		WHERE import_id = ? AND packed AND LEFT(path, CHAR_LENGTH(?)) <> ?`, imp, but, but).Scan(&sum).Error
	return sum.Things, sum.Bytes, store.Told(err)
}

// SetUnpacked says that nothing of an archive is left to unpack, or that it was
// refused and why.
func (s Queries) SetUnpacked(ctx context.Context, id int64, kind, why string) error {
	if err := s.On(ctx).Model(&store.ImportItem{}).Where("id = ?", id).Updates(map[string]any{"unpacked": true, "kind": kind, "why": why}).Error; err != nil {
		return store.Told(err)
	}
	return s.moved(ctx, importOfItem, id)
}

// CountImportItems counts a import's things by kind.
func (s Queries) CountImportItems(ctx context.Context, imp int64) ([]store.ImportCount, error) {
	var rows []store.ImportCount
	err := s.On(ctx).Model(&store.ImportItem{}).Where("import_id = ?", imp).
		Select("kind, COUNT(*) AS count, SUM(marked AND NOT taken) AS marked, SUM(taken) AS taken, SUM(bytes) AS bytes").Group("kind").Scan(&rows).Error
	return rows, store.Told(err)
}

// NewAndLeft counts the fonts of a import that are not marked and whose bytes are not in
// the catalog.
func (s Queries) NewAndLeft(ctx context.Context, imp int64) (int, error) {
	var n int
	err := s.On(ctx).Raw(`SELECT COUNT(*) FROM import_items i WHERE import_id = ? AND kind = ? AND NOT marked AND NOT taken
		AND NOT EXISTS (SELECT 1 FROM files f WHERE f.sha256 = i.sha256)`, imp, ItemFont).Scan(&n).Error
	return n, store.Told(err)
}

// ChangeImportItems changes fonts of a import that are not taken in: those
// given, or all where the list is nil. It says how many that is.
func (s Queries) ChangeImportItems(ctx context.Context, imp int64, items []int64, columns map[string]any) (int64, error) {
	q := s.On(ctx).Model(&store.ImportItem{}).Where("import_id = ? AND kind = ? AND NOT taken", imp, ItemFont)
	if items != nil {
		q = q.Where("id IN ?", items)
	}
	var n int64
	if err := q.Session(&gorm.Session{}).Count(&n).Error; err != nil {
		return 0, store.Told(err)
	}
	if err := q.Updates(columns).Error; err != nil {
		return 0, store.Told(err)
	}
	return n, s.moved(ctx, "?", imp)
}

// TakeImportItem says that a thing is in the catalog.
func (s Queries) TakeImportItem(ctx context.Context, it *store.ImportItem) error {
	err := s.On(ctx).Model(&store.ImportItem{}).Where("id = ?", it.ID).
		Updates(map[string]any{"taken": true, "marked": false, "outcome": it.Outcome, "family_id": it.FamilyID, "why": it.Why}).Error
	if err != nil {
		return store.Told(err)
	}
	return s.moved(ctx, "?", it.ImportID)
}

// RefuseImportItem says why a font is not taken in.
func (s Queries) RefuseImportItem(ctx context.Context, id int64, why string) error {
	err := s.On(ctx).Model(&store.ImportItem{}).Where("id = ?", id).
		Updates(map[string]any{"marked": false, "kind": ItemRefused, "why": why}).Error
	if err != nil {
		return store.Told(err)
	}
	return s.moved(ctx, importOfItem, id)
}

// arrivedAtOnce is how many fonts are looked at in a step for the names they say.
const arrivedAtOnce = 1000

// ArrivedNames returns a page of the families that fonts of a import name, in their
// order, of those that are marked or taken and that nobody gave another family.
func (s Queries) ArrivedNames(ctx context.Context, imp int64, p store.Page) ([]string, error) {
	var out []string
	// The rows lie in the order of the index. Each step starts behind the last name, so
	// that the many fonts of a family are passed over.
	for after := p.AfterName; len(out) < p.Limit; after = out[len(out)-1] {
		var names []struct {
			Said  string
			Fonts int
		}
		err := s.On(ctx).Raw(`SELECT said, COUNT(*) AS fonts FROM (SELECT said FROM import_items FORCE INDEX (by_family)
			WHERE import_id = ? AND kind = 'font' AND said > ? AND family = '' AND (marked OR taken) AND faces = 1 ORDER BY said LIMIT ?) step GROUP BY said ORDER BY said`,
			imp, after, arrivedAtOnce).Scan(&names).Error
		if err != nil {
			return nil, store.Told(err)
		}
		fonts := 0
		for _, n := range names {
			out = append(out, n.Said)
			fonts += n.Fonts
		}
		if fonts < arrivedAtOnce {
			break
		}
	}
	return out[:min(len(out), p.Limit)], nil
}

// ArrivedFaces returns at least one font of each face of the families that fonts name.
func (s Queries) ArrivedFaces(ctx context.Context, imp int64, names []string) ([]store.ImportItem, error) {
	if len(names) == 0 {
		return nil, nil
	}
	// Grouping by all columns of the index needs no table in between.
	return s.arrived(ctx, `SELECT MIN(id) FROM import_items FORCE INDEX (by_family)
		WHERE import_id = ? AND kind = 'font' AND said IN ? AND family = '' AND (marked OR taken) AND faces = 1
		GROUP BY said, face_key, family, marked, taken, faces, client_id LIMIT 5000`, imp, names)
}

// ArrivedOtherwise returns one font of each face of the families that people gave fonts,
// and the fonts of several faces: those that are not found by the name they say.
func (s Queries) ArrivedOtherwise(ctx context.Context, imp int64) ([]store.ImportItem, error) {
	chosen, err := s.arrived(ctx, `SELECT MIN(id) FROM import_items FORCE INDEX (chosen)
		WHERE import_id = ? AND kind = 'font' AND family > '' AND (marked OR taken) AND faces = 1 GROUP BY family, client_id, face_key LIMIT 2000`, imp)
	if err != nil {
		return nil, err
	}
	several, err := s.arrived(ctx, "SELECT id FROM import_items FORCE INDEX (several) WHERE import_id = ? AND kind = 'font' AND faces > 1 AND (marked OR taken) LIMIT 500", imp)
	return append(chosen, several...), err
}

func (s Queries) arrived(ctx context.Context, ids string, values ...any) ([]store.ImportItem, error) {
	var found []int64
	if err := s.On(ctx).Raw(ids, values...).Scan(&found).Error; err != nil || len(found) == 0 {
		return nil, store.Told(err)
	}
	return store.List[store.ImportItem](s.On(ctx).Preload("Client").Where("id IN ?", found).Order("id"))
}

// HeadsByName returns a client's family by name with the heads of its faces.
func (s Queries) HeadsByName(ctx context.Context, client int64, name string) (*store.FamilyHead, error) {
	family, err := store.First[store.Family](s.On(ctx).Select("id, name").Where("client_id = ? AND name = ? AND gone = 0", client, name))
	if err != nil {
		return nil, err
	}
	f := store.FamilyHead{ID: family.ID, Name: family.Name}
	err = s.On(ctx).Raw("SELECT id, face_key, style, slope, weight, variable FROM faces WHERE family_id = ?", f.ID).Scan(&f.Faces).Error
	return &f, store.Told(err)
}

// Crowded says for which faces there may be several fonts of a import.
type Crowded struct {
	faces  map[[2]string]bool // that fonts name: family and key
	chosen map[string]bool    // keys of fonts that somebody gave a family
}

// Is reports whether several fonts may be for the face of a font that goes into a family.
func (c *Crowded) Is(it *store.ImportItem, family string) bool {
	return it.Family != "" || !strings.EqualFold(family, it.Said) || c.chosen[it.FaceKey] || c.faces[[2]string{strings.ToLower(it.Said), it.FaceKey}]
}

// CrowdedFaces says for which faces there may be several fonts of a import.
func (s Queries) CrowdedFaces(ctx context.Context, imp int64) (*Crowded, error) {
	var rows []struct {
		Said, FaceKey string
		Chosen        bool
	}
	err := s.On(ctx).Raw(`SELECT said, face_key, FALSE AS chosen FROM import_items FORCE INDEX (by_family)
			WHERE import_id = ? AND kind = 'font' GROUP BY said, face_key HAVING COUNT(*) > 1
		UNION ALL SELECT DISTINCT '', face_key, TRUE FROM import_items FORCE INDEX (chosen) WHERE import_id = ? AND kind = 'font' AND family > ''`, imp, imp).Scan(&rows).Error
	out := &Crowded{map[[2]string]bool{}, map[string]bool{}}
	for _, r := range rows {
		if r.Chosen {
			out.chosen[r.FaceKey] = true
		} else {
			out.faces[[2]string{strings.ToLower(r.Said), r.FaceKey}] = true
		}
	}
	return out, store.Told(err)
}

// MostOfFace bounds the fonts of a import that are weighed for one face.
const MostOfFace = 150

// MarkedOfFace returns fonts of a import with the key of a face that are marked and that
// name one of some families or were given one.
func (s Queries) MarkedOfFace(ctx context.Context, imp int64, key string, families []string) ([]store.ImportItem, error) {
	return store.List[store.ImportItem](s.On(ctx).Preload("Client").Where("import_id = ? AND kind = ? AND face_key = ? AND marked AND NOT taken", imp, ItemFont, key).
		Where("(family = '' AND said IN ? OR family IN ?)", families, families).Order("id").Limit(MostOfFace))
}
