package people

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/store"
)

// PersonRow is one person of the list.
type PersonRow struct {
	state.PersonLine
	Called   string        `json:"called,omitempty"`
	Ladder   string        `json:"ladder"`
	RankID   string        `json:"rank_id"`
	RankNo   int           `json:"rank_no" doc:"Place of the rank on its ladder, to sort by"`
	Since    calendar.Day  `json:"since"`
	Joined   calendar.Day  `json:"joined"`
	LastSeen *calendar.Day `json:"last_seen,omitempty" doc:"The last class they were in"`
	Away     int           `json:"away" doc:"Whole weeks since then, or since they joined"`
	Recent   int           `json:"recent" doc:"Classes in the last four weeks"`
	Tracks   []string      `json:"tracks" doc:"Names of the tracks of the classes they were in during the last twelve weeks"`
	Archived bool          `json:"archived"`
	Guest    string        `json:"guest,omitempty" enum:"trial,visitor"`
}

// People lists everybody: the archived too, to the head instructor.
func (a *Service) People(ctx context.Context, u state.User) ([]PersonRow, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	on := f.Today()
	all := []PersonRow{}
	for _, p := range f.People {
		if p.Archived == nil || u.Is(state.Head) {
			all = append(all, f.personLine(p, u, on))
		}
	}
	return all, nil
}

func (f *snapshot) personLine(p academy.Person, u state.User, on calendar.Day) PersonRow {
	l := PersonRow{PersonLine: f.Line(p, u, on), Called: p.Called, Ladder: p.Ladder, RankID: p.Rank, RankNo: f.Ladders[p.Ladder].Position(p.Rank), Since: p.RankSince, Joined: p.Joined, Tracks: []string{}, Archived: p.Archived != nil, Guest: p.Guest}
	visits := f.Visits(p.ID)
	since := p.Joined
	if n := len(visits); n > 0 {
		last := visits[n-1].On
		l.LastSeen, since = &last, last
	}
	l.Away = max(0, int(on-since)/7)
	for _, v := range slices.Backward(visits) {
		if v.On <= on-84 {
			break
		}
		if v.On > on-28 {
			l.Recent++
		}
		if c, ok := f.Class(v.Class); ok && !slices.Contains(l.Tracks, f.Snapshot.Tracks[c.Track].Name) {
			l.Tracks = append(l.Tracks, f.Snapshot.Tracks[c.Track].Name)
		}
	}
	return l
}

// Names are those of some people.
func (a *Service) Names(ctx context.Context, u state.User, ids []string) ([]state.Named, error) {
	all := []state.Named{}
	if len(ids) == 0 {
		return all, nil
	}
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	for _, id := range ids {
		all = append(all, state.Named{ID: id, Name: f.NameOf(id)})
	}
	return all, nil
}

// Fields is what a person's form holds: what the work uses, and no more.
type Fields struct {
	Name      string            `json:"name" maxLength:"300"`
	Called    string            `json:"called,omitempty" maxLength:"300"`
	Birth     *calendar.Day     `json:"birth,omitempty"`
	Weight    float64           `json:"weight_kg,omitempty"`
	Body      string            `json:"body,omitempty" maxLength:"2000"`
	Jacket    string            `json:"jacket,omitempty" enum:"both,gi,no-gi"`
	Language  string            `json:"language,omitempty" maxLength:"20"`
	Email     string            `json:"email,omitempty" maxLength:"200"`
	Guardian  *academy.Guardian `json:"guardian,omitempty"`
	Student   bool              `json:"student"`
	Ladder    string            `json:"ladder,omitempty" maxLength:"100" doc:"Where they stand when they come; later it is decided as a promotion"`
	Rank      string            `json:"rank,omitempty" maxLength:"100"`
	RankSince *calendar.Day     `json:"rank_since,omitempty" doc:"Today when left out"`
	Stripes   int               `json:"stripes,omitempty" minimum:"0" maximum:"12"`
	Joined    *calendar.Day     `json:"joined,omitempty" doc:"Today when left out"`
	NeverWith []string          `json:"never_with,omitempty" maxItems:"200"`
}

func fieldsOf(p academy.Person) Fields {
	return Fields{Name: p.Name, Called: p.Called, Birth: p.Birth, Weight: p.Weight, Body: p.Body, Jacket: p.Jacket, Language: p.Language, Email: p.Email, Guardian: p.Guardian,
		Student: p.Student, Ladder: p.Ladder, Rank: p.Rank, RankSince: &p.RankSince, Stripes: p.Stripes, Joined: &p.Joined, NeverWith: p.NeverWith}
}

