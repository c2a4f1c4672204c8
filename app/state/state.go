// Package state is the ground the use cases stand on: what is known of each
// academy, as it is now, and the two ways it changes.
//
// What is known is a Snapshot: the records at one revision and the log of events up to one place. A
// change of records is decided on a snapshot and kept only if the records are still those
// (Change); an event is added to the log, and nobody is refused because somebody else
// adds another one (Record).
package state

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"maps"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"golang.org/x/sync/singleflight"

	"vereda/app/documents"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
	"vereda/store/files"
)

// State is safe for concurrent use, and one of several on the same database.
type State struct {
	Store *store.Store
	Files *files.Files // attached pictures and clips
	now   func() time.Time
	zone  *time.Location // of an academy that names none

	reading singleflight.Group
	writing sync.Map // academy: *sync.Mutex; one change of records at a time on this server
	held    *held

	watchers watchers
}

// New makes a State. now is its clock; zone is where an academy is that names no time zone of its
// own.
func New(s *store.Store, now func() time.Time, zone *time.Location, kept *files.Files) *State {
	return &State{Store: s, Files: kept, now: now, zone: zone, held: newHeld(DefaultMemory)}
}

// Now is the time by the state's clock.
func (s *State) Now() time.Time { return s.now() }

// Snapshot is everything known of one academy at one moment. It is read-only.
type Snapshot struct {
	*documents.Set
	*Log
	Academy  string
	Name     string
	Revision int64
	Zone     *time.Location
	now      time.Time
	memo     *memo // what was computed of the records and the classes reported, for whoever asks next
}

// Today is the day at the academy when the snapshot was asked for.
func (s *Snapshot) Today() calendar.Day { return calendar.DayOf(s.now.In(s.Zone)) }

// Now is the moment the snapshot was asked for.
func (s *Snapshot) Now() time.Time { return s.now }

// ZoneOf is a time zone by its name; the snapshot's own where there is none of that name.
func (s *Snapshot) ZoneOf(name string) *time.Location {
	if z, err := time.LoadLocation(name); err == nil && name != "" {
		return z
	}
	return s.Zone
}

// Remember computes something of this snapshot once, and keeps it until a record
// changes, a class is reported, or who was in a reported class: tonight's check-ins and checks do
// not touch it, so it may depend on neither.
func Remember[T any](s *Snapshot, key any, compute func() T) T {
	if had, ok := s.memo.Load(key); ok {
		return had.(T)
	}
	x := compute()
	s.memo.keep(key, x)
	return x
}

// RememberLast computes something of this snapshot once for what it depends on besides the records, in on; of each kind of thing the one last
// asked for is kept. Who asks for another meanwhile computes it anew.
func RememberLast[On comparable, T any](s *Snapshot, kind any, on On, compute func() T) T {
	type kept struct {
		on On
		x  T
	}
	if had, ok := s.memo.Load(kind); ok && had.(kept).on == on {
		return had.(kept).x
	}
	x := compute()
	s.memo.keep(kind, kept{on, x})
	return x
}

// RememberOf computes something of one student once, and keeps it until a record
// changes or something new is known of that student. What it depends on besides, such as the
// day, is in on; of each kind of thing the one last asked for is kept.
func RememberOf[On comparable, T any](s *Snapshot, student string, kind any, on On, compute func() T) T {
	l := s.students[student]
	if l == nil {
		return compute()
	}
	type kept struct {
		set *documents.Set
		on  On
		x   T
	}
	if had, ok := l.memo.Load(kind); ok && had.(kept).set == s.Set && had.(kept).on == on {
		return had.(kept).x
	}
	x := compute()
	l.memo.Store(kind, kept{s.Set, on, x})
	return x
}

// With is the snapshot after some records are written, for asking what would be.
func (s *Snapshot) With(writes map[documents.Ref]any) *Snapshot {
	after := *s
	after.Set, after.memo = s.Set.With(writes).WithPeople(s.decisions.asDecided), &memo{}
	return &after
}

// Known is what is known of an academy, as a room sees it: a room's own type around a
// Snapshot, to which it adds what it reads from it.
func Known[S ~struct{ *Snapshot }](ctx context.Context, s *State, academyID string) (*S, error) {
	x, err := s.Read(ctx, academyID)
	if err != nil {
		return nil, err
	}
	return new(S(struct{ *Snapshot }{x})), nil
}

// Decide is Change for a room's own type around a Snapshot.
func Decide[S ~struct{ *Snapshot }](ctx context.Context, s *State, u User, decide func(*S, *Change) error) (string, error) {
	return s.Change(ctx, u, func(x *Snapshot, c *Change) error { return decide(new(S(struct{ *Snapshot }{x})), c) })
}

