package store

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"
)

// Query says which families are looked for. What is left empty does not matter;
// of several values of one kind, any will do.
type Query struct {
	Words    []Word // each must be met
	Name     string // those that begin with it come first when sorted by SortBest
	Clients  []int64
	Origins  []string
	Tags     []string // each must be there
	Licenses []LicenseState
	Day      time.Time // the day that license states are judged on
	Used     *bool     // on a site
	Shelf    Shelf     // InCatalog where empty
	Only     []int64   // nil for all
	Face     FaceQuery
	Sort     Sort
}

// Word is met by a family that has a word beginning with Begins, or else one of Any.
type Word struct {
	Begins string
	Any    []string
}

// FaceQuery is what one face of a family must meet as a whole.
type FaceQuery struct {
	Permissions, Containers, Slopes []string
	WeightMin, WeightMax            int // 0 for no limit
	WidthMin, WidthMax              float64
	Variable, Color                 *bool
	Traits                          [][]string // of each list one

	sets [][]int64 // the sets that hold one of each list of traits
}

// LicenseState is how a family stands with its licenses.
type LicenseState string

// The states: no license; one in force; one in force that ends within thirty
// days; some, but none in force; in force without a document that proves it.
const (
	Unlicensed LicenseState = "none"
	InForce    LicenseState = "in-force"
	Ending     LicenseState = "ending"
	Lapsed     LicenseState = "lapsed"
	Unproven   LicenseState = "unproven"
)

// EndingDays is how long before its end a license is said to be ending.
const EndingDays = 30

// Sort is the order of a list of families.
type Sort string

// The orders: by name; what begins with the words first, then by name; last added
// first; last changed first; most faces first.
const (
	SortName    Sort = "name"
	SortBest    Sort = "best"
	SortNewest  Sort = "newest"
	SortChanged Sort = "changed"
	SortFaces   Sort = "faces"
)

