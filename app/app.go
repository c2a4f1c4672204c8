// Package app holds the use cases: it loads what is known, asks the core, and
// keeps the result. Every change goes through change, which decides on what is
// really there and tries again when somebody else was quicker.
package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/singleflight"

	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/store"
	"vereda/store/files"
)

// App is safe for concurrent use, and one of several on the same database.
type App struct {
	store *store.Store
	now   func() time.Time
	zone  *time.Location
	files *files.Files

	// Post is where notices go; set before the first request.
	Post Post
	// Patience is how many seconds a season is planned for unless more is asked.
	Patience float64

	reading singleflight.Group
	runs    sync.WaitGroup // plannings under way

	mu    sync.Mutex
	known map[string]*facts // academy: what was last read of it
}

// New makes an App. now is its clock; zone is where the academies are; kept
// holds attached files.
func New(s *store.Store, now func() time.Time, zone *time.Location, kept *files.Files) *App {
	return &App{store: s, now: now, zone: zone, files: kept, Patience: 1, known: map[string]*facts{}}
}

// User is who asks.
type User struct {
	Account string
	Academy string
	Role    Role
	Person  string
	Name    string
}

// Role says what somebody may do.
type Role string

// The roles.
const (
	Head    Role = "head instructor"
	Coach   Role = "coach"
	Desk    Role = "front desk"
	Student Role = "student"
)

// Refused says what is wrong with what was sent, field by field.
type Refused struct{ Problems []library.Problem }

func (r *Refused) Error() string {
	each := make([]string, len(r.Problems))
	for i, p := range r.Problems {
		each[i] = p.Error()
	}
	return strings.Join(each, "; ")
}

// refuse is a Refused with one problem.
func refuse(field, format string, args ...any) error {
	return &Refused{[]library.Problem{{Field: field, What: fmt.Sprintf(format, args...)}}}
}

// refuseAll is a Refused of the problems that are more than warnings; nil
// when there are none.
func refuseAll(found []library.Problem) error {
	hard := slices.DeleteFunc(slices.Clone(found), func(p library.Problem) bool { return p.Warn })
	if len(hard) == 0 {
		return nil
	}
	return &Refused{hard}
}

// Missing says that there is no such thing in this academy.
type Missing struct{ Thing, ID string }

func (m *Missing) Error() string { return fmt.Sprintf("there is no %s %q here", m.Thing, m.ID) }

// Changed says that somebody else changed the same thing first.
type Changed struct{ Thing string }

func (c *Changed) Error() string {
	return c.Thing + " was changed by somebody else meanwhile: load it again; your words are still in the form"
}

// Forbidden says that this person may not do that.
type Forbidden struct{ Why string }

func (f *Forbidden) Error() string { return f.Why }

// today is the day at the academy.
func (a *App) today() calendar.Day { return calendar.DayOf(a.now().In(a.zone)) }

// read returns what is known of the user's academy, newly read when it has
// changed. What it returns is shared and never written to. Of several who ask at
// the same time one reads for all.
func (a *App) read(ctx context.Context, academy string) (*facts, error) {
	revision, err := a.store.Revision(ctx, academy)
	if err != nil {
		return nil, err
	}
	if had := a.last(academy); had != nil && had.revision == revision {
		return had, nil
	}
	got, err, _ := a.reading.Do(fmt.Sprint(academy, " ", revision), func() (any, error) {
		had := a.last(academy)
		if had != nil && had.revision >= revision {
			return had, nil
		}
		// Whoever began it may go; the others still want it.
		ctx := context.WithoutCancel(ctx)
		before := store.Contents{}
		if had != nil {
			before = had.contents
		}
		contents, err := a.store.ReadSince(ctx, academy, before)
		if err != nil {
			return nil, err
		}
		f, err := newFacts(contents, had)
		if err != nil {
			return nil, err
		}
		a.mu.Lock()
		defer a.mu.Unlock()
		if newer := a.known[academy]; newer == nil || newer.revision < f.revision {
			a.known[academy] = f
		}
		return f, nil
	})
	if err != nil {
		return nil, err
	}
	return got.(*facts), nil
}

// last is what was read last of an academy; nil when nothing was.
func (a *App) last(academy string) *facts {
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.known[academy]
}

// batch is a change in the making.
type batch struct {
	store.Batch
	touched map[string]bool // students whose standings must be computed anew
	base    *facts          // what the new facts are understood with, when the batch brings it along itself
}

// put writes a document; without a body it takes it out. Written twice, the
// last one counts.
func (b *batch) put(kind, id string, body any) error {
	w := store.Write{Kind: kind, ID: id}
	if body != nil {
		text, err := json.Marshal(body)
		if err != nil {
			return err
		}
		w.Body = text
	}
	if i := slices.IndexFunc(b.Writes, func(had store.Write) bool { return had.Kind == kind && had.ID == id }); i >= 0 {
		b.Writes[i] = w
		return nil
	}
	b.Writes = append(b.Writes, w)
	return nil
}

