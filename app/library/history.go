package library

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/exchange"
	"vereda/store"
)

// StateLine is one state of a record: who made it what it was, and when.
type StateLine struct {
	Edit    string       `json:"edit"`
	At      time.Time    `json:"at"`
	By      string       `json:"by"`
	Summary say.Sentence `json:"summary"`
	Gone    bool         `json:"gone" doc:"The change took the record away"`
	Current bool         `json:"current" doc:"It is as it is now"`
}

// mostStates bounds what is listed of one record.
const mostStates = 200

// History lists the states of a record, newest first.
func (a *Service) History(ctx context.Context, u state.User, kind RecordKind, id string) ([]StateLine, error) {
	f, states, err := a.states(ctx, u, kind, id)
	if err != nil {
		return nil, err
	}
	all := []StateLine{}
	now, err := a.bodyNow(ctx, u, kind, id)
	if err != nil {
		return nil, err
	}
	for _, s := range states {
		all = append(all, StateLine{s.Edit.ID, s.Edit.At, f.NameOf(s.Edit.By), s.Edit.Summary, len(s.Body) == 0, documents.SameJSON(s.Body, now)})
	}
	return all, nil
}

// bodyNow is a record as it is kept now; nothing when it is not there.
func (a *Service) bodyNow(ctx context.Context, u state.User, kind RecordKind, id string) (json.RawMessage, error) {
	key := [2]string{string(kind), id}
	all, err := a.Store.Bodies(ctx, u.Academy, [][2]string{key})
	return all[key], err
}

func (a *Service) states(ctx context.Context, u state.User, kind RecordKind, id string) (*snapshot, []store.State, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, nil, err
	}
	states, err := a.Store.History(ctx, u.Academy, string(kind), id, mostStates)
	if err == nil && len(states) == 0 {
		err = state.NotFound(say.Word(kind), id)
	}
	return f, states, err
}

// StatePage is a record as it was, in words, line by line beside what it is.
type StatePage struct {
	StateLine
	Lines []DiffLine `json:"lines"`
}

// DiffLine is one line of a record's text: in both, only then, or only now.
type DiffLine struct {
	Text string `json:"text"`
	In   string `json:"in" enum:"both,then,now"`
}

// StateAt reads a record as one change left it.
func (a *Service) StateAt(ctx context.Context, u state.User, kind RecordKind, id, edit string) (StatePage, error) {
	f, states, err := a.states(ctx, u, kind, id)
	if err != nil {
		return StatePage{}, err
	}
	i := slices.IndexFunc(states, func(s store.State) bool { return s.Edit.ID == edit })
	if i < 0 {
		return StatePage{}, state.NotFound("change", edit)
	}
	s := states[i]
	now, err := a.bodyNow(ctx, u, kind, id)
	if err != nil {
		return StatePage{}, err
	}
	then, err := recordText(kind, s.Body)
	if err != nil {
		return StatePage{}, err
	}
	today, err := recordText(kind, now)
	if err != nil {
		return StatePage{}, err
	}
	return StatePage{StateLine{s.Edit.ID, s.Edit.At, f.NameOf(s.Edit.By), s.Edit.Summary, len(s.Body) == 0, documents.SameJSON(s.Body, now)}, diff(then, today)}, nil
}

// recordText is a record as Markdown; nothing for one that is not there.
func recordText(kind RecordKind, body json.RawMessage) ([]string, error) {
	if len(body) == 0 {
		return nil, nil
	}
	text, err := func() ([]byte, error) {
		switch kind {
		case TechniqueRecord:
			return written(body, exchange.WriteTechnique)
		case PositionRecord:
			return written(body, exchange.WritePosition)
		case SetRecord:
			return written(body, exchange.WriteSet)
		case SettingsRecord:
			return written(body, func(s academy.Settings) ([]byte, error) { return []byte(strings.Join(s.Lines(), "\n")), nil })
		}
		return written(body, exchange.WriteTable)
	}()
	return strings.Split(strings.TrimRight(string(text), "\n"), "\n"), err
}

func written[T any](body json.RawMessage, write func(T) ([]byte, error)) ([]byte, error) {
	var x T
	if err := json.Unmarshal(body, &x); err != nil {
		return nil, err
	}
	return write(x)
}

// diff lists the lines of two texts by their longest common sequence. Costs the
// product of their lengths, a few hundred lines each.
func diff(then, now []string) []DiffLine {
	longest := make([][]int, len(then)+1)
	for i := range longest {
		longest[i] = make([]int, len(now)+1)
	}
	for i := len(then) - 1; i >= 0; i-- {
		for j := len(now) - 1; j >= 0; j-- {
			if then[i] == now[j] {
				longest[i][j] = longest[i+1][j+1] + 1
			} else {
				longest[i][j] = max(longest[i+1][j], longest[i][j+1])
			}
		}
	}
	all := []DiffLine{}
	i, j := 0, 0
	for i < len(then) || j < len(now) {
		switch {
		case i < len(then) && j < len(now) && then[i] == now[j]:
			all = append(all, DiffLine{then[i], "both"})
			i, j = i+1, j+1
		case j == len(now) || i < len(then) && longest[i+1][j] >= longest[i][j+1]:
			all = append(all, DiffLine{then[i], "then"})
			i++
		default:
			all = append(all, DiffLine{now[j], "now"})
			j++
		}
	}
	return all
}

// Restore makes a record again what one change left it, as a new change. It
// refuses what the library could not hold today.
func (a *Service) Restore(ctx context.Context, u state.User, kind RecordKind, id, edit string) (string, error) {
	_, states, err := a.states(ctx, u, kind, id)
	if err != nil {
		return "", err
	}
	i := slices.IndexFunc(states, func(s store.State) bool { return s.Edit.ID == edit })
	if i < 0 {
		return "", state.NotFound("change", edit)
	}
	s := states[i]
	if len(s.Body) == 0 {
		return "", state.Invalid("edit", "that change took the record away: choose the one before it, or delete it")
	}
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		ref := documents.Ref{Kind: string(kind), ID: id}
		value, err := documents.Parse(ref.Kind, s.Body)
		if err != nil {
			return state.Invalid("edit", "that state cannot be read any more: %v", err)
		}
		writes := map[documents.Ref]any{ref: value}
		if err := f.Hanging(writes); err != nil {
			return state.Invalid("edit", "it cannot be restored: %v.", err)
		}
		found := f.Set.With(writes).Check(ref.Kind, id)
		if t, ok := value.(library.Technique); ok {
			found = append(found, a.CheckMedia(u.Academy, t)...)
		}
		if err := state.InvalidAll(found); err != nil {
			return err
		}
		name := f.Set.Name(ref.Kind, value)
		b.Summary = say.F("Restored %s as of %s", name, say.Date(s.Edit.At.In(f.Zone), "2 Jan 2006, 15:04"))
		b.PutBody(store.Write{Kind: ref.Kind, ID: id, Body: s.Body})
		return nil
	})
}
