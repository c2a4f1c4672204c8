package app

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"sync"

	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/exchange"
	"vereda/store"
)

// Imported counts what an import kept.
type Imported struct {
	Documents int `json:"documents"`
	Facts     int `json:"facts"`
}

// Import keeps a whole bundle: all of it or nothing. Importing the same one
// again changes nothing. The academy is made when it is not there. Checks that
// come without a verdict are judged by the house standard.
func (a *App) Import(ctx context.Context, b exchange.Bundle) (Imported, error) {
	id := b.Academy.ID
	if _, err := a.store.Revision(ctx, id); errors.Is(err, store.ErrMissing) {
		if err := a.store.CreateAcademy(ctx, id, b.Academy.Name, a.now().UTC()); err != nil {
			return Imported{}, err
		}
	} else if err != nil {
		return Imported{}, err
	}
	for _, x := range b.Files {
		kept, err := a.files.Put(id, bytes.NewReader(x.Content))
		if err != nil {
			return Imported{}, refuse("files", "%s: %v", x.Digest, err)
		}
		if kept.Digest != x.Digest {
			return Imported{}, refuse("files", "%s: its content was damaged on the way", x.Digest)
		}
	}
	out := Imported{}
	_, err := a.change(ctx, User{Academy: id, Person: "import", Role: Head}, func(f *facts, c *batch) error {
		if err := putAll(c, b); err != nil {
			return err
		}
		lib := b.Library()
		for _, x := range b.Facts {
			body, err := judged(x, lib, b.Settings.WithDefaults().Standard)
			if err != nil {
				return err
			}
			x.Body, x.RecordedAt = body, x.RecordedAt.UTC()
			c.Facts = append(c.Facts, x)
		}
		c.Facts = slices.DeleteFunc(c.Facts, func(x store.Fact) bool {
			return slices.ContainsFunc(f.log, func(had store.Fact) bool { return had.ID == x.ID })
		})
		c.Says = "Imported " + b.Academy.Name
		out = Imported{Documents: len(c.Writes), Facts: len(c.Facts)}
		c.base = f.imported(b, lib)
		for student := range f.byStudent {
			c.touched[student] = true // the library they are understood with may have changed
		}
		return nil
	})
	return out, err
}

// imported is what will be known once the bundle's documents are kept.
func (f *facts) imported(b exchange.Bundle, lib *library.Library) *facts {
	after := *f
	after.audits, after.likely = &sync.Map{}, &sync.Map{}
	after.lib, after.people, after.person = lib, b.People, map[string]academy.Person{}
	for _, p := range b.People {
		after.person[p.ID] = p
	}
	return &after
}

func putAll(c *batch, b exchange.Bundle) error {
	var errs []error
	put := func(kind, id string, body any) { errs = append(errs, c.put(kind, id, body)) }
	put(docSettings, "settings", b.Settings)
	for _, x := range b.Positions {
		put(docPosition, x.ID, x)
	}
	for _, x := range b.Techniques {
		put(docTechnique, x.ID, x)
	}
	for _, x := range b.Sets {
		put(docSet, x.ID, x)
	}
	for _, x := range b.Tables {
		put(docTable, x.ID, x)
	}
	for _, x := range b.Ladders {
		put(docLadder, x.ID, x)
	}
	for _, x := range b.Curricula {
		put(docCurriculum, x.ID, x)
	}
	for _, x := range b.Tracks {
		put(docTrack, x.ID, x)
	}
	for _, x := range b.Classes {
		put(docClass, x.ID, x)
	}
	for _, x := range b.Units {
		put(docUnit, x.ID, x)
	}
	for _, x := range b.People {
		put(docPerson, x.ID, x)
	}
	for _, x := range b.Seasons {
		put(docSeason, x.ID, x)
	}
	for _, x := range b.Nights {
		put(docNight, x.ID, x)
	}
	return errors.Join(errs...)
}

func judged(x academy.Fact, lib *library.Library, standard ledger.Standard) (json.RawMessage, error) {
	if x.Kind != academy.Check {
		return x.Body, nil
	}
	var c academy.CheckBody
	if err := json.Unmarshal(x.Body, &c); err != nil {
		return nil, refuse("facts", "check %q cannot be read: %v", x.ID, err)
	}
	t, ok := lib.Technique(c.Technique)
	if !ok {
		return nil, refuse("facts", "check %q is of technique %q, which is not in the bundle", x.ID, c.Technique)
	}
	if c.Verdict == nil {
		v := ledger.Judge(t, c.Observation, standard)
		c.Verdict = &v
	}
	return json.Marshal(c)
}

// Export writes the whole academy as a bundle.
func (a *App) Export(ctx context.Context, academyID string) (exchange.Bundle, error) {
	f, err := a.read(ctx, academyID)
	if err != nil {
		return exchange.Bundle{}, err
	}
	b := exchange.Bundle{Format: exchange.Format, MadeOn: a.today(), Academy: exchange.Academy{ID: academyID, Name: f.name}, Settings: f.settings,
		Positions: f.lib.Positions(), Techniques: f.lib.Techniques(), Sets: f.lib.VariantSets(), Tables: f.lib.ForkTables(), Curricula: f.curricula, Classes: f.classes, Units: f.units, People: f.people, Seasons: f.seasons}
	for _, l := range f.ladders {
		b.Ladders = append(b.Ladders, l)
	}
	slices.SortFunc(b.Ladders, func(x, y curriculum.Ladder) int { return cmp.Compare(x.ID, y.ID) })
	for _, t := range f.tracks {
		b.Tracks = append(b.Tracks, t)
	}
	slices.SortFunc(b.Tracks, func(x, y academy.Track) int { return cmp.Compare(x.ID, y.ID) })
	for _, n := range f.nights {
		b.Nights = append(b.Nights, n)
	}
	slices.SortFunc(b.Nights, func(x, y academy.Night) int { return cmp.Compare(x.ID, y.ID) })
	b.Facts = f.log
	b.Files, err = a.attached(academyID, f.lib)
	return b, err
}
