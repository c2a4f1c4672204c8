package store

import (
	"archive/zip"
	"bufio"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
)

// A backup is a zip: manifest.json, a file of rows for each table, and whatever the caller adds (attached files). All tables are read
// in one view of the database, so it is as if everything had been read at one moment. Who is signed in, and who tried to, is not in it.

// BackupManifest says what is in a backup.
type BackupManifest struct {
	Format string         `json:"format"`
	Made   time.Time      `json:"made"`
	Schema int64          `json:"schema"`
	Tables map[string]int `json:"tables"` // rows of each
}

const backupFormat = "vereda-backup/1"

// leftOut are tables a backup does not hold: they are of the moment.
var leftOut = []string{"goose_db_version", "sessions", "signed_in", "sign_in_failure", "planning", "migration_step", "migration_lock"}

// column is a column of a table, and how it is read as text.
type column struct{ name, read string }

func tablesOf(ctx context.Context, q queryer) (names []string, columns map[string][]column, err error) {
	columns = map[string][]column{}
	err = rowsOf(ctx, q, `SELECT c.table_name, c.column_name, c.data_type FROM information_schema.columns c JOIN information_schema.tables t ON t.table_schema = c.table_schema AND t.table_name = c.table_name
		WHERE c.table_schema = DATABASE() AND t.table_type = 'BASE TABLE' ORDER BY c.table_name, c.ordinal_position`, nil, func(scan func(...any) error) error {
		var table, name, kind string
		if err := scan(&table, &name, &kind); err != nil {
			return err
		}
		if slices.Contains(leftOut, table) {
			return nil
		}
		if len(columns[table]) == 0 {
			names = append(names, table)
		}
		read := "`" + name + "`"
		switch kind {
		case "date", "datetime", "timestamp":
			read = "CAST(" + read + " AS CHAR)"
		case "blob", "longblob", "mediumblob", "binary", "varbinary":
			return fmt.Errorf("table %s: column %s holds bytes, which a backup cannot hold", table, name)
		}
		columns[table] = append(columns[table], column{name, read})
		return nil
	})
	return names, columns, err
}

// Backup writes every table into a zip.
func (s *Store) Backup(ctx context.Context, z *zip.Writer, now time.Time) (BackupManifest, error) {
	m := BackupManifest{Format: backupFormat, Made: now.UTC(), Tables: map[string]int{}}
	err := s.view(ctx, func(tx *sql.Tx) error {
		names, columns, err := tablesOf(ctx, tx)
		if err != nil {
			return err
		}
		if err := tx.QueryRowContext(ctx, `SELECT MAX(version_id) FROM goose_db_version WHERE is_applied`).Scan(&m.Schema); err != nil {
			return err
		}
		for _, table := range names {
			w, err := z.Create("tables/" + table + ".jsonl")
			if err != nil {
				return err
			}
			if m.Tables[table], err = dump(ctx, tx, w, table, columns[table]); err != nil {
				return fmt.Errorf("table %s: %w", table, err)
			}
		}
		return nil
	})
	if err != nil {
		return m, err
	}
	w, err := z.Create("manifest.json")
	if err != nil {
		return m, err
	}
	return m, json.NewEncoder(w).Encode(m)
}

