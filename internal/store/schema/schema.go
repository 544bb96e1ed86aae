// Package schema makes the tables of the records, brings them up to date, and refuses databases
// that it cannot bring there.
package schema

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"

	"sparecrate/internal/version"
)

// Err is returned when a database cannot be used as it is: a newer
// version wrote it, it is another program's, or parts of it are missing.
var Err = errors.New("the database does not fit this version of Spare Crate")

// Update brings the tables up to date. Processes that start together take turns; where
// nothing is to be done, nobody waits.
func Update(ctx context.Context, db *gorm.DB) error {
	db = db.WithContext(ctx)
	if done, begun, err := updated(db); done || err != nil && !begun {
		return err
	}
	return owning(ctx, db, func(ctx context.Context) error {
		return db.WithContext(ctx).Connection(func(conn *gorm.DB) error {
			db := conn.Session(&gorm.Session{NewDB: true})
			applied, err := appliedMigrations(db)
			if err != nil {
				return err
			}
			if err := gormigrate.New(db, gormigrate.DefaultOptions, migrations).Migrate(); err != nil {
				return fmt.Errorf("update the tables: %w", err)
			}
			if err := complete(db); err != nil || len(applied) == len(migrations) {
				return err
			}
			if err := db.Exec("REPLACE INTO written_by (id, version, at) VALUES (1, ?, NOW(6))", version.String()).Error; err != nil {
				return fmt.Errorf("note which version updated the tables: %w", err)
			}
			return nil
		})
	})
}

// updated reports whether the tables are as this version wants them. The error refuses a
// database that it cannot bring there, unless an update has begun: then another process may
// be half-way.
func updated(db *gorm.DB) (done, begun bool, err error) {
	tables, err := columnsByTable(db)
	if err != nil {
		return false, false, err
	}
	begun = tables[ownerTable] != nil
	applied, err := appliedMigrations(db)
	if err == nil && len(applied) == len(migrations) {
		err = complete(db)
		done = err == nil
	}
	return done, begun, err
}

// appliedMigrations returns the migrations that a database has. It is an error when
// these are not the first of ours.
func appliedMigrations(db *gorm.DB) ([]string, error) {
	tables, err := columnsByTable(db)
	if err != nil {
		return nil, err
	}
	delete(tables, ownerTable)
	if tables[restoringTable] != nil {
		return nil, fmt.Errorf("%w: it holds half of a restore; restore once more, to the end", Err)
	}
	if len(tables) == 0 {
		return nil, nil
	}
	if columns := tables["migrations"]; len(columns) != 1 || columns[0] != "id" || tables["people"] == nil {
		return nil, fmt.Errorf("%w: it holds tables of another program (%s among them); give Spare Crate an empty database", Err, firstOf(tables))
	}
	var applied []string
	if err := db.Raw("SELECT id FROM migrations ORDER BY id").Scan(&applied).Error; err != nil {
		return nil, fmt.Errorf("read which migrations the database has: %w", err)
	}
	for i, id := range applied {
		known := slices.ContainsFunc(migrations, func(m *gormigrate.Migration) bool { return m.ID == id })
		switch {
		case !known:
			needs := "a newer version"
			if tables["written_by"] != nil {
				var version string
				if err := db.Raw("SELECT version FROM written_by WHERE id = 1").Scan(&version).Error; err == nil && version != "" {
					needs = "version " + version + " or a newer one"
				}
			}
			return nil, fmt.Errorf("%w: it was written by a newer one (its tables are at %s, this version %s knows them up to %s); start %s, or restore a backup of the time before",
				Err, applied[len(applied)-1], version.String(), migrations[len(migrations)-1].ID, needs)
		case migrations[i].ID != id:
			return nil, fmt.Errorf("%w: its update is not whole (%s was made, %s before it was not); restore it from a backup", Err, id, migrations[i].ID)
		}
	}
	return applied, nil
}

// columnsByTable returns the columns of every table of the database.
func columnsByTable(db *gorm.DB) (map[string][]string, error) {
	var rows []struct{ TableName, ColumnName string }
	err := db.Raw("SELECT table_name AS table_name, column_name AS column_name FROM information_schema.columns WHERE table_schema = DATABASE()").Scan(&rows).Error
	out := map[string][]string{}
	for _, r := range rows {
		out[r.TableName] = append(out[r.TableName], r.ColumnName)
	}
	if err != nil {
		return nil, fmt.Errorf("look which tables the database has: %w", err)
	}
	return out, nil
}

func firstOf(tables map[string][]string) string {
	first := ""
	for name := range tables {
		if first == "" || name < first {
			first = name
		}
	}
	return first
}

var (
	makesTable  = regexp.MustCompile(`^CREATE TABLE IF NOT EXISTS (\w+)`)
	changeTable = regexp.MustCompile(`^ALTER TABLE (\w+)`)
	addsColumn  = regexp.MustCompile(`ADD COLUMN IF NOT EXISTS (\w+)`)
	dropsColumn = regexp.MustCompile(`DROP COLUMN IF EXISTS (\w+)`)
	renamesSome = regexp.MustCompile(`^RENAME TABLE `)
	renames     = regexp.MustCompile(`(\w+) TO (\w+)`)
	renamesOne  = regexp.MustCompile(`RENAME COLUMN IF EXISTS (\w+) TO (\w+)`)
)

// complete checks that the tables and columns that the migrations make are there: a
// database restored from half a backup has the list of its migrations and not what
// they made.
func complete(db *gorm.DB) error {
	tables, err := columnsByTable(db)
	if err != nil {
		return err
	}
	for table, columns := range made {
		if tables[table] == nil {
			return fmt.Errorf("%w: its table %s is missing; restore it from a backup", Err, table)
		}
		for _, c := range columns {
			if !slices.Contains(tables[table], c) {
				return fmt.Errorf("%w: the column %s of its table %s is missing; restore it from a backup", Err, c, table)
			}
		}
	}
	return nil
}

// made are the tables that migrations make, with the columns added to them later.
var made = map[string][]string{}

// scripts are the statements of each migration, in their order.
var scripts [][]string

// statements is a migration that runs statements. It notes what they make.
func statements(all ...string) gormigrate.MigrateFunc {
	scripts = append(scripts, all)
	for _, s := range all {
		s = strings.TrimSpace(s)
		if m := makesTable.FindStringSubmatch(s); m != nil {
			made[m[1]] = append(made[m[1]], []string(nil)...)
		}
		if renamesSome.MatchString(s) {
			for _, r := range renames.FindAllStringSubmatch(s, -1) {
				made[r[2]] = made[r[1]]
				delete(made, r[1])
			}
		}
		if m := changeTable.FindStringSubmatch(s); m != nil {
			for _, r := range renamesOne.FindAllStringSubmatch(s, -1) {
				for i, have := range made[m[1]] {
					if have == r[1] {
						made[m[1]][i] = r[2]
					}
				}
			}
			for _, c := range addsColumn.FindAllStringSubmatch(s, -1) {
				made[m[1]] = append(made[m[1]], c[1])
			}
			for _, c := range dropsColumn.FindAllStringSubmatch(s, -1) {
				made[m[1]] = slices.DeleteFunc(made[m[1]], func(have string) bool { return have == c[1] })
			}
		}
	}
	return func(tx *gorm.DB) error {
		for _, s := range all {
			if err := tx.Exec(s).Error; err != nil {
				return fmt.Errorf("%w in: %s", err, s)
			}
		}
		return nil
	}
}
