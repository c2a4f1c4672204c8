package students

import (
	"cmp"
	"context"
	"errors"
	"reflect"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/store"
)

// Mark is what a waymark shows.
type Mark struct {
	On   library.Side    `json:"side"`
	Rung curriculum.Rung `json:"rung"`
	Due  bool            `json:"due"`
	Held bool            `json:"held"`
}

func (f *snapshot) mark(p academy.Person, t library.Technique, side library.Side, on calendar.Day) Mark {
	s := f.Rung(p.ID, t.ID, side)
	return Mark{On: side, Rung: s.Rung, Due: s.Due(on, f.Settings.Standing), Held: slices.ContainsFunc(p.Holds, func(h safety.Hold) bool { return h.Active(on) }) && len(f.heldBy(p, t, on)) > 0}
}

// heldBy lists the refusals that come from holds.
func (f *snapshot) heldBy(p academy.Person, t library.Technique, on calendar.Day) []safety.Refusal {
	return safety.Refusals(f.Body(p, on), safety.Load{Classes: t.Risks}, nil, on)
}

// HeatRow is one student against the requirements of a rank.
type HeatRow struct {
	state.PersonLine
	Met   int      `json:"met"`
	Of    int      `json:"of"`
	Share float64  `json:"share"`
	Ready bool     `json:"ready"`
	Cells [][]Mark `json:"cells" doc:"Per requirement, one mark for each side asked for"`
}

// HeatMap is students by requirements.
type HeatMap struct {
	Curriculum   state.CurriculumLine    `json:"curriculum"`
	Choices      []state.CurriculumLine  `json:"choices"`
	Requirements []state.RequirementLine `json:"requirements"`
	Rows         []HeatRow               `json:"rows"`
	Tracks       []state.Named           `json:"tracks"`
	Coaches      []state.Named           `json:"coaches"`
}

// Heat shows who of a group stands where in one curriculum; the first when none is named.
func (a *Service) Heat(ctx context.Context, u state.User, id string, of PositionsFilter) (HeatMap, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return HeatMap{}, err
	}
	choices := f.CurriculumLines()
	page := HeatMap{Choices: choices, Requirements: []state.RequirementLine{}, Rows: []HeatRow{}, Tracks: []state.Named{}, Coaches: []state.Named{}}
	if id == "" && len(choices) > 0 {
		id = choices[0].ID
	}
	if id == "" { // an academy that has no curriculum yet
		return page, nil
	}
	c, err := f.FindCurriculum(id)
	if err != nil {
		return page, err
	}
	page.Curriculum = f.CurriculumLine(c)
	for _, r := range c.Requirements {
		page.Requirements = append(page.Requirements, f.RequirementLine(r))
	}
	on := f.Today()
	for _, t := range f.Tracks {
		page.Tracks = append(page.Tracks, state.Named{ID: t.ID, Name: t.Name})
	}
	slices.SortFunc(page.Tracks, func(a, b state.Named) int { return strings.Compare(a.Name, b.Name) })
	for _, p := range f.Active() {
		if p.Coach != nil {
			page.Coaches = append(page.Coaches, state.Named{ID: p.ID, Name: p.Name})
		}
	}
	for _, p := range f.group(of, on) {
		asked, _, ok := f.CurriculumFor(p)
		if !ok || asked.ID != c.ID {
			continue
		}
		ready := f.Readiness(p, on)
		row := HeatRow{PersonLine: f.Line(p, u, on), Met: ready.Met, Of: ready.Of, Share: ready.Share, Ready: ready.Ready, Cells: [][]Mark{}}
		for _, r := range c.Requirements {
			t := f.farthest(p, r)
			marks := []Mark{}
			for _, side := range r.Sides(t) {
				marks = append(marks, f.mark(p, t, side, on))
			}
			row.Cells = append(row.Cells, marks)
		}
		page.Rows = append(page.Rows, row)
	}
	slices.SortStableFunc(page.Rows, func(a, b HeatRow) int { return cmp.Compare(b.Share, a.Share) })
	return page, nil
}

// farthest is the variant of a requirement with which a student has come
// farthest; the first of equals.
func (f *snapshot) farthest(p academy.Person, r curriculum.Requirement) library.Technique {
	var best library.Technique
	step := -1
	for _, id := range r.Options() {
		t, ok := f.Library.Technique(id)
		if !ok {
			continue
		}
		lowest := 99
		for _, side := range r.Sides(t) {
			lowest = min(lowest, f.Rung(p.ID, id, side).Rung.Step())
		}
		if lowest > step {
			best, step = t, lowest
		}
	}
	return best
}

