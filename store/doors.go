package store

import (
	"context"
	"database/sql"
	"errors"
	"time"
)

// Door is a reader at a door.
type Door struct {
	ID      string
	Academy string
	Name    string
	Made    time.Time
	Seen    *time.Time // when a tap came last
}

// AddDoor keeps a door; hash is of its key.
func (s *Store) AddDoor(ctx context.Context, d Door, hash string) error {
	_, err := s.exec(ctx, `INSERT INTO door (id, academy, name, key_hash, made_at) VALUES (?,?,?,?,?)`, d.ID, d.Academy, d.Name, hash, d.Made)
	return err
}

// Doors lists an academy's doors by name.
func (s *Store) Doors(ctx context.Context, academyID string) ([]Door, error) {
	all := []Door{}
	return all, rowsOf(ctx, s.DB, `SELECT id, academy, name, made_at, seen_at FROM door WHERE academy = ? ORDER BY name, id`, []any{academyID}, func(scan func(...any) error) error {
		var d Door
		err := scan(&d.ID, &d.Academy, &d.Name, &d.Made, &d.Seen)
		all = append(all, d)
		return err
	})
}

// DoorByKey finds the door of a key, and notes that it was heard of; ErrMissing when it is none's.
func (s *Store) DoorByKey(ctx context.Context, hash string, now time.Time) (Door, error) {
	var d Door
	err := s.DB.QueryRowContext(ctx, `SELECT id, academy, name, made_at, seen_at FROM door WHERE key_hash = ?`, hash).Scan(&d.ID, &d.Academy, &d.Name, &d.Made, &d.Seen)
	if errors.Is(err, sql.ErrNoRows) {
		return d, ErrMissing
	}
	if err != nil {
		return d, err
	}
	_, err = s.exec(ctx, `UPDATE door SET seen_at = ? WHERE id = ?`, now, d.ID)
	return d, err
}

// EndDoor takes a door's key away; ErrMissing when there is no such door.
func (s *Store) EndDoor(ctx context.Context, academyID, id string) error {
	r, err := s.exec(ctx, `DELETE FROM door WHERE academy = ? AND id = ?`, academyID, id)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrMissing)
	}
	return nil
}
