package store

import (
	"context"
	"database/sql"
)

// ConnectTo opens a database whatever version its tables are of.
func ConnectTo(dsn string) (*Store, error) { return connect(dsn) }

// MigrateTo brings tables to a version; halt is asked after each statement, and its error ends it there.
func MigrateTo(ctx context.Context, db *sql.DB, to int64, halt func(version int64, step int) error) error {
	m := newMigration(db)
	m.halt = halt
	return m.migrate(ctx, to)
}

// VersionOf is the version of the tables and the program's.
func VersionOf(ctx context.Context, db *sql.DB) (has, wants int64, err error) {
	return newMigration(db).version(ctx)
}

// StatementsOf is how many steps a file of statements has.
var StatementsOf = statementsOf
