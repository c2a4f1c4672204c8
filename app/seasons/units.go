package seasons

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/season"
)

// UnitsPage is what seasons are planned with: every unit, and whether the
// minutes there are will do.
type UnitsPage struct {
	Units     []UnitLine    `json:"units" doc:"By area, then by name"`
	Tracks    []UnitTrack   `json:"tracks"`
	Areas     []string      `json:"areas" doc:"In use"`
	Signoffs  []string      `json:"signoffs" doc:"In use"`
	Movements []state.Named `json:"movements"`
	Share     float64       `json:"review_share" doc:"Part of the teaching that is taught again"`
}

// UnitLine is a unit with names.
type UnitLine struct {
	academy.Unit
	Version  int            `json:"version" doc:"To be sent with a change of it"`
	Teaches  []state.Named  `json:"teaches"`
	Stands   []state.Named  `json:"stands_on"`
	Opens    []string       `json:"opens" doc:"What stands on it"`
	TrackSay string         `json:"track_names"`
	Refused  []say.Sentence `json:"refused" doc:"Why a track of it cannot teach it"`
}

// UnitTrack is a track's demand and supply of minutes: every unit once and reviewed,
// against what the season open now offers.
type UnitTrack struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Units  int     `json:"units" doc:"Not known before"`
	Demand float64 `json:"demand" doc:"Minutes: each unit once, × (1 + review share)"`
	Supply int     `json:"supply" doc:"Teaching minutes from today to the season's end; in mode same those of a week's longest class"`
	Season string  `json:"season,omitempty" doc:"Which season the supply is of"`
	Enough bool    `json:"enough"`
}

// Units lists the units. id names the season whose minutes are counted; without one the latest.
func (a *Service) Units(ctx context.Context, u state.User, id string) (UnitsPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return UnitsPage{}, err
	}
	page := UnitsPage{Units: []UnitLine{}, Tracks: []UnitTrack{}, Areas: []string{}, Signoffs: f.signoffWords(), Movements: []state.Named{}, Share: state.ReviewShare}
	for _, x := range f.Units {
		page.Units = append(page.Units, f.unitLine(x))
		if !slices.Contains(page.Areas, x.Area) {
			page.Areas = append(page.Areas, x.Area)
		}
	}
	slices.Sort(page.Areas)
	slices.SortFunc(page.Units, func(x, y UnitLine) int {
		return cmp.Or(cmp.Compare(x.Area, y.Area), cmp.Compare(x.Name, y.Name), cmp.Compare(x.ID, y.ID))
	})
	for _, t := range f.Library.Techniques() {
		if t.Kind == "movement" {
			page.Movements = append(page.Movements, state.Named{ID: t.ID, Name: t.Name})
		}
	}
	s, ok := f.openSeason(id)
	for _, t := range f.Tracks {
		page.Tracks = append(page.Tracks, f.unitTrack(t, s, ok, f.Today()))
	}
	slices.SortFunc(page.Tracks, func(x, y UnitTrack) int { return cmp.Or(cmp.Compare(x.Name, y.Name), cmp.Compare(x.ID, y.ID)) })
	return page, nil
}

func (f *snapshot) openSeason(id string) (academy.Season, bool) {
	if s, err := f.FindSeason(id); err == nil {
		return s, true
	}
	if len(f.Seasons) == 0 {
		return academy.Season{}, false
	}
	return slices.MaxFunc(f.Seasons, func(x, y academy.Season) int { return cmp.Compare(x.Start, y.Start) }), true
}

func (f *snapshot) unitLine(x academy.Unit) UnitLine {
	l := UnitLine{Unit: x, Version: f.Version(documents.Unit, x.ID), Teaches: f.named(x.Techniques), Stands: []state.Named{}, Opens: []string{}, Refused: []say.Sentence{}}
	for _, r := range x.Requires {
		other, _ := f.Unit(r)
		l.Stands = append(l.Stands, state.Named{ID: r, Name: other.Name})
	}
	for _, other := range f.Units {
		if slices.Contains(other.Requires, x.ID) {
			l.Opens = append(l.Opens, other.Name)
		}
	}
	var tracks []string
	for _, t := range x.Tracks {
		tracks = append(tracks, f.Tracks[t].Name)
		if why := f.Gated(x, f.Tracks[t]); why != "" {
			l.Refused = append(l.Refused, why)
		}
	}
	l.TrackSay = strings.Join(tracks, ", ")
	return l
}

