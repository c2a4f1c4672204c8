package seasons

import (
	"context"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/store"
)

// CoverageLinePage is the coverage over a season: as it was expected when it was published, as it came, and as it is expected from here.
type CoverageLinePage struct {
	Published *calendar.Day         `json:"published,omitempty" doc:"Not there while nothing was published: then there is nothing to compare with"`
	Weeks     int                   `json:"weeks"`
	Now       int                   `json:"now" doc:"The last week that is over; 0 before the first"`
	Forecast  []season.WeekCoverage `json:"forecast" doc:"At the first publication, by the end of each week"`
	Again     *calendar.Day         `json:"again,omitempty" doc:"When it was published last, where that was later"`
	Revised   []season.WeekCoverage `json:"revised,omitempty" required:"false" doc:"As it was expected then"`
	Happened  []HappenedWeek        `json:"happened"`
	From      []season.WeekCoverage `json:"from" doc:"From here on"`
	Formula   say.Sentence          `json:"formula"`
}

// HappenedWeek is what was covered by the end of a week.
type HappenedWeek struct {
	Week  int     `json:"week"`
	Share float64 `json:"share"`
}

const lineFormula say.Sentence = "Of what the students' next ranks asked when the season was published, by weight: the share that was or is expected to be seen often enough by the end of each week. Expected: the mean of the chances covered; the band holds eight of ten runs in which each student is in each class or not. Happened: from reports, attendance and checks."

// CoverageLine compares a published season with its forecast.
func (a *Service) CoverageLine(ctx context.Context, u state.User, id string) (CoverageLinePage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return CoverageLinePage{}, err
	}
	s, err := f.FindSeason(id)
	if err != nil {
		return CoverageLinePage{}, err
	}
	page := CoverageLinePage{Weeks: s.Weeks, Forecast: []season.WeekCoverage{}, Happened: []HappenedWeek{}, From: []season.WeekCoverage{}, Formula: lineFormula}
	if s.Published == nil {
		return page, nil
	}
	said, asked, err := f.said(ctx, a.Store, s)
	if err != nil {
		return page, err
	}
	return state.RememberLast(f.Snapshot, lineOf(id), lineAt{f.Revision, f.Last, f.Today()}, func() CoverageLinePage {
		f.coverageLine(s, said, asked, &page)
		return page
	}), nil
}

// said are the forecasts of a season that was published, the first one first, and what was asked at the first. A season published before
// forecasts were kept has the one that would have been made then, as far as that is known now.
func (f *snapshot) said(ctx context.Context, st *store.Store, s academy.Season) ([]store.Forecasted, []academy.Asked, error) {
	if all := f.Forecasts(s); len(all) > 0 {
		var err error
		read := func() (asked []academy.Asked) {
			asked, err = st.Asked(ctx, f.Academy, all[0].Seq)
			return asked
		}
		asked := state.RememberLast(f.Snapshot, askedOf(s.ID), askedAt{f.Revision, all[0].Seq}, read)
		if asked == nil && err == nil { // nobody was, or it could not be read the last time
			asked = read()
		}
		return all, asked, err
	}
	on := calendar.DayOf(s.Published.On.In(f.Zone))
	then := &snapshot{f.AsOf(on)}
	x := then.forecast(s, on)
	return []store.Forecasted{{Season: s.ID, On: on, Number: s.Published.Number, Begin: x.Begin, Line: x.Line}}, x.Asked, nil
}

// lineOf is the season whose line is kept, as it last was: every check and check-in moves it, and between two of them everybody who looks at the
// first page asks for it.
type lineOf string

// askedOf is the season whose first forecast's needs are kept.
type askedOf string

type askedAt struct{ revision, forecast int64 }

type lineAt struct {
	revision, event int64
	day             calendar.Day
}

// forecast is what is expected of a season that is published on a day, and what is asked of whom.
func (f *snapshot) forecast(s academy.Season, on calendar.Day) academy.Forecast {
	s.Plan = &s.Published.Plan
	p, _ := f.problem(s, on)
	x := academy.Forecast{Season: s.ID, Number: s.Published.Number, Weeks: s.Weeks, Begin: max(0, s.WeekOf(on)-1)}
	if on > s.End() {
		x.Begin = s.Weeks
	}
	x.Line = season.Line(p, s.Plan.Placements, x.Begin, s.Weeks, 1)
	for _, st := range p.Students {
		person := f.Person[st.ID]
		curriculum, _, _ := f.CurriculumFor(person)
		asked := academy.Asked{Student: st.ID}
		for _, n := range st.Open {
			unit, _ := f.Unit(n.Unit)
			one := academy.AskedUnit{Unit: n.Unit, Need: n.Need, Had: n.Had, Weight: n.Weight, Open: []academy.AskedSide{}}
			for _, id := range unit.Techniques {
				_, open := f.openSides(person, curriculum, id, s.Start)
				one.Open = append(one.Open, open...)
			}
			asked.Needs = append(asked.Needs, one)
		}
		x.Asked = append(x.Asked, asked)
	}
	return x
}