// StandingLine is one technique in a student's ledger.
type StandingLine struct {
	ID        string  `json:"id"`
	Name      string  `json:"name"`
	Kind      string  `json:"kind"`
	Needs     string  `json:"needs,omitempty" doc:"The rung the next rank asks for"`
	Marks     []Mark  `json:"marks"`
	Exposures float64 `json:"exposures"`
	Retention float64 `json:"retention" doc:"Estimate that it is still there, 0 to 1; 0 when never passed"`
}

// CheckLine is one check in a student's history.
type CheckLine struct {
	ID         string       `json:"id"`
	On         calendar.Day `json:"on"`
	Name       string       `json:"name"`
	Side       library.Side `json:"side"`
	Met        bool         `json:"met"`
	Rung       string       `json:"rung,omitempty"`
	Overruled  string       `json:"overruled,omitempty" doc:"The reason, when a person overruled it"`
	MayCorrect bool         `json:"may_correct,omitempty" doc:"The coach who made it and the head instructor may"`
	By         string       `json:"by"`
}

// StudentPage is everything about one student.
type StudentPage struct {
	Person    state.PersonLine     `json:"person"`
	Ladder    string               `json:"ladder"`
	Since     calendar.Day         `json:"since"`
	Readiness ledger.Readiness     `json:"readiness"`
	Next      string               `json:"next,omitempty"`
	Standing  []StandingLine       `json:"standing"`
	Checks    []CheckLine          `json:"checks"`
	Chances   []state.Chance       `json:"chances"`
	Classes   int                  `json:"classes" doc:"Attended in all"`
	Told      []ToldLine           `json:"told" doc:"Corrections coaches noted on the mat, newest first"`
	Upcoming  []state.ClassSummary `json:"upcoming" doc:"Classes of the next seven days that touch something missing"`
	Positions []PositionHead       `json:"positions" doc:"That their next rank asks something of"`
	Cells     []PositionCell       `json:"cells" doc:"How far they are in each"`
	Due       []FadingLine         `json:"due" doc:"What faded most first"`
	Practise  Practise             `json:"practise"`
	Path      []ledger.PathPoint   `json:"path" doc:"How far they were toward the next rank, from the day the present one was given to today"`
}

// Practise is what somebody can work on until the next class.
type Practise struct {
	Alone   []state.Named `json:"alone" doc:"Movements that are asked for or that what is missing stands on"`
	Partner []state.Named `json:"partner" doc:"Shown already and not yet passed, or faded; nothing they are held from or not old enough for"`
	Tables  []state.Named `json:"tables" doc:"Fork tables of the positions asked for, to be quizzed on"`
}

// ToldLine is a correction that a coach noted on the mat.
type ToldLine struct {
	On        calendar.Day `json:"on"`
	Technique string       `json:"technique"`
	Summary   say.Sentence `json:"summary"`
	By        string       `json:"by"`
}

// mostTold is how many corrections a page shows.
const mostTold = 12

// told lists the corrections noted for a student, newest first.
func (f *snapshot) told(student string) []ToldLine {
	lines := []ToldLine{}
	all := f.Corrections(student)
	for i := len(all) - 1; i >= 0 && len(lines) < mostTold; i-- {
		t := all[i]
		lines = append(lines, ToldLine{t.On, f.Library.Name(t.Technique), say.Raw(f.ToldWords(t)), f.NameOf(t.By)})
	}
	return lines
}

// StudentPage shows a student. A student sees only their own.
func (a *Service) StudentPage(ctx context.Context, u state.User, id string) (StudentPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return StudentPage{}, err
	}
	p, ok := f.Person[id]
	if !ok || !p.Student || !u.Is(state.Head, state.Coach) && !u.Sees(id) {
		return StudentPage{}, state.NotFound("student", id)
	}
	on := f.Today()
	page := StudentPage{Person: f.Line(p, u, on), Ladder: f.Ladders[p.Ladder].Name, Since: p.RankSince, Readiness: f.Readiness(p, on), Standing: []StandingLine{}, Checks: []CheckLine{}, Chances: []state.Chance{}, Classes: len(f.Visits(id)), Told: f.told(id), Upcoming: []state.ClassSummary{}}
	asked, next, hasNext := f.CurriculumFor(p)
	if hasNext {
		page.Next = next.Name
	}
	page.Standing = f.standingLines(p, asked, on)
	for _, c := range slices.Backward(f.Checks(id)) {
		page.Checks = append(page.Checks, f.checkLine(c, u))
	}
	chances := f.Chances(on)[id]
	for _, c := range f.Classes {
		page.Chances = append(page.Chances, chances[c.ID])
	}
	f.upcoming(&page, u, on)
	f.own(&page, p, u, on)
	page.Path = f.Path(p, asked, on)
	return page, nil
}