// Read returns what is known of an academy, newly read as far as it has
// changed. Of several who ask at the same time one reads for all.
func (s *State) Read(ctx context.Context, academyID string) (*Snapshot, error) {
	head, err := s.Store.Head(ctx, academyID)
	if err != nil {
		return nil, err
	}
	for try := 0; ; try++ {
		if had := s.held.get(academyID, s.now()); had != nil && had.contents.Head.Revision >= head.Revision && had.contents.Head.Last >= head.Last {
			return s.stamped(had), nil
		}
		got, err, _ := s.reading.Do(academyID, func() (any, error) {
			// Whoever began it may go; the others still want it. But not for ever.
			ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingTime)
			defer cancel()
			return s.load(ctx, academyID)
		})
		if err != nil {
			return nil, err
		}
		known := got.(*known)
		// What somebody else began to read may be from before the change this one has seen.
		if try > 2 || known.contents.Head.Revision >= head.Revision && known.contents.Head.Last >= head.Last {
			return s.stamped(known), nil
		}
	}
}

// readingTime is how long an academy may be read for the first time.
const readingTime = 30 * time.Second

// known is what is held of one academy between two readings.
type known struct {
	snapshot *Snapshot
	written  *documents.Set // as the records say, without what was decided
	alias    map[string]string
	contents store.Contents // without the bodies: they are held as the core's types
	size     int64          // about how many bytes it takes, apart from days of the past
}

func (s *State) load(ctx context.Context, academyID string) (*known, error) {
	had := s.held.get(academyID, s.now())
	if had == nil {
		had = &known{snapshot: &Snapshot{Log: newLog()}}
	} else {
		copied := *had
		had = &copied
	}
	next := after(had.snapshot.Log)
	next.alias = had.alias
	contents, err := s.Store.Read(ctx, academyID, had.contents, next)
	if err != nil {
		return nil, err
	}
	written := had.written
	if written == nil || contents.Head.Revision != had.contents.Head.Revision {
		written = documents.NewSet(contents.Documents, had.written)
	}
	alias := aliasesOf(written.People)
	// Two were found to be one, or not to be; or somebody was erased: the log is read as of that.
	if !maps.Equal(alias, had.alias) || had.written != nil && contents.Erasures != had.contents.Erasures {
		next = after(newLog())
		next.alias = alias
		before := contents
		before.Head.Last = 0
		if before, err = s.Store.Read(ctx, academyID, before, next); err != nil {
			return nil, err
		}
		if before.Head.Revision != contents.Head.Revision {
			return s.load(ctx, academyID)
		}
		contents.Head.Last = before.Head.Last
		had.contents.Head.Last = -1
	}
	snapshot := &Snapshot{Academy: academyID, Name: contents.Name, Revision: contents.Head.Revision, memo: &memo{}}
	snapshot.Log = had.snapshot.Log
	if contents.Head.Last != had.contents.Head.Last {
		snapshot.Log = next.done(contents.Head.Last)
	}
	if snapshot.Set = had.snapshot.Set; written != had.written || snapshot.decisions != had.snapshot.decisions {
		snapshot.Set = written.WithPeople(snapshot.decisions.asDecided)
		for _, b := range snapshot.Broken {
			slog.Error("a record cannot be read and was set aside", "academy", academyID, "kind", b.Kind, "id", b.ID, "error", b.Why)
		}
	}
	if had.snapshot.Set == snapshot.Set && had.snapshot.reports == snapshot.reports && had.snapshot.memo != nil {
		snapshot.memo = had.snapshot.memo
	}
	snapshot.Zone = s.zoneOf(snapshot.Settings.Zone)
	size := snapshot.cost
	for i, d := range contents.Documents {
		size += 3 * int64(len(d.Body)) // as the core's types it takes about three times its text
		contents.Documents[i].Body = nil
	}
	if had.snapshot.Set != nil { // the bodies were let go of when they had been read
		size = max(size, had.size)
	}
	k := &known{snapshot, written, alias, contents, size}
	s.held.put(academyID, k, size+snapshot.cost*snapshot.memo.pasts(), s.now())
	return k, nil
}

// DayIn is the day at a moment in a time zone; in UTC where there is no such zone.
func DayIn(at time.Time, zone string) calendar.Day {
	z, err := time.LoadLocation(zone)
	if err != nil {
		z = time.UTC
	}
	return calendar.DayOf(at.In(z))
}

func (s *State) zoneOf(name string) *time.Location {
	if name == "" {
		return s.zone
	}
	z, err := time.LoadLocation(name)
	if err != nil {
		return s.zone
	}
	return z
}

// stamped is a snapshot as of now.
func (s *State) stamped(k *known) *Snapshot {
	x := *k.snapshot
	x.now = s.now()
	return &x
}

// Change is a change in the making.
type Change struct {
	store.Batch
}

// Put writes a record; nil deletes it. Written twice, the last one counts.
func (c *Change) Put(kind, id string, value any) error {
	w := store.Write{Kind: kind, ID: id}
	if value != nil {
		text, err := json.Marshal(value)
		if err != nil {
			return err
		}
		w.Body = text
	}
	c.PutBody(w)
	return nil
}

// PutBody is Put for a body at hand.
func (c *Change) PutBody(w store.Write) {
	if i := slices.IndexFunc(c.Writes, func(had store.Write) bool { return had.Kind == w.Kind && had.ID == w.ID }); i >= 0 {
		c.Writes[i] = w
		return
	}
	c.Writes = append(c.Writes, w)
}

