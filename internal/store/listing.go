package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm/clause"
)

// Listing is what lists and search know of a face, out of the file of it that
// packs take.
type Listing struct {
	FileID               int64
	Place                int
	Container            string
	Containers           string // of all its files, each between commas
	WeightMin, WeightMax int    // the same but for a variable weight
	WidthMin, WidthMax   float64
	Variable, Color      bool
	Permission           string
	Sample               string
	TraitSet             int64 // a number that TraitSet gave
	FullName             string
	Bearing              int64 // number of what verdicts need of it, which Bearing gave; 0 where an older version listed it
}

// SetListing writes what lists know of a face.
func (s *Store) SetListing(ctx context.Context, face int64, l Listing) error {
	return told(s.db.WithContext(ctx).Model(&Face{}).Where("id = ?", face).Select("FileID", "Place", "Container", "Containers", "WeightMin", "WeightMax",
		"WidthMin", "WidthMax", "Variable", "Color", "Permission", "Sample", "TraitSet", "FullName", "Bearing").Updates(&Face{Listing: l}).Error)
}

// TraitSet gives the number of a set of traits. Most faces share their set with
// others, so each set is kept once.
func (s *Store) TraitSet(ctx context.Context, traits []string) (int64, error) {
	traits = slices.Clone(traits)
	slices.Sort(traits)
	traits = slices.Compact(traits)
	sum := sha256.Sum256([]byte(strings.Join(traits, "\n")))
	hash := hex.EncodeToString(sum[:])
	var id int64
	look := func(tx *Store, lock string) error {
		return told(tx.db.WithContext(ctx).Raw("SELECT id FROM trait_sets WHERE hash = ?"+lock, hash).Scan(&id).Error)
	}
	if err := look(s, ""); err != nil || id != 0 {
		return id, err
	}
	err := s.Tx(ctx, func(tx *Store) error {
		if err := tx.db.WithContext(ctx).Exec("INSERT IGNORE INTO trait_sets (hash) VALUES (?)", hash).Error; err != nil {
			return told(err)
		}
		// A read with a lock sees also what somebody else kept since this transaction began.
		if err := look(tx, " LOCK IN SHARE MODE"); err != nil || len(traits) == 0 {
			return err
		}
		rows := make([]struct {
			Trait string
			SetID int64
		}, len(traits))
		for i, t := range traits {
			rows[i].Trait, rows[i].SetID = t, id
		}
		return told(tx.db.WithContext(ctx).Clauses(clause.Insert{Modifier: "IGNORE"}).Table("set_traits").CreateInBatches(rows, 500).Error)
	})
	return id, err
}

// AddWords adds words to the vocabulary; those that are there stay.
func (s *Store) AddWords(ctx context.Context, words []string) error {
	type word struct{ Word string }
	rows := make([]word, len(words))
	for i, w := range words {
		rows[i].Word = w
	}
	if len(rows) == 0 {
		return nil
	}
	return told(s.db.WithContext(ctx).Clauses(clause.Insert{Modifier: "IGNORE"}).Table("words").Create(&rows).Error)
}

// WordsLike gives the words of the vocabulary that begin with one text or hold
// another.
func (s *Store) WordsLike(ctx context.Context, begins, holds string) ([]string, error) {
	var words []string
	err := s.db.WithContext(ctx).Raw("SELECT word FROM words WHERE word LIKE ? OR word LIKE ? ORDER BY word",
		likeEscape.Replace(begins)+"%", "%"+likeEscape.Replace(holds)+"%").Scan(&words).Error
	return words, told(err)
}

// WordBegins reports whether a word of the vocabulary begins with this.
func (s *Store) WordBegins(ctx context.Context, with string) (bool, error) {
	var n int
	err := s.db.WithContext(ctx).Raw("SELECT EXISTS (SELECT 1 FROM words WHERE word LIKE ?)", likeEscape.Replace(with)+"%").Scan(&n).Error
	return n > 0, told(err)
}

type familyWord struct {
	Word     string
	FamilyID int64
}

// AddFamilyWords adds words by which a family is found.
func (s *Store) AddFamilyWords(ctx context.Context, family int64, words []string) error {
	if len(words) == 0 {
		return nil
	}
	rows := make([]familyWord, len(words))
	for i, w := range words {
		rows[i] = familyWord{w, family}
	}
	return told(s.db.WithContext(ctx).Clauses(clause.Insert{Modifier: "IGNORE"}).Table("family_words").Create(&rows).Error)
}

// SetFamilyWords writes all words by which a family is found.
func (s *Store) SetFamilyWords(ctx context.Context, family int64, words []string) error {
	if err := s.db.WithContext(ctx).Exec("DELETE FROM family_words WHERE family_id = ?", family).Error; err != nil {
		return told(err)
	}
	return s.AddFamilyWords(ctx, family, words)
}

// Recount has a family know how many faces it has, that it changed, and which
// version of the catalog listed it.
func (s *Store) Recount(ctx context.Context, family int64, at time.Time, indexer int) error {
	return told(s.db.WithContext(ctx).Exec(`UPDATE families SET face_count = (SELECT COUNT(*) FROM faces WHERE family_id = families.id),
		changed_at = ?, indexer = ? WHERE id = ?`, at, indexer, family).Error)
}

// ListedBefore gives the numbers of families that an older version of the catalog
// listed, at most n.
func (s *Store) ListedBefore(ctx context.Context, indexer, n int) ([]int64, error) {
	var ids []int64
	err := s.db.WithContext(ctx).Model(&Family{}).Where("indexer < ?", indexer).Order("id").Limit(n).Pluck("id", &ids).Error
	return ids, told(err)
}