// onto is a person as the form says, what it does not hold as it was.
func (x Fields) onto(p academy.Person, today calendar.Day) academy.Person {
	p.Name, p.Called, p.Birth, p.Weight, p.Body, p.Jacket, p.Language, p.Email, p.Guardian = x.Name, x.Called, x.Birth, x.Weight, x.Body, x.Jacket, x.Language, x.Email, x.Guardian
	if x.Student { // whoever begins to train here is no guest any more
		p.Guest = ""
	}
	p.Student, p.Ladder, p.Rank, p.Stripes, p.NeverWith = x.Student, x.Ladder, x.Rank, x.Stripes, x.NeverWith
	if p.Joined = today; x.Joined != nil {
		p.Joined = *x.Joined
	}
	if p.RankSince = today; x.RankSince != nil {
		p.RankSince = *x.RankSince
	}
	if g := p.Guardian; g != nil && *g == (academy.Guardian{}) {
		p.Guardian = nil
	}
	return p
}

// newPerson is the identifier of somebody new.
func (f *snapshot) newPerson(name string, taken map[string]bool) string {
	id := documents.FreeID(library.Identifier(name), "person", func(id string) bool {
		_, ok := f.Person[id]
		return ok || taken[id] || f.Touched(id) || f.IsBroken(documents.Person, id)
	})
	return id
}

// Add keeps somebody new.
func (a *Service) Add(ctx context.Context, u state.User, x Fields) (id, change string, err error) {
	change, err = state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		id = f.newPerson(x.Name, nil)
		p := x.onto(academy.Person{ID: id}, f.Today())
		if err := state.InvalidAll(f.CheckPerson(p)); err != nil {
			return err
		}
		b.Summary = say.F("Added %s", p.Name)
		return b.Put(documents.Person, id, p)
	})
	return id, change, err
}

// Save keeps what a form says of somebody. Where they stand changes by a promotion once one was decided.
func (a *Service) Save(ctx context.Context, u state.User, id string, x Fields, version int) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		was, ok := f.Written(id)
		if !ok {
			return state.NotFound("person", id)
		}
		if f.Version(documents.Person, id) != version {
			return &state.ConflictError{Thing: say.Raw(was.Name)}
		}
		p := x.onto(was, f.Today())
		if len(f.Promotions(id)) > 0 {
			p.Ladder, p.Rank, p.RankSince, p.Stripes = was.Ladder, was.Rank, was.RankSince, was.Stripes
		}
		if err := state.InvalidAll(f.CheckPerson(p)); err != nil {
			return err
		}
		if err := a.tellOldAddress(ctx, u, b, was, p); err != nil {
			return err
		}
		b.Summary = say.F("Changed %s", p.Name)
		return b.PutPerson(f.Snapshot, p)
	})
}

// tellOldAddress writes to the address somebody had until now, where letters to their account went there: whoever reads the new one
// can set another password.
func (a *Service) tellOldAddress(ctx context.Context, u state.User, b *state.Change, was, is academy.Person) error {
	if !academy.Address(was.Email) || strings.EqualFold(was.Email, is.Email) {
		return nil
	}
	accounts, _, err := a.Store.Accounts(ctx, u.Academy)
	if err != nil {
		return err
	}
	if i := slices.IndexFunc(accounts, func(x store.Account) bool { return x.Person == was.ID && x.Email == "" }); i >= 0 {
		in := say.Asked(was.Language)
		text := say.F("Letters for the account %q, invitations and new passwords among them, go to another address from now on. It was changed by %s.\n\nIf you do not know of it, sign in, change your password, and tell your head instructor.\n", accounts[i].SignIn, u.Name)
		b.Letters = append(b.Letters, store.Letter{ID: store.NewID(), To: was.Email, Subject: say.Sentence("Letters go to another address").In(in), Body: text.In(in), Made: b.At})
	}
	return nil
}

// Archive puts some people away who do not train here any more, or brings them back. What they did stays.
func (a *Service) Archive(ctx context.Context, u state.User, ids []string, archived bool) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		var names []string
		for _, id := range ids {
			p, ok := f.Written(id)
			if !ok {
				return state.NotFound("person", id)
			}
			if archived == (p.Archived != nil) {
				continue
			}
			if p.Archived = nil; archived {
				if p.Coach != nil {
					return state.Invalid("ids", "%s is a coach: say in the season's timetable that they are no coach any more, so that their classes are given to others", p.Name)
				}
				today := f.Today()
				p.Archived = &today
			}
			names = append(names, p.Name)
			if err := b.PutPerson(f.Snapshot, p); err != nil {
				return err
			}
		}
		if len(names) == 0 {
			return state.Invalid("ids", "there is nobody among them to do this for")
		}
		b.Summary = say.F("Archived %s", several(names))
		if !archived {
			b.Summary = say.F("Brought back %s", several(names))
		}
		return nil
	})
}

func several(names []string) say.Sentence {
	if len(names) == 1 {
		return say.Raw(names[0])
	}
	return say.F("%d people", len(names))
}