func (f *snapshot) coverageLine(s academy.Season, said []store.Forecasted, asked []academy.Asked, page *CoverageLinePage) {
	first, last := said[0], said[len(said)-1]
	page.Published, page.Forecast = &first.On, first.Line
	if last.Seq != first.Seq {
		page.Again, page.Revised = &last.On, last.Line
	}
	page.Now = min(s.Weeks, max(0, int(f.Today()-s.Start)/7))
	if f.Today() < s.Start {
		page.Now = 0
	}
	after, happened := f.happened(asked, s, first.On, first.Begin, page.Now)
	page.Happened = happened
	if page.Now < s.Weeks {
		chances := f.Chances(f.Today())
		for i, st := range after.Students {
			for class, c := range chances[f.Present(st.ID)] {
				after.Students[i].Chance[class] = c.Chance
			}
		}
		var ahead []season.Placement
		for _, x := range s.Published.Plan.Placements {
			c, ok := f.Class(x.Class)
			if ok && s.DayOf(x.Week, c) >= f.Today() && !f.Reported(x.Class, f.heldOn(s, x.Week, c)) {
				ahead = append(ahead, x)
			}
		}
		page.From = season.Line(after, ahead, page.Now, s.Weeks, 2)
	}
}

// happened follows what each student had, class by class and check by check, from a day on; it gives the coverage by the end of each week, and
// what is open of it now.
func (f *snapshot) happened(asked []academy.Asked, s academy.Season, on calendar.Day, begin, now int) (season.Problem, []HappenedWeek) {
	type key struct {
		technique string
		side      library.Side
	}
	weeks := []HappenedWeek{}
	for w := begin; w <= now; w++ {
		weeks = append(weeks, HappenedWeek{Week: w})
	}
	after := season.Problem{Weeks: s.Weeks}
	weights := 0.0
	for _, of := range asked {
		student := f.Present(of.Student)
		had, step := map[key]float64{}, map[key]int{}
		for _, n := range of.Needs {
			weights += n.Weight
			for _, o := range n.Open {
				k := key{f.Library.Now(o.Technique), o.Side}
				had[k], step[k] = o.Had, o.Rung.Step()
			}
		}
		left := func(n academy.AskedUnit) float64 {
			return missing(n, func(o academy.AskedSide) (float64, int) {
				k := key{f.Library.Now(o.Technique), o.Side}
				return had[k], step[k]
			})
		}
		visits := slices.DeleteFunc(slices.Clone(f.Visits(student)), func(v state.Visit) bool { return v.On < on })
		checks := slices.DeleteFunc(slices.Clone(f.Checks(student)), func(c state.Checked) bool { return c.On < on })
		take := func(until calendar.Day) { // not that day itself
			for len(visits) > 0 && visits[0].On < until {
				v := visits[0]
				visits = visits[1:]
				r, ok := f.ReportOf(f.Session(v.Class, v.On))
				if !ok {
					continue
				}
				for _, was := range r.Had(student, v.On, v.Part != "") {
					for _, it := range was.Items {
						halves := it.ExposureOf(was.Part)
						t, ok := f.Library.Technique(f.Library.Now(it.Technique))
						if !ok || halves == 0 {
							continue
						}
						for _, side := range it.Sides(t.Sides()) {
							k := key{t.ID, side}
							had[k] += float64(halves) / 2
							step[k] = max(step[k], curriculum.Met.Step())
							if had[k] >= f.Settings.Standing.DrilledAfter {
								step[k] = max(step[k], curriculum.Drilled.Step())
							}
						}
					}
				}
			}
			for _, c := range checks {
				if c.On < until && c.Met {
					k := key{f.Library.Now(c.Technique), c.Side}
					step[k] = max(step[k], c.Rung.Step())
				}
			}
		}
		for w := range weeks {
			take(s.Start + calendar.Day(7*weeks[w].Week))
			for _, n := range of.Needs {
				if left(n) == 0 {
					weeks[w].Share += n.Weight
				}
			}
		}
		take(calendar.Last)
		st := season.Student{ID: of.Student, Chance: map[string]float64{}}
		for _, n := range of.Needs {
			st.Open = append(st.Open, season.Need{Unit: n.Unit, Need: n.Need, Had: max(0, n.Need-left(n)), Weight: n.Weight})
		}
		after.Students = append(after.Students, st)
	}
	for w := range weeks {
		if weights > 0 {
			weeks[w].Share /= weights
		} else {
			weeks[w].Share = 1
		}
	}
	return after, weeks
}

// missing is how many exposures a need still lacks: none where all that was open has come to its rung.
func missing(n academy.AskedUnit, now func(academy.AskedSide) (had float64, step int)) float64 {
	left := 0.0
	for _, o := range n.Open {
		if had, step := now(o); step < o.Needs.Step() {
			left = max(left, n.Need-had)
		}
	}
	return max(0, left)
}