func (f *snapshot) standingLines(p academy.Person, asked curriculum.Curriculum, on calendar.Day) []StandingLine {
	all := []StandingLine{}
	add := func(t library.Technique, needs string) {
		l := StandingLine{ID: t.ID, Name: t.Name, Kind: string(t.Kind), Needs: needs, Marks: []Mark{}}
		for _, side := range t.Sides() {
			s := f.Rung(p.ID, t.ID, side)
			l.Marks = append(l.Marks, f.mark(p, t, side, on))
			l.Exposures = max(l.Exposures, s.Exposures)
			l.Retention = max(l.Retention, s.Retention(on))
		}
		all = append(all, l)
	}
	for _, r := range asked.Requirements {
		if t, ok := f.Library.Technique(r.Technique); ok {
			add(t, string(r.Rung))
		}
	}
	for _, t := range f.Library.Techniques() {
		_, asks := asked.Find(t.ID)
		touched := slices.ContainsFunc(f.Standings(p.ID), func(s ledger.Standing) bool { return s.Technique == t.ID })
		if !asks && touched {
			add(t, "")
		}
	}
	return all
}

func (f *snapshot) checkLine(c state.Checked, u state.User) CheckLine {
	l := CheckLine{ID: c.ID, On: c.On, Name: f.Library.Name(f.Library.Now(c.Technique)), Side: c.Side, Met: c.Met, Rung: string(c.Rung), By: f.NameOf(c.By), MayCorrect: mayChange(u, c.By)}
	if c.Overruled != nil {
		l.Overruled = c.Overruled.Reason
	}
	return l
}

func (f *snapshot) upcoming(page *StudentPage, u state.User, on calendar.Day) {
	missing := map[string]bool{}
	for _, g := range page.Readiness.Missing {
		missing[g.Technique] = true
	}
	for d := on; d < on+7; d++ {
		for _, c := range f.ClassesOn(d) {
			touches := []say.Sentence{}
			l := f.Lesson(f.SessionPlan(c, d).Items)
			for _, t := range append(l.Teach, l.Review...) {
				if missing[t.ID] {
					touches = append(touches, say.Raw(t.Name))
				}
			}
			if len(touches) > 0 {
				t := f.Summary(c, d, on, u)
				t.Summary = say.Join(", ", touches...)
				page.Upcoming = append(page.Upcoming, t)
			}
		}
	}
}

// CheckPage is what a coach needs at the mat's edge.
type CheckPage struct {
	Student    state.PersonLine  `json:"student"`
	Technique  library.Technique `json:"technique" doc:"Written for the side"`
	Side       library.Side      `json:"side"`
	Sides      []library.Side    `json:"sides"`
	Marks      []Mark            `json:"marks"`
	Cautions   []say.Sentence    `json:"cautions"`
	Defers     say.Sentence      `json:"defers"`
	Refused    []safety.Refusal  `json:"refused" doc:"Why this student may not be checked on it today"`
	Standard   say.Sentence      `json:"standard"`
	Resistance []say.Sentence    `json:"resistance" doc:"The academy's words for the grades 0 to 4"`
	Choices    []StandingLine    `json:"choices" doc:"What their next rank asks for"`
}

// CheckPage shows what to look for.
func (a *Service) CheckPage(ctx context.Context, u state.User, student, technique string, side library.Side) (CheckPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return CheckPage{}, err
	}
	p, ok := f.Person[student]
	if !ok || !p.Student {
		return CheckPage{}, state.NotFound("student", student)
	}
	on := f.Today()
	asked, _, _ := f.CurriculumFor(p)
	page := CheckPage{Student: f.Line(p, u, on), Resistance: say.Words(f.Settings.Resistance), Marks: []Mark{}, Refused: []safety.Refusal{}, Cautions: []say.Sentence{}, Defers: state.Defers, Sides: []library.Side{}, Choices: f.standingLines(p, asked, on),
		Standard: state.StandardWords(f.Settings.Standard)}
	if technique == "" {
		return page, nil
	}
	t, ok := f.Library.Technique(technique)
	if !ok {
		return page, state.NotFound("technique", technique)
	}
	if side == "" {
		side = t.Taught
	}
	page.Technique, page.Side, page.Sides = t.On(side), side, t.Sides()
	for _, s := range page.Sides {
		page.Marks = append(page.Marks, f.mark(p, t, s, on))
	}
	page.Cautions = safety.Cautions(t.Risks)
	if t.Caution != "" {
		page.Cautions = append([]say.Sentence{say.Raw(string(page.Technique.Caution))}, page.Cautions...)
	}
	page.Refused = append(page.Refused, f.Refusals(p, t, on)...)
	return page, nil
}

