package state

import (
	"context"
	"slices"

	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
)

// TechniqueLine is a technique as a list shows one.
type TechniqueLine struct {
	ID      string          `json:"id"`
	Name    string          `json:"name"`
	Matched string          `json:"matched,omitempty" doc:"The alias the words were found in, when it was not the name"`
	Kind    library.Kind    `json:"kind"`
	Family  library.Family  `json:"family"`
	From    string          `json:"from,omitempty" doc:"The position it starts in"`
	To      string          `json:"to,omitempty" doc:"The position it leads to, or the finish"`
	FromAt  string          `json:"from_at,omitempty" doc:"position/part it starts from"`
	ToAt    string          `json:"to_at,omitempty" doc:"position/part it leads to, or finish"`
	Context library.Context `json:"context"`
	Gates   int             `json:"gates"`
	Points  int             `json:"points"`
	Risky   bool            `json:"risky" doc:"It loads a joint or the neck, or somebody falls"`
}

func (f *Snapshot) TechniqueLine(t library.Technique) TechniqueLine {
	l := TechniqueLine{ID: t.ID, Name: t.Name, Kind: t.Kind, Family: f.Library.Family(t), Context: t.Context, Gates: len(t.Gates()), Points: len(t.KeyPoints), Risky: len(t.Risks) > 0}
	if t.From != nil {
		l.From, l.FromAt = f.PositionName(t.From.Position), t.From.Position+"/"+string(t.From.Part)
	}
	switch {
	case t.Finish:
		l.To, l.ToAt = "finish", "finish"
	case t.To != nil:
		l.To, l.ToAt = f.PositionName(t.To.Position), t.To.Position+"/"+string(t.To.Part)
	}
	return l
}

func (f *Snapshot) PositionName(id string) string {
	if p, ok := f.Library.Position(id); ok {
		return p.Name
	}
	return id
}

// Named is a thing with its name.
type Named struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Defers is said wherever cautions are shown.
const Defers say.Sentence = "Your clinician, your competition's rules and local law go before anything written here."

// onlyField names fields as the form of one part knows them.
func OnlyField(err error, prefix string) error {
	r, ok := err.(*ValidationError)
	if !ok {
		return err
	}
	out := &ValidationError{}
	for _, p := range r.Problems {
		if len(p.Field) > len(prefix) && p.Field[:len(prefix)] == prefix {
			p.Field = p.Field[len(prefix):]
		}
		out.Problems = append(out.Problems, p)
	}
	return out
}

// askedUpTo is what a curriculum asks for, and what the ranks below it asked for
// before: there the newest published version counts.
func (f *Snapshot) AskedUpTo(c curriculum.Curriculum) map[string]bool {
	counted := []curriculum.Curriculum{c}
	if ladder := f.Ladders[c.Ladder]; ladder.Position(c.Rank) > 0 {
		counted = append(counted, curriculum.UpTo(ladder, ladder.Ranks[ladder.Position(c.Rank)-1].ID, slices.Values(f.Curricula))...)
	}
	asked := map[string]bool{}
	for _, x := range counted {
		for _, r := range x.Requirements {
			asked[f.Library.Now(r.Technique)] = true
		}
	}
	return asked
}

// keep is the common way of writing a record of the library. version is the one
// it was read at; 0 makes a new one, which must not be there yet.
func (a *State) KeepRecord(ctx context.Context, u User, kind, id, name string, version int, body any, check func(f *Snapshot) []validation.Problem) (string, error) {
	return a.Change(ctx, u, func(f *Snapshot, b *Change) error {
		had := f.Version(kind, id)
		switch {
		case version == 0 && had != 0:
			return Invalid("id", "%q is taken: give the %s another name or identifier", id, say.Word(kind))
		case version != 0 && had == 0:
			return NotFound(say.Word(kind), id)
		case version != had:
			return &ConflictError{Thing: say.Raw(name)}
		}
		if err := InvalidAll(check(f)); err != nil {
			return err
		}
		b.Summary = say.F("Changed %s", name)
		if version == 0 {
			b.Summary = say.F("Added %s", name)
		}
		return b.Put(kind, id, body)
	})
}