func (f *snapshot) unitTrack(t academy.Track, s academy.Season, open bool, today calendar.Day) UnitTrack {
	l := UnitTrack{ID: t.ID, Name: t.Name}
	for _, x := range f.Units {
		if slices.Contains(x.Tracks, t.ID) && !slices.Contains(t.Assumed, x.ID) {
			l.Units++
			l.Demand += float64(x.Minutes) * (1 + state.ReviewShare)
		}
	}
	if !open {
		return l
	}
	l.Season = s.Name
	for w := 1; w <= s.Weeks; w++ {
		longest := 0
		for _, c := range f.Classes {
			on := s.DayOf(w, c)
			if _, closed := s.Closed(w, c.ID); c.Track != t.ID || closed || on < today || !c.Meets(on) {
				continue
			}
			c = c.On(on)
			if t.Mode == "split" {
				l.Supply += c.TeachMinutes
			}
			longest = max(longest, c.TeachMinutes)
		}
		if t.Mode == "same" {
			l.Supply += longest
		}
	}
	l.Enough = float64(l.Supply) >= l.Demand
	return l
}

// SaveUnit keeps a unit; without an identifier it is a new one. What is
// planned stays where it is; where it does not fit any more the plan says so.
func (a *Service) SaveUnit(ctx context.Context, u state.User, x academy.Unit, version int) (id, change string, err error) {
	change, err = state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		if id, err = f.keptAs(b, documents.Unit, x.ID, x.Name, version); err != nil {
			return err
		}
		if err := state.InvalidAll(f.CheckUnit(x)); err != nil {
			return err
		}
		kept := x
		kept.ID = id
		return b.Put(documents.Unit, id, kept)
	})
	return id, change, err
}

// RemoveUnit takes a unit away. It refuses while something speaks of it.
func (a *Service) RemoveUnit(ctx context.Context, u state.User, id string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		x, ok := f.Unit(id)
		if !ok {
			return state.NotFound("unit", id)
		}
		if used := f.unitUses(id); len(used) > 0 {
			mend := "Remove it there first"
			if used[0].on != 0 && used[0].on < f.Today() {
				mend = "What was planned stays on record: take the unit out of its tracks, and it is planned no more"
			}
			return state.Invalid("unit", "%s stays: %s %s. %s", x.Name, used[0].who, used[0].how, mend)
		}
		if err := f.Hanging(map[documents.Ref]any{{Kind: documents.Unit, ID: id}: nil}); err != nil {
			return state.Invalid("unit", "%s stays: %v", x.Name, err)
		}
		b.Summary = say.F("Deleted the unit %s", x.Name)
		return b.Put(documents.Unit, id, nil)
	})
}

// unitUse is one place that speaks of a unit; on is when, if it is a class.
type unitUse struct {
	who, how string
	on       calendar.Day
}

// unitUses says who speaks of a unit.
func (f *snapshot) unitUses(id string) []unitUse {
	var used []unitUse
	for _, other := range f.Units {
		if slices.Contains(other.Requires, id) {
			used = append(used, unitUse{who: other.Name, how: "stands on it"})
		}
	}
	for _, t := range f.Tracks {
		if slices.Contains(t.Assumed, id) {
			used = append(used, unitUse{who: t.Name, how: "counts it as known"})
		}
	}
	has := func(items []season.Item) bool {
		return slices.ContainsFunc(items, func(it season.Item) bool { return it.Unit == id })
	}
	for _, s := range f.Seasons {
		for _, plan := range s.Plans() {
			if i := slices.IndexFunc(plan.Placements, func(x season.Placement) bool { return has(x.Items) }); i >= 0 {
				at := plan.Placements[i]
				c, _ := f.Class(at.Class)
				used = append(used, unitUse{s.Name, fmt.Sprintf("has it in %s in week %d", c.Name, at.Week), s.DayOf(at.Week, c)})
				break
			}
		}
		if slices.ContainsFunc(s.Wanted, func(w season.Wanted) bool { return w.Unit == id }) {
			used = append(used, unitUse{who: s.Name, how: "wants it by a date"})
		}
		if slices.ContainsFunc(s.Barred, func(b season.Barred) bool { return b.Unit == id }) {
			used = append(used, unitUse{who: s.Name, how: "keeps it out of some weeks"})
		}
		if i := slices.IndexFunc(s.Dates, func(d academy.SeasonDate) bool { return slices.Contains(d.Seen, id) || slices.Contains(d.Kept, id) }); i >= 0 {
			used = append(used, unitUse{s.Name, "names it for " + s.Dates[i].Name, s.Dates[i].On})
		}
	}
	for at, n := range f.ClassSessions {
		if has(n.Items) || slices.Contains(n.Makeups(), id) {
			class, on, _ := academy.SplitOccurrence(at)
			c, _ := f.Class(class)
			used = append(used, unitUse{c.Name, "was given it by hand for " + on.Words(), on})
		}
	}
	slices.SortFunc(used, func(x, y unitUse) int {
		return cmp.Or(cmp.Compare(x.on, y.on), cmp.Compare(x.who, y.who), cmp.Compare(x.how, y.how))
	})
	return used
}
