package store

import (
	"embed"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"

	"easymargin/internal/fault"
)

// Migrations are frozen SQL, a file each, in the order of their names. What was
// once released is never changed; testdata has a file of data for each.
//
//go:embed migrations/*.sql
var migrations embed.FS

// tables are what all of them come to on a new database: it is made at once, which takes
// a twentieth of the time. A test compares the two.
//
//go:embed schema.sql
var tables string

// begun is the name under which gormigrate keeps that a database was made so.
const begun = "SCHEMA_INIT"

// migration is one step of the tables, by the name of its file.
type migration struct{ name, text string }

func frozen() []migration {
	list, err := migrations.ReadDir("migrations")
	var out []migration
	for _, f := range list {
		text, readErr := migrations.ReadFile("migrations/" + f.Name())
		err = errors.Join(err, readErr)
		out = append(out, migration{strings.TrimSuffix(f.Name(), ".sql"), string(text)})
	}
	if err != nil {
		panic(err) // the folder is built in
	}
	return out // in the order of their names, as ReadDir has them
}

// migrate brings the tables up to date. Data that a newer program made is
// refused; before data that is there is changed, before is called with the
// name of what they are changed to.
func migrate(db *gorm.DB, steps []migration, before func(to string) error) error {
	done, err := migrated(db)
	if err != nil {
		return err
	}
	latest := steps[len(steps)-1].name
	for _, id := range done {
		if !slices.ContainsFunc(steps, func(m migration) bool { return m.name == id }) {
			return fault.New(
				fault.Conflict,
				"the data was made by another version of Easy Margin (%s) than this one, which knows it up to %s; "+
					"start that version, or choose another folder with --data",
				id,
				latest,
			)
		}
	}
	if len(done) > 0 && len(done) < len(steps) {
		if err := before(latest); err != nil {
			return err
		}
	}
	var list []*gormigrate.Migration
	for _, m := range steps {
		list = append(list, &gormigrate.Migration{ID: m.name, Migrate: func(tx *gorm.DB) error { return tx.Exec(m.text).Error }})
	}
	steady := gormigrate.New(db, &gormigrate.Options{TableName: "migrations", IDColumnName: "id", IDColumnSize: 255, UseTransaction: true}, list)
	if latest == frozen()[len(frozen())-1].name {
		steady.InitSchema(func(tx *gorm.DB) error { return tx.Exec(tables).Error })
	}
	err = steady.Migrate()
	if err != nil && strings.Contains(err.Error(), "fts5") {
		err = errors.New("this program was built without the tag sqlite_fts5, which the search needs; make build sets it")
	}
	if err != nil {
		return fmt.Errorf("bringing the tables up to date: %w", err)
	}
	return nil
}

// migrated lists the migrations that the data has been through.
func migrated(db *gorm.DB) ([]string, error) {
	var there int64
	if err := db.Raw("SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name = 'migrations'").Scan(&there).Error; err != nil || there == 0 {
		return nil, err
	}
	var out []string
	err := db.Raw("SELECT id FROM migrations WHERE id <> ? ORDER BY id", begun).Scan(&out).Error
	return out, err
}

// Schema is the number of the newest migration: data that has been through it is what
// this program reads.
func Schema() int {
	steps := frozen()
	n, _ := strconv.Atoi(steps[len(steps)-1].name[:4]) // every name begins with four digits; a test opens them all
	return n
}
