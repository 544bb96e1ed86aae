package familydb

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm/clause"

	"sparecrate/internal/store"
)

// SetListing writes what lists know of a face.
func (s Queries) SetListing(ctx context.Context, face int64, l store.Listing) error {
	return store.Told(s.On(ctx).Model(&store.Face{}).Where("id = ?", face).Select("FileID", "Place", "Format", "Formats", "Supplied", "WeightMin", "WeightMax",
		"WidthMin", "WidthMax", "Variable", "Color", "Permission", "Sample", "TraitSet", "FullName", "Bearing",
		"Kind", "Serifs", "Stem", "Contrast", "XHeight", "LetterWidth", "Roundness", "Slant").Updates(&store.Face{Listing: l}).Error)
}

// TraitSet returns the number of a set of traits. Most faces share their set with
// others, so each set is kept once.
func (s Queries) TraitSet(ctx context.Context, traits []string) (int64, error) {
	traits = slices.Clone(traits)
	slices.Sort(traits)
	traits = slices.Compact(traits)
	sum := sha256.Sum256([]byte(strings.Join(traits, "\n")))
	hash := hex.EncodeToString(sum[:])
	var id int64
	look := func(tx *store.Store, lock string) error {
		return store.Told(tx.On(ctx).Raw("SELECT id FROM trait_sets WHERE hash = ?"+lock, hash).Scan(&id).Error)
	}
	if err := look(s.Store, ""); err != nil || id != 0 {
		return id, err
	}
	err := s.Tx(ctx, func(tx *store.Store) error {
		if err := tx.On(ctx).Exec("INSERT IGNORE INTO trait_sets (hash) VALUES (?)", hash).Error; err != nil {
			return store.Told(err)
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
		return store.Told(tx.On(ctx).Clauses(clause.Insert{Modifier: "IGNORE"}).Table("set_traits").CreateInBatches(rows, 500).Error)
	})
	return id, err
}

// AddWords adds words to the vocabulary; those that are there stay.
func (s Queries) AddWords(ctx context.Context, words []string) error {
	type word struct{ Word string }
	rows := make([]word, len(words))
	for i, w := range words {
		rows[i].Word = w
	}
	if len(rows) == 0 {
		return nil
	}
	return store.Told(s.On(ctx).Clauses(clause.Insert{Modifier: "IGNORE"}).Table("words").Create(&rows).Error)
}

type familyWord struct {
	Word     string
	FamilyID int64
}

// AddFamilyWords adds words by which a family is found.
func (s Queries) AddFamilyWords(ctx context.Context, family int64, words []string) error {
	if len(words) == 0 {
		return nil
	}
	rows := make([]familyWord, len(words))
	for i, w := range words {
		rows[i] = familyWord{w, family}
	}
	return store.Told(s.On(ctx).Clauses(clause.Insert{Modifier: "IGNORE"}).Table("family_words").Create(&rows).Error)
}

// SetFamilyWords writes all words by which a family is found.
func (s Queries) SetFamilyWords(ctx context.Context, family int64, words []string) error {
	if err := s.On(ctx).Exec("DELETE FROM family_words WHERE family_id = ?", family).Error; err != nil {
		return store.Told(err)
	}
	return s.AddFamilyWords(ctx, family, words)
}

// Recount has a family know how many faces it has, that it changed, and which
// version of the catalog listed it.
func (s Queries) Recount(ctx context.Context, family int64, at time.Time, indexer int) error {
	return store.Told(s.On(ctx).Exec(`UPDATE families SET face_count = (SELECT COUNT(*) FROM faces WHERE family_id = families.id AND file_id <> 0),
		changed_at = ?, indexer = ? WHERE id = ?`, at, indexer, family).Error)
}

// ListedBefore returns the numbers of families that an older version of the catalog
// listed, at most n.
func (s Queries) ListedBefore(ctx context.Context, indexer, n int) ([]int64, error) {
	var ids []int64
	err := s.On(ctx).Model(&store.Family{}).Where("indexer < ?", indexer).Order("id").Limit(n).Pluck("id", &ids).Error
	return ids, store.Told(err)
}