// Merge makes one record of two who are the same person: what happened to either counts for the one that stays, which takes
// from the other what it does not say itself.
func (a *Service) Merge(ctx context.Context, u state.User, keep, drop string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		k, ok := f.Written(keep)
		d, okDrop := f.Written(drop)
		switch {
		case !ok:
			return state.NotFound("person", keep)
		case !okDrop:
			return state.NotFound("person", drop)
		case keep == drop:
			return state.Invalid("drop", "this is the same record")
		}
		k = merged(k, d)
		writes := map[documents.Ref]any{{Kind: documents.Person, ID: drop}: nil, {Kind: documents.Person, ID: keep}: k}
		for _, p := range f.AsWritten() {
			if i := slices.Index(p.NeverWith, drop); i >= 0 && p.ID != keep && p.ID != drop {
				p.NeverWith = slices.Clone(p.NeverWith)
				p.NeverWith[i] = keep
				slices.Sort(p.NeverWith)
				p.NeverWith = slices.Compact(p.NeverWith)
				writes[documents.Ref{Kind: documents.Person, ID: p.ID}] = p
			}
		}
		for _, s := range f.Seasons {
			changed := false
			s.Chances = slices.Clone(s.Chances)
			for i := range s.Chances {
				if s.Chances[i].Student == drop {
					s.Chances[i].Student, changed = keep, true
				}
			}
			if changed {
				writes[documents.Ref{Kind: documents.Season, ID: s.ID}] = s
			}
		}
		if err := f.Hanging(writes); err != nil {
			return state.Invalid("drop", "%s cannot be merged: %v", d.Name, err)
		}
		b.Summary = say.F("Merged %s into %s", d.Name, k.Name)
		for at, value := range writes {
			if err := b.Put(at.Kind, at.ID, value); err != nil {
				return err
			}
		}
		b.Also = func(act *store.Act) error { return act.MoveAccounts(drop, keep) }
		return nil
	})
}

func merged(k, d academy.Person) academy.Person {
	if k.Birth == nil {
		k.Birth = d.Birth
	}
	if k.Weight == 0 {
		k.Weight = d.Weight
	}
	if k.Coach == nil {
		k.Coach = d.Coach
	}
	if k.Guardian == nil {
		k.Guardian = d.Guardian
	}
	for _, x := range []struct{ to, from *string }{{&k.Called, &d.Called}, {&k.Body, &d.Body}, {&k.Jacket, &d.Jacket}, {&k.Language, &d.Language}, {&k.Email, &d.Email}} {
		if *x.to == "" {
			*x.to = *x.from
		}
	}
	if !k.Student && d.Student || k.Rank == "" {
		k.Ladder, k.Rank, k.RankSince, k.Stripes, k.Curriculum = d.Ladder, d.Rank, d.RankSince, d.Stripes, d.Curriculum
	}
	k.Student = k.Student || d.Student
	k.Joined = min(k.Joined, d.Joined)
	k.Holds, k.Notes = append(slices.Clone(k.Holds), d.Holds...), append(slices.Clone(k.Notes), d.Notes...)
	for _, n := range d.NeverWith {
		if n != k.ID && !slices.Contains(k.NeverWith, n) {
			k.NeverWith = append(slices.Clone(k.NeverWith), n)
		}
	}
	k.NeverWith = slices.DeleteFunc(slices.Clone(k.NeverWith), func(id string) bool { return id == d.ID })
	k.Merged = append(append(slices.Clone(k.Merged), d.ID), d.Merged...)
	return k
}

// AddNote keeps a note of somebody.
func (a *Service) AddNote(ctx context.Context, u state.User, id, text, readers string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		p, ok := f.Written(id)
		if !ok {
			return state.NotFound("person", id)
		}
		if readers == academy.ForHead && !u.Is(state.Head) {
			return state.Invalid("readers", "a note for the head instructor alone is theirs to write")
		}
		p.Notes = append(slices.Clone(p.Notes), academy.Note{ID: fmt.Sprintf("n%d", len(p.Notes)+1) + "-" + f.Today().String(), On: f.Today(), By: u.Person, Text: text, Readers: readers})
		if err := state.InvalidAll(f.CheckPerson(p)); err != nil {
			return err
		}
		b.Summary = say.F("Wrote a note on %s", p.Name)
		return b.PutPerson(f.Snapshot, p)
	})
}

// RemoveNote deletes a note: its writer, or the head instructor.
func (a *Service) RemoveNote(ctx context.Context, u state.User, id, note string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		p, ok := f.Written(id)
		if !ok {
			return state.NotFound("person", id)
		}
		i := slices.IndexFunc(p.Notes, func(n academy.Note) bool { return n.ID == note && mayRead(u, id, n) })
		if i < 0 {
			return state.NotFound("note", note)
		}
		if !u.Is(state.Head) && p.Notes[i].By != u.Person {
			return state.Forbidden("Only who wrote a note, or the head instructor, deletes it.")
		}
		p.Notes = slices.Delete(slices.Clone(p.Notes), i, i+1)
		b.Summary = say.F("Deleted a note on %s", p.Name)
		return b.PutPerson(f.Snapshot, p)
	})
}

// mayRead says whether somebody may read a note of a person.
func mayRead(u state.User, person string, n academy.Note) bool {
	if n.By != "" && n.By == u.Person {
		return true
	}
	switch n.Readers {
	case academy.ForSelf:
		return u.Teaches() || u.Sees(person)
	case academy.ForCoaches:
		return u.Teaches()
	}
	return u.Is(state.Head)
}
