package app

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"vereda/core/season"
	"vereda/store"
)

// EditLine is one change as the list of changes shows it.
type EditLine struct {
	ID     string    `json:"id"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Says   string    `json:"says"`
	Undone bool      `json:"undone"`
	Undoes bool      `json:"undoes" doc:"It takes another one back"`
}

// Edits lists the newest changes.
func (a *App) Edits(ctx context.Context, u User) ([]EditLine, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return nil, err
	}
	edits, err := a.store.Edits(ctx, u.Academy, 60)
	if err != nil {
		return nil, err
	}
	all := []EditLine{}
	for _, e := range edits {
		all = append(all, EditLine{e.ID, e.At, f.nameOf(e.By), e.Says, e.Undone, e.Undoes != ""})
	}
	return all, nil
}

// Undo puts back what an edit changed, as a new edit. It refuses when one of
// those documents was changed again since. A coach can undo only their own.
func (a *App) Undo(ctx context.Context, u User, id string) (string, error) {
	e, err := a.store.Edit(ctx, u.Academy, id)
	if errors.Is(err, store.ErrMissing) {
		return "", &Missing{"change", id}
	}
	if err != nil {
		return "", err
	}
	if u.Role != Head && e.By != u.Person {
		return "", &Forbidden{"Only the head instructor undoes what somebody else changed."}
	}
	if e.Undone {
		return "", refuse("change", "%q is undone already", e.Says)
	}
	return a.change(ctx, u, func(f *facts, b *batch) error {
		for _, part := range e.Parts {
			if !sameJSON(f.bodies[part.Kind+"/"+part.ID], part.After) {
				return refuse("change", "%q cannot be undone: it was changed again since. Undo the later change first.", e.Says)
			}
			if used := f.leftHanging(part, e.Parts); len(part.Before) == 0 && len(used) > 0 {
				return refuse("change", "%q cannot be undone: %s speaks of it now. Take it out there first.", e.Says, used[0])
			}
			b.Writes = append(b.Writes, store.Write{Kind: part.Kind, ID: part.ID, Body: part.Before})
		}
		b.Says, b.Undoes = "Undid: "+e.Says, id
		return nil
	})
}

// leftHanging lists what would speak of nothing were a record taken away, but
// for what goes or is put back together with it.
func (f *facts) leftHanging(gone store.Part, together []store.Part) []string {
	var used []string
	switch {
	case inLibrary(gone.Kind):
		_, used = f.usesOf(RecordKind(gone.Kind), gone.ID)
	case gone.Kind == docClass:
		for _, s := range f.seasons {
			if plan := s.Stands(); plan != nil && slices.ContainsFunc(plan.Placements, func(x season.Placement) bool { return x.Class == gone.ID }) {
				used = append(used, s.Name)
			}
		}
	case gone.Kind == docUnit:
		for _, use := range f.unitUses(gone.ID) {
			used = append(used, use.who)
		}
	case gone.Kind == docTrack:
		for _, c := range f.classes {
			if c.Track == gone.ID {
				used = append(used, c.Name)
			}
		}
	case gone.Kind == docLadder:
		for _, c := range f.curricula {
			if c.Ladder == gone.ID {
				used = append(used, "the curriculum for "+f.curriculumLine(c).Rank)
			}
		}
		for _, p := range f.people {
			if p.Ladder == gone.ID {
				used = append(used, p.Name)
			}
		}
		for _, l := range f.ladders {
			if l.Onward != nil && l.Onward.Ladder == gone.ID {
				used = append(used, l.Name)
			}
		}
	}
	return slices.DeleteFunc(used, func(who string) bool {
		return slices.ContainsFunc(together, func(x store.Part) bool {
			if u, ok := f.unit(x.ID); ok && x.Kind == docUnit {
				return who == u.Name
			}
			name := f.lib.Name(x.ID)
			return who == name || who == "fork table "+name || who == "fork table "+x.ID
		})
	})
}

func sameJSON(a, b json.RawMessage) bool {
	if len(a) == 0 || len(b) == 0 {
		return len(a) == len(b)
	}
	var x, y bytes.Buffer
	return json.Compact(&x, a) == nil && json.Compact(&y, b) == nil && bytes.Equal(x.Bytes(), y.Bytes())
}
