package finddb

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"sparecrate/internal/store"
)

// Query says which families are looked for. What is left empty does not matter;
// of several values of one kind, any will do.
type Query struct {
	Words    []store.Word // each must be met
	Name     string       // those that begin with it come first when sorted by SortBest
	Clients  []int64
	Origins  []string
	Tags     []string // each must be there
	Licenses []store.LicenseState
	Day      time.Time    // the day that license states are judged on
	Used     *bool        // on a site
	Status   store.Status // InCatalog where empty
	Only     []int64      // nil for all
	Face     FaceQuery
	Sort     store.Sort
}

// FaceQuery is what one face of a family must meet as a whole.
type FaceQuery struct {
	Permissions, Formats, Slopes []string
	WeightMin, WeightMax         int // 0 for no limit
	WidthMin, WidthMax           float64
	Variable, Color              *bool
	Kinds                        []string // as package appearance names them
	Looks                        []Measure
	Traits                       [][]string // of each list one

	sets [][]int64 // the sets that hold one of each list of traits
}

// Measure bounds one measure of package appearance; a limit that is nil does not matter.
type Measure struct {
	Of        Measured
	Low, High *float64
}

// Measured is a measure that faces are searched by.
type Measured string

// The measures, by the columns that hold them.
const (
	Stem        Measured = "c.stem"
	Contrast    Measured = "c.contrast"
	XHeight     Measured = "c.x_height"
	LetterWidth Measured = "c.letter_width"
	Roundness   Measured = "c.roundness"
	Slant       Measured = "c.slant"
)

// The states: no license; one in force; one in force that ends within thirty
// days; some, but none in force; in force without a document that proves it.
const (
	Unlicensed store.LicenseState = "none"
	InForce    store.LicenseState = "in-force"
	Ending     store.LicenseState = "ending"
	Lapsed     store.LicenseState = "lapsed"
	Unproven   store.LicenseState = "unproven"
)

// EndingDays is how long before its end a license is said to be ending.
const EndingDays = 30

// The orders: by name; what begins with the words first, then by name; last added
// first; last changed first; most faces first.
const (
	SortName    store.Sort = "name"
	SortBest    store.Sort = "best"
	SortNewest  store.Sort = "newest"
	SortChanged store.Sort = "changed"
	SortFaces   store.Sort = "faces"
)

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
func (s Queries) resolve(ctx context.Context, q *FaceQuery) error {
	if len(q.sets) == len(q.Traits) {
		return nil
	}
	for _, traits := range q.Traits {
		ids := []int64{}
		err := s.On(ctx).Raw("SELECT DISTINCT set_id FROM set_traits WHERE trait IN ? ORDER BY set_id", traits).Scan(&ids).Error
		if err != nil {
			return store.Told(err)
		}
		q.sets = append(q.sets, ids)
	}
	return nil
}

// someFace is the condition that a face of a family f meets all of w. Written as a
// value, it is looked at family by family in the order of the list, which ends as
// soon as a page is full; as EXISTS the database would first gather all faces.
func someFace(w *where, forPage bool) string {
	w.and("c.file_id <> 0") // it has files
	if forPage {
		return "(SELECT 1 FROM faces c WHERE c.family_id = f.id AND " + w.String() + " LIMIT 1) IS NOT NULL"
	}
	return "EXISTS (SELECT 1 FROM faces c WHERE c.family_id = f.id AND " + w.String() + ")"
}

// conditions are those of the query on a family f.
func (q *Query) conditions(forPage bool) *where {
	w := q.familyConditions()
	if face := q.Face.conditions(); len(face.all) > 0 {
		w.and(someFace(face, forPage), face.values...)
	}
	return w
}

