package store

import (
	"context"
	"sync/atomic"
	"time"

	"gorm.io/gorm/logger"
)

type countingKey struct{}

// CountStatements returns a context whose statements are counted in the number returned.
func CountStatements(ctx context.Context) (context.Context, *atomic.Int64) {
	n := &atomic.Int64{}
	return context.WithValue(ctx, countingKey{}, n), n
}

// counter is GORM's logger; it writes nothing and counts statements.
type counter struct{ logger.Interface }

func (counter) Trace(ctx context.Context, _ time.Time, _ func() (string, int64), _ error) {
	if n, ok := ctx.Value(countingKey{}).(*atomic.Int64); ok {
		n.Add(1)
	}
}

func (c counter) LogMode(logger.LogLevel) logger.Interface { return c }
