package students

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
)

// PositionsPage is students by positions: how far each is with what their next rank asks from each position, attack and defence apart.
type PositionsPage struct {
	Positions []PositionHead  `json:"positions" doc:"Those that any of the students' ranks asks for, in the library's order; last what stands in no position"`
	Rows      []PositionRow   `json:"rows"`
	Ladders   []state.Named   `json:"ladders"`
	Ranks     []RankChoice    `json:"ranks"`
	Tracks    []state.Named   `json:"tracks"`
	Coaches   []state.Named   `json:"coaches"`
	Group     PositionsFilter `json:"group"`
}

// RankChoice is a rank somebody works toward.
type RankChoice struct {
	state.Named
	Ladder string `json:"ladder"`
}

// PositionHead is a column.
type PositionHead struct {
	ID     string       `json:"id"`
	Name   say.Sentence `json:"name"`
	Family string       `json:"family"`
	Attack bool         `json:"attack" doc:"Something is asked of who attacks there"`
	Defend bool         `json:"defend"`
}

// PositionRow is one student.
type PositionRow struct {
	state.PersonLine
	Share  float64        `json:"share" doc:"Of what the next rank asks, by weight"`
	Behind int            `json:"behind" doc:"Requirements and sides that are not there yet"`
	Due    int            `json:"due"`
	Cells  []PositionCell `json:"cells"`
}

// PositionCell counts, of what is asked from one position and part, each requirement once for each side asked for.
type PositionCell struct {
	At      int          `json:"at" doc:"Place of the position in the columns"`
	Part    library.Part `json:"part" enum:"attack,defend" doc:"attack where the technique has no place"`
	Of      int          `json:"of"`
	There   int          `json:"there" doc:"At the rung asked for, and not due"`
	Met     int          `json:"met,omitempty" doc:"At least met"`
	Drilled int          `json:"drilled,omitempty"`
	Passed  int          `json:"passed,omitempty"`
	Live    int          `json:"live,omitempty"`
	Due     int          `json:"due,omitempty" doc:"Passed once, fading now"`
}

// PositionsFilter is whom to show.
type PositionsFilter struct {
	Ladder  string `query:"ladder" json:"ladder,omitempty"`
	Rank    string `query:"rank" json:"rank,omitempty" doc:"The rank they have"`
	Track   string `query:"track" json:"track,omitempty" doc:"In its classes during the last twelve weeks"`
	Coach   string `query:"coach" json:"coach,omitempty" doc:"In this coach's classes during the last twelve weeks"`
	AgeFrom int    `query:"age_from" json:"age_from,omitempty" minimum:"0" maximum:"120"`
	AgeTo   int    `query:"age_to" json:"age_to,omitempty" minimum:"0" maximum:"120"`
}

// lately is how far back a group by track or coach looks, in days.
const lately = 84

