package state

import (
	"context"
	"errors"
	"time"

	"vereda/app/documents"
	"vereda/core/say"
	"vereda/store"
)

// EditLine is one change as the list of changes shows it.
type EditLine struct {
	ID      string       `json:"id"`
	At      time.Time    `json:"at"`
	By      string       `json:"by"`
	Summary say.Sentence `json:"summary"`
	Undone  bool         `json:"undone"`
	Undoes  bool         `json:"undoes" doc:"It takes another one back"`
}

// Edits lists the newest changes.
func (a *State) Edits(ctx context.Context, u User) ([]EditLine, error) {
	f, err := a.Read(ctx, u.Academy)
	if err != nil {
		return nil, err
	}
	edits, err := a.Store.Edits(ctx, u.Academy, 60)
	if err != nil {
		return nil, err
	}
	all := []EditLine{}
	for _, e := range edits {
		all = append(all, EditLine{e.ID, e.At, f.NameOf(e.By), e.Summary, e.Undone, e.Undoes != ""})
	}
	return all, nil
}

// Undo puts back what an edit changed, as a new edit. It refuses when one of
// those documents was changed again since. A coach can undo only their own.
func (a *State) Undo(ctx context.Context, u User, id string) (string, error) {
	e, err := a.Store.Edit(ctx, u.Academy, id)
	if errors.Is(err, store.ErrMissing) {
		return "", NotFound("change", id)
	}
	if err != nil {
		return "", err
	}
	if !u.Is(Head) && e.By != u.Person {
		return "", Forbidden("Only the head instructor undoes what somebody else changed.")
	}
	if e.Undone {
		return "", Invalid("change", "%q is undone already", e.Summary)
	}
	keys := make([][2]string, len(e.Parts))
	for i, part := range e.Parts {
		keys[i] = [2]string{part.Kind, part.ID}
	}
	return a.Change(ctx, u, func(f *Snapshot, b *Change) error {
		now, err := a.Store.Bodies(ctx, u.Academy, keys)
		if err != nil {
			return err
		}
		writes := map[documents.Ref]any{}
		for i, part := range e.Parts {
			if !documents.SameJSON(now[keys[i]], part.After) {
				return Invalid("change", "%q cannot be undone: it was changed again since. Undo the later change first.", e.Summary)
			}
			ref := documents.Ref{Kind: part.Kind, ID: part.ID}
			writes[ref] = nil
			if len(part.Before) > 0 {
				if writes[ref], err = documents.Parse(part.Kind, part.Before); err != nil {
					return Invalid("change", "%q cannot be undone: what was there before cannot be read any more", e.Summary)
				}
			}
			b.PutBody(store.Write{Kind: part.Kind, ID: part.ID, Body: part.Before})
		}
		if err := f.Hanging(writes); err != nil {
			return Invalid("change", "%q cannot be undone: %v.", e.Summary, err)
		}
		b.Summary, b.Undoes = say.F("Undid: %s", e.Summary), id
		return nil
	})
}
