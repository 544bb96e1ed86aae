package deliverydb

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// The states of a delivery.
const (
	DeliveryOpen      = "open"
	DeliveryAccepting = "accepting"
	DeliverySettled   = "settled"
	DeliveryDown      = "turned-down"
)

// The kinds of things in a delivery.
const (
	ItemFont    = "font"
	ItemPaper   = "paper"
	ItemArchive = "archive"
	ItemLeftOut = "left-out"
	ItemRefused = "refused"
)

// AddDelivery adds a delivery.
func (s Queries) AddDelivery(ctx context.Context, d *store.Delivery) error {
	return store.Told(s.On(ctx).Omit(clause.Associations).Create(d).Error)
}

// Delivery returns a delivery; with lock, its row is locked until the transaction ends.
func (s Queries) Delivery(ctx context.Context, id int64, lock bool) (*store.Delivery, error) {
	if lock {
		return store.First[store.Delivery](s.On(ctx).Preload("Client").Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id))
	}
	return store.First[store.Delivery](s.On(ctx).Joins("Client").Where("deliveries.id = ?", id))
}

// SharedDelivery returns a delivery without its client, with a lock that keeps its
// state as it is until the transaction ends; alone keeps others from reading it so,
// for who wants to change the state.
func (s Queries) SharedDelivery(ctx context.Context, id int64, alone bool) (*store.Delivery, error) {
	strength := "SHARE"
	if alone {
		strength = "UPDATE"
	}
	return store.First[store.Delivery](s.On(ctx).Clauses(clause.Locking{Strength: strength}).Where("id = ?", id))
}

// Deliveries returns a page of deliveries, newest first.
func (s Queries) Deliveries(ctx context.Context, p store.Page) ([]store.Delivery, error) {
	return store.List[store.Delivery](p.Newest(s.On(ctx).Preload("Client")))
}

// SetDeliveryState moves a delivery on.
func (s Queries) SetDeliveryState(ctx context.Context, id int64, state string) error {
	return store.Told(s.On(ctx).Model(&store.Delivery{}).Where("id = ?", id).
		Updates(map[string]any{"state": state, "moved": gorm.Expr("moved + 1")}).Error)
}

// moved notes that something in a delivery changed, for those who watch it. What is
// added needs no note: its number is the highest.
func (s Queries) moved(ctx context.Context, delivery string, of any) error {
	return store.Told(s.On(ctx).Exec("UPDATE deliveries SET moved = moved + 1 WHERE id = "+delivery, of).Error)
}

const deliveryOfItem = "(SELECT delivery_id FROM delivery_items WHERE id = ?)"

// PutDeliveryItem adds a thing, or writes it anew where the delivery has one at
// its path that is not taken in; it sets the ID. What is taken in stays. known says
// that Meets found none at its path.
func (s Queries) PutDeliveryItem(ctx context.Context, it *store.DeliveryItem, known bool) error {
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
		if err := s.moved(ctx, "?", it.DeliveryID); err != nil {
			return err
		}
	}
	found, err := store.First[store.DeliveryItem](s.On(ctx).Where("delivery_id = ? AND path_hash = ?", it.DeliveryID, it.PathHash))
	if err == nil {
		*it = *found
	}
	return err
}

// anew are the columns that are written when a thing comes again.
var anew = []string{"kind", "why", "sha256", "bytes", "summary", "marked", "unpacked", "packed", "said", "face_key", "faces", "settle"}