// Positions shows a group by positions.
func (a *Service) Positions(ctx context.Context, u state.User, filter PositionsFilter) (PositionsPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return PositionsPage{}, err
	}
	on := f.Today()
	page := PositionsPage{Positions: []PositionHead{}, Rows: []PositionRow{}, Ladders: []state.Named{}, Ranks: []RankChoice{}, Tracks: []state.Named{}, Coaches: []state.Named{}, Group: filter}
	for _, l := range f.Ladders {
		page.Ladders = append(page.Ladders, state.Named{ID: l.ID, Name: l.Name})
	}
	slices.SortFunc(page.Ladders, func(a, b state.Named) int { return strings.Compare(a.Name, b.Name) })
	for _, l := range page.Ladders {
		for _, r := range f.Ladders[l.ID].Ranks {
			page.Ranks = append(page.Ranks, RankChoice{state.Named{ID: r.ID, Name: r.Name}, l.ID})
		}
	}
	for _, t := range f.Tracks {
		page.Tracks = append(page.Tracks, state.Named{ID: t.ID, Name: t.Name})
	}
	slices.SortFunc(page.Tracks, func(a, b state.Named) int { return strings.Compare(a.Name, b.Name) })
	for _, p := range f.Active() {
		if p.Coach != nil {
			page.Coaches = append(page.Coaches, state.Named{ID: p.ID, Name: p.Name})
		}
	}
	at := map[string]int{}
	for _, p := range f.Library.Positions() {
		at[p.ID] = len(page.Positions)
		page.Positions = append(page.Positions, PositionHead{ID: p.ID, Name: say.Raw(p.Name), Family: string(p.Family)})
	}
	at[""] = len(page.Positions)
	page.Positions = append(page.Positions, PositionHead{Name: "Movements"})
	asked := make([]bool, len(page.Positions))
	for _, p := range f.group(filter, on) {
		row := f.positionRow(p, u, on)
		for i := range row.Cells {
			c := &row.Cells[i]
			asked[c.At] = true
			if c.Part == library.Defend {
				page.Positions[c.At].Defend = true
			} else {
				page.Positions[c.At].Attack = true
			}
		}
		page.Rows = append(page.Rows, row)
	}
	// Columns nobody is asked about are left out.
	to := make([]int, len(asked))
	var heads []PositionHead
	for i, is := range asked {
		if to[i] = len(heads); is {
			heads = append(heads, page.Positions[i])
		}
	}
	for i := range page.Rows {
		for j := range page.Rows[i].Cells {
			page.Rows[i].Cells[j].At = to[page.Rows[i].Cells[j].At]
		}
	}
	page.Positions = append([]PositionHead{}, heads...)
	slices.SortStableFunc(page.Rows, func(a, b PositionRow) int {
		return cmp.Or(cmp.Compare(b.Behind, a.Behind), strings.Compare(a.Name, b.Name))
	})
	return page, nil
}

// group lists the students a filter leaves.
func (f *snapshot) group(x PositionsFilter, on calendar.Day) []academy.Person {
	return slices.DeleteFunc(slices.Clone(f.Students()), func(p academy.Person) bool {
		if x.Ladder != "" && p.Ladder != x.Ladder || x.Rank != "" && p.Rank != x.Rank {
			return true
		}
		if age, known := p.Age(on); x.AgeFrom > 0 && (!known || age < x.AgeFrom) || x.AgeTo > 0 && (!known || age > x.AgeTo) {
			return true
		}
		if x.Track == "" && x.Coach == "" {
			return false
		}
		return !slices.ContainsFunc(f.Visits(p.ID), func(v state.Visit) bool {
			if v.On <= on-lately || v.On > on {
				return false
			}
			c, ok := f.Class(v.Class)
			if !ok || x.Track != "" && c.Track != x.Track {
				return false
			}
			return x.Coach == "" || f.SessionPlan(c, v.On).Lead == x.Coach
		})
	})
}

// placeOf is where a technique is done from; nowhere for what is done alone.
func placeOf(t library.Technique) library.Place {
	if t.From == nil {
		return library.Place{Part: library.Attack}
	}
	return *t.From
}

type positionCount struct {
	place library.Place
	cell  PositionCell
}

// counts are a student's cells by place, kept until something is known of them anew.
func (f *snapshot) counts(p academy.Person, on calendar.Day) []positionCount {
	type key struct{}
	return state.RememberOf(f.Snapshot, p.ID, key{}, on, func() []positionCount {
		var all []positionCount
		asked, _, ok := f.CurriculumFor(p)
		if !ok {
			return nil
		}
		for _, r := range asked.Requirements {
			t := f.farthest(p, r)
			if t.ID == "" {
				continue
			}
			place := placeOf(t)
			i := slices.IndexFunc(all, func(c positionCount) bool { return c.place == place })
			if i < 0 {
				i = len(all)
				all = append(all, positionCount{place: place, cell: PositionCell{Part: place.Part}})
			}
			c := &all[i].cell
			for _, side := range r.Sides(t) {
				s := f.Rung(p.ID, t.ID, side)
				due := s.Due(on, f.Settings.Standing)
				c.Of++
				step := s.Rung.Step()
				for _, x := range []struct {
					rung curriculum.Rung
					n    *int
				}{{curriculum.Met, &c.Met}, {curriculum.Drilled, &c.Drilled}, {curriculum.Passed, &c.Passed}, {curriculum.Live, &c.Live}} {
					if step >= x.rung.Step() {
						*x.n++
					}
				}
				if due {
					c.Due++
				}
				if s.Reaches(r.Rung, on, f.Settings.Standing) {
					c.There++
				}
			}
		}
		return all
	})
}

