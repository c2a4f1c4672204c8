package academies

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/exchange"
	"vereda/store"
)

// Imported counts what an import kept.
type Imported struct {
	Documents int `json:"documents"`
	Events    int `json:"events" doc:"That were not there yet"`
}

// Import keeps a whole bundle: all of it or nothing. Importing the same one
// again changes nothing. The academy is made when it is not there. Checks that
// come without a verdict are judged by the house standard.
func (a *Service) Import(ctx context.Context, b exchange.Bundle) (Imported, error) {
	id := b.Academy.ID
	for _, x := range b.Files {
		kept, err := a.Files.Put(id, bytes.NewReader(x.Content))
		if err != nil {
			return Imported{}, state.Invalid("files", "%s: %v", x.Digest, err)
		}
		if kept.Digest != x.Digest {
			return Imported{}, state.Invalid("files", "%s: its content was damaged on the way", x.Digest)
		}
	}
	if err := a.missingMedia(id, b.Techniques); err != nil {
		return Imported{}, err
	}
	lib := b.Library()
	events := make([]academy.Event, len(b.Events))
	for i, e := range b.Events {
		body, err := judged(e, lib, b.Settings.WithDefaults().Standard)
		if err != nil {
			return Imported{}, err
		}
		e.Body, e.RecordedAt = body, e.RecordedAt.UTC()
		events[i] = e
	}
	user := state.User{Academy: id, Person: "import", Roles: []state.Role{state.Head}}
	if _, err := a.Store.Head(ctx, id); errors.Is(err, store.ErrMissing) {
		c := &state.Change{}
		c.Create, c.By, c.At, c.Summary, c.Events = b.Academy.Name, user.Person, a.Now().UTC(), say.F("Imported %s", b.Academy.Name), events
		if err := putAll(c, b); err != nil {
			return Imported{}, err
		}
		_, err := a.Store.Commit(ctx, id, 0, c.Batch)
		return Imported{len(c.Writes), len(events)}, err
	}
	out := Imported{}
	_, err := state.Decide(ctx, a.State, user, func(f *snapshot, c *state.Change) error {
		c.Summary, c.Events = say.F("Imported %s", b.Academy.Name), events
		out = Imported{Events: f.Events}
		if err := putAll(c, b); err != nil {
			return err
		}
		out.Documents = len(c.Writes)
		return nil
	})
	if err != nil {
		return Imported{}, err
	}
	f, err := state.Known[snapshot](ctx, a.State, id)
	if err != nil {
		return out, err
	}
	out.Events = f.Events - out.Events
	return out, nil
}

// missingMedia says which pictures techniques show that are kept nowhere.
func (a *Service) missingMedia(academy string, techniques []library.Technique) error {
	var found validation.Found
	for _, t := range techniques {
		for _, p := range a.CheckMedia(academy, t) {
			found.Add(t.ID+".", []validation.Problem{p})
		}
	}
	return state.InvalidAll(found)
}

func putAll(c *state.Change, b exchange.Bundle) error {
	var errs []error
	put := func(kind, id string, body any) { errs = append(errs, c.Put(kind, id, body)) }
	put(documents.Settings, "settings", b.Settings)
	for _, x := range b.Positions {
		put(documents.Position, x.ID, x)
	}
	for _, x := range b.Techniques {
		put(documents.Technique, x.ID, x)
	}
	for _, x := range b.Sets {
		put(documents.VariantSet, x.ID, x)
	}
	for _, x := range b.Tables {
		put(documents.ForkTable, x.ID, x)
	}
	for _, x := range b.Ladders {
		put(documents.Ladder, x.ID, x)
	}
	for _, x := range b.Curricula {
		put(documents.Curriculum, x.ID, x)
	}
	for _, x := range b.Tracks {
		put(documents.Track, x.ID, x)
	}
	for _, x := range b.Classes {
		put(documents.Class, x.ID, x)
	}
	for _, x := range b.Units {
		put(documents.Unit, x.ID, x)
	}
	for _, x := range b.People {
		put(documents.Person, x.ID, x)
	}
	for _, x := range b.Seasons {
		put(documents.Season, x.ID, x)
	}
	for _, x := range b.TestDays {
		put(documents.TestDay, x.ID, x)
	}
	for _, x := range b.Sessions {
		put(documents.Session, x.ID, x)
	}
	return errors.Join(errs...)
}

func judged(e academy.Event, lib *library.Library, standard ledger.Standard) (json.RawMessage, error) {
	if e.Kind != academy.CheckEvent {
		return e.Body, nil
	}
	c, err := e.Check()
	if err != nil {
		return nil, state.Invalid("events", "check %q cannot be read: %v", e.ID, err)
	}
	t, ok := lib.Technique(c.Technique)
	if !ok {
		return nil, state.Invalid("events", "check %q is of technique %q, which is not in the bundle", e.ID, c.Technique)
	}
	if c.Verdict == nil {
		v := ledger.Judge(t.On(c.Side), c.Observation, standard)
		c.Verdict = &v
	}
	return json.Marshal(c)
}

// Export writes the whole academy as a bundle.
func (a *Service) Export(ctx context.Context, academyID string) (exchange.Bundle, error) {
	f, err := state.Known[snapshot](ctx, a.State, academyID)
	if err != nil {
		return exchange.Bundle{}, err
	}
	b := exchange.Bundle{Format: exchange.Format, MadeOn: f.Today(), Academy: exchange.Academy{ID: academyID, Name: f.Name}, Settings: f.Settings,
		Positions: f.Library.Positions(), Techniques: f.Library.Techniques(), Sets: f.Library.VariantSets(), Tables: f.Library.ForkTables(), Curricula: f.Curricula, Classes: f.Classes, Units: f.Units, People: f.AsWritten(), Seasons: f.Seasons}
	for _, l := range f.Ladders {
		b.Ladders = append(b.Ladders, l)
	}
	slices.SortFunc(b.Ladders, func(x, y curriculum.Ladder) int { return cmp.Compare(x.ID, y.ID) })
	for _, t := range f.Tracks {
		b.Tracks = append(b.Tracks, t)
	}
	slices.SortFunc(b.Tracks, func(x, y academy.Track) int { return cmp.Compare(x.ID, y.ID) })
	b.TestDays = append(b.TestDays, f.TestDays...)
	for _, n := range f.ClassSessions {
		b.Sessions = append(b.Sessions, n)
	}
	slices.SortFunc(b.Sessions, func(x, y academy.ClassSession) int { return cmp.Compare(x.ID, y.ID) })
	err = a.Store.Events(ctx, academyID, func(e academy.Event) error {
		b.Events = append(b.Events, e)
		return nil
	})
	if err != nil {
		return b, err
	}
	b.Files, err = a.Attached(academyID, f.Library)
	return b, err
}

// Rebuilt is what a rebuild found.
type Rebuilt struct {
	Students  int      `json:"students"`
	Events    int      `json:"events"`
	Different []string `json:"different" doc:"What this server held that was not what the log says"`
}

// Rebuild projects an academy's whole log anew and compares it with what this
// server held, projected event by event as they came. There must be no difference.
func (a *Service) Rebuild(ctx context.Context, academyID string) (Rebuilt, error) {
	held, anew, gaps, err := a.Reprojected(ctx, academyID)
	if err != nil {
		return Rebuilt{}, err
	}
	return Rebuilt{Students: len(anew.Students()), Events: anew.Events, Different: append(held.Differences(anew), gaps...)}, nil
}