// KeepCheck is a check as the coach marked it.
type KeepCheck struct {
	ID          string             `json:"id,omitempty" maxLength:"60" doc:"The sender's own identifier: sending twice is the same as once"`
	Student     string             `json:"student"`
	Technique   string             `json:"technique"`
	Side        library.Side       `json:"side"`
	Class       string             `json:"class,omitempty"`
	On          *calendar.Day      `json:"on,omitempty" doc:"The day it was done on; that of the class, or today, when left out"`
	Observation ledger.Observation `json:"observation"`
}

// Kept is a check with its verdict.
type Kept struct {
	ID        string            `json:"id"`
	Verdict   ledger.Verdict    `json:"verdict"`
	Overruled *academy.Overrule `json:"overruled,omitempty"`
	Mark      Mark              `json:"mark" doc:"Where the student stands now"`
}

// KeepCheck judges a check by the house standard and keeps it. Sent again under
// the same identifier it answers what it answered first.
func (a *Service) KeepCheck(ctx context.Context, u state.User, k KeepCheck) (Kept, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return Kept{}, err
	}
	k.Student = f.Present(k.Student)
	if k.ID != "" {
		had, err := a.Store.EventByID(ctx, u.Academy, k.ID)
		if err == nil {
			return a.keptBefore(f, k, had, "")
		}
		if !errors.Is(err, store.ErrMissing) {
			return Kept{}, err
		}
	}
	t, ok := f.Library.Technique(k.Technique)
	if !ok {
		return Kept{}, state.NotFound("technique", k.Technique)
	}
	p, ok := f.Person[k.Student]
	if !ok || !p.Student {
		return Kept{}, state.NotFound("student", k.Student)
	}
	on, err := f.checkDay(k)
	if err != nil {
		return Kept{}, err
	}
	if no := f.Refusals(p, t, on); len(no) > 0 {
		return Kept{}, state.Invalid("student", "%s may not be checked on %s: %s", p.Name, t.Name, no[0].Why)
	}
	c, err := f.judge(t.ID, k.Side, k.Observation)
	if err != nil {
		return Kept{}, err
	}
	c.By = u.Person
	e, err := academy.NewEvent(cmp.Or(k.ID, store.NewID()), academy.CheckEvent, on, c)
	if err != nil {
		return Kept{}, err
	}
	e.Student, e.Class = p.ID, k.Class
	if err := a.State.Record(ctx, u, e); err != nil {
		return Kept{}, err
	}
	return a.withMark(ctx, u, Kept{ID: e.ID, Verdict: *c.Verdict}, k)
}

// checkDay is the day a check was done on, which is that of its class: one that was done without network and arrives later is judged by
// that day's holds, and what is known since then fades from it.
func (f *snapshot) checkDay(k KeepCheck) (calendar.Day, error) {
	on := f.Today()
	if k.On != nil {
		on = *k.On
	}
	if k.Class != "" {
		_, day, err := f.FindSession(k.Class)
		if err != nil {
			return 0, err
		}
		on = day
	}
	if on > f.Today() {
		return 0, state.Invalid("class", "%s is still to come", on)
	}
	if p := f.Person[k.Student]; on < p.Joined {
		return 0, state.Invalid("class", "%s joined on %s, after this class", p.Name, p.Joined)
	}
	return on, nil
}

// keptBefore answers a check that was sent again: what was kept, or that the
// identifier stands for something else.
func (a *Service) keptBefore(f *snapshot, k KeepCheck, had academy.Event, replaces string) (Kept, error) {
	c, err := had.Check()
	same := had.Kind == academy.CheckEvent && err == nil && f.Present(had.Student) == k.Student && had.Class == k.Class && had.Replaces == replaces &&
		f.Library.Now(c.Technique) == f.Library.Now(k.Technique) && c.Side == k.Side && reflect.DeepEqual(c.Observation, k.Observation)
	if !same {
		return Kept{}, &state.ConflictError{Thing: "the check", Why: state.UsedBefore}
	}
	out := Kept{ID: had.ID, Overruled: c.Overruled}
	if c.Verdict != nil {
		out.Verdict = c.Verdict.Recalled()
	}
	t, _ := f.Library.Technique(k.Technique)
	out.Mark = f.mark(f.Person[f.Present(k.Student)], t, k.Side, f.Today())
	return out, nil
}

func (a *Service) withMark(ctx context.Context, u state.User, out Kept, k KeepCheck) (Kept, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return out, err
	}
	t, _ := f.Library.Technique(k.Technique)
	out.Mark = f.mark(f.Person[f.Present(k.Student)], t, k.Side, f.Today())
	return out, nil
}