func (f *snapshot) positionRow(p academy.Person, u state.User, on calendar.Day) PositionRow {
	row := PositionRow{PersonLine: f.Line(p, u, on), Share: f.Readiness(p, on).Share, Cells: []PositionCell{}}
	at := f.positionPlaces()
	for _, c := range f.counts(p, on) {
		cell := c.cell
		cell.At = at[c.place.Position]
		row.Cells = append(row.Cells, cell)
		row.Behind += cell.Of - cell.There
		row.Due += cell.Due
	}
	slices.SortFunc(row.Cells, func(a, b PositionCell) int {
		return cmp.Or(cmp.Compare(a.At, b.At), strings.Compare(string(a.Part), string(b.Part)))
	})
	return row
}

// positionPlaces is the place of each position in the library; of nowhere after all.
func (f *snapshot) positionPlaces() map[string]int {
	type key struct{}
	return state.Remember(f.Snapshot, key{}, func() map[string]int {
		at := map[string]int{}
		for i, p := range f.Library.Positions() {
			at[p.ID] = i
		}
		at[""] = len(at)
		return at
	})
}

// PositionLeaf is one student in one position: what is asked there, and how far it is.
type PositionLeaf struct {
	Student    state.PersonLine   `json:"student"`
	Position   say.Sentence       `json:"position"`
	Techniques []PositionStanding `json:"techniques"`
}

// PositionStanding is one thing asked.
type PositionStanding struct {
	ID    string       `json:"id"`
	Name  string       `json:"name"`
	Part  library.Part `json:"part" enum:"attack,defend"`
	Needs string       `json:"needs"`
	Marks []Mark       `json:"marks"`
}

// Position shows what a student's next rank asks from a position.
func (a *Service) Position(ctx context.Context, u state.User, student, position string) (PositionLeaf, error) {
	f, p, err := a.seen(ctx, u, student)
	if err != nil {
		return PositionLeaf{}, err
	}
	leaf := PositionLeaf{Student: f.Line(p, u, f.Today()), Position: "Movements", Techniques: []PositionStanding{}}
	if position == "movements" {
		position = ""
	}
	if x, ok := f.Library.Position(position); ok {
		leaf.Position = say.Raw(x.Name)
	} else if position != "" {
		return leaf, state.NotFound("position", position)
	}
	asked, _, _ := f.CurriculumFor(p)
	for _, r := range asked.Requirements {
		t := f.farthest(p, r)
		if t.ID == "" || placeOf(t).Position != position {
			continue
		}
		x := PositionStanding{ID: t.ID, Name: t.Name, Part: placeOf(t).Part, Needs: string(r.Rung), Marks: []Mark{}}
		for _, side := range r.Sides(t) {
			x.Marks = append(x.Marks, f.mark(p, t, side, f.Today()))
		}
		leaf.Techniques = append(leaf.Techniques, x)
	}
	return leaf, nil
}

// seen finds a student for somebody who may see them.
func (a *Service) seen(ctx context.Context, u state.User, student string) (*snapshot, academy.Person, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, academy.Person{}, err
	}
	p, ok := f.Person[student]
	if !ok || !p.Student || !u.Is(state.Head, state.Coach) && !u.Sees(student) {
		return nil, p, state.NotFound("student", student)
	}
	return f, p, nil
}

