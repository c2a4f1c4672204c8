package seasons

import (
	"context"
	"errors"
	"log/slog"
	"runtime/debug"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/search"
	"vereda/core/validation"
	"vereda/store"
)

// PlanSeason computes the plan and keeps it, in as many seconds; 0 takes the
// usual ones.
func (a *Service) PlanSeason(ctx context.Context, u state.User, id string, seconds float64) (string, error) {
	_, change, err := a.planAndKeep(ctx, u, id, "", seconds, nil)
	return change, err
}

// planned is what a season's plan was computed on. A plan is kept only while all of
// it is still so.
type planned struct {
	records uint64 // of everything the planner reads
	reports int64  // the newest class report
	today   calendar.Day
}

// plannedOn is what a plan computed now would stand on.
func (f *snapshot) plannedOn(season string) planned {
	records := f.Fingerprint(documents.Settings, documents.Technique, documents.Track, documents.Class, documents.Unit, documents.Person, documents.Ladder, documents.Curriculum)
	return planned{records ^ uint64(f.Version(documents.Season, season))*0x9e3779b97f4a7c15, f.LastReport, f.Today()}
}

// keepPlanned is keepComputed for what is computed of a season.
func (a *Service) keepPlanned(ctx context.Context, u state.User, id string, compute func(*snapshot) error, keep func(*snapshot, *state.Change) error) (string, error) {
	return state.KeepComputed(ctx, a.State, u, a.nameOf(ctx, u, id), func(f *snapshot) planned { return f.plannedOn(id) }, compute, keep)
}

// nameOf is a season's name, for what is said of it.
func (a *Service) nameOf(ctx context.Context, u state.User, id string) say.Sentence {
	if f, err := state.Known[snapshot](ctx, a.State, u.Academy); err == nil {
		if s, err := f.FindSeason(id); err == nil {
			return say.Raw(s.Name)
		}
	}
	return "The season"
}

// planAndKeep plans a season and keeps the plan; that of a run is kept only while no other one was begun.
func (a *Service) planAndKeep(ctx context.Context, u state.User, id, run string, seconds float64, watch search.Watch) (plan season.Plan, change string, err error) {
	change, err = a.keepPlanned(ctx, u, id, func(f *snapshot) (err error) {
		plan, err = a.solve(f, id, seconds, watch)
		return err
	}, func(f *snapshot, b *state.Change) error {
		s, err := f.FindSeason(id)
		if err != nil {
			return err
		}
		s.Plan = asHeld(s, plan)
		if run != "" {
			b.Also = func(act *store.Act) error { return act.StillPlanning(id, run) }
		}
		b.Summary = say.F("Planned %s", s.Name)
		return b.Put(documents.Season, s.ID, s)
	})
	return plan, change, err
}

// solve computes a plan for a season and keeps nothing.
func (a *Service) solve(f *snapshot, id string, seconds float64, watch search.Watch) (season.Plan, error) {
	s, err := f.FindSeason(id)
	if err != nil {
		return season.Plan{}, err
	}
	p, left := f.problem(s, f.Today())
	if p.Seconds = seconds; seconds == 0 {
		p.Seconds = a.Patience
	}
	// The planner counts steps, and this server may be slower than they suppose.
	plan, err := search.SolveWithin(p, a.Stopwatch(), func(x search.Progress) bool {
		return !a.stopping.Load() && (watch == nil || watch(x))
	})
	if err != nil {
		return plan, state.Invalid("plan", "%v", f.inWords(err))
	}
	plan.Unplaced = append(plan.Unplaced, left...)
	return plan, nil
}

// PlanningState is where the planning of a season stands.
type PlanningState struct {
	State    string  `json:"state" enum:"none,running,done,failed"`
	Share    float64 `json:"share" doc:"Of the work wished for"`
	Coverage float64 `json:"coverage" doc:"Of the best so far"`
	Summary  string  `json:"summary,omitempty" doc:"What went wrong"`
	Change   string  `json:"change,omitempty" doc:"For undo, when it is done"`
}

