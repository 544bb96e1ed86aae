package librarydb

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"reflect"
	"strconv"
	"strings"
	"sync"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	"gorm.io/gorm/schema"

	"sparecrate/internal/store"
)

// gathering is one statement that answers several queries. Each row of its result says
// which query it answers and holds the columns as a JSON array.
type gathering struct {
	db    *gorm.DB
	parts []gathered
}

// gathered is one query of a gathering and the slice that takes its records.
type gathered struct {
	query  *gorm.DB
	order  string // SQL, over the query's columns
	fields []*schema.Field
	into   reflect.Value // a slice of records
}

var schemas sync.Map

// gather adds a query whose records go into a slice, in an order. The query must not
// preload anything, and its columns have the names of the record's.
func gather[T any](g *gathering, into *[]T, order string, query *gorm.DB) error {
	s, err := schema.Parse(new(T), &schemas, g.db.NamingStrategy)
	if err != nil {
		return err
	}
	part := gathered{query: query, order: order, into: reflect.ValueOf(into).Elem()}
	part.into.SetZero()
	for _, name := range s.DBNames {
		part.fields = append(part.fields, s.FieldsByDBName[name])
	}
	g.parts = append(g.parts, part)
	return nil
}

// run asks the database and fills the slices.
func (g *gathering) run(ctx context.Context) error {
	var text strings.Builder
	var values []any
	for i, p := range g.parts {
		if i > 0 {
			text.WriteString(" UNION ALL ")
		}
		columns := make([]string, len(p.fields))
		for k, f := range p.fields {
			columns[k] = "t.`" + f.DBName + "`"
		}
		stmt := p.query.Session(&gorm.Session{DryRun: true, Logger: logger.Discard, Context: ctx}).Find(reflect.New(p.into.Type()).Interface()).Statement
		fmt.Fprintf(&text, "SELECT %d AS part, ROW_NUMBER() OVER (ORDER BY %s) AS place, JSON_ARRAY(%s) AS body FROM (%s) t",
			i, p.order, strings.Join(columns, ", "), stmt.SQL.String())
		values = append(values, stmt.Vars...)
	}
	text.WriteString(" ORDER BY part, place")
	rows, err := g.db.WithContext(ctx).Raw(text.String(), values...).Rows()
	if err != nil {
		return store.Told(err)
	}
	defer func() { _ = rows.Close() }()
	var body sql.RawBytes
	for rows.Next() {
		var part, place int
		if err := rows.Scan(&part, &place, &body); err != nil {
			return err
		}
		if err := g.parts[part].take(ctx, body); err != nil {
			return err
		}
	}
	return store.Told(rows.Err())
}

// take puts a record into a part's slice.
func (p *gathered) take(ctx context.Context, body []byte) error {
	var columns []json.RawMessage
	if err := json.Unmarshal(body, &columns); err != nil || len(columns) != len(p.fields) {
		return fmt.Errorf("records of %s cannot be read: %w", p.into.Type().Elem(), err)
	}
	p.into.Set(reflect.Append(p.into, reflect.New(p.into.Type().Elem()).Elem()))
	record := p.into.Index(p.into.Len() - 1)
	for i, f := range p.fields {
		if err := setColumn(ctx, f, record, columns[i]); err != nil {
			return fmt.Errorf("%s of %s: %w", f.DBName, p.into.Type().Elem(), err)
		}
	}
	return nil
}

// setColumn writes a column's value, which came as JSON, into a record.
func setColumn(ctx context.Context, f *schema.Field, record reflect.Value, column json.RawMessage) error {
	if bytes.Equal(column, []byte("null")) {
		return nil
	}
	text := string(column) // a number, or JSON that a column holds
	if column[0] == '"' {
		if err := json.Unmarshal(column, &text); err != nil {
			return err
		}
	}
	if f.Serializer != nil {
		value := f.NewValuePool.Get()
		defer f.NewValuePool.Put(value)
		if s, ok := value.(sql.Scanner); ok {
			if err := s.Scan(text); err != nil {
				return err
			}
			return f.Set(ctx, record, value)
		}
	}
	if f.IndirectFieldType == reflect.TypeFor[time.Time]() {
		at, err := dbTime(text)
		if err != nil {
			return err
		}
		return f.Set(ctx, record, at)
	}
	if column[0] != '"' {
		if n, err := strconv.ParseInt(text, 10, 64); err == nil {
			return f.Set(ctx, record, n)
		}
		if n, err := strconv.ParseFloat(text, 64); err == nil {
			return f.Set(ctx, record, n)
		}
	}
	return f.Set(ctx, record, text)
}

// dbTime reads a DATETIME or DATE as the database writes it, in UTC.
func dbTime(text string) (time.Time, error) {
	if len(text) == len(time.DateOnly) {
		return time.Parse(time.DateOnly, text)
	}
	return time.Parse(time.DateTime+".999999", text)
}