// FactLine is one thing that happened to a standing.
type FactLine struct {
	On      calendar.Day    `json:"on"`
	Kind    string          `json:"kind" enum:"class,check"`
	Session string          `json:"session,omitempty" doc:"The class on a day"`
	Summary say.Sentence    `json:"summary"`
	Rung    curriculum.Rung `json:"rung" doc:"Where it stood after"`
	Share   float64         `json:"share" doc:"Estimate of what was still there just before; 0 when never passed"`
	By      string          `json:"by,omitempty"`
	Check   string          `json:"check,omitempty"`
}

// FactsPage says why a standing is what it is, down to the last fact, and how it fades.
type FactsPage struct {
	Student   state.PersonLine `json:"student"`
	Technique state.Named      `json:"technique"`
	Side      library.Side     `json:"side"`
	Standing  ledger.Standing  `json:"standing"`
	Facts     []FactLine       `json:"facts" doc:"In their order"`
	Curve     []CurvePoint     `json:"curve" doc:"The estimate week by week, from the first success to what is to come; empty when never passed"`
	DueOn     *calendar.Day    `json:"due_on,omitempty" doc:"When it falls below the academy's threshold, if nothing refreshes it"`
	Threshold float64          `json:"threshold"`
	Refreshes []Refresh        `json:"refreshes" doc:"Classes to come that would refresh it"`
}

// CurvePoint is the estimate on a day.
type CurvePoint struct {
	On    calendar.Day `json:"on"`
	Share float64      `json:"share"`
}

// Refresh is a class to come.
type Refresh struct {
	Session string       `json:"session"`
	Name    string       `json:"name"`
	On      calendar.Day `json:"on"`
	Chance  float64      `json:"chance" doc:"That the student is in it"`
}

const (
	curveAhead   = 84 // days a curve goes on
	refreshAhead = 42 // days of classes to come that are looked through
)

// Facts explains one standing.
func (a *Service) Facts(ctx context.Context, u state.User, student, technique string, side library.Side) (FactsPage, error) {
	f, p, err := a.seen(ctx, u, student)
	if err != nil {
		return FactsPage{}, err
	}
	t, ok := f.Library.Technique(technique)
	if !ok {
		return FactsPage{}, state.NotFound("technique", technique)
	}
	if !slices.Contains(t.Sides(), side) {
		side = t.Sides()[0]
	}
	page := FactsPage{Student: f.Line(p, u, f.Today()), Technique: state.Named{ID: t.ID, Name: t.Name}, Side: side, Standing: f.Rung(student, t.ID, side), Facts: []FactLine{}, Curve: []CurvePoint{}, Threshold: f.Settings.Standing.DueBelow, Refreshes: []Refresh{}}
	var attended []ledger.Attended
	var checked []ledger.Checked
	standing := func() ledger.Standing {
		for _, s := range ledger.Standings(f.Library, f.Settings.Standing, attended, checked) {
			if s.Technique == t.ID && s.Side == side {
				return s
			}
		}
		return ledger.Standing{Rung: curriculum.NotMet}
	}
	checks := slices.Clone(f.Checks(student))
	slices.SortStableFunc(checks, func(a, b state.Checked) int { return cmp.Or(cmp.Compare(a.On, b.On), cmp.Compare(a.Order, b.Order)) })
	visits := f.Visits(student)
	var was ledger.Standing
	var steps []ledger.Standing // after each fact
	var days []calendar.Day
	note := func(line FactLine) {
		line.Share = was.Retention(line.On)
		was = standing()
		line.Rung = was.Rung
		page.Facts = append(page.Facts, line)
		steps, days = append(steps, was), append(days, line.On)
	}
	takeChecks := func(before calendar.Day) {
		for len(checks) > 0 && checks[0].On < before {
			c := checks[0]
			checks = checks[1:]
			if f.Library.Now(c.Technique) != t.ID || c.Side != side {
				continue
			}
			checked = append(checked, ledger.Checked{On: c.On, Order: int(c.Order), Technique: t.ID, Side: c.Side, Rung: c.Rung, Met: c.Met})
			words := say.Sentence("check: not met")
			if c.Met {
				words = say.F("check: met, %s", c.Rung)
			}
			if c.Overruled != nil {
				words = say.F("%s, overruled: %s", words, c.Overruled.Reason)
			}
			note(FactLine{On: c.On, Kind: "check", Session: c.Class, Summary: words, By: f.NameOf(c.By), Check: c.ID})
		}
	}
	for _, v := range visits {
		session := f.Session(v.Class, v.On)
		r, ok := f.ReportOf(session)
		if !ok {
			continue
		}
		for k, had := range r.Had(student, v.On, v.Part != "") {
			for _, it := range had.Items {
				if f.Library.Now(it.Technique) != t.ID || it.Exposure() == 0 || !slices.Contains(it.Sides(t.Sides()), side) {
					continue
				}
				takeChecks(v.On)
				attended = append(attended, ledger.Attended{On: v.On, Part: had.Part, Items: []ledger.Item{it}})
				why := v.Part
				switch {
				case k > 0:
					why = "caught up"
				case had.Part && why == "":
					why = "catching up"
				}
				note(FactLine{On: v.On, Kind: "class", Session: session.ID(), Summary: exposureWords(it, why, had.Part), By: f.NameOf(r.Lead)})
			}
		}
	}
	takeChecks(calendar.Last)
	f.curve(&page, p, t, steps, days)
	return page, nil
}