// Record adds an event to the change: it is kept with the records or not at all.
func (c *Change) Record(e academy.Event) {
	if e.ID == "" {
		e.ID = store.NewID()
	}
	if e.RecordedAt.IsZero() {
		e.RecordedAt, e.RecordedBy = c.At, c.By
	}
	c.Events = append(c.Events, e)
}

// mostTries is how often a change is decided anew where other servers were quicker.
const mostTries = 40

// Change decides a change of records on what is known and keeps it. decide is
// called again when the records changed meanwhile, so it must only decide, and be quick: what
// takes long is computed before, and looked at again here.
func (s *State) Change(ctx context.Context, u User, decide func(*Snapshot, *Change) error) (string, error) {
	made, _ := s.writing.LoadOrStore(u.Academy, &sync.Mutex{})
	lock := made.(*sync.Mutex)
	lock.Lock()
	defer lock.Unlock()
	for try := 0; ; try++ {
		snapshot, err := s.Read(ctx, u.Academy)
		if err != nil {
			return "", err
		}
		c := &Change{}
		c.By, c.At = u.Person, s.now().UTC()
		if err := decide(snapshot, c); err != nil {
			return "", err
		}
		if err := snapshot.judge(c.Writes); err != nil {
			return "", err
		}
		if len(c.Summary) > mostSays {
			c.Summary = say.Raw(validation.Shorten(c.Summary.String(), mostSays-mostMarks))
		}
		id, err := s.Store.Commit(ctx, u.Academy, snapshot.Revision, c.Batch)
		if err == nil {
			s.changed(u.Academy)
		}
		if !errors.Is(err, store.ErrStale) {
			return id, inWords(err)
		}
		if try >= mostTries || ctx.Err() != nil {
			return "", ErrBusy
		}
		time.Sleep(time.Duration(rand.IntN(1+min(try, 10)*4)) * time.Millisecond)
	}
}

// judge says what is wrong with the records a change writes. It is the one place all of them pass, whoever writes them: a form, an
// import, an undo. What was wrong with a record before may stay so, or nobody could change anything else about it. Costs
// the records of the academy once, and what each kind's check costs.
func (s *Snapshot) judge(writes []store.Write) error {
	if len(writes) == 0 {
		return nil
	}
	values := make(map[documents.Ref]any, len(writes))
	for _, w := range writes {
		ref := documents.Ref{Kind: w.Kind, ID: w.ID}
		values[ref] = nil
		if w.Body == nil {
			continue
		}
		value, err := documents.Parse(w.Kind, w.Body)
		if err != nil {
			return Invalid(w.Kind, "%s %.64q cannot be read: %s", say.Word(w.Kind), w.ID, err.Error())
		}
		values[ref] = value
	}
	after := s.Set.With(values)
	for _, w := range writes {
		if w.Body == nil {
			continue
		}
		if found := worse(s.Set.Check(w.Kind, w.ID), after.Check(w.Kind, w.ID)); len(found) > 0 {
			return &ValidationError{found}
		}
	}
	return nil
}

// worse lists what is wrong with a record that was not wrong with it before.
func worse(before, after []validation.Problem) []validation.Problem {
	had := map[say.Sentence]int{}
	for _, p := range before {
		had[p.Say()]++
	}
	var found []validation.Problem
	for _, p := range after {
		if had[p.Say()]--; !p.Warn && had[p.Say()] < 0 {
			found = append(found, p)
		}
	}
	return found
}

// mostSays is how long the line in the list of changes may be.
const (
	mostSays  = 1000
	mostMarks = 20 // what keeps a text apart from words that are looked up
)

// Record adds events to the log: all of them or none. What was sent before
// under the same identifier is kept once; a second correction of one event, and
// an identifier used for something else, are refused in words.
func (s *State) Record(ctx context.Context, u User, events ...academy.Event) error {
	now := s.now().UTC()
	for i := range events {
		if events[i].ID == "" {
			events[i].ID = store.NewID()
		}
		if events[i].RecordedAt.IsZero() {
			events[i].RecordedAt, events[i].RecordedBy = now, u.Person
		}
		if err := InvalidAll(events[i].Problems()); err != nil {
			return err
		}
	}
	err := s.Store.Append(ctx, u.Academy, events...)
	if err == nil {
		s.changed(u.Academy)
	}
	return inWords(err)
}

// UsedBefore says that an identifier stands for something else.
const UsedBefore say.Sentence = "What was sent has the identifier of another record: send it under one of its own."

// inWords turns what the store refuses into what is said to whoever asked.
func inWords(err error) error {
	var used *store.UsedError
	var replaced *store.ReplacedError
	switch {
	case errors.As(err, &used):
		return &ConflictError{Thing: "the record", Why: UsedBefore}
	case errors.As(err, &replaced):
		return &ConflictError{Thing: "the record", Why: "That record was corrected before: correct the correction, or load it again."}
	}
	return err
}