// familyConditions are those on the family f itself.
func (q *Query) familyConditions() *where {
	w := &where{}
	switch q.Status {
	case "":
		w.and("f.status = ?", store.Active)
	case store.AnyStatus:
		w.and("TRUE")
	default:
		w.and("f.status = ?", q.Status)
	}
	for _, word := range q.Words {
		if word.Any != nil {
			w.and("f.id IN (SELECT family_id FROM family_words WHERE word IN ?)", word.Any)
		} else {
			w.and("f.id IN (SELECT family_id FROM family_words WHERE word LIKE ?)", store.LikeEscape.Replace(word.Begins)+"%")
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
	if len(q.Formats) > 0 {
		var any where
		for _, k := range q.Formats {
			any.and("FIND_IN_SET(?, c.formats) > 0", k)
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
	if q.Kinds != nil {
		w.and("c.kind IN ?", q.Kinds)
	}
	for _, m := range q.Looks {
		w.and("c.kind <> ''") // it is measured
		if m.Low != nil {
			w.and(string(m.Of)+" >= ?", *m.Low)
		}
		if m.High != nil {
			w.and(string(m.Of)+" <= ?", *m.High)
		}
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

// order returns the expression a list is sorted by, whether from the largest, and
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
		return "CONCAT(IF(f.name LIKE ?, '0', '1'), f.name)", false, []any{store.LikeEscape.Replace(q.Name) + "%"}
	}
	return "f.name", false, nil
}

// Search returns a page of families with what lists show of them. Page.AfterName
// is the SortValue of the last one before it.
func (s Queries) Search(ctx context.Context, q *Query, p store.Page) ([]store.Found, error) {
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
	var found []store.Found
	query := fmt.Sprintf(`SELECT f.id, f.client_id, f.name, f.origin, f.designer, f.foundry, f.status,
		k.name AS client_name, CAST(%s AS CHAR) AS sort_value,
		(SELECT COUNT(*) FROM license_families n WHERE n.family_id = f.id) AS licenses,
		(SELECT COUNT(*) FROM site_families n WHERE n.family_id = f.id) AS sites,
		(SELECT COUNT(*) FROM faces c JOIN face_files l ON l.face_id = c.id WHERE c.family_id = f.id AND `+store.Unsettled+`) AS unsettled
		FROM (SELECT f.id FROM families f WHERE %s ORDER BY %s%s, f.id%s LIMIT %d) page
		JOIN families f ON f.id = page.id JOIN clients k ON k.id = f.client_id ORDER BY %s%s, f.id%s`,
		by, w, by, way, way, p.Limit, by, way, way)
	all := append(append(append(append([]any{}, values...), w.values...), values...), values...)
	if err := s.On(ctx).Raw(query, all...).Scan(&found).Error; err != nil {
		return nil, store.Told(err)
	}
	return found, s.preview(ctx, found, &q.Face)
}

// preview adds the faces of found families.
func (s Queries) preview(ctx context.Context, found []store.Found, q *FaceQuery) error {
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
	var faces []store.FoundFace
	err := s.On(ctx).Raw(`SELECT c.id, c.family_id, c.style, c.weight, c.width, c.slope, c.file_id, c.place, c.format, c.formats, c.variable, c.color,
		c.weight_min, c.weight_max, c.width_min, c.width_max, c.permission, c.sample, c.together IS NOT NULL AS parts, (`+meets+`) AS meets
		FROM faces c WHERE c.file_id <> 0 AND c.family_id IN ? ORDER BY c.width, c.weight, c.slope DESC, c.id`, append(append([]any{}, w.values...), ids)...).Scan(&faces).Error
	for _, f := range faces {
		i := at[f.FamilyID]
		found[i].Faces = append(found[i].Faces, f)
	}
	return store.Told(err)
}

// Count counts the families that a query finds.
func (s Queries) Count(ctx context.Context, q *Query) (int, error) {
	if err := s.resolve(ctx, &q.Face); err != nil {
		return 0, err
	}
	w := q.conditions(false)
	var n int
	err := s.On(ctx).Raw("SELECT COUNT(*) FROM families f WHERE "+w.String(), w.values...).Scan(&n).Error
	return n, store.Told(err)
}

// Tags returns all tags in use, with how many families carry each.
func (s Queries) Tags(ctx context.Context) ([]store.TagCount, error) {
	return store.List[store.TagCount](s.On(ctx).Table("family_tags t").Select("t.tag, COUNT(*) AS families").
		Joins("JOIN families f ON f.id = t.family_id AND f.status = ?", store.Active).Group("t.tag").Order("t.tag"))
}

// Traits returns the traits of a kind that some face has, without the kind.
func (s Queries) Traits(ctx context.Context, kind string) ([]string, error) {
	var all []string
	err := s.On(ctx).Raw("SELECT DISTINCT SUBSTRING(trait, ?) FROM set_traits WHERE trait LIKE ? ORDER BY 1",
		strconv.Itoa(len(kind)+2), store.LikeEscape.Replace(kind)+":%").Scan(&all).Error
	return all, store.Told(err)
}

// Searches returns a person's own saved searches and those others share, by name.
func (s Queries) Searches(ctx context.Context, person int64) ([]store.SavedSearch, error) {
	return store.List[store.SavedSearch](s.On(ctx).Preload("Person").Where("person_id = ? OR shared", person).Order("name, id").Limit(500))
}

// SaveSearch keeps a search; ErrTaken where the person has one of that name.
func (s Queries) SaveSearch(ctx context.Context, q *store.SavedSearch) error {
	return store.Add(ctx, s.Store, q)
}

// DeleteSearch ends a person's own saved search.
func (s Queries) DeleteSearch(ctx context.Context, person, id int64) error {
	r := s.On(ctx).Where("id = ? AND person_id = ?", id, person).Delete(&store.SavedSearch{})
	if r.Error == nil && r.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return store.Told(r.Error)
}