// note adds a fact about a student, or about a class and so about everybody in it.
func (b *batch) note(kind string, day calendar.Day, student, class, replaces string, body any, id string) error {
	text, err := json.Marshal(body)
	if err != nil {
		return err
	}
	if id == "" {
		id = store.NewID()
	}
	b.Facts = append(b.Facts, store.Fact{ID: id, Kind: kind, Day: day, Student: student, Class: class, Replaces: replaces, Body: text, RecordedAt: b.At, RecordedBy: b.By})
	return nil
}

// change computes a change from what is known and keeps it. decide is called
// again when the academy changed meanwhile, so it must only decide.
func (a *App) change(ctx context.Context, u User, decide func(f *facts, b *batch) error) (string, error) {
	for try := 0; ; try++ {
		f, err := a.read(ctx, u.Academy)
		if err != nil {
			return "", err
		}
		b := &batch{touched: map[string]bool{}}
		b.By, b.At = u.Person, a.now().UTC()
		if err := decide(f, b); err != nil {
			return "", err
		}
		known := f
		if b.base == nil {
			if b.base, err = f.libraryAfter(b); err != nil {
				return "", err
			}
		}
		if b.base != nil {
			known = b.base
		}
		if len(b.Facts) > 0 || len(b.touched) > 0 {
			if err := known.restand(b); err != nil {
				return "", err
			}
		}
		id, err := a.store.Commit(ctx, u.Academy, f.revision, b.Batch)
		if errors.Is(err, store.ErrStale) && try < 8 {
			continue
		}
		return id, err
	}
}

// libraryAfter is what will be known once a batch's techniques are kept, when
// they change what standings follow from: which sides a technique has, and what was
// merged into it. Everybody is touched then. It returns nil when nothing of
// that kind changes.
func (f *facts) libraryAfter(b *batch) (*facts, error) {
	var changed []library.Technique
	gone := map[string]bool{}
	moved := false
	for _, w := range b.Writes {
		if w.Kind != docTechnique {
			continue
		}
		had, known := f.lib.Technique(w.ID)
		if w.Body == nil {
			gone[w.ID], moved = true, true
			continue
		}
		var now library.Technique
		if err := json.Unmarshal(w.Body, &now); err != nil {
			return nil, err
		}
		changed = append(changed, now)
		moved = moved || !known || had.ID != now.ID || had.Taught != now.Taught || !slices.Equal(had.Formerly, now.Formerly)
	}
	if !moved {
		return nil, nil
	}
	kept := slices.DeleteFunc(f.lib.Techniques(), func(t library.Technique) bool {
		return gone[t.ID] || slices.ContainsFunc(changed, func(c library.Technique) bool { return c.ID == t.ID })
	})
	after := *f
	after.audits, after.likely = &sync.Map{}, &sync.Map{}
	after.lib = library.New(f.positions, append(kept, changed...)).With(f.sets, f.tables)
	for _, p := range f.people {
		if p.Student && len(f.byStudent[p.ID]) > 0 {
			b.touched[p.ID] = true
		}
	}
	return &after, after.replay(f.log)
}

// restand computes the standings that the batch's new facts change.
func (f *facts) restand(b *batch) error {
	after, err := f.with(b.Facts)
	if err != nil {
		return err
	}
	for _, fact := range b.Facts {
		for _, student := range f.about(fact) {
			b.touched[student] = true
		}
		for _, student := range after.about(fact) {
			b.touched[student] = true
		}
	}
	b.Standings = map[string][]ledger.Standing{}
	for student := range b.touched {
		b.Standings[student] = after.standingsOf(student)
	}
	return nil
}

// Rebuilt is what rebuild found.
type Rebuilt struct {
	Students  int      `json:"students"`
	Different []string `json:"different" doc:"Students whose kept standing was not what the facts say"`
}

// Rebuild computes every standing of an academy from its facts alone and keeps
// it. There must be no difference.
func (a *App) Rebuild(ctx context.Context, academy string) (Rebuilt, error) {
	r := Rebuilt{Different: []string{}}
	f, err := a.read(ctx, academy)
	if err != nil {
		return r, err
	}
	anew := map[string][]ledger.Standing{}
	for _, p := range f.people {
		if !p.Student {
			continue
		}
		r.Students++
		anew[p.ID] = f.standingsOf(p.ID)
		had, _ := json.Marshal(f.standings[p.ID])
		now, _ := json.Marshal(anew[p.ID])
		if len(f.standings[p.ID])+len(anew[p.ID]) > 0 && string(had) != string(now) {
			r.Different = append(r.Different, p.ID)
		}
	}
	_, err = a.store.Commit(ctx, academy, f.revision, store.Batch{At: a.now().UTC(), By: "rebuild", Standings: anew})
	return r, err
}
