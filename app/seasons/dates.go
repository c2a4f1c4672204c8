package seasons

import (
	"cmp"
	"context"
	"fmt"
	"reflect"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/validation"
	"vereda/store"
)

// DateLine is a date of a season, and how the plan stands to it.
type DateLine struct {
	Date    academy.SeasonDate `json:"date"`
	Week    int                `json:"week"`
	Past    bool               `json:"past"`
	By      int                `json:"by" doc:"The week by whose end its units must be taught"`
	From    int                `json:"from" doc:"First week of what is kept out; 0 for none"`
	To      int                `json:"to"`
	Seen    []SeenLine         `json:"seen"`
	Lacking int                `json:"lacking" doc:"Units that the plan does not teach by then"`
	Says    say.Sentence       `json:"says"`
}

// SeenLine is a unit a date waits for.
type SeenLine struct {
	Unit  string `json:"unit"`
	Name  string `json:"name"`
	Week  int    `json:"week" doc:"When it is first taught; 0 for never, or known before"`
	Known bool   `json:"known,omitempty" doc:"A track of it knows it before the season"`
	Late  bool   `json:"late" doc:"Not taught by the week it must be"`
}

// dates says of each date what the plan does about it.
func (f *snapshot) dates(s academy.Season) []DateLine {
	all := []DateLine{}
	first := map[string]int{} // track and unit: the week of the first teach; known before: week 0
	for id, t := range f.Tracks {
		for _, u := range t.Assumed {
			first[id+" "+u] = 0
		}
	}
	if s.Plan != nil {
		for _, x := range s.Plan.Placements {
			class, _ := f.Class(x.Class)
			for _, it := range x.Items {
				at := class.Track + " " + it.Unit
				if had, ok := first[at]; it.Kind == season.Teach && (!ok || x.Week < had) {
					first[at] = x.Week
				}
			}
		}
	}
	for _, d := range s.Dates {
		line := DateLine{Date: d, Week: s.WeekOf(d.On), Past: d.On < f.Today(), By: d.By(s), Seen: []SeenLine{}}
		line.From, line.To = d.Quiet(s)
		if len(d.Kept) == 0 && !d.Calm {
			line.From, line.To = 0, 0
		}
		for _, id := range d.Seen {
			unit, _ := f.Unit(id)
			seen := SeenLine{Unit: id, Name: unit.Name, Late: true}
			for t := range f.Tracks {
				week, ok := first[t+" "+id]
				if ok && (d.Track == "" || d.Track == t) && (seen.Week == 0 && !seen.Known || week < seen.Week) {
					seen.Week, seen.Known, seen.Late = week, week == 0, week > line.By
				}
			}
			if seen.Late {
				line.Lacking++
			}
			line.Seen = append(line.Seen, seen)
		}
		line.Says = f.dateWords(s, line)
		all = append(all, line)
	}
	slices.SortStableFunc(all, func(a, b DateLine) int { return cmp.Compare(a.Date.On, b.Date.On) })
	return all
}

// dateWords says in a sentence how the plan stands to a date.
func (f *snapshot) dateWords(s academy.Season, d DateLine) say.Sentence {
	var says []say.Sentence
	if n := len(d.Seen); n > 0 {
		switch {
		case s.Plan == nil:
			says = append(says, say.F("%s to be taught by week %d; there is no plan yet.", unitCount(n), d.By))
		case d.Lacking == 0:
			if n == 1 {
				says = append(says, say.F("It is taught by week %d.", d.By))
			} else {
				says = append(says, say.F("All %d are taught by week %d.", n, d.By))
			}
		default:
			says = append(says, say.F("%d of %d not taught by week %d.", d.Lacking, n, d.By))
		}
	}
	if d.To > 0 {
		weeks := say.F("week %d", d.To)
		if d.From < d.To {
			weeks = say.F("weeks %d to %d", d.From, d.To)
		}
		var what say.Sentence
		switch {
		case d.Date.Calm && len(d.Date.Kept) > 0:
			what = say.F("%s and whatever loads a neck or twists a leg", unitCount(len(d.Date.Kept)))
		case d.Date.Calm:
			what = "Whatever loads a neck or twists a leg"
		default:
			what = unitCount(len(d.Date.Kept))
		}
		says = append(says, say.F("%s kept out of %s.", what, weeks))
	}
	if n := len(d.Date.Classes); n == 1 {
		says = append(says, "It takes the place of a class.")
	} else if n > 1 {
		says = append(says, say.F("It takes the place of %d classes.", n))
	}
	return say.Join(" ", says...)
}

func unitCount(n int) say.Sentence { return say.N(n, "%d unit", "%d units") }

// SetDates says what a season works toward, or around. was is what the form began with: where somebody else has changed them since, nothing is kept.
func (a *Service) SetDates(ctx context.Context, u state.User, id string, dates, was []academy.SeasonDate) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		s, err := f.FindSeason(id)
		if err != nil {
			return err
		}
		if len(s.Dates)+len(was) > 0 && !reflect.DeepEqual(s.Dates, was) {
			return &state.ConflictError{Thing: say.F("The dates of %s", s.Name)}
		}
		s.Dates = slices.Clone(dates)
		for i := range s.Dates {
			s.Dates[i].ID = cmp.Or(s.Dates[i].ID, store.NewID())
		}
		var found validation.Found = s.Check(f.Classes)
		for i, d := range s.Dates {
			at := fmt.Sprintf("dates[%d].", i)
			for _, x := range []struct {
				field string
				units []string
			}{{"seen", d.Seen}, {"kept", d.Kept}} {
				for _, id := range x.units {
					if _, ok := f.Unit(id); !ok {
						found.Bad(at+x.field, "unit %q is not among the units", id)
					}
				}
			}
			if _, ok := f.Tracks[d.Track]; d.Track != "" && !ok {
				found.Bad(at+"track", "track %q is not among the tracks", d.Track)
			}
		}
		if err := state.InvalidAll(found); err != nil {
			return err
		}
		slices.SortStableFunc(s.Dates, func(a, b academy.SeasonDate) int { return cmp.Compare(a.On, b.On) })
		b.Summary = say.F("Set the dates of %s: %d", s.Name, len(dates))
		return b.Put(documents.Season, s.ID, s)
	})
}
