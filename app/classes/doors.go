package classes

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"time"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// DoorLine is a reader at a door.
type DoorLine struct {
	ID   string     `json:"id"`
	Name string     `json:"name"`
	Made time.Time  `json:"made"`
	Seen *time.Time `json:"seen,omitempty" doc:"When a tap came last"`
}

// NewDoor is a door with its key, which is shown once.
type NewDoor struct {
	ID  string `json:"id"`
	Key string `json:"key"`
}

// Doors lists the readers.
func (a *Service) Doors(ctx context.Context, u state.User) ([]DoorLine, error) {
	all, err := a.Store.Doors(ctx, u.Academy)
	lines := make([]DoorLine, len(all))
	for i, d := range all {
		lines[i] = DoorLine{d.ID, d.Name, d.Made, d.Seen}
	}
	return lines, err
}

// AddDoor makes a reader's key.
func (a *Service) AddDoor(ctx context.Context, u state.User, name string) (NewDoor, error) {
	var found validation.Found
	found.Name("name", name, "door")
	if err := state.InvalidAll(found); err != nil {
		return NewDoor{}, err
	}
	raw := make([]byte, 24)
	_, _ = rand.Read(raw)
	d := NewDoor{ID: store.NewID(), Key: base64.RawURLEncoding.EncodeToString(raw)}
	if err := a.Store.AddDoor(ctx, store.Door{ID: d.ID, Academy: u.Academy, Name: name, Made: a.Now().UTC()}, keyHash(d.Key)); err != nil {
		return NewDoor{}, err
	}
	return d, a.logDoor(ctx, u, "Made a key for the door reader "+name)
}

// logDoor writes into the access log: a key that checks people in is a way in.
func (a *Service) logDoor(ctx context.Context, u state.User, what string) error {
	return a.Store.LogAccess(ctx, u.Academy, store.Access{At: a.Now().UTC(), Account: u.Account, Who: u.Name, What: what, Address: u.Address})
}

// EndDoor takes a reader's key away.
func (a *Service) EndDoor(ctx context.Context, u state.User, id string) error {
	err := a.Store.EndDoor(ctx, u.Academy, id)
	if errors.Is(err, store.ErrMissing) {
		return state.NotFound("door", id)
	}
	if err != nil {
		return err
	}
	return a.logDoor(ctx, u, "Removed a door reader's key")
}

func keyHash(key string) string {
	sum := sha256.Sum256([]byte("door " + key))
	return hex.EncodeToString(sum[:])
}

// ErrDoor is a key that opens nothing.
var ErrDoor = say.Errorf("this key is no door's")

// Tapped says what a tap did, for the reader to show.
type Tapped struct {
	Name    string `json:"name"`
	Class   string `json:"class"`
	Summary string `json:"summary" enum:"here,here already,no class now"`
}

const (
	early = 45 * time.Minute // how long before a class its taps count for it
	late  = 15               // minutes after its beginning from which a tap says late
)

// Tap checks a student in by a reader at the door: into the class that runs, or the next one that begins within three quarters of an
// hour. A tap of somebody who is in, and a second one within the minute, changes nothing.
func (a *Service) Tap(ctx context.Context, key, person string) (Tapped, error) {
	now := a.Now()
	d, err := a.Store.DoorByKey(ctx, keyHash(key), now.UTC())
	if errors.Is(err, store.ErrMissing) {
		return Tapped{}, ErrDoor
	}
	if err != nil {
		return Tapped{}, err
	}
	f, err := state.Known[snapshot](ctx, a.State, d.Academy)
	if err != nil {
		return Tapped{}, err
	}
	p, ok := f.Person[person]
	if !ok || !trains(p) || p.Archived != nil {
		return Tapped{}, state.NotFound("student", person)
	}
	t := Tapped{Name: p.Name}
	c, on, since, ok := f.running(now)
	if !ok {
		t.Summary = "no class now"
		return t, nil
	}
	t.Class, t.Summary = c.Name, "here"
	if _, came := f.Session(c.ID, on).Came(person); came {
		t.Summary = "here already"
		return t, nil
	}
	u := state.User{Academy: d.Academy, Roles: []state.Role{state.Desk}, Person: state.PlacePrefix + "door", Name: d.Name}
	id := fmt.Sprintf("door-%s-%d", d.ID[:min(8, len(d.ID))], now.Unix()/60)
	sum := sha256.Sum256([]byte(id + person))
	part := ""
	if since > late {
		part = academy.CameLate
	}
	err = a.CheckIn(ctx, u, academy.Occurrence(c.ID, on), person, part, "door-"+hex.EncodeToString(sum[:12]))
	var conflict *state.ConflictError
	if errors.As(err, &conflict) { // taken back within this minute: the hand is right
		t.Summary, err = "here already", nil
	}
	return t, err
}

// running is the class that runs now, or the next one to begin, and how many minutes ago it began; of two that run the one that began
// last. One that began before midnight runs on after it, under its own day.
func (f *snapshot) running(now time.Time) (best academy.Class, day calendar.Day, since int, found bool) {
	local := now.In(f.Zone)
	at := local.Hour()*60 + local.Minute()
	for _, on := range []calendar.Day{f.Today() - 1, f.Today()} {
		for _, c := range f.ClassesOn(on) {
			ago := at - c.Begins() - 24*60*int(on-f.Today())
			if ago < -int(early/time.Minute) || ago >= c.Minutes || f.SessionPlan(c, on).Closed != "" {
				continue
			}
			if !found || ago >= 0 { // one that runs before one that is to come
				best, day, since, found = c, on, ago, true
			}
		}
	}
	return best, day, since, found
}
