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
)

// CoverageLinePage is the coverage over a season: as it was expected when it was published, as it came, and as it is expected from here.
type CoverageLinePage struct {
	Published *calendar.Day         `json:"published,omitempty" doc:"Not there while nothing was published: then there is nothing to compare with"`
	Weeks     int                   `json:"weeks"`
	Now       int                   `json:"now" doc:"The last week that is over; 0 before the first"`
	Forecast  []season.WeekCoverage `json:"forecast" doc:"At publication, by the end of each week"`
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

// openSide is a technique and side that was open at publication, with the rung asked.
type openSide struct {
	technique string
	side      library.Side
	needs     curriculum.Rung
}

// openNeed is a need of a student as it was at publication.
type openNeed struct {
	season.Need
	open []openSide
}

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
	return state.RememberLast(f.Snapshot, lineOf(id), lineAt{f.Revision, f.Last, f.Today()}, func() CoverageLinePage {
		f.coverageLine(s, &page)
		return page
	}), nil
}

// lineOf is the season whose line is kept, as it last was: every check and check-in moves it, and between two of them everybody who looks at the
// first page asks for it.
type lineOf string

type lineAt struct {
	revision, event int64
	day             calendar.Day
}

func (f *snapshot) coverageLine(s academy.Season, page *CoverageLinePage) {
	on := calendar.DayOf(s.Published.On.In(f.Zone))
	page.Published = &on
	then := &snapshot{f.AsOf(on)}
	given := s
	given.Plan = &s.Published.Plan
	p, _ := then.problem(given, on)
	begin := max(0, s.WeekOf(on)-1)
	if on >= s.Start+calendar.Day(7*s.Weeks) {
		begin = s.Weeks
	}
	page.Forecast = season.Line(p, s.Published.Plan.Placements, begin, s.Weeks, 1)
	page.Now = min(s.Weeks, max(0, int(f.Today()-s.Start)/7))
	if f.Today() < s.Start {
		page.Now = 0
	}
	after, happened := f.happened(then, p, s, on, begin, page.Now)
	page.Happened = happened
	if page.Now < s.Weeks {
		chances := f.Chances(f.Today())
		for i, st := range after.Students {
			chance := make(map[string]float64, len(st.Chance))
			for class := range st.Chance {
				chance[class] = chances[st.ID][class].Chance
			}
			after.Students[i].Chance = chance
		}
		after.Fixed = nil
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

// happened follows what each student had, class by class and check by check, from a day on; it gives the coverage by the end of each week, and the
// problem with what they have now.
func (f *snapshot) happened(then *snapshot, p season.Problem, s academy.Season, on calendar.Day, begin, now int) (season.Problem, []HappenedWeek) {
	type key struct {
		technique string
		side      library.Side
	}
	weeks := []HappenedWeek{}
	for w := begin; w <= now; w++ {
		weeks = append(weeks, HappenedWeek{Week: w})
	}
	after := p
	after.Students = slices.Clone(p.Students)
	weights := 0.0
	for i, st := range p.Students {
		person := f.Person[st.ID]
		asked, _, _ := then.CurriculumFor(person)
		needs := make([]openNeed, len(st.Open))
		had, step := map[key]float64{}, map[key]int{}
		for _, x := range then.Standings(st.ID) {
			had[key{x.Technique, x.Side}], step[key{x.Technique, x.Side}] = x.Exposures, x.Rung.Step()
		}
		for j, n := range st.Open {
			needs[j].Need = n
			weights += n.Weight
			unit, _ := f.Unit(n.Unit)
			for _, id := range unit.Techniques {
				r, required := asked.Serves(id)
				t, _ := f.Library.Technique(id)
				if !required || len(then.Refusals(person, t, s.Start)) > 0 {
					continue
				}
				for _, side := range r.Sides(t) {
					if step[key{id, side}] < r.Rung.Step() {
						needs[j].open = append(needs[j].open, openSide{id, side, r.Rung})
					}
				}
			}
		}
		covered := func() float64 {
			sum := 0.0
			for _, n := range needs {
				if missing(n, func(o openSide) (float64, int) { return had[key{o.technique, o.side}], step[key{o.technique, o.side}] }) == 0 {
					sum += n.Weight
				}
			}
			return sum
		}
		visits := slices.DeleteFunc(slices.Clone(f.Visits(st.ID)), func(v state.Visit) bool { return v.On < on })
		checks := slices.DeleteFunc(slices.Clone(f.Checks(st.ID)), func(c state.Checked) bool { return c.On < on })
		take := func(until calendar.Day) { // not that day itself
			for len(visits) > 0 && visits[0].On < until {
				v := visits[0]
				visits = visits[1:]
				r, ok := f.ReportOf(f.Session(v.Class, v.On))
				if !ok {
					continue
				}
				for _, was := range r.Had(st.ID, v.On, v.Part != "") {
					for _, it := range was.Items {
						halves := it.ExposureOf(was.Part)
						t, ok := f.Library.Technique(f.Library.Now(it.Technique))
						if !ok || halves == 0 {
							continue
						}
						for n, side := range t.Sides() {
							if n > 0 && it.OneSide {
								break
							}
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
			weeks[w].Share += covered()
		}
		take(calendar.Last)
		open := slices.Clone(st.Open)
		for j := range open {
			left := missing(needs[j], func(o openSide) (float64, int) { return had[key{o.technique, o.side}], step[key{o.technique, o.side}] })
			open[j].Had = max(0, open[j].Need-left)
		}
		after.Students[i].Open = open
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
func missing(n openNeed, now func(openSide) (had float64, step int)) float64 {
	left := 0.0
	for _, o := range n.open {
		if had, step := now(o); step < o.needs.Step() {
			left = max(left, n.Need.Need-had)
		}
	}
	return max(0, left)
}
