package scope

import (
	"context"
	"database/sql"
	"errors"

	"gorm.io/gorm"
)

// Pool is a database whose statements are limited as their contexts are.
type Pool struct{ *sql.DB }

// QueryContext reads rows.
func (p Pool) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	return p.DB.QueryContext(ctx, Of(ctx).on(query), args...) //nolint:sqlclosecheck,rowserrcheck // the caller does
}

// QueryRowContext reads a row.
func (p Pool) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	return p.DB.QueryRowContext(ctx, Of(ctx).on(query), args...)
}

// PrepareContext is refused: a statement that is prepared would not know whom it is for.
func (Pool) PrepareContext(context.Context, string) (*sql.Stmt, error) {
	return nil, errors.New("statements are not prepared")
}

// BeginTx begins a transaction whose statements are limited as well.
func (p Pool) BeginTx(ctx context.Context, opts *sql.TxOptions) (gorm.ConnPool, error) {
	tx, err := p.DB.BeginTx(ctx, opts)
	if err != nil {
		return nil, err
	}
	return &transaction{tx}, nil
}

// GetDBConn returns the database below, for what is done to connections.
func (p Pool) GetDBConn() (*sql.DB, error) { return p.DB, nil }

type transaction struct{ *sql.Tx }

func (t *transaction) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	return t.Tx.QueryContext(ctx, Of(ctx).on(query), args...) //nolint:sqlclosecheck,rowserrcheck // the caller does
}

func (t *transaction) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	return t.Tx.QueryRowContext(ctx, Of(ctx).on(query), args...)
}

func (t *transaction) PrepareContext(context.Context, string) (*sql.Stmt, error) {
	return nil, errors.New("statements are not prepared")
}
