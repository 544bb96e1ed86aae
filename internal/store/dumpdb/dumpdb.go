// Package dumpdb reads all records as they are at one moment, and writes them into an empty
// database, whatever their tables are.
package dumpdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"sparecrate/internal/store"
)

// Queries are these statements over a database.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// passing are the tables that are not read: what holds for a while only, or is made again of
// the rest.
var passing = []string{"sessions", "readiness", "attempts", "derived", "migrations", "migration_owner", "written_by"}

// Table is a table with the columns that are read, in their order.
type Table struct {
	Name    string
	Columns []string
	Auto    int64 // the next number, 0 for tables that are not numbered
	reads   []string
	key     []string
}

// Snapshot is the database as it was when it was begun.
type Snapshot struct{ db *gorm.DB }

// Snapshot runs do over the database as it is now, whatever is changed meanwhile.
func (s Queries) Snapshot(ctx context.Context, do func(Snapshot) error) (err error) {
	unhurried, err := s.Unhurried(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, unhurried.Close()) }()
	return unhurried.On(ctx).Connection(func(conn *gorm.DB) error {
		db := conn.Session(&gorm.Session{NewDB: true, Context: ctx})
		for _, statement := range []string{
			"SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ",
			"SET SESSION net_write_timeout = 3600", // rows wait while what was read before them is sent to a place
			"START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY",
		} {
			if err := db.Exec(statement).Error; err != nil {
				return fmt.Errorf("hold the records still: %w", err)
			}
		}
		defer db.WithContext(context.WithoutCancel(ctx)).Exec("ROLLBACK")
		return do(Snapshot{db})
	})
}

// Tables returns the tables, in the order of their names.
func (s Snapshot) Tables() ([]Table, error) {
	var columns []struct {
		Name, Col, Type, Key string
		Auto                 *int64
	}
	err := s.db.Raw(`SELECT c.table_name AS name, c.column_name AS col, c.data_type AS type, c.column_key AS `+"`key`"+`, t.auto_increment AS auto
		FROM information_schema.columns c JOIN information_schema.tables t ON t.table_name = c.table_name
		WHERE c.table_schema = DATABASE() AND t.table_schema = DATABASE() AND t.table_type = 'BASE TABLE' AND c.extra NOT LIKE '%GENERATED%' AND c.table_name NOT IN ?
		ORDER BY c.table_name, c.ordinal_position`, passing).Scan(&columns).Error
	var out []Table
	for _, c := range columns {
		if len(out) == 0 || out[len(out)-1].Name != c.Name {
			out = append(out, Table{Name: c.Name})
			if c.Auto != nil {
				out[len(out)-1].Auto = *c.Auto
			}
		}
		t := &out[len(out)-1]
		t.Columns = append(t.Columns, c.Col)
		read := quoted(c.Col)
		switch c.Type {
		case "datetime", "timestamp", "date", "time": // as they are written, not as the driver reads them
			read = "CAST(" + read + " AS CHAR)"
		}
		t.reads = append(t.reads, read)
		if c.Key == "PRI" {
			t.key = append(t.key, quoted(c.Col))
		}
	}
	return out, store.Told(err)
}

func quoted(name string) string { return "`" + strings.ReplaceAll(name, "`", "``") + "`" }

// Rows reads a table in the order of its key. Each is given the row's values, which hold until it
// returns: nil for NULL.
func (s Snapshot) Rows(t *Table, each func(row []sql.RawBytes) error) error {
	rows, err := s.db.Raw("SELECT " + strings.Join(t.reads, ", ") + " FROM " + quoted(t.Name) + " ORDER BY " + strings.Join(t.key, ", ")).Rows()
	if err != nil {
		return store.Told(err)
	}
	defer func() { _ = rows.Close() }()
	values := make([]sql.RawBytes, len(t.Columns))
	into := make([]any, len(values))
	for i := range values {
		into[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return store.Told(err)
		}
		if err := each(values); err != nil {
			return err
		}
	}
	return store.Told(rows.Err())
}

// Migrations returns the migrations that the database has, in order.
func (s Snapshot) Migrations() (ids []string, err error) {
	err = s.db.Raw("SELECT id FROM migrations ORDER BY id").Scan(&ids).Error
	return ids, store.Told(err)
}

// File is a file that records name.
type File struct {
	SHA256 string
	Needed bool // of what an import refused, not all is kept
	What   string
}

// Files returns the files that records name and that are not made of others.
func (s Snapshot) Files() (files []File, err error) {
	err = s.db.Raw(`SELECT sha256, MAX(needed) AS needed, MIN(what) AS what FROM (
		SELECT sha256, TRUE AS needed, 'font' AS what FROM files UNION ALL SELECT sha256, TRUE, 'document of a license' FROM documents
		UNION ALL SELECT sha256, TRUE, 'document of a family' FROM family_documents UNION ALL SELECT sha256, TRUE, 'pack' FROM packs
		UNION ALL SELECT sha256, kind <> 'refused', 'import' FROM import_items WHERE sha256 <> '') f GROUP BY sha256 ORDER BY sha256`).Scan(&files).Error
	return files, store.Told(err)
}

// Studio returns the studio's name; empty where there is none yet.
func (s Snapshot) Studio() (name string, err error) {
	err = s.db.Raw("SELECT COALESCE(MAX(name), '') FROM clients WHERE studio").Scan(&name).Error
	return name, store.Told(err)
}

// Filling writes rows over one connection that does not look whether what they point to is there
// already.
type Filling struct{ db *gorm.DB }

// Fill runs do with such a connection.
func (s Queries) Fill(ctx context.Context, do func(Filling) error) error {
	return s.On(ctx).Connection(func(conn *gorm.DB) error {
		db := conn.Session(&gorm.Session{NewDB: true, Context: ctx})
		for _, statement := range []string{"SET SESSION foreign_key_checks = 0", "SET SESSION unique_checks = 0"} {
			if err := db.Exec(statement).Error; err != nil {
				return store.Told(err)
			}
		}
		defer db.WithContext(context.WithoutCancel(ctx)).Exec("SET SESSION foreign_key_checks = 1, unique_checks = 1")
		return do(Filling{db})
	})
}

// Columns returns the columns of a table; none for one that is not there.
func (f Filling) Columns(table string) (names []string, err error) {
	err = f.db.Raw("SELECT column_name FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = ?", table).Scan(&names).Error
	return names, store.Told(err)
}

// Clear takes all rows out of a table.
func (f Filling) Clear(table string) error {
	return store.Told(f.db.Exec("DELETE FROM " + quoted(table)).Error)
}

// Insert writes rows. A value is nil, text, or bytes.
func (f Filling) Insert(table string, columns []string, rows [][]any) error {
	if len(rows) == 0 {
		return nil
	}
	names := make([]string, len(columns))
	for i, c := range columns {
		names[i] = quoted(c)
	}
	one := "(" + strings.TrimSuffix(strings.Repeat("?,", len(columns)), ",") + ")"
	all := make([]any, 0, len(rows)*len(columns))
	for _, r := range rows {
		all = append(all, r...)
	}
	return store.Told(f.db.Exec("INSERT INTO "+quoted(table)+" ("+strings.Join(names, ",")+") VALUES "+strings.TrimSuffix(strings.Repeat(one+",", len(rows)), ","), all...).Error)
}

// Number has a table go on numbering from a number.
func (f Filling) Number(table string, next int64) error {
	return store.Told(f.db.Exec(fmt.Sprintf("ALTER TABLE %s AUTO_INCREMENT = %d", quoted(table), next)).Error)
}
