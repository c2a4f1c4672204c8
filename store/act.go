package store

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Act is what somebody does to accounts: all of it is done or nothing, so that nobody is left with a link that is used up and no
// password, or a new password and the old sessions.
type Act struct {
	ctx     context.Context
	tx      *sql.Tx
	academy string
}

// Act runs do in one transaction. do may run again, and keeps nothing from a try before.
func (s *Store) Act(ctx context.Context, academy string, do func(*Act) error) error {
	return s.transact(ctx, func(tx *sql.Tx) error { return do(&Act{ctx, tx, academy}) })
}

func (a *Act) exec(query string, args ...any) error {
	_, err := a.tx.ExecContext(a.ctx, query, args...)
	return err
}

// AddAccount keeps a new account, or says ErrTaken.
func (a *Act) AddAccount(x Account, at time.Time) error {
	err := a.exec(`INSERT INTO account (id, academy, sign_in, password, roles, person, wards, email, created_at) VALUES (?,?,?,?,?,?,?,?,?)`,
		x.ID, a.academy, x.SignIn, x.Password, strings.Join(x.Roles, ","), x.Person, strings.Join(x.Wards, ","), x.Email, at)
	var refused *mysql.MySQLError
	if errors.As(err, &refused) && refused.Number == 1062 {
		return ErrTaken
	}
	return err
}

// ErrLastHead says that nobody else can sign in as head instructor.
var ErrLastHead = errors.New("nobody else can sign in as head instructor")

// ChangeAccount keeps an account's roles, address, person, wards, and whether it is closed. Where it is no head instructor's any more
// somebody else's must be, or it is ErrLastHead: of two who take each other's away at once, on one server or two, one is
// refused, as both write the academy's row.
func (a *Act) ChangeAccount(x Account, head string) error {
	if x.Closed != nil || !slices.Contains(x.Roles, head) {
		if err := a.exec(`UPDATE academy SET revision = revision + 1 WHERE id = ?`, a.academy); err != nil {
			return err
		}
		was, others := false, false
		err := rowsOf(a.ctx, a.tx, `SELECT id, roles, password, closed_at IS NOT NULL FROM account WHERE academy = ? FOR UPDATE`, []any{a.academy}, func(scan func(...any) error) error {
			var id, roles, password string
			var closed bool
			err := scan(&id, &roles, &password, &closed)
			is := !closed && password != "" && slices.Contains(parts(roles), head)
			was, others = was || is && id == x.ID, others || is && id != x.ID
			return err
		})
		if err != nil {
			return err
		}
		if was && !others {
			return ErrLastHead
		}
	}
	return a.exec(`UPDATE account SET roles = ?, person = ?, wards = ?, email = ?, closed_at = ? WHERE id = ? AND academy = ?`,
		strings.Join(x.Roles, ","), x.Person, strings.Join(x.Wards, ","), x.Email, x.Closed, x.ID, a.academy)
}

// MoveAccounts gives the accounts of one person to another, and a guardian's page with them.
func (a *Act) MoveAccounts(from, to string) error {
	if err := a.exec(`UPDATE account SET person = ? WHERE academy = ? AND person = ?`, to, a.academy, from); err != nil {
		return err
	}
	wards := map[string][]string{}
	err := rowsOf(a.ctx, a.tx, `SELECT id, wards FROM account WHERE academy = ? AND wards <> ''`, []any{a.academy}, func(scan func(...any) error) error {
		var id, list string
		err := scan(&id, &list)
		wards[id] = parts(list)
		return err
	})
	if err != nil {
		return err
	}
	for id, all := range wards {
		i := slices.Index(all, from)
		if i < 0 {
			continue
		}
		if all[i] = to; slices.Index(all, to) < i {
			all = slices.Delete(all, i, i+1)
		}
		if err := a.exec(`UPDATE account SET wards = ? WHERE academy = ? AND id = ?`, strings.Join(all, ","), a.academy, id); err != nil {
			return err
		}
	}
	return nil
}

// SetPassword keeps a new password's hash.
func (a *Act) SetPassword(account, hash string) error {
	return a.exec(`UPDATE account SET password = ? WHERE id = ?`, hash, account)
}

// SetSecondFactor keeps the secret of a second factor; since is nil until it is confirmed. Recovery codes are the hashes
// of those that go with it.
func (a *Act) SetSecondFactor(account, secret string, since *time.Time, recovery []string) error {
	if err := a.exec(`UPDATE account SET totp_secret = ?, totp_since = ?, totp_step = 0 WHERE id = ?`, secret, since, account); err != nil {
		return err
	}
	if err := a.exec(`DELETE FROM recovery_code WHERE account = ?`, account); err != nil {
		return err
	}
	for _, hash := range recovery {
		if err := a.exec(`INSERT INTO recovery_code (account, hash) VALUES (?,?)`, account, hash); err != nil {
			return err
		}
	}
	return nil
}

// AddLink keeps what opens something once, until a time. Of one kind and account the last one alone counts.
func (a *Act) AddLink(hash, kind, account string, until, now time.Time) error {
	of := sql.NullString{String: account, Valid: account != ""}
	if err := a.exec(`DELETE FROM account_link WHERE kind = ? AND account <=> ? OR expires_at < ?`, kind, of, now); err != nil {
		return err
	}
	return a.exec(`INSERT INTO account_link (hash, kind, account, expires_at) VALUES (?,?,?,?)`, hash, kind, of, until)
}

// UseLink uses a link up: of several who try at once, one does; the others hear ErrMissing.
func (a *Act) UseLink(hash string, now time.Time) error {
	done, err := a.tx.ExecContext(a.ctx, `DELETE FROM account_link WHERE hash = ? AND expires_at >= ?`, hash, now)
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrMissing)
	}
	return nil
}

// EndSessions ends one session of an account, or all but one: those that are named by only, or by except, or all of them.
func (a *Act) EndSessions(account, only, except string) error {
	return a.exec(`DELETE FROM signed_in WHERE account = ? AND ? IN ('', id) AND id <> ?`, account, only, except)
}

// ForgetDevices makes every browser of an account an unknown one.
func (a *Act) ForgetDevices(account string) error {
	return a.exec(`DELETE FROM known_device WHERE account = ?`, account)
}

// Log adds a line to the access log.
func (a *Act) Log(x Access) error { return logAccess(a.ctx, a.tx, a.academy, x) }

// Write puts a letter into the outbox.
func (a *Act) Write(l Letter) error { return insertLetters(a.ctx, a.tx, a.academy, []Letter{l}) }

// LogAccess adds a line.
func (s *Store) LogAccess(ctx context.Context, academy string, x Access) error {
	return s.Act(ctx, academy, func(a *Act) error { return a.Log(x) })
}

func logAccess(ctx context.Context, tx *sql.Tx, academy string, x Access) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO access_log (academy, id, at, account, who, what, address) VALUES (?,?,?,?,?,?,?)`, academy, NewID(), x.At, x.Account, x.Who, x.What, x.Address)
	return err
}
