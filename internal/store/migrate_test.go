package store

import (
	"compress/gzip"
	"flag"
	"io"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"easymargin/core/supply"
	"easymargin/internal/fault"
)

// keep writes the file of data that belongs to the newest migration. Once that
// is released, its file stays as it is.
var keep = flag.Bool("keep", false, "keep a file of data as this version makes it")

func opened(t *testing.T, dir string) *Store {
	s, err := Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// filled is a row with something in every field, number n of its table: what it
// refers to is number n of its own table.
func filled(model any, n int64) any {
	row := reflect.New(reflect.TypeOf(model).Elem())
	for i := range row.Elem().NumField() {
		f := row.Elem().Field(i)
		at := f
		if f.Type() == reflect.TypeFor[*Source]() {
			continue
		}
		if f.Kind() == reflect.Pointer {
			f.Set(reflect.New(f.Type().Elem()))
			at = f.Elem()
		}
		switch at.Interface().(type) {
		case int64, int:
			at.SetInt(n)
		case string:
			at.SetString(strings.Repeat("x", int(n)))
		case bool:
			at.SetBool(true)
		case time.Time:
			at.Set(reflect.ValueOf(time.Date(2026, 3, 3, 8, 40, 0, 0, time.UTC)))
		case []string:
			at.Set(reflect.ValueOf([]string{"x"}))
		case []supply.Problem:
			at.Set(reflect.ValueOf([]supply.Problem{{Reason: "x"}}))
		case []byte:
			at.SetBytes([]byte("x"))
		}
	}
	return row.Interface()
}

// fill writes a filled row into every table, and reads it back.
func fill(t *testing.T, s *Store, n int64) {
	require.NoError(t, s.Do(t.Context(), func(tx Tx) error {
		require.NoError(t, tx.db.Exec("PRAGMA defer_foreign_keys = ON").Error)          // tables refer to each other
		require.NoError(t, tx.db.Exec("DELETE FROM people WHERE name = 'owner'").Error) // the one that is there from the start makes room
		for _, m := range models {
			require.NoError(t, tx.db.Create(filled(m, n)).Error, "%T", m)
		}
		var broken []string
		require.NoError(t, tx.db.Raw(`SELECT "table" || ' → ' || parent FROM pragma_foreign_key_check`).Scan(&broken).Error)
		require.Empty(t, broken)
		return nil
	}))
	for _, m := range models {
		got, want := reflect.New(reflect.TypeOf(m).Elem()).Interface(), filled(m, n)
		require.NoError(t, s.read.Where(want).Take(got).Error, "%T", m)
		assert.Equal(t, without(want), without(got), "%T comes back as it was written", m)
	}
}

// without leaves out the rows that a row brings along.
func without(row any) any {
	v := reflect.ValueOf(row).Elem()
	for _, name := range []string{"Supplier", "Marketplace"} {
		if f := v.FieldByName(name); f.IsValid() && f.Kind() == reflect.Struct {
			f.SetZero()
		}
	}
	return row
}

func TestEveryFieldOfEveryRowIsKept(t *testing.T) {
	s := opened(t, t.TempDir())
	fill(t, s, 1)
	for _, m := range models {
		st := &gorm.Statement{DB: s.read}
		require.NoError(t, st.Parse(m))
		var columns []string
		require.NoError(t, s.read.Raw("SELECT name FROM pragma_table_info(?) ORDER BY name", st.Schema.Table).Scan(&columns).Error)
		assert.ElementsMatch(t, st.Schema.DBNames, columns, "%s: a column that no model has, or the other way round", st.Schema.Table)
		var nullable []string
		require.NoError(
			t,
			s.read.Raw(`SELECT name FROM pragma_table_info(?) WHERE NOT "notnull" AND pk = 0`, st.Schema.Table).Scan(&nullable).Error,
		)
		for _, c := range nullable {
			assert.Contains(
				t,
				[]reflect.Kind{reflect.Pointer, reflect.Slice},
				st.Schema.FieldsByDBName[c].FieldType.Kind(),
				"%s.%s may be NULL and its field can't",
				st.Schema.Table,
				c,
			)
		}
	}
}

// Data that any released version left behind is opened, read and written.
func TestDataOfBeforeIsOpenedReadAndWritten(t *testing.T) {
	steps := frozen()
	if newest := filepath.Join("testdata", steps[len(steps)-1].name+".db.gz"); *keep {
		s := opened(t, t.TempDir())
		fill(t, s, 1)
		copied := filepath.Join(t.TempDir(), "copy.db")
		require.NoError(t, s.read.Exec("VACUUM INTO ?", copied).Error)
		text, err := os.ReadFile(copied)
		require.NoError(t, err)
		f, err := os.Create(newest)
		require.NoError(t, err)
		z := gzip.NewWriter(f)
		_, err = z.Write(text)
		require.NoError(t, err)
		require.NoError(t, z.Close())
		require.NoError(t, f.Close())
	}
	for i, m := range steps {
		dir := t.TempDir()
		f, err := os.Open(filepath.Join("testdata", m.name+".db.gz"))
		require.NoError(t, err, "each migration has a file of data as its version left it")
		z, err := gzip.NewReader(f)
		require.NoError(t, err)
		text, err := io.ReadAll(z)
		require.NoError(t, err)
		require.NoError(t, f.Close())
		require.NoError(t, os.WriteFile(filepath.Join(dir, fileName), text, 0o644))
		s := opened(t, dir)
		var rows int64
		for _, m := range models {
			var n int64
			require.NoError(t, s.read.Model(m).Count(&n).Error)
			rows += n
			one := reflect.New(reflect.TypeOf(m).Elem()).Interface()
			require.NoError(t, s.read.Limit(1).Find(one).Error, "%T", m)
		}
		assert.NotZero(t, rows)
		fill(t, s, 2)
		info, err := os.Stat(filepath.Join(dir, fileName))
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "nobody else reads it from now on")
		_, err = os.Stat(filepath.Join(dir, "before-"+steps[len(steps)-1].name+".db"))
		assert.Equal(t, i == len(steps)-1, os.IsNotExist(err), "a copy is kept where the tables were changed")
	}
}

