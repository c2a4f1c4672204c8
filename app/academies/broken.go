package academies

import (
	"context"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// mostStates bounds how far back a good state is looked for.
const mostStates = 200

// A record that cannot be read is set aside: the academy goes on without it until somebody
// puts back what it was, or deletes it.

// MendBroken puts a record that cannot be read back as it was last when it could be; with remove it deletes
// it. Both can be seen in the list of changes.
func (a *Service) MendBroken(ctx context.Context, u state.User, kind, id string, remove bool) (string, error) {
	if !documents.Known(kind) && !remove {
		return "", state.Invalid("kind", "%q is no kind of record this program knows: delete it", validation.Shorten(kind, 40))
	}
	states, err := a.Store.History(ctx, u.Academy, kind, id, mostStates)
	if err != nil {
		return "", err
	}
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		if !f.IsBroken(kind, id) {
			return state.NotFound("record set aside", id)
		}
		if remove {
			b.Summary = say.F("Deleted the %s %s, which could not be read", say.Word(kind), id)
			b.PutBody(store.Write{Kind: kind, ID: id})
			return nil
		}
		for _, s := range states {
			value, err := documents.Parse(kind, s.Body)
			if len(s.Body) == 0 || err != nil {
				continue
			}
			writes := map[documents.Ref]any{{Kind: kind, ID: id}: value}
			if f.Hanging(writes) != nil || state.InvalidAll(f.Set.With(writes).Check(kind, id)) != nil {
				continue
			}
			b.Summary = say.F("Put the %s %s back as of %s", say.Word(kind), id, say.Date(s.Edit.At.In(f.Zone), "2 Jan 2006, 15:04"))
			b.PutBody(store.Write{Kind: kind, ID: id, Body: s.Body})
			return nil
		}
		return state.Invalid("id", "no earlier state of it can be read and holds together with the others: delete it, and write it again")
	})
}
