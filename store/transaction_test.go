package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// node is a server that refuses what it is told to, as a node of a cluster does that has just lost the others.
type node struct {
	mu       sync.Mutex
	refuse   map[string][]uint16 // what is asked: the errors it is answered with, one after the other
	opened   int                 // connections
	asked    []string
	rejected []string // writes outside a transaction on a connection that was left in one
}

func (n *node) Connect(context.Context) (driver.Conn, error) {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.opened++
	return &nodeConn{node: n}, nil
}
func (n *node) Driver() driver.Driver { return nil }

func (n *node) answer(what string) error {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.asked = append(n.asked, what)
	if all := n.refuse[what]; len(all) > 0 {
		n.refuse[what] = all[1:]
		return &mysql.MySQLError{Number: all[0], Message: what}
	}
	return nil
}

type nodeConn struct {
	*node
	within bool // a transaction was begun and not ended
}

func (c *nodeConn) Prepare(string) (driver.Stmt, error) { return nil, errors.New("not here") }
func (c *nodeConn) Close() error                        { return nil }
func (c *nodeConn) Begin() (driver.Tx, error)           { return nil, errors.New("not here") }
func (c *nodeConn) BeginTx(context.Context, driver.TxOptions) (driver.Tx, error) {
	if c.within {
		return nil, &mysql.MySQLError{Number: 1568}
	}
	if err := c.answer("begin"); err != nil {
		return nil, err
	}
	c.within = true
	return &nodeTx{c}, nil
}
func (c *nodeConn) ExecContext(_ context.Context, query string, _ []driver.NamedValue) (driver.Result, error) {
	if query == "alone" && c.within {
		c.node.mu.Lock()
		c.node.rejected = append(c.node.rejected, query)
		c.node.mu.Unlock()
	}
	return driver.RowsAffected(1), c.answer(query)
}

type nodeTx struct{ conn *nodeConn }

func (t *nodeTx) Commit() error {
	if err := t.conn.answer("commit"); err != nil {
		return err // and the transaction stays open
	}
	t.conn.within = false
	return nil
}
func (t *nodeTx) Rollback() error {
	if err := t.conn.answer("rollback"); err != nil {
		return err
	}
	t.conn.within = false
	return nil
}

func onNode(t *testing.T, refuse map[string][]uint16) (*Store, *node) {
	n := &node{refuse: refuse}
	db := sql.OpenDB(n)
	t.Cleanup(func() { db.Close() })
	db.SetMaxOpenConns(1)
	return New(db), n
}

// A connection whose COMMIT or ROLLBACK was refused is in its transaction still. Whoever got it next would write into that, and lose it.
func TestAConnectionLeftInATransactionIsNotUsedAgain(t *testing.T) {
	for _, what := range []string{"commit", "rollback"} {
		s, n := onNode(t, map[string][]uint16{what: {1047}})
		err := s.once(t.Context(), nil, func(tx *sql.Tx) error {
			if what == "rollback" {
				return ErrMissing
			}
			return nil
		})
		assert.Error(t, err, what)
		_, err = s.exec(t.Context(), "alone")
		require.NoError(t, err)
		assert.Empty(t, n.rejected, what)
		assert.Equal(t, 2, n.opened, what)
	}
	// Whoever panics within one leaves nothing behind either.
	s, n := onNode(t, nil)
	assert.Panics(t, func() { _ = s.once(t.Context(), nil, func(*sql.Tx) error { panic("lost") }) })
	_, err := s.exec(t.Context(), "alone")
	require.NoError(t, err)
	assert.Empty(t, n.rejected)
}

// What a node refuses for a moment is asked again; what is wrong with the statement is not.
func TestWhatIsInTheWayIsTriedAgain(t *testing.T) {
	s, n := onNode(t, map[string][]uint16{"commit": {1213, 1180, 1047}, "begin": {1047}})
	require.NoError(t, s.transact(t.Context(), func(*sql.Tx) error { return nil }))
	assert.Empty(t, n.refuse["commit"])
	s, n = onNode(t, map[string][]uint16{"alone": {1047, 1205}})
	_, err := s.exec(t.Context(), "alone")
	require.NoError(t, err)
	assert.Len(t, n.asked, 3)
	s, n = onNode(t, map[string][]uint16{"alone": {1062}})
	_, err = s.exec(t.Context(), "alone")
	assert.Error(t, err)
	assert.Len(t, n.asked, 1)
	// It ends with whoever asks.
	s, _ = onNode(t, map[string][]uint16{"alone": {1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047, 1047}})
	ctx, cancel := context.WithTimeout(t.Context(), time.Millisecond)
	defer cancel()
	_, err = s.exec(ctx, "alone")
	assert.ErrorIs(t, err, context.DeadlineExceeded)
}
