package schema

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"
)

// restoringTable marks a database that is being filled from a backup: nothing serves from it.
const restoringTable = "restoring"

// ErrNotEmpty is returned by Begin for a database that holds something.
var ErrNotEmpty = errors.New("the database holds records already; restore into an empty one")

// Begin makes the tables as they were after some migrations in a database that holds nothing,
// or what is left of a restore that did not come to its end. End ends it; until then Update
// refuses the database.
func Begin(ctx context.Context, db *gorm.DB, applied []string) error {
	for i, id := range applied {
		if i >= len(migrations) || migrations[i].ID != id {
			return fmt.Errorf("%w: the backup is of a newer version (its tables are at %s); restore it with that one", Err, applied[len(applied)-1])
		}
	}
	if len(applied) == 0 {
		return fmt.Errorf("%w: the backup says nothing of its tables", Err)
	}
	return db.WithContext(ctx).Connection(func(conn *gorm.DB) error {
		db := conn.Session(&gorm.Session{NewDB: true, Context: ctx})
		tables, err := columnsByTable(db)
		if err != nil {
			return err
		}
		if len(tables) > 0 && tables[restoringTable] == nil {
			return ErrNotEmpty
		}
		if err := db.Exec("CREATE TABLE IF NOT EXISTS " + restoringTable + " (id INT PRIMARY KEY)").Error; err != nil {
			return err
		}
		if err := db.Exec("SET SESSION foreign_key_checks = 0").Error; err != nil {
			return err
		}
		for name := range tables {
			if name == restoringTable {
				continue
			}
			if err := db.Exec("DROP TABLE `" + name + "`").Error; err != nil {
				return fmt.Errorf("take away what is left of another restore: %w", err)
			}
		}
		if err := db.Exec("SET SESSION foreign_key_checks = 1").Error; err != nil {
			return err
		}
		last := applied[len(applied)-1]
		if err := gormigrate.New(db, gormigrate.DefaultOptions, migrations[:slices.IndexFunc(migrations, func(m *gormigrate.Migration) bool { return m.ID == last })+1]).Migrate(); err != nil {
			return fmt.Errorf("make the tables: %w", err)
		}
		return nil
	})
}

// End ends what Begin began.
func End(ctx context.Context, db *gorm.DB) error {
	return db.WithContext(ctx).Exec("DROP TABLE " + restoringTable).Error
}
