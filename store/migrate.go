package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"path"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
)

// Tables change in versions, each a file of statements in migrations/. MariaDB keeps each change of a table at once and takes none
// back, so a version that is interrupted is half there. Therefore:
//
//   - a version goes statement by statement. A statement that changes rows is kept together with its step, in the table
//     migration_step, and runs once; those that change tables run again from there, so each of them says IF [NOT] EXISTS;
//   - a statement that began is waited for, whoever gives up meanwhile;
//   - one program at a time does it: the row of migration_lock is its for some seconds, and is made longer while it works.
//
// It only goes forward. What an older version had is in the backup that was made before.

//go:embed migrations/*.sql
var migrationFiles embed.FS

// statement is one step of a version.
type statement struct {
	text string
	rows bool // it changes rows, not tables
}

// statementsOf takes a file of SQL apart: a statement ends with a semicolon at the end of a line.
func statementsOf(text string) []statement {
	var all []statement
	var now strings.Builder
	for line := range strings.Lines(text) {
		if now.Len() == 0 && strings.TrimSpace(line) == "" || strings.HasPrefix(strings.TrimSpace(line), "--") {
			continue
		}
		now.WriteString(line)
		if end, ok := strings.CutSuffix(strings.TrimSpace(now.String()), ";"); ok {
			verb, _, _ := strings.Cut(end, " ")
			all = append(all, statement{end, verb == "INSERT" || verb == "UPDATE" || verb == "DELETE"})
			now.Reset()
		}
	}
	return all
}

// migration is what is known while the tables are brought up to date.
type migration struct {
	db     *sql.DB
	holder string
	until  atomic.Int64 // the tables are this program's until then: nanoseconds of its own clock
	// halt is asked after each statement, before its step is kept. Tests interrupt with it.
	halt func(version int64, step int) error
}

// mine says whether nobody else may have begun.
func (m *migration) mine() bool { return time.Now().UnixNano() < m.until.Load() }

// versions makes a provider whose versions are the files, each run step by step.
func (m *migration) versions() (*goose.Provider, error) {
	names, err := migrationFiles.ReadDir("migrations")
	if err != nil {
		return nil, err
	}
	var all []*goose.Migration
	for _, name := range names {
		number, _, _ := strings.Cut(name.Name(), "_")
		version, err := strconv.ParseInt(number, 10, 64)
		if err != nil {
			return nil, fmt.Errorf("the migration %s has no number", name.Name())
		}
		text, err := migrationFiles.ReadFile(path.Join("migrations", name.Name()))
		if err != nil {
			return nil, err
		}
		all = append(all, goose.NewGoMigration(version, &goose.GoFunc{RunDB: func(ctx context.Context, _ *sql.DB) error {
			return m.run(ctx, version, statementsOf(string(text)))
		}}, nil))
	}
	return goose.NewProvider(goose.DialectMySQL, m.db, nil, goose.WithGoMigrations(all...), goose.WithDisableGlobalRegistry(true))
}

