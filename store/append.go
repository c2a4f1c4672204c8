package store

import (
	"context"
	"database/sql"
	"errors"
	"sync"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Appending never refuses somebody because somebody else appends: whoever asks
// while another transaction is under way waits for the next one, which takes all who wait
// at once. A full hall checking in is a few transactions, not one for each tap.

// appendTurn collects what is to be appended to one academy's log.
type appendTurn struct {
	mu      sync.Mutex
	waiting []*appendRequest
	running bool
}

type appendRequest struct {
	events []Event
	done   chan error
}

// mostAtOnce bounds one transaction of appends.
const mostAtOnce = 200

// Append adds events to an academy's log: all of them or none. An event that
// is there already, sent again, changes nothing and is no error. *UsedError,
// *ReplacedError and ErrMissing say why one cannot be kept. When it
// returns nil the events are on the disk.
func (s *Store) Append(ctx context.Context, academy string, events ...Event) error {
	if len(events) == 0 {
		return nil
	}
	made, _ := s.turns.LoadOrStore(academy, &appendTurn{})
	turn := made.(*appendTurn)
	r := &appendRequest{events, make(chan error, 1)}
	turn.mu.Lock()
	turn.waiting = append(turn.waiting, r)
	lead := !turn.running
	turn.running = true
	turn.mu.Unlock()
	if lead {
		go s.runTurn(turn, academy)
	}
	select {
	case err := <-r.done:
		return err
	case <-ctx.Done():
		return ctx.Err() // it may still be kept: the sender asks again under the same identifier
	}
}

func (s *Store) runTurn(turn *appendTurn, academy string) {
	for {
		turn.mu.Lock()
		some := turn.waiting[:min(mostAtOnce, len(turn.waiting))]
		turn.waiting = turn.waiting[len(some):]
		if len(some) == 0 {
			turn.waiting, turn.running = nil, false
			turn.mu.Unlock()
			return
		}
		turn.mu.Unlock()
		for i, err := range s.appendAll(academy, some) {
			some[i].done <- err
		}
	}
}

// appendAll keeps what several asked for in one transaction. Where one of them breaks
// it, each gets a transaction of its own, so that nobody fails for somebody else.
func (s *Store) appendAll(academy string, some []*appendRequest) []error {
	out := make([]error, len(some))
	err := s.appendOnce(academy, some, out)
	if err == nil {
		return out
	}
	for i := range some {
		out[i] = err
		if len(some) > 1 && !gone(err) {
			one := []error{nil}
			if out[i] = s.appendOnce(academy, some[i:i+1], one); out[i] == nil {
				out[i] = one[0]
			}
		}
	}
	return out
}

// appendOnce runs one transaction, again while nodes of a cluster are in each
// other's way. What concerns one request alone goes to refused.
func (s *Store) appendOnce(academy string, some []*appendRequest, refused []error) error {
	events := 0
	for _, r := range some {
		events += len(r.events)
	}
	ctx, cancel := context.WithTimeout(context.Background(), patience+time.Duration(events)*time.Millisecond)
	defer cancel()
	return s.transact(ctx, func(tx *sql.Tx) error {
		clear(refused)
		return appendKept(ctx, tx, academy, some, refused)
	})
}

func appendKept(ctx context.Context, tx *sql.Tx, academy string, some []*appendRequest, refused []error) error {
	kept := some
	for {
		var all []Event
		for _, r := range kept {
			all = append(all, r.events...)
		}
		if _, err := tx.ExecContext(ctx, `SAVEPOINT before_events`); err != nil {
			return err
		}
		_, each, err := appendEvents(ctx, tx, academy, all)
		if err != nil {
			return err
		}
		var still []*appendRequest
		at := 0
		for _, r := range kept {
			err := errors.Join(each[at : at+len(r.events)]...)
			at += len(r.events)
			if err == nil {
				still = append(still, r)
				continue
			}
			for i := range some {
				if some[i] == r {
					refused[i] = err
				}
			}
		}
		if len(still) == len(kept) {
			return nil
		}
		// A request is kept whole or not at all: what was written of one that is refused is taken back, and the others are
		// decided again without it.
		if _, err := tx.ExecContext(ctx, `ROLLBACK TO SAVEPOINT before_events`); err != nil {
			return err
		}
		if kept = still; len(kept) == 0 {
			return nil
		}
	}
}

// gone says whether the database cannot be asked at all.
func gone(err error) bool {
	return errors.Is(err, context.DeadlineExceeded) || errors.Is(err, mysql.ErrInvalidConn) || errors.Is(err, ErrMissing)
}
