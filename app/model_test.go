package app_test

import (
	"flag"
	"fmt"
	"maps"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/app"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/exchange"
	"vereda/internal/generate"
	"vereda/internal/testkit"
)

// plainHall is what an academy would be on paper: cards of people, a list of who was where, a pile of checks, and what was written over what.
type plainHall struct {
	cards  map[string]string            // identifier: name
	came   map[string]map[string]string // identifier, session: part
	checks map[string]plainCheck        // by identifier
	gone   map[string]string            // identifier of a merged card: the card it was put into
	edits  []plainEdit
}

type plainCheck struct {
	of   string // whose card it was written on
	gone bool
}

// plainEdit is one change of cards.
type plainEdit struct {
	id            string
	before, after map[string]string // names; "" is no card
	merged        string            // the card that went into another
	undone        bool
}

// now is the card that stands for one.
func (h *plainHall) now(id string) string {
	for h.gone[id] != "" {
		id = h.gone[id]
	}
	return id
}

// visits are those of a card and of all that went into it, with how much of the class each may be: all of it where one of them was there for all
// of it.
func (h *plainHall) visits(id string) map[string][]string {
	all := map[string][]string{}
	for of, sessions := range h.came {
		for session, part := range sessions {
			if h.now(of) == id {
				all[session] = append(all[session], part)
			}
		}
	}
	for session, parts := range all {
		if slices.Contains(parts, "") {
			all[session] = []string{""}
		}
	}
	return all
}

// notedOn lists the cards that are a card's now and say that they were in a class.
func (h *plainHall) notedOn(id, session string) (all []string) {
	for of, sessions := range h.came {
		if _, here := sessions[session]; here && h.now(of) == id {
			all = append(all, of)
		}
	}
	return all
}

// stand counts the checks of a card, and of all that went into it, that were not taken back.
func (h *plainHall) stand(id string) (n int) {
	for _, c := range h.checks {
		if h.now(c.of) == id && !c.gone {
			n++
		}
	}
	return n
}