// PutInOpen adds a thing of which Meets found none at its path to a delivery that
// is open, in one statement. It gives false and adds nothing where the delivery is
// not open any more, or where another came to that path meanwhile.
func (s Queries) PutInOpen(ctx context.Context, it *store.DeliveryItem) (bool, error) {
	summary, err := json.Marshal(it.Summary)
	if err != nil {
		return false, err
	}
	it.Name()
	r, err := s.On(ctx).Statement.ConnPool.ExecContext(ctx, `INSERT INTO delivery_items
			(delivery_id, path, path_hash, kind, why, sha256, bytes, summary, marked, unpacked, said, face_key, faces, taken, origin, family, outcome)
		SELECT id, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, FALSE, '', '', '' FROM deliveries WHERE id = ? AND state = ? LOCK IN SHARE MODE`,
		it.Path, it.PathHash, it.Kind, it.Why, it.SHA256, it.Bytes, string(summary), it.Marked, it.Unpacked, it.Said, it.FaceKey, it.Faces, it.DeliveryID, DeliveryOpen)
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

// UnmarkCopies leaves of the things of a delivery with the bytes of one only the first
// marked: Meets may not have seen what came at the same time. It is asked once what came
// is committed, so that of two the later one sees both.
func UnmarkCopies(ctx context.Context, in *store.Store, it *store.DeliveryItem) error {
	s := In(in)
	if it.Kind != ItemFont || !it.Marked || it.Taken {
		return nil
	}
	var marked []int64
	err := s.On(ctx).Model(&store.DeliveryItem{}).Where("delivery_id = ? AND sha256 = ? AND kind = ? AND marked AND NOT taken", it.DeliveryID, it.SHA256, ItemFont).Order("id").Pluck("id", &marked).Error
	if err != nil || len(marked) < 2 {
		return store.Told(err)
	}
	if err := s.On(ctx).Model(&store.DeliveryItem{}).Where("id IN ? AND NOT taken", marked[1:]).Update("marked", false).Error; err != nil {
		return store.Told(err)
	}
	it.Marked = it.ID == marked[0]
	return s.moved(ctx, "?", it.DeliveryID)
}

// Meets says what a thing of a client's delivery meets that is not put into it yet.
func (s Queries) Meets(ctx context.Context, it *store.DeliveryItem, client int64, family string) (m store.Meeting, err error) {
	err = s.On(ctx).Raw(`SELECT EXISTS (SELECT 1 FROM delivery_items WHERE delivery_id = @d AND path_hash = @p) AS there,
		EXISTS (SELECT 1 FROM delivery_items WHERE delivery_id = @d AND sha256 = @h AND path_hash <> @p) AS twice,
		EXISTS (SELECT 1 FROM files WHERE sha256 = @h) AS in_catalog,
		EXISTS (SELECT 1 FROM files WHERE sha256 = @h) AND NOT EXISTS (SELECT 1 FROM files f JOIN face_files l ON l.file_id = f.id JOIN faces c ON c.id = l.face_id JOIN families m ON m.id = c.family_id
			WHERE f.sha256 = @h AND m.client_id = @c) AS elsewhere,
		EXISTS (SELECT 1 FROM family_names WHERE client_id = @c AND name = @f)
			OR EXISTS (SELECT 1 FROM families WHERE client_id = @c AND name = @f AND gone = 0) AS named`,
		map[string]any{"d": it.DeliveryID, "p": store.PathHash(it.Path), "h": it.SHA256, "c": client, "f": family}).Scan(&m).Error
	return m, store.Told(err)
}

// DeliveryItem returns one thing.
func (s Queries) DeliveryItem(ctx context.Context, id int64) (*store.DeliveryItem, error) {
	return store.First[store.DeliveryItem](s.On(ctx).Preload("Client").Where("id = ?", id))
}

// DeliveryItems returns a page of a delivery's things in the order they came, of
// one kind or, where it is empty, of all.
func (s Queries) DeliveryItems(ctx context.Context, delivery int64, kind string, p store.Page) ([]store.DeliveryItem, error) {
	q := s.On(ctx).Preload("Client").Where("delivery_id = ? AND id > ?", delivery, p.AfterID)
	if kind != "" {
		q = q.Where("kind = ?", kind)
	}
	return store.List[store.DeliveryItem](q.Order("id").Limit(p.Limit))
}

// Unpacking returns the archives of a delivery that are not unpacked.
func (s Queries) Unpacking(ctx context.Context, delivery int64) ([]store.DeliveryItem, error) {
	return store.List[store.DeliveryItem](s.On(ctx).Where("delivery_id = ? AND kind = ? AND NOT unpacked", delivery, ItemArchive).Order("id"))
}

// Unpacked counts what archives have put into a delivery, and its bytes, but for what
// lies below a path.
func (s Queries) Unpacked(ctx context.Context, delivery int64, but string) (things int, bytes int64, err error) {
	var sum struct {
		Things int
		Bytes  int64
	}
	err = s.On(ctx).Raw(`SELECT COUNT(*) AS things, COALESCE(SUM(bytes), 0) AS bytes FROM delivery_items
		WHERE delivery_id = ? AND packed AND LEFT(path, CHAR_LENGTH(?)) <> ?`, delivery, but, but).Scan(&sum).Error
	return sum.Things, sum.Bytes, store.Told(err)
}

// SetUnpacked says that nothing of an archive is left to unpack, or that it was
// refused and why.
func (s Queries) SetUnpacked(ctx context.Context, id int64, kind, why string) error {
	if err := s.On(ctx).Model(&store.DeliveryItem{}).Where("id = ?", id).Updates(map[string]any{"unpacked": true, "kind": kind, "why": why}).Error; err != nil {
		return store.Told(err)
	}
	return s.moved(ctx, deliveryOfItem, id)
}

// CountDeliveryItems counts a delivery's things by kind.
func (s Queries) CountDeliveryItems(ctx context.Context, delivery int64) ([]store.DeliveryCount, error) {
	var rows []store.DeliveryCount
	err := s.On(ctx).Model(&store.DeliveryItem{}).Where("delivery_id = ?", delivery).
		Select("kind, COUNT(*) AS count, SUM(marked AND NOT taken) AS marked, SUM(taken) AS taken, SUM(bytes) AS bytes").Group("kind").Scan(&rows).Error
	return rows, store.Told(err)
}

// NewAndLeft counts the fonts of a delivery that are not marked and whose bytes are not in
// the catalog.
func (s Queries) NewAndLeft(ctx context.Context, delivery int64) (int, error) {
	var n int
	err := s.On(ctx).Raw(`SELECT COUNT(*) FROM delivery_items i WHERE delivery_id = ? AND kind = ? AND NOT marked AND NOT taken
		AND NOT EXISTS (SELECT 1 FROM files f WHERE f.sha256 = i.sha256)`, delivery, ItemFont).Scan(&n).Error
	return n, store.Told(err)
}

// ChangeDeliveryItems changes fonts of a delivery that are not taken in: those
// given, or all where the list is nil. It says how many that is.
func (s Queries) ChangeDeliveryItems(ctx context.Context, delivery int64, items []int64, columns map[string]any) (int64, error) {
	q := s.On(ctx).Model(&store.DeliveryItem{}).Where("delivery_id = ? AND kind = ? AND NOT taken", delivery, ItemFont)
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
	return n, s.moved(ctx, "?", delivery)
}

// TakeDeliveryItem says that a thing is in the catalog.
func (s Queries) TakeDeliveryItem(ctx context.Context, it *store.DeliveryItem) error {
	err := s.On(ctx).Model(&store.DeliveryItem{}).Where("id = ?", it.ID).
		Updates(map[string]any{"taken": true, "marked": false, "outcome": it.Outcome, "family_id": it.FamilyID, "why": it.Why}).Error
	if err != nil {
		return store.Told(err)
	}
	return s.moved(ctx, "?", it.DeliveryID)
}

// RefuseDeliveryItem says why a font is not taken in.
func (s Queries) RefuseDeliveryItem(ctx context.Context, id int64, why string) error {
	err := s.On(ctx).Model(&store.DeliveryItem{}).Where("id = ?", id).
		Updates(map[string]any{"marked": false, "kind": ItemRefused, "why": why}).Error
	if err != nil {
		return store.Told(err)
	}
	return s.moved(ctx, deliveryOfItem, id)
}

// arrivedAtOnce is how many fonts are looked at in a step for the names they say.
const arrivedAtOnce = 1000

// ArrivedNames returns a page of the families that fonts of a delivery name, in their
// order, of those that are marked or taken and that nobody gave another family.
func (s Queries) ArrivedNames(ctx context.Context, delivery int64, p store.Page) ([]string, error) {
	var out []string
	// The rows lie in the order of the index. Each step starts behind the last name, so
	// that the many fonts of a family are passed over.
	for after := p.AfterName; len(out) < p.Limit; after = out[len(out)-1] {
		var names []struct {
			Said  string
			Fonts int
		}
		err := s.On(ctx).Raw(`SELECT said, COUNT(*) AS fonts FROM (SELECT said FROM delivery_items FORCE INDEX (by_family)
			WHERE delivery_id = ? AND kind = 'font' AND said > ? AND family = '' AND (marked OR taken) AND faces = 1 ORDER BY said LIMIT ?) step GROUP BY said ORDER BY said`,
			delivery, after, arrivedAtOnce).Scan(&names).Error
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
func (s Queries) ArrivedFaces(ctx context.Context, delivery int64, names []string) ([]store.DeliveryItem, error) {
	if len(names) == 0 {
		return nil, nil
	}
	// Grouping by all columns of the index needs no table in between.
	return s.arrived(ctx, `SELECT MIN(id) FROM delivery_items FORCE INDEX (by_family)
		WHERE delivery_id = ? AND kind = 'font' AND said IN ? AND family = '' AND (marked OR taken) AND faces = 1
		GROUP BY said, face_key, family, marked, taken, faces, client_id LIMIT 5000`, delivery, names)
}

// ArrivedOtherwise returns one font of each face of the families that people gave fonts,
// and the fonts of several faces: those that are not found by the name they say.
func (s Queries) ArrivedOtherwise(ctx context.Context, delivery int64) ([]store.DeliveryItem, error) {
	chosen, err := s.arrived(ctx, `SELECT MIN(id) FROM delivery_items FORCE INDEX (chosen)
		WHERE delivery_id = ? AND kind = 'font' AND family > '' AND (marked OR taken) AND faces = 1 GROUP BY family, client_id, face_key LIMIT 2000`, delivery)
	if err != nil {
		return nil, err
	}
	several, err := s.arrived(ctx, "SELECT id FROM delivery_items FORCE INDEX (several) WHERE delivery_id = ? AND kind = 'font' AND faces > 1 AND (marked OR taken) LIMIT 500", delivery)
	return append(chosen, several...), err
}

func (s Queries) arrived(ctx context.Context, ids string, values ...any) ([]store.DeliveryItem, error) {
	var found []int64
	if err := s.On(ctx).Raw(ids, values...).Scan(&found).Error; err != nil || len(found) == 0 {
		return nil, store.Told(err)
	}
	return store.List[store.DeliveryItem](s.On(ctx).Preload("Client").Where("id IN ?", found).Order("id"))
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

// Crowded says for which faces there may be several fonts of a delivery.
type Crowded struct {
	faces  map[[2]string]bool // that fonts name: family and key
	chosen map[string]bool    // keys of fonts that somebody gave a family
}

// Is reports whether several fonts may be for the face of a font that goes into a family.
func (c *Crowded) Is(it *store.DeliveryItem, family string) bool {
	return it.Family != "" || !strings.EqualFold(family, it.Said) || c.chosen[it.FaceKey] || c.faces[[2]string{strings.ToLower(it.Said), it.FaceKey}]
}

// CrowdedFaces says for which faces there may be several fonts of a delivery.
func (s Queries) CrowdedFaces(ctx context.Context, delivery int64) (*Crowded, error) {
	var rows []struct {
		Said, FaceKey string
		Chosen        bool
	}
	err := s.On(ctx).Raw(`SELECT said, face_key, FALSE AS chosen FROM delivery_items FORCE INDEX (by_family)
			WHERE delivery_id = ? AND kind = 'font' GROUP BY said, face_key HAVING COUNT(*) > 1
		UNION ALL SELECT DISTINCT '', face_key, TRUE FROM delivery_items FORCE INDEX (chosen) WHERE delivery_id = ? AND kind = 'font' AND family > ''`, delivery, delivery).Scan(&rows).Error
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

// MostOfFace bounds the fonts of a delivery that are weighed for one face.
const MostOfFace = 150

// MarkedOfFace returns fonts of a delivery with the key of a face that are marked and that
// name one of some families or were given one.
func (s Queries) MarkedOfFace(ctx context.Context, delivery int64, key string, families []string) ([]store.DeliveryItem, error) {
	return store.List[store.DeliveryItem](s.On(ctx).Preload("Client").Where("delivery_id = ? AND kind = ? AND face_key = ? AND marked AND NOT taken", delivery, ItemFont, key).
		Where("(family = '' AND said IN ? OR family IN ?)", families, families).Order("id").Limit(MostOfFace))
}
