package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"math/rand/v2"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Transactions begin and end here alone, for two reasons. Whoever holds a connection must never wait for another one, or as
// many readers as there are connections wait for each other for ever. And a COMMIT that a node of a cluster refuses (it has
// just lost the others) leaves its transaction open: the next user of that connection would write into it, be told
// that it is kept, and lose it. Such a connection is closed.

// once runs do in one transaction, which is kept when do returns nil. do uses tx alone, never another connection.
func (s *Store) once(ctx context.Context, options *sql.TxOptions, do func(tx *sql.Tx) error) error {
	conn, err := s.DB.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	tx, err := conn.BeginTx(ctx, options)
	if err != nil {
		discard(conn) // it may be in a transaction already
		return err
	}
	ended := false
	defer func() {
		if !ended { // do panicked
			_ = tx.Rollback()
			discard(conn)
		}
	}()
	err = do(tx)
	ended = true
	if err != nil {
		if tx.Rollback() != nil {
			discard(conn)
		}
		return err
	}
	if err = tx.Commit(); err != nil {
		discard(conn)
	}
	return err
}

// discard closes a connection, so that nobody gets it from the pool.
func discard(conn *sql.Conn) {
	_ = conn.Raw(func(any) error { return driver.ErrBadConn })
}

// transact is once, tried again while other sessions or the nodes of a cluster are in the way. do begins anew each time.
func (s *Store) transact(ctx context.Context, do func(tx *sql.Tx) error) error {
	return insist(ctx, func() error { return s.once(ctx, nil, do) })
}

// view runs do on one consistent view of the database.
func (s *Store) view(ctx context.Context, do func(tx *sql.Tx) error) error {
	return s.once(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true}, do)
}

// exec runs one statement that changes something, again while something is in its way: one that was refused so has changed nothing.
func (s *Store) exec(ctx context.Context, query string, args ...any) (done sql.Result, err error) {
	err = insist(ctx, func() error {
		done, err = s.DB.ExecContext(ctx, query, args...)
		return err
	})
	return done, err
}

// insist tries again what something was in the way of, for as long as there is patience.
func insist(ctx context.Context, do func() error) error {
	end := time.Now().Add(patience)
	for try := 0; ; try++ {
		err := do()
		if !inTheWay(err) || time.Now().After(end) {
			return err
		}
		select {
		case <-ctx.Done():
			return errors.Join(ctx.Err(), err)
		case <-time.After(pause(try)):
		}
	}
}

// pause is how long to wait before trying again: a moment at first, up to a fifth of a second.
func pause(try int) time.Duration {
	return time.Duration(1+rand.IntN(2+min(try, 50)*4)) * time.Millisecond
}

// patience is how long something is tried again that is in nobody's fault, before it is given up.
const patience = 10 * time.Second

// inTheWay says whether a statement failed for no reason of its own: a
// deadlock, a lock waited for too long, a cluster's certification, a node that is just joining.
func inTheWay(err error) bool {
	var broken *mysql.MySQLError
	if !errors.As(err, &broken) {
		return false
	}
	switch broken.Number {
	case 1213, 1205, 1020: // deadlock or certification, lock wait, changed since it was read
		return true
	case 1047, 1180: // a node that is not one of the cluster at the moment, a commit the cluster refused
		return true
	case 1568: // the connection was left in a transaction; it is closed by now
		return true
	}
	return false
}

// Unavailable says whether a statement failed because its server cannot do anything at the moment, so that asking later may help.
func Unavailable(err error) bool { return inTheWay(err) }