// mostSilent is how long a run may say nothing before it counts as gone with
// its server.
const mostSilent = 10 * time.Second

// StartPlanning begins to plan a season, and answers at once. The run goes on
// when whoever began it leaves.
func (a *Service) StartPlanning(ctx context.Context, u state.User, id string, seconds float64) error {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return err
	}
	if _, err := f.FindSeason(id); err != nil {
		return err
	}
	run := store.Planning{Run: store.NewID(), State: "running"}
	if err := a.Store.BeginPlanning(ctx, u.Academy, id, run); err != nil {
		return err
	}
	a.runs.Add(1)
	go func() {
		defer a.runs.Done()
		a.planning(context.WithoutCancel(ctx), u, id, seconds, run)
	}()
	return nil
}

// Wait returns when no planning runs any more on this server.
func (a *Service) Wait() { a.runs.Wait() }

// End asks every planning on this server, and each that is still to come, to end with the best it has,
// and returns when none runs any more.
func (a *Service) End() {
	a.stopping.Store(true)
	a.Wait()
}

func (a *Service) planning(ctx context.Context, u state.User, id string, seconds float64, run store.Planning) {
	report := func() bool {
		goOn, err := a.Store.ReportPlanning(ctx, u.Academy, id, run)
		if err != nil { // it goes on: what could not be said now is said a moment later
			slog.Error("where a planning stands could not be kept", "season", id, "error", err)
			return true
		}
		return goOn
	}
	err := func() (err error) {
		defer func() { // a season the planner cannot take must not take the server along
			if broken := recover(); broken != nil {
				slog.Error("a planning panicked", "season", id, "error", broken, "stack", string(debug.Stack()))
				err = errors.New("the planner failed on this season; the server's log says where. Nothing was changed")
			}
		}()
		var plan season.Plan
		plan, run.Change, err = a.planAndKeep(ctx, u, id, run.Run, seconds, func(p search.Progress) bool {
			run.Coverage, run.Share = p.Coverage, min(1, float64(p.Work)/float64(max(1, p.Of)))
			return report()
		})
		if err == nil {
			run.Coverage = plan.Coverage
		}
		return err
	}()
	if run.State, run.Share = "done", 1; err != nil {
		run.State, run.Summary = "failed", validation.Shorten(sentenceOf(err), 1900)
	}
	report()
}

func sentenceOf(err error) string {
	var refused *state.ValidationError
	if errors.As(err, &refused) && len(refused.Problems) > 0 {
		return refused.Problems[0].What.String()
	}
	return err.Error()
}

// Planning says where the planning of a season stands.
func (a *Service) Planning(ctx context.Context, u state.User, id string) (PlanningState, error) {
	p, err := a.Store.Planning(ctx, u.Academy, id)
	if errors.Is(err, store.ErrMissing) {
		return PlanningState{State: "none"}, nil
	}
	if err != nil {
		return PlanningState{}, err
	}
	if p.State == "running" && p.Silent > mostSilent {
		return PlanningState{State: "failed", Summary: "The server that planned it stopped. Plan again."}, nil
	}
	return PlanningState{p.State, p.Share, p.Coverage, p.Summary, p.Change}, nil
}

// StopPlanning ends a run with the best it has found.
func (a *Service) StopPlanning(ctx context.Context, u state.User, id string) error {
	return a.Store.StopPlanning(ctx, u.Academy, id)
}

// Way is one way of planning, and what would follow from it.
type Way struct {
	School   string  `json:"school"`
	Mode     string  `json:"mode"`
	Now      bool    `json:"now" doc:"As the tracks are set"`
	Coverage float64 `json:"coverage"`
	Bound    float64 `json:"bound"`
	Spacing  float64 `json:"spacing" doc:"Share of returns that come when they should"`
	Kept     float64 `json:"school_kept" doc:"Share of neighbouring weeks that keep to the school"`
	Units    int     `json:"units" doc:"Taught at all"`
	Under    int     `json:"under" doc:"Students with less than half of their needs covered"`
	Rare     float64 `json:"rare" doc:"Coverage of those who come to one class in a week or less"`
	Fairness float64 `json:"fairness"`
}