// exposureWords says what a class counted; why is what made it count for one otherwise than for all.
func exposureWords(it ledger.Item, why string, part bool) say.Sentence {
	words := []say.Sentence{say.Word(it.Kind), map[string]say.Sentence{"all": "reached", "part": "in part"}[it.Reached]}
	if it.OneSide {
		words = append(words, oneSide(it))
	}
	words = append(words, map[string]say.Sentence{academy.CameLate: "came late", academy.LeftEarly: "left early", "caught up": "caught up at a station", "catching up": "catching up elsewhere meanwhile"}[why])
	counts := map[int]say.Sentence{0: "%s: counts nothing", 1: "%s: counts ½", 2: "%s: counts 1"}
	return say.F(counts[it.ExposureOf(part)], say.Join(", ", words...))
}

// oneSide says that one side alone was done, and which where it was told.
func oneSide(it ledger.Item) say.Sentence {
	if it.Side != "" {
		return say.F("%s side alone", say.Word(string(it.Side)))
	}
	return "one side"
}

// curve is the estimate week by week, when it falls due, and what would refresh it.
func (f *snapshot) curve(page *FactsPage, p academy.Person, t library.Technique, steps []ledger.Standing, days []calendar.Day) {
	today := f.Today()
	first := slices.IndexFunc(steps, func(s ledger.Standing) bool { return s.Fresh != nil })
	if first < 0 {
		return
	}
	at := first
	for on := max(days[first], today-364); on <= today+curveAhead; on += 7 {
		for at+1 < len(steps) && days[at+1] <= on {
			at++
		}
		page.Curve = append(page.Curve, CurvePoint{on, steps[at].Retention(on)})
	}
	for on := today; on <= today+3650; on++ {
		if page.Standing.Due(on, f.Settings.Standing) {
			page.DueOn = &on
			break
		}
	}
	chances := f.Chances(today)[p.ID]
	for on := today; on <= today+refreshAhead; on++ {
		for _, c := range f.ClassesOn(on) {
			l := f.Lesson(f.SessionPlan(c, on).Items)
			if slices.ContainsFunc(append(l.Teach, l.Review...), func(x library.Technique) bool { return x.ID == t.ID }) {
				page.Refreshes = append(page.Refreshes, Refresh{academy.Occurrence(c.ID, on), c.Name, on, chances[c.ID].Chance})
			}
		}
	}
}