// A step to come: the data is copied first, and is not opened by a program
// that doesn't know it.
func TestACopyIsKeptBeforeTheTablesChange(t *testing.T) {
	dir := t.TempDir()
	s := opened(t, dir)
	fill(t, s, 1)
	next := append(
		frozen(),
		migration{"9999_next", "ALTER TABLE suppliers ADD COLUMN next text NOT NULL DEFAULT 'n'; UPDATE suppliers SET name = 'changed'"},
	)
	require.NoError(t, migrate(s.write, next, s.copyBefore))
	require.NoError(t, s.Close())
	_, err := Open(dir)
	require.ErrorContains(t, err, "9999_next")
	assert.Equal(t, fault.Conflict, fault.KindOf(err))

	before := filepath.Join(dir, "before-9999_next.db")
	info, err := os.Stat(before)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	old := t.TempDir()
	require.NoError(t, os.Rename(before, filepath.Join(old, fileName)))
	s = opened(t, old)
	who, err := Get[Supplier](t.Context(), s, 1)
	require.NoError(t, err)
	assert.Equal(t, "x", who.Name, "as it was")

	// A step that fails leaves everything as it was.
	err = migrate(s.write, append(frozen(), migration{"9999_next", "UPDATE suppliers SET name = 'half'; NO SUCH THING"}), s.copyBefore)
	require.Error(t, err)
	who, err = Get[Supplier](t.Context(), s, 1)
	require.NoError(t, err)
	assert.Equal(t, "x", who.Name)
}

// A new database is made at once, and is what the migrations make of an empty one step by
// step: the same tables, indexes, triggers and rows.
func TestANewDatabaseIsAsTheMigrationsMakeIt(t *testing.T) {
	file := filepath.Join(t.TempDir(), "steps.db")
	db, err := connect(file, "immediate", 1, "-8000")
	require.NoError(t, err)
	defer func() { _ = closeDB(db) }()
	for _, m := range frozen() {
		require.NoError(t, db.Exec(m.text).Error, m.name)
	}
	const made = `SELECT sql || ';' FROM sqlite_schema WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%' AND name <> 'migrations' AND
		NOT (type = 'table' AND name GLOB '*_search_*') ORDER BY CASE type WHEN 'table' THEN 0 WHEN 'view' THEN 1 WHEN 'index' THEN 2 ELSE 3 END, rowid`
	var steps []string
	require.NoError(t, db.Raw(made).Scan(&steps).Error)
	if *keep {
		head := "-- The tables as all migrations leave them, for a new database. Made by\n-- go test ./internal/store -run TestANewDatabase -keep\n\n"
		rows := "\n\nINSERT INTO people (id, name, role) VALUES (1, 'owner', 'owner');\n"
		require.NoError(t, os.WriteFile("schema.sql", []byte(head+strings.Join(steps, "\n")+rows), 0o644))
		return
	}
	s := opened(t, t.TempDir())
	var once []string
	require.NoError(t, s.read.Raw(made).Scan(&once).Error)
	assert.True(t, slices.Equal(steps, once), "they differ; make it anew: go test ./internal/store -run TestANewDatabase -keep")
	var tables []string
	require.NoError(t, db.Raw("SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%' ORDER BY name").Scan(&tables).Error)
	for _, table := range tables {
		var slowly, quickly []map[string]any
		require.NoError(t, db.Table(table).Find(&slowly).Error)
		require.NoError(t, s.read.Table(table).Find(&quickly).Error)
		assert.Equal(t, slowly, quickly, table)
	}
}

// docs/data.md draws the tables that are there, and what refers to what.
func TestTheDataIsDrawn(t *testing.T) {
	s := opened(t, t.TempDir())
	var arrows []string
	require.NoError(t, s.read.Raw(`SELECT format('  %s %s--o{ %s : %s', f."table", iif(c."notnull" OR c.pk > 0, '||', '|o'), t.name, f."from")
		FROM sqlite_master t, pragma_foreign_key_list(t.name) f, pragma_table_info(t.name) c
		WHERE t.type = 'table' AND c.name = f."from" ORDER BY f."table", t.name, f."from"`).Scan(&arrows).Error)
	require.Greater(t, len(arrows), 30)
	var alone []string
	require.NoError(t, s.read.Raw(`SELECT '  ' || name FROM sqlite_master t WHERE type = 'table' AND name NOT LIKE 'sqlite_%'
		AND name NOT GLOB '*_search_*' AND NOT EXISTS (SELECT 1 FROM pragma_foreign_key_list(t.name))
		AND NOT EXISTS (SELECT 1 FROM sqlite_master o, pragma_foreign_key_list(o.name) f WHERE o.type = 'table' AND f."table" = t.name)
		ORDER BY name`).Scan(&alone).Error)
	drawn := "erDiagram\n" + strings.Join(append(arrows, alone...), "\n") + "\n"
	file := filepath.Join("..", "..", "docs", "data.md")
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	before, rest, found := strings.Cut(string(text), "```mermaid\n")
	require.True(t, found)
	was, after, _ := strings.Cut(rest, "```")
	if *keep {
		require.NoError(t, os.WriteFile(file, []byte(before+"```mermaid\n"+drawn+"```"+after), 0o644))
		return
	}
	assert.Equal(t, drawn, was, "draw it anew: go test ./internal/store -run TestTheDataIsDrawn -keep")
}