func dump(ctx context.Context, tx *sql.Tx, w io.Writer, table string, columns []column) (n int, err error) {
	b := bufio.NewWriter(w)
	reads := make([]string, len(columns))
	for i, c := range columns {
		reads[i] = c.read
	}
	names := make([]string, len(columns))
	for i, c := range columns {
		names[i] = c.name
	}
	out := json.NewEncoder(b)
	if err := out.Encode(names); err != nil {
		return 0, err
	}
	values, into := make([]sql.NullString, len(columns)), make([]any, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	row := make([]*string, len(columns))
	err = rowsOf(ctx, tx, "SELECT "+strings.Join(reads, ", ")+" FROM `"+table+"`", nil, func(scan func(...any) error) error {
		if err := scan(into...); err != nil {
			return err
		}
		for i, v := range values {
			row[i] = nil
			if v.Valid {
				row[i] = &v.String
			}
		}
		n++
		return out.Encode(row)
	})
	return n, errors.Join(err, b.Flush())
}

// ErrNotEmpty says that there is something in the database already.
var ErrNotEmpty = errors.New("the database holds an academy already: restore into an empty one")

// Restore fills an empty database with a backup: all of it or nothing. A backup of an older version is brought up to date; one of
// a newer one is refused.
func Restore(ctx context.Context, dsn string, z *zip.Reader) (m BackupManifest, err error) {
	if err := readManifest(z, &m); err != nil {
		return m, err
	}
	s, err := connect(dsn)
	if err != nil {
		return m, err
	}
	defer s.Close()
	if err := empty(ctx, s, m); err != nil {
		return m, err
	}
	if err := s.once(ctx, nil, func(tx *sql.Tx) error { return fill(ctx, tx, z, m) }); err != nil {
		return m, err
	}
	return m, newMigration(s.DB).migrate(ctx, 0)
}

// fill loads every table there is from the backup, and refuses one that lacks any.
func fill(ctx context.Context, tx *sql.Tx, z *zip.Reader, m BackupManifest) error {
	names, columns, err := tablesOf(ctx, tx)
	if err != nil {
		return err
	}
	for table := range m.Tables {
		if !slices.Contains(names, table) {
			return fmt.Errorf("the backup names a table %.64q that there is not in version %d", table, m.Schema)
		}
	}
	if _, err := tx.ExecContext(ctx, `SET SESSION foreign_key_checks = 0`); err != nil {
		return err
	}
	for _, table := range names {
		rows, named := m.Tables[table]
		f, err := z.Open("tables/" + table + ".jsonl")
		if err != nil || !named {
			return fmt.Errorf("the backup lacks the table %s: it is not whole", table)
		}
		n, err := load(ctx, tx, f, table, columns[table])
		f.Close()
		if err != nil {
			return fmt.Errorf("table %s: %w", table, err)
		}
		if n != rows {
			return fmt.Errorf("the backup holds %d rows of %s and says %d: it is not whole", n, table, rows)
		}
	}
	_, err = tx.ExecContext(ctx, `SET SESSION foreign_key_checks = 1`)
	return err
}

func readManifest(z *zip.Reader, m *BackupManifest) error {
	f, err := z.Open("manifest.json")
	if err != nil {
		return errors.New("this is no backup: it has no manifest")
	}
	defer f.Close()
	if err := json.NewDecoder(io.LimitReader(f, 1<<20)).Decode(m); err != nil || m.Format != backupFormat {
		return fmt.Errorf("this is no backup that this program reads (%.40q)", m.Format)
	}
	return nil
}

// empty brings the tables of an empty database to the version of a backup. Tables that are there already and hold nobody's
// academy are made anew.
func empty(ctx context.Context, s *Store, m BackupManifest) error {
	to := newMigration(s.DB)
	has, wants, err := to.version(ctx)
	if err != nil {
		return fmt.Errorf("the database cannot be asked for its version: %w", err)
	}
	if m.Schema < 1 || m.Schema > wants {
		return fmt.Errorf("the backup is of version %d and this program knows %d: restore it with a newer one", m.Schema, wants)
	}
	if has > 0 {
		all, err := s.Academies(ctx)
		if err != nil {
			return err
		}
		if len(all) > 0 {
			return ErrNotEmpty
		}
	}
	if has > m.Schema {
		if err := dropAll(ctx, s); err != nil {
			return err
		}
	}
	return to.migrate(ctx, m.Schema)
}

// dropAll drops every table.
func dropAll(ctx context.Context, s *Store) error {
	return s.onOne(ctx, func(conn *sql.Conn) error {
		defer discard(conn) // it does not look at keys any more
		var names []string
		err := rowsOf(ctx, conn, `SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'`, nil, func(scan func(...any) error) error {
			var name string
			err := scan(&name)
			names = append(names, "`"+name+"`")
			return err
		})
		if err != nil || len(names) == 0 {
			return err
		}
		if _, err := conn.ExecContext(ctx, `SET SESSION foreign_key_checks = 0`); err != nil {
			return err
		}
		_, err = conn.ExecContext(ctx, `DROP TABLE `+strings.Join(names, ", "))
		return err
	})
}

func load(ctx context.Context, tx *sql.Tx, r io.Reader, table string, columns []column) (n int, err error) {
	in := json.NewDecoder(bufio.NewReader(r))
	var names []string
	if err := in.Decode(&names); err != nil {
		return 0, err
	}
	if len(names) != len(columns) {
		return 0, fmt.Errorf("it names %d columns and the table has %d", len(names), len(columns))
	}
	for i, name := range names {
		if !slices.ContainsFunc(columns, func(c column) bool { return c.name == name }) {
			return 0, fmt.Errorf("there is no column %.64q", name)
		}
		names[i] = "`" + name + "`"
	}
	start, row := "INSERT INTO `"+table+"` ("+strings.Join(names, ",")+") VALUES ", "(?"+strings.Repeat(",?", len(names)-1)+")"
	var some [][]any
	for {
		var values []*string
		if err := in.Decode(&values); errors.Is(err, io.EOF) {
			return n, insertMany(ctx, tx, start, row, "", some)
		} else if err != nil {
			return n, err
		}
		if len(values) != len(names) {
			return n, fmt.Errorf("row %d has %d values for %d columns", n+1, len(values), len(names))
		}
		args := make([]any, len(values))
		for i, v := range values {
			if v != nil {
				args[i] = *v
			}
		}
		n++
		if some = append(some, args); len(some) >= rowsAtOnce {
			if err := insertMany(ctx, tx, start, row, "", some); err != nil {
				return n, err
			}
			some = some[:0]
		}
	}
}