// CompareWays plans a season as block and spiral, same and split, in every
// track, and keeps nothing.
//
// only names one of the four, counted from 1, so that they can be shown as they come; 0 means all.
func (a *Service) CompareWays(ctx context.Context, u state.User, id string, only int) ([]Way, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	s, err := f.FindSeason(id)
	if err != nil {
		return nil, err
	}
	all, at := []Way{}, 0
	for _, school := range []string{"block", "spiral"} {
		for _, mode := range []string{"same", "split"} {
			if at++; only != 0 && at != only {
				continue
			}
			p, _ := f.problem(s, f.Today())
			p.Seconds = a.Patience / 2
			w := Way{School: school, Mode: mode, Now: true}
			for i := range p.Tracks {
				w.Now = w.Now && p.Tracks[i].School == school && p.Tracks[i].Mode == mode
				p.Tracks[i].School, p.Tracks[i].Mode = school, mode
			}
			if err := w.fill(p, a.Stopwatch()); err != nil {
				return nil, state.Invalid("plan", "%s, %s: %v", school, mode, f.inWords(err))
			}
			all = append(all, w)
		}
	}
	return all, nil
}

func (w *Way) fill(p season.Problem, elapsed func() time.Duration) error {
	plan, err := search.SolveWithin(p, elapsed, nil)
	if err != nil {
		return err
	}
	w.Coverage, w.Bound, w.Spacing, w.Kept, w.Fairness = plan.Coverage, plan.Bound, plan.Scores["spacing"], plan.Scores["school"], plan.Scores["fairness"]
	taught := map[string]bool{}
	for _, x := range plan.Placements {
		for _, it := range x.Items {
			if it.Kind == season.Teach {
				taught[it.Unit] = true
			}
		}
	}
	w.Units = len(taught)
	_, each := season.Coverage(p, plan.Placements)
	sums, rare := map[string][2]float64{}, [2]float64{}
	for _, c := range each {
		had := sums[c.Student]
		sums[c.Student] = [2]float64{had[0] + c.Weight*c.Chance, had[1] + c.Weight}
	}
	for _, st := range p.Students {
		visits := 0.0
		for _, c := range st.Chance {
			visits += c
		}
		x := sums[st.ID]
		if x[1] > 0 && x[0]/x[1] < 0.5 {
			w.Under++
		}
		if visits <= 1 {
			rare[0] += x[0]
			rare[1] += x[1]
		}
	}
	if rare[1] > 0 {
		w.Rare = rare[0] / rare[1]
	}
	return nil
}

// TakeWay sets the school and the mode of every track and plans the season so.
func (a *Service) TakeWay(ctx context.Context, u state.User, id, school, mode string) (string, error) {
	var plan season.Plan
	tracks := map[documents.Ref]any{}
	return a.keepPlanned(ctx, u, id, func(f *snapshot) (err error) {
		clear(tracks)
		for id, t := range f.Tracks {
			t.School, t.Mode = school, mode
			tracks[documents.Ref{Kind: documents.Track, ID: id}] = t
		}
		plan, err = a.solve(&snapshot{f.With(tracks)}, id, 0, nil)
		return err
	}, func(f *snapshot, b *state.Change) error {
		s, err := f.FindSeason(id)
		if err != nil {
			return err
		}
		for ref, t := range tracks {
			if err := b.Put(ref.Kind, ref.ID, t); err != nil {
				return err
			}
		}
		s.Plan = asHeld(s, plan)
		b.Summary = say.F("Planned %s as %s, %s", s.Name, say.Word(school), say.Word(mode))
		return b.Put(documents.Season, s.ID, s)
	})
}
