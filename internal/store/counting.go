package store

import (
	"context"
	"errors"
	"strings"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
	"go.opentelemetry.io/otel/trace"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"sparecrate/internal/store/nodes"
	"sparecrate/internal/traces"
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

func (c counter) Trace(ctx context.Context, begun time.Time, statement func() (string, int64), err error) {
	if trace.SpanFromContext(ctx).IsRecording() {
		query, rows := statement()
		_, span := traces.Begin(ctx, "statement", trace.WithTimestamp(begun), trace.WithAttributes(traces.Statement.String(shortened(query)), traces.Rows.Int64(rows)))
		if errors.Is(err, gorm.ErrRecordNotFound) {
			traces.End(span, nil)
		} else {
			traces.End(span, err)
		}
	}
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

// ParamsFilter keeps what is in records out of the statements that are traced.
func (c counter) ParamsFilter(_ context.Context, query string, _ ...any) (string, []any) {
	return query, nil
}

// Statements that Scan runs are told by a recorder of GORM's.
func init() { logger.RecorderParamsFilter = counter{}.ParamsFilter }

// tracedLength is how much of a statement is traced, bytes.
const tracedLength = 2000

func shortened(query string) string {
	if len(query) > tracedLength {
		return strings.ToValidUTF8(query[:tracedLength], "") + " ..."
	}
	return query
}