// Cards are renamed, merged, erased and given back; people come, are taken out, come late; checks are kept and withdrawn; some of it is undone, all of
// it is carried over into another academy; in any order. It is always what the cards on paper are.
func TestAnAcademyIsItsCards(t *testing.T) {
	testkit.NothingAtOnce(t)
	if f := flag.Lookup("rapid.checks"); f.Value.String() == f.DefValue { // each is an academy of its own
		require.NoError(t, f.Value.Set("20"))
		t.Cleanup(func() { _ = f.Value.Set(f.DefValue) })
	}
	s := testkit.New(t)
	at := now
	a := app.New(s, func() time.Time { return at }, time.UTC, testkit.Files(t))
	n := 0
	rapid.Check(t, func(t *rapid.T) {
		n++
		id := fmt.Sprintf("hall-%d", n)
		b, _, err := generate.Academy(generate.Wish{ID: id, Students: 5, Classes: 2, Today: calendar.DayOf(now), Seed: 3})
		require.NoError(t, err)
		_, err = a.Academies.Import(t.Context(), b)
		require.NoError(t, err)
		u := state.User{Academy: id, Roles: []state.Role{state.Head}, Person: "ines-falk"}
		ctx := t.Context()
		h := &plainHall{cards: map[string]string{}, came: map[string]map[string]string{}, checks: map[string]plainCheck{}, gone: map[string]string{}}
		for _, p := range b.People {
			if p.Coach == nil {
				h.cards[p.ID] = p.Name
			}
		}
		missing := ledger.Observation{Points: map[string]ledger.Seen{}}
		for _, x := range b.Techniques {
			for _, p := range x.KeyPoints {
				if x.ID == "hip-escape" {
					missing.Points[p.ID] = ledger.Missing
				}
			}
		}
		var sessions []string
		for _, c := range b.Classes {
			for day := calendar.DayOf(now) - 13; day <= calendar.DayOf(now); day++ {
				if c.Meets(day) {
					sessions = append(sessions, academy.Occurrence(c.ID, day))
				}
			}
		}
		someone := func() string {
			all := slices.Sorted(maps.Keys(h.cards))
			if len(all) == 0 {
				t.Skip("nobody is left")
			}
			return rapid.SampledFrom(all).Draw(t, "who")
		}
		words := 0
		t.Repeat(map[string]func(*rapid.T){
			"rename": func(t *rapid.T) {
				who := someone()
				words++
				name := fmt.Sprintf("Name %d", words)
				before := h.cards[who]
				change, err := a.State.Change(ctx, u, func(f *state.Snapshot, c *state.Change) error {
					p, _ := f.Written(who)
					p.Name = name
					c.Summary = "Renamed"
					return c.PutPerson(f, p)
				})
				require.NoError(t, err)
				h.cards[who] = name
				h.edits = append(h.edits, plainEdit{id: change, before: map[string]string{who: before}, after: map[string]string{who: name}})
			},
			"merge": func(t *rapid.T) {
				keep, drop := someone(), someone()
				change, err := a.People.Merge(ctx, u, keep, drop)
				if keep == drop {
					require.Error(t, err)
					return
				}
				require.NoError(t, err)
				h.edits = append(h.edits, plainEdit{id: change, merged: drop, before: map[string]string{keep: h.cards[keep], drop: h.cards[drop]}, after: map[string]string{keep: h.cards[keep], drop: ""}})
				h.gone[drop] = keep
				delete(h.cards, drop)
			},
			"undo": func(t *rapid.T) {
				if len(h.edits) == 0 {
					t.Skip("nothing was done")
				}
				i := rapid.IntRange(max(0, len(h.edits)-4), len(h.edits)-1).Draw(t, "which")
				e := h.edits[i]
				free := !e.undone
				for _, later := range h.edits[i+1:] {
					for card := range later.after {
						_, same := e.after[card]
						free = free && (later.undone || !same)
					}
				}
				change, err := a.State.Undo(ctx, u, e.id)
				require.Equal(t, free, err == nil, "%+v: %v", e, err)
				if err != nil {
					return
				}
				_ = change
				h.edits[i].undone = true
				for card, name := range e.before {
					h.cards[card] = name
				}
				delete(h.gone, e.merged)
			},
			"come": func(t *rapid.T) {
				who, session := someone(), rapid.SampledFrom(sessions).Draw(t, "session")
				part := rapid.SampledFrom([]string{"", academy.CameLate, academy.LeftEarly}).Draw(t, "part")
				on := h.notedOn(who, session)
				if len(on) > 1 {
					t.Skip("noted on two: which one is changed is not asked")
				}
				require.NoError(t, a.Classes.CheckIn(ctx, u, session, who, part, ""))
				if len(on) == 1 {
					h.came[on[0]][session] = part
					return
				}
				if h.came[who] == nil {
					h.came[who] = map[string]string{}
				}
				h.came[who][session] = part
			},
			"not come": func(t *rapid.T) {
				who, session := someone(), rapid.SampledFrom(sessions).Draw(t, "session")
				on := h.notedOn(who, session)
				if len(on) > 1 {
					t.Skip("noted on two: which one is taken out is not asked")
				}
				require.Equal(t, len(on) == 1, a.Classes.CheckOut(ctx, u, session, who, "") == nil)
				for _, of := range on {
					delete(h.came[of], session)
				}
			},
			"check": func(t *rapid.T) {
				who := someone()
				at = at.Add(time.Second)
				kept, err := a.Students.KeepCheck(ctx, u, students.KeepCheck{Student: who, Technique: "hip-escape", Side: library.Left, Observation: missing})
				require.NoError(t, err)
				h.checks[kept.ID] = plainCheck{of: who}
			},
			"withdraw": func(t *rapid.T) {
				var all []string
				for id, c := range h.checks {
					if !c.gone && h.cards[h.now(c.of)] != "" {
						all = append(all, id)
					}
				}
				if len(all) == 0 {
					t.Skip("no check stands")
				}
				slices.Sort(all)
				which := rapid.SampledFrom(all).Draw(t, "check")
				_, err := a.Students.WithdrawCheck(ctx, u, which, "a mistake")
				require.NoError(t, err)
				c := h.checks[which]
				c.gone = true
				h.checks[which] = c
			},
			"erase": func(t *rapid.T) {
				if len(h.cards) < 3 {
					t.Skip("few are left")
				}
				who := someone()
				require.NoError(t, a.People.Erase(ctx, u, who, h.cards[who]))
				delete(h.cards, who)
				for i, e := range h.edits { // what was done to their card cannot be undone
					for card := range e.after {
						if h.now(card) == who {
							h.edits[i].undone = true
						}
					}
				}
			},
			"": func(t *rapid.T) { h.same(t, a, u, id) },
		})
		// Another academy that takes all of it over is the same again.
		text, err := a.Academies.Export(ctx, id)
		require.NoError(t, err)
		text.Academy.ID = id + "-again"
		out, err := exchange.Write(text)
		require.NoError(t, err)
		again, err := exchange.Read(out)
		require.NoError(t, err)
		_, err = a.Academies.Import(ctx, again)
		require.NoError(t, err)
		u.Academy = text.Academy.ID
		h.same(t, a, u, u.Academy)
	})
}

// same fails where the academy is not what the cards say.
func (h *plainHall) same(t *rapid.T, a *app.App, u state.User, id string) {
	f, err := a.State.Read(t.Context(), id)
	require.NoError(t, err)
	names := map[string]string{}
	for _, p := range f.People {
		if p.Coach != nil {
			continue
		}
		names[p.ID] = p.Name
		want := h.visits(p.ID)
		require.Len(t, f.Visits(p.ID), len(want), "visits of %s", p.ID)
		for _, v := range f.Visits(p.ID) {
			require.Contains(t, want[academy.Occurrence(v.Class, v.On)], v.Part, "%s on %s", p.ID, v.On)
		}
		require.Len(t, f.Checks(p.ID), h.stand(p.ID), "checks of %s", p.ID)
	}
	require.Equal(t, h.cards, names)
	_, anew, _, err := a.State.Reprojected(t.Context(), id)
	require.NoError(t, err)
	require.Empty(t, f.Differences(anew))
}
