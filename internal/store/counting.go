package store

import (
	"context"
	"errors"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
	"gorm.io/gorm/logger"

	"sparecrate/internal/store/nodes"
)

type countingKey struct{}

// CountStatements returns a context whose statements are counted in the number returned.
func CountStatements(ctx context.Context) (context.Context, *atomic.Int64) {
	n := &atomic.Int64{}
	return context.WithValue(ctx, countingKey{}, n), n
}

// counter is GORM's logger; it writes nothing, counts statements, and tells when a node of a
// cluster does not serve any more.
type counter struct {
	logger.Interface
	gone func()
	full func() // called when it has no room
}

func (c counter) Trace(ctx context.Context, _ time.Time, _ func() (string, int64), err error) {
	var told *mysql.MySQLError
	if errors.As(err, &told) && told.Number == nodes.NotPrepared {
		c.gone()
	}
	if nodes.Full(err) {
		c.full()
	}
	if n, ok := ctx.Value(countingKey{}).(*atomic.Int64); ok {
		n.Add(1)
	}
}

func (c counter) LogMode(logger.LogLevel) logger.Interface { return c }