// run does what is left of a version.
func (m *migration) run(ctx context.Context, version int64, steps []statement) error {
	done := -1
	if err := m.db.QueryRowContext(ctx, `SELECT COALESCE(MAX(step), -1) FROM migration_step WHERE version = ?`, version).Scan(&done); err != nil {
		return err
	}
	for step, s := range steps {
		if step <= done {
			continue
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := m.step(context.WithoutCancel(ctx), version, step, s); err != nil {
			return fmt.Errorf("version %d, statement %d (%.60s …): %w", version, step+1, s.text, err)
		}
	}
	return nil
}

func (m *migration) step(ctx context.Context, version int64, step int, s statement) error {
	if !m.mine() {
		return errElsewhere
	}
	if !s.rows {
		if _, err := m.db.ExecContext(ctx, s.text); err != nil {
			return err
		}
		return m.halt(version, step)
	}
	return New(m.db).once(ctx, nil, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, s.text); err != nil {
			return err
		}
		if err := m.halt(version, step); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO migration_step (version, step) VALUES (?, ?)`, version, step)
		return err
	})
}

// holdTime is for how long a program has the tables to itself after it last said so: another one goes on after that.
const holdTime = 5 * time.Second

// errElsewhere says that another program brings the tables up to date.
var errElsewhere = errors.New("another program brings the tables up to date now")

// hold takes the lock, or keeps it.
func (m *migration) hold(ctx context.Context) error {
	asked := time.Now()
	done, err := m.db.ExecContext(ctx, `UPDATE migration_lock SET holder = ?, until = UTC_TIMESTAMP(6) + INTERVAL ? SECOND WHERE one = 1 AND (holder = ? OR until < UTC_TIMESTAMP(6))`, m.holder, int(holdTime.Seconds()), m.holder)
	if inTheWay(err) {
		return errElsewhere
	}
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, errElsewhere)
	}
	m.until.Store(asked.Add(holdTime - time.Second).UnixNano())
	return nil
}

// What keeps how far it came, each statement repeatable: the lock first, the rest by whoever has it.
var (
	lockTable = []string{
		`CREATE TABLE IF NOT EXISTS migration_lock (one INT NOT NULL PRIMARY KEY, holder CHAR(36) NOT NULL, until DATETIME(6) NOT NULL) ENGINE=InnoDB`,
		`INSERT IGNORE INTO migration_lock (one, holder, until) VALUES (1, '', '2000-01-01')`,
	}
	stepTables = []string{
		`CREATE TABLE IF NOT EXISTS migration_step (version BIGINT NOT NULL, step INT NOT NULL, PRIMARY KEY (version, step)) ENGINE=InnoDB`,
		// As the library makes it; it does not go on with one that was made and left empty.
		`CREATE TABLE IF NOT EXISTS goose_db_version (id SERIAL NOT NULL, version_id BIGINT NOT NULL, is_applied BOOLEAN NOT NULL, tstamp TIMESTAMP NULL DEFAULT NOW(), PRIMARY KEY (id)) ENGINE=InnoDB`,
		`INSERT INTO goose_db_version (version_id, is_applied) SELECT 0, TRUE FROM DUAL WHERE NOT EXISTS (SELECT 1 FROM goose_db_version)`,
	}
)

func (m *migration) prepare(ctx context.Context, statements []string) error {
	for _, text := range statements {
		if _, err := New(m.db).exec(context.WithoutCancel(ctx), text); err != nil {
			return err
		}
	}
	return nil
}

// migrate brings the tables up to a version; 0 is the newest. Where another program does it already, it waits for that one.
func (m *migration) migrate(ctx context.Context, to int64) error {
	if err := m.prepare(ctx, lockTable); err != nil {
		return err
	}
	for {
		err := m.hold(ctx)
		if err == nil {
			break
		}
		if !errors.Is(err, errElsewhere) {
			return err
		}
		select {
		case <-ctx.Done():
			return errors.Join(ctx.Err(), err)
		case <-time.After(200 * time.Millisecond):
		}
	}
	defer m.release()
	// A statement that began is waited for also when ctx ends, and so is the lock kept for it.
	working, stop := context.WithCancel(context.WithoutCancel(ctx))
	defer stop()
	go func() { // while a long statement runs
		for {
			select {
			case <-working.Done():
				return
			case <-time.After(holdTime / 4):
				_ = m.hold(working)
			}
		}
	}()
	if err := m.prepare(ctx, stepTables); err != nil {
		return err
	}
	versions, err := m.versions()
	if err != nil {
		return err
	}
	if to == 0 {
		_, err = versions.Up(ctx)
	} else {
		_, err = versions.UpTo(ctx, to)
	}
	return err
}

func (m *migration) release() {
	ctx, cancel := context.WithTimeout(context.Background(), holdTime)
	defer cancel()
	_, _ = m.db.ExecContext(ctx, `UPDATE migration_lock SET until = '2000-01-01' WHERE one = 1 AND holder = ?`, m.holder)
}

// newMigration makes one for a database.
func newMigration(db *sql.DB) *migration {
	return &migration{db: db, holder: NewID(), halt: func(int64, int) error { return nil }}
}

// version says how far the tables are, and how far this program's are; 0 where there are none.
func (m *migration) version(ctx context.Context) (has, wants int64, err error) {
	versions, err := m.versions()
	if err != nil {
		return 0, 0, err
	}
	sources := versions.ListSources()
	wants = sources[len(sources)-1].Version
	err = m.db.QueryRowContext(ctx, `SELECT COALESCE(MAX(version_id), 0) FROM goose_db_version WHERE is_applied`).Scan(&has)
	var broken *mysql.MySQLError
	if errors.As(err, &broken) && broken.Number == 1146 { // there is no such table
		return 0, wants, nil
	}
	return has, wants, err
}
