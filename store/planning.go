package store

import (
	"context"
	"database/sql"
	"errors"
	"time"
)

// Planning is where the planning of a season stands.
type Planning struct {
	Run      string
	State    string // running, done, failed
	Stop     bool
	Share    float64 // of the work wished for
	Coverage float64
	Summary  string
	Change   string
	Silent   time.Duration // since it last said something, by the database's clock: those of two servers may differ
}

// BeginPlanning notes a new run; the one before it, if it still runs, is
// overtaken and ends at its next report.
func (s *Store) BeginPlanning(ctx context.Context, academy, season string, p Planning) error {
	_, err := s.exec(ctx, `REPLACE INTO planning (academy, season, run, state, stop, share, coverage, says, change_id, seen_at) VALUES (?,?,?,?,FALSE,?,?,?,?,UTC_TIMESTAMP(6))`,
		academy, season, p.Run, p.State, p.Share, p.Coverage, p.Summary, p.Change)
	return err
}

// ReportPlanning writes where a run stands and says whether it should go on.
func (s *Store) ReportPlanning(ctx context.Context, academy, season string, p Planning) (goOn bool, err error) {
	r, err := s.exec(ctx, `UPDATE planning SET state = ?, share = ?, coverage = ?, says = ?, change_id = ?, seen_at = UTC_TIMESTAMP(6) WHERE academy = ? AND season = ? AND run = ?`,
		p.State, p.Share, p.Coverage, p.Summary, p.Change, academy, season, p.Run)
	if err != nil {
		return false, err
	}
	now, err := s.Planning(ctx, academy, season)
	if err != nil {
		return false, err
	}
	_, err = r.RowsAffected()
	return now.Run == p.Run && !now.Stop, err
}

// StillPlanning is ErrOvertaken where another run of a season's planning was begun since; what is kept with it is then not kept.
func (a *Act) StillPlanning(season, run string) error {
	var now string
	err := a.tx.QueryRowContext(a.ctx, `SELECT run FROM planning WHERE academy = ? AND season = ? FOR UPDATE`, a.academy, season).Scan(&now)
	if errors.Is(err, sql.ErrNoRows) || err == nil && now != run {
		return ErrOvertaken
	}
	return err
}

// ErrOvertaken says that another planning of the same season was begun since.
var ErrOvertaken = errors.New("another planning of this season was begun since")

// StopPlanning asks a run to end with the best it has.
func (s *Store) StopPlanning(ctx context.Context, academy, season string) error {
	_, err := s.exec(ctx, `UPDATE planning SET stop = TRUE WHERE academy = ? AND season = ?`, academy, season)
	return err
}

// Planning reads where the planning of a season stands, or ErrMissing.
func (s *Store) Planning(ctx context.Context, academy, season string) (Planning, error) {
	var p Planning
	var silent int64
	err := s.DB.QueryRowContext(ctx, `SELECT run, state, stop, share, coverage, says, change_id, TIMESTAMPDIFF(MICROSECOND, seen_at, UTC_TIMESTAMP(6)) FROM planning WHERE academy = ? AND season = ?`, academy, season).
		Scan(&p.Run, &p.State, &p.Stop, &p.Share, &p.Coverage, &p.Summary, &p.Change, &silent)
	p.Silent = time.Duration(silent) * time.Microsecond
	if errors.Is(err, sql.ErrNoRows) {
		return p, ErrMissing
	}
	return p, err
}

// Feed is a private address of a calendar.
type Feed struct {
	Token, Academy, Scope, Target string
	Made                          time.Time
}

// AddFeed keeps a new address, in place of the one before it. Of several made at
// once the last one counts.
func (s *Store) AddFeed(ctx context.Context, f Feed) error {
	for try := 0; ; try++ {
		_, err := s.exec(ctx, `INSERT INTO feed (token, academy, scope, target, made_at) VALUES (?,?,?,?,?) ON DUPLICATE KEY UPDATE token = VALUES(token), made_at = VALUES(made_at)`, f.Token, f.Academy, f.Scope, f.Target, f.Made)
		if !inTheWay(err) || try > 20 {
			return err
		}
	}
}

// RevokeFeed ends an address.
func (s *Store) RevokeFeed(ctx context.Context, academy, scope, target string) error {
	_, err := s.exec(ctx, `DELETE FROM feed WHERE academy = ? AND scope = ? AND target = ?`, academy, scope, target)
	return err
}

// Feeds lists an academy's addresses.
func (s *Store) Feeds(ctx context.Context, academy string) ([]Feed, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT token, academy, scope, target, made_at FROM feed WHERE academy = ? ORDER BY scope, target`, academy)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var all []Feed
	for rows.Next() {
		var f Feed
		if err := rows.Scan(&f.Token, &f.Academy, &f.Scope, &f.Target, &f.Made); err != nil {
			return nil, err
		}
		all = append(all, f)
	}
	return all, rows.Err()
}

// FeedByToken finds an address, or ErrMissing.
func (s *Store) FeedByToken(ctx context.Context, token string) (Feed, error) {
	var f Feed
	err := s.DB.QueryRowContext(ctx, `SELECT token, academy, scope, target, made_at FROM feed WHERE token = ?`, token).Scan(&f.Token, &f.Academy, &f.Scope, &f.Target, &f.Made)
	if errors.Is(err, sql.ErrNoRows) {
		return f, ErrMissing
	}
	return f, err
}