var likeEscape = strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`)

// where is a list of conditions of SQL, all of which must hold, with their values.
type where struct {
	all    []string
	values []any
}

func (w *where) and(condition string, values ...any) {
	w.all = append(w.all, condition)
	w.values = append(w.values, values...)
}

func (w *where) String() string { return strings.Join(w.all, " AND ") }

const (
	inForce   = "(l.begins IS NULL OR l.begins <= ?) AND (l.ends IS NULL OR l.ends >= ?)"
	licensing = "SELECT 1 FROM license_families lf JOIN licenses l ON l.id = lf.license_id WHERE lf.family_id = f.id"
)

// resolve finds the sets that hold the traits asked for: far fewer than faces, so
// that the database looks for a number in a list instead of joining.
func (s *Store) resolve(ctx context.Context, q *FaceQuery) error {
	if len(q.sets) == len(q.Traits) {
		return nil
	}
	for _, traits := range q.Traits {
		ids := []int64{}
		err := s.db.WithContext(ctx).Raw("SELECT DISTINCT set_id FROM set_traits WHERE trait IN ? ORDER BY set_id", traits).Scan(&ids).Error
		if err != nil {
			return told(err)
		}
		q.sets = append(q.sets, ids)
	}
	return nil
}

// someFace is the condition that a face of a family f meets all of w. Written as a
// value, it is looked at family by family in the order of the list, which ends as
// soon as a page is full; as EXISTS the database would first gather all faces.
func someFace(w *where, forPage bool) string {
	if forPage {
		return "(SELECT 1 FROM faces c WHERE c.family_id = f.id AND " + w.String() + " LIMIT 1) IS NOT NULL"
	}
	return "EXISTS (SELECT 1 FROM faces c WHERE c.family_id = f.id AND " + w.String() + ")"
}

// conditions are those of the query on a family f.
func (q *Query) conditions(forPage bool) *where {
	w := &where{}
	shelf := q.Shelf
	if shelf == "" {
		shelf = InCatalog
	}
	w.and("f.shelf = ?", shelf)
	for _, word := range q.Words {
		if word.Any != nil {
			w.and("f.id IN (SELECT family_id FROM family_words WHERE word IN ?)", word.Any)
		} else {
			w.and("f.id IN (SELECT family_id FROM family_words WHERE word LIKE ?)", likeEscape.Replace(word.Begins)+"%")
		}
	}
	if q.Clients != nil {
		w.and("f.client_id IN ?", q.Clients)
	}
	if q.Origins != nil {
		w.and("f.origin IN ?", q.Origins)
	}
	for _, t := range q.Tags {
		w.and("EXISTS (SELECT 1 FROM family_tags t WHERE t.family_id = f.id AND t.tag = ?)", t)
	}
	switch {
	case q.Only != nil && len(q.Only) == 0:
		w.and("FALSE")
	case q.Only != nil:
		w.and("f.id IN ?", q.Only)
	}
	if q.Used != nil {
		used := "EXISTS (SELECT 1 FROM site_families s WHERE s.family_id = f.id)"
		if !*q.Used {
			used = "NOT " + used
		}
		w.and(used)
	}
	q.licensed(w)
	if face := q.Face.conditions(); len(face.all) > 0 {
		w.and(someFace(face, forPage), face.values...)
	}
	return w
}

// licensed adds the states of licenses.
func (q *Query) licensed(w *where) {
	var any where
	has, force := "EXISTS ("+licensing+")", "EXISTS ("+licensing+" AND "+inForce+")"
	for _, state := range q.Licenses {
		switch state {
		case Unlicensed:
			any.and("NOT " + has)
		case InForce:
			any.and(force, q.Day, q.Day)
		case Ending:
			any.and("EXISTS ("+licensing+" AND "+inForce+" AND l.ends <= ?)", q.Day, q.Day, q.Day.AddDate(0, 0, EndingDays))
		case Lapsed:
			any.and("("+has+" AND NOT "+force+")", q.Day, q.Day)
		case Unproven:
			any.and("("+force+" AND NOT EXISTS ("+licensing+" AND "+inForce+" AND EXISTS (SELECT 1 FROM documents d WHERE d.license_id = l.id)))", q.Day, q.Day, q.Day, q.Day)
		}
	}
	if len(any.all) > 0 {
		w.and("("+strings.Join(any.all, " OR ")+")", any.values...)
	}
}

// conditions are those on a face c.
func (q *FaceQuery) conditions() *where {
	w := &where{}
	if q.Permissions != nil {
		w.and("c.permission IN ?", q.Permissions)
	}
	if q.Slopes != nil {
		w.and("c.slope IN ?", q.Slopes)
	}
	if len(q.Containers) > 0 {
		var any where
		for _, k := range q.Containers {
			any.and("c.containers LIKE ?", "%,"+k+",%")
		}
		w.and("("+strings.Join(any.all, " OR ")+")", any.values...)
	}
	if q.WeightMin > 0 {
		w.and("c.weight_max >= ?", q.WeightMin)
	}
	if q.WeightMax > 0 {
		w.and("c.weight_min <= ?", q.WeightMax)
	}
	if q.WidthMin > 0 {
		w.and("c.width_max >= ?", q.WidthMin)
	}
	if q.WidthMax > 0 {
		w.and("c.width_min <= ?", q.WidthMax)
	}
	if q.Variable != nil {
		w.and("c.variable = ?", *q.Variable)
	}
	if q.Color != nil {
		w.and("c.color = ?", *q.Color)
	}
	for _, sets := range q.sets {
		if len(sets) == 0 {
			w.and("FALSE")
			continue
		}
		w.and("c.trait_set IN ?", sets)
	}
	return w
}

// Found is a family in a list.
type Found struct {
	ID, ClientID             int64
	ClientName, Name, Origin string
	Designer, Foundry        string
	Shelf                    Shelf
	Licenses, Sites          int         // how many cover it, how many use it
	Faces                    []FoundFace `gorm:"-"`
	SortValue                string      // by which the next page is found
}

// FoundFace is a face in a list.
type FoundFace struct {
	ID, FamilyID int64
	Style        string
	Weight       int
	Slope        string
	Listing      Listing `gorm:"embedded"`
	Meets        bool    // meets what was asked of faces
}

// order gives the expression a list is sorted by, whether from the largest, and
// the values in it.
func (q *Query) order() (by string, descending bool, values []any) {
	switch q.Sort {
	case SortNewest:
		return "f.id", true, nil
	case SortChanged:
		return "f.changed_at", true, nil
	case SortFaces:
		return "f.face_count", true, nil
	case SortBest:
		return "CONCAT(IF(f.name LIKE ?, '0', '1'), f.name)", false, []any{likeEscape.Replace(q.Name) + "%"}
	}
	return "f.name", false, nil
}

// Search gives a page of families with what lists show of them. Page.AfterName
// is the SortValue of the last one before it.
func (s *Store) Search(ctx context.Context, q *Query, p Page) ([]Found, error) {
	if err := s.resolve(ctx, &q.Face); err != nil {
		return nil, err
	}
	w := q.conditions(true)
	by, down, values := q.order()
	turn, way := ">", ""
	if down {
		turn, way = "<", " DESC"
	}
	if p.AfterID != 0 {
		if by == "f.id" {
			w.and("f.id "+turn+" ?", p.AfterID)
		} else {
			w.and("("+by+", f.id) "+turn+" (?, ?)", append(append([]any{}, values...), p.AfterName, p.AfterID)...)
		}
	}
	var found []Found
	query := fmt.Sprintf(`SELECT f.id, f.client_id, f.name, f.origin, f.designer, f.foundry, f.shelf,
		k.name AS client_name, CAST(%s AS CHAR) AS sort_value,
		(SELECT COUNT(*) FROM license_families n WHERE n.family_id = f.id) AS licenses,
		(SELECT COUNT(*) FROM site_families n WHERE n.family_id = f.id) AS sites
		FROM (SELECT f.id FROM families f WHERE %s ORDER BY %s%s, f.id%s LIMIT %d) page
		JOIN families f ON f.id = page.id JOIN clients k ON k.id = f.client_id ORDER BY %s%s, f.id%s`,
		by, w, by, way, way, p.Limit, by, way, way)
	all := append(append(append(append([]any{}, values...), w.values...), values...), values...)
	if err := s.db.WithContext(ctx).Raw(query, all...).Scan(&found).Error; err != nil {
		return nil, told(err)
	}
	return found, s.preview(ctx, found, &q.Face)
}

// preview adds the faces of found families.
func (s *Store) preview(ctx context.Context, found []Found, q *FaceQuery) error {
	if len(found) == 0 {
		return nil
	}
	at := make(map[int64]int, len(found))
	ids := make([]int64, len(found))
	for i, f := range found {
		at[f.ID], ids[i] = i, f.ID
	}
	w := q.conditions()
	meets := "TRUE"
	if len(w.all) > 0 {
		meets = w.String()
	}
	var faces []FoundFace
	err := s.db.WithContext(ctx).Raw(`SELECT c.id, c.family_id, c.style, c.weight, c.slope, c.file_id, c.place, c.container, c.containers, c.variable, c.color,
		c.weight_min, c.weight_max, c.width_min, c.width_max, c.permission, c.sample, (`+meets+`) AS meets
		FROM faces c WHERE c.family_id IN ? ORDER BY c.width, c.weight, c.slope DESC, c.id`, append(append([]any{}, w.values...), ids)...).Scan(&faces).Error
	for _, f := range faces {
		i := at[f.FamilyID]
		found[i].Faces = append(found[i].Faces, f)
	}
	return told(err)
}

// Count counts the families that a query finds.
func (s *Store) Count(ctx context.Context, q *Query) (int, error) {
	if err := s.resolve(ctx, &q.Face); err != nil {
		return 0, err
	}
	w := q.conditions(false)
	var n int
	err := s.db.WithContext(ctx).Raw("SELECT COUNT(*) FROM families f WHERE "+w.String(), w.values...).Scan(&n).Error
	return n, told(err)
}

// Tags gives all tags in use, with how many families carry each.
func (s *Store) Tags(ctx context.Context) ([]TagCount, error) {
	return list[TagCount](s.db.WithContext(ctx).Table("family_tags t").Select("t.tag, COUNT(*) AS families").
		Joins("JOIN families f ON f.id = t.family_id AND f.shelf = ?", InCatalog).Group("t.tag").Order("t.tag"))
}

// TagCount is a tag and how many families carry it.
type TagCount struct {
	Tag      string
	Families int
}

// Traits gives the traits of a kind that some face has, without the kind.
func (s *Store) Traits(ctx context.Context, kind string) ([]string, error) {
	var all []string
	err := s.db.WithContext(ctx).Raw("SELECT DISTINCT SUBSTRING(trait, ?) FROM set_traits WHERE trait LIKE ? ORDER BY 1",
		strconv.Itoa(len(kind)+2), likeEscape.Replace(kind)+":%").Scan(&all).Error
	return all, told(err)
}

// SavedSearch is a query that a person keeps under a name.
type SavedSearch struct {
	ID, PersonID int64
	Person       Person
	Name, Query  string
	Shared       bool
	CreatedAt    time.Time
}

// TableName is what the table is called.
func (SavedSearch) TableName() string { return "searches" }

// Searches gives a person's own saved searches and those others share, by name.
func (s *Store) Searches(ctx context.Context, person int64) ([]SavedSearch, error) {
	return list[SavedSearch](s.db.WithContext(ctx).Preload("Person").Where("person_id = ? OR shared", person).Order("name, id").Limit(500))
}

// SaveSearch keeps a search; ErrTaken where the person has one of that name.
func (s *Store) SaveSearch(ctx context.Context, q *SavedSearch) error { return add(s, ctx, q) }

// DropSearch ends a person's own saved search.
func (s *Store) DropSearch(ctx context.Context, person, id int64) error {
	r := s.db.WithContext(ctx).Where("id = ? AND person_id = ?", id, person).Delete(&SavedSearch{})
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrNotFound
	}
	return told(r.Error)
}
