package app

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"vereda/core/library"
	"vereda/exchange"
	"vereda/store"
)

// StateLine is one state of a record: who made it what it was, and when.
type StateLine struct {
	Edit    string    `json:"edit"`
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	Says    string    `json:"says"`
	Gone    bool      `json:"gone" doc:"The change took the record away"`
	Current bool      `json:"current" doc:"It is as it is now"`
}

// mostStates bounds what is listed of one record.
const mostStates = 200

// History lists the states of a record of the library, newest first.
func (a *App) History(ctx context.Context, u User, kind RecordKind, id string) ([]StateLine, error) {
	f, states, err := a.states(ctx, u, kind, id)
	if err != nil {
		return nil, err
	}
	all := []StateLine{}
	now := f.bodies[string(kind)+"/"+id]
	for _, s := range states {
		all = append(all, StateLine{s.Edit.ID, s.Edit.At, f.nameOf(s.Edit.By), s.Edit.Says, len(s.Body) == 0, sameJSON(s.Body, now)})
	}
	return all, nil
}

func (a *App) states(ctx context.Context, u User, kind RecordKind, id string) (*facts, []store.State, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return nil, nil, err
	}
	states, err := a.store.History(ctx, u.Academy, string(kind), id, mostStates)
	if err == nil && len(states) == 0 {
		err = &Missing{string(kind), id}
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
func (a *App) StateAt(ctx context.Context, u User, kind RecordKind, id, edit string) (StatePage, error) {
	f, states, err := a.states(ctx, u, kind, id)
	if err != nil {
		return StatePage{}, err
	}
	i := slices.IndexFunc(states, func(s store.State) bool { return s.Edit.ID == edit })
	if i < 0 {
		return StatePage{}, &Missing{"change", edit}
	}
	s, now := states[i], f.bodies[string(kind)+"/"+id]
	then, err := recordText(kind, s.Body)
	if err != nil {
		return StatePage{}, err
	}
	today, err := recordText(kind, now)
	if err != nil {
		return StatePage{}, err
	}
	return StatePage{StateLine{s.Edit.ID, s.Edit.At, f.nameOf(s.Edit.By), s.Edit.Says, len(s.Body) == 0, sameJSON(s.Body, now)}, diff(then, today)}, nil
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
func (a *App) Restore(ctx context.Context, u User, kind RecordKind, id, edit string) (string, error) {
	_, states, err := a.states(ctx, u, kind, id)
	if err != nil {
		return "", err
	}
	i := slices.IndexFunc(states, func(s store.State) bool { return s.Edit.ID == edit })
	if i < 0 {
		return "", &Missing{"change", edit}
	}
	s := states[i]
	if len(s.Body) == 0 {
		return "", refuse("edit", "that change took the record away: choose the one before it, or take it out of the library")
	}
	return a.change(ctx, u, func(f *facts, b *batch) error {
		name, found, err := a.checkBody(f, u.Academy, kind, s.Body)
		if err != nil {
			return err
		}
		if err := refuseAll(found); err != nil {
			return err
		}
		b.Says = "Restored " + name + " as of " + s.Edit.At.In(a.zone).Format("2 Jan 2006, 15:04")
		b.Writes = append(b.Writes, store.Write{Kind: string(kind), ID: id, Body: s.Body})
		return nil
	})
}

// checkBody says what is wrong with a record inside the library of today.
func (a *App) checkBody(f *facts, academy string, kind RecordKind, body json.RawMessage) (name string, found []library.Problem, err error) {
	switch kind {
	case TechniqueRecord:
		var t library.Technique
		err = json.Unmarshal(body, &t)
		return t.Name, append(f.lib.Check(t), a.checkMedia(academy, t)...), err
	case PositionRecord:
		var p library.Position
		err = json.Unmarshal(body, &p)
		return p.Name, library.CheckPosition(p), err
	case SetRecord:
		var s library.VariantSet
		err = json.Unmarshal(body, &s)
		return s.Name, f.lib.CheckVariants(s), err
	}
	var t library.ForkTable
	err = json.Unmarshal(body, &t)
	return t.Name, f.lib.CheckForkTable(t), err
}
