package finddb

import (
	"context"

	"sparecrate/internal/store"
)

// WordsLike returns the words of the vocabulary that begin with one text or hold
// another.
func (s Queries) WordsLike(ctx context.Context, begins, holds string) ([]string, error) {
	var words []string
	err := s.On(ctx).Raw("SELECT word FROM words WHERE word LIKE ? OR word LIKE ? ORDER BY word",
		store.LikeEscape.Replace(begins)+"%", "%"+store.LikeEscape.Replace(holds)+"%").Scan(&words).Error
	return words, store.Told(err)
}

// WordBegins reports whether a word of the vocabulary begins with this.
func (s Queries) WordBegins(ctx context.Context, with string) (bool, error) {
	var n int
	err := s.On(ctx).Raw("SELECT EXISTS (SELECT 1 FROM words WHERE word LIKE ?)", store.LikeEscape.Replace(with)+"%").Scan(&n).Error
	return n > 0, store.Told(err)
}
