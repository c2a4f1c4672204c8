package app

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"vereda/core/academy"
	"vereda/core/season"
	"vereda/store"
)

// PlanSeason computes the plan and keeps it, in as many seconds; 0 takes the
// usual ones.
func (a *App) PlanSeason(ctx context.Context, u User, id string, seconds float64) (string, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return "", err
	}
	plan, err := a.lay(f, id, seconds, nil)
	if err != nil {
		return "", err
	}
	return a.keepPlan(ctx, u, id, plan)
}

// lay computes a plan for a season and keeps nothing.
func (a *App) lay(f *facts, id string, seconds float64, watch season.Watch) (season.Plan, error) {
	s, err := f.season(id)
	if err != nil {
		return season.Plan{}, err
	}
	p, left := f.problem(s, a.today())
	if p.Seconds = seconds; seconds == 0 {
		p.Seconds = a.Patience
	}
	// The planner counts steps, and this server may be slower than they suppose.
	end := time.Now().Add(2*time.Second + time.Duration(3*p.Seconds*float64(time.Second)))
	plan, err := season.Solve(p, func(x season.Progress) bool { return time.Now().Before(end) && (watch == nil || watch(x)) })
	if err != nil {
		return plan, refuse("plan", "%v", f.inWords(err))
	}
	plan.Unplaced = append(plan.Unplaced, left...)
	return plan, nil
}

func (a *App) keepPlan(ctx context.Context, u User, id string, plan season.Plan) (string, error) {
	return a.change(ctx, u, func(f *facts, b *batch) error {
		s, err := f.season(id)
		if err != nil {
			return err
		}
		s.Plan = &plan
		b.Says = "Planned " + s.Name
		return b.put(docSeason, s.ID, s)
	})
}

// PlanningState is where the planning of a season stands.
type PlanningState struct {
	State    string  `json:"state" enum:"none,running,done,failed"`
	Share    float64 `json:"share" doc:"Of the work wished for"`
	Coverage float64 `json:"coverage" doc:"Of the best so far"`
	Says     string  `json:"says,omitempty" doc:"What went wrong"`
	Change   string  `json:"change,omitempty" doc:"For undo, when it is done"`
}

// mostSilent is how long a run may say nothing before it counts as gone with
// its server.
const mostSilent = 10 * time.Second

// StartPlanning begins to plan a season, and answers at once. The run goes on
// when whoever began it leaves.
func (a *App) StartPlanning(ctx context.Context, u User, id string, seconds float64) error {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return err
	}
	if _, err := f.season(id); err != nil {
		return err
	}
	run := store.Planning{Run: store.NewID(), State: "running", Seen: time.Now().UTC()}
	if err := a.store.BeginPlanning(ctx, u.Academy, id, run); err != nil {
		return err
	}
	a.runs.Add(1)
	go func() {
		defer a.runs.Done()
		a.planning(context.WithoutCancel(ctx), u, f, id, seconds, run)
	}()
	return nil
}

// Wait returns when no planning runs any more on this server.
func (a *App) Wait() { a.runs.Wait() }

func (a *App) planning(ctx context.Context, u User, f *facts, id string, seconds float64, run store.Planning) {
	report := func() bool {
		run.Seen = time.Now().UTC()
		goOn, err := a.store.ReportPlanning(ctx, u.Academy, id, run)
		if err != nil {
			slog.Error("where a planning stands could not be kept", "season", id, "error", err)
		}
		return goOn && err == nil
	}
	plan, err := a.lay(f, id, seconds, func(p season.Progress) bool {
		run.Coverage, run.Share = p.Coverage, min(1, float64(p.Work)/float64(max(1, p.Of)))
		return report()
	})
	if err == nil {
		run.Coverage = plan.Coverage
		run.Change, err = a.keepPlan(ctx, u, id, plan)
	}
	if run.State, run.Share = "done", 1; err != nil {
		run.State, run.Says = "failed", sentenceOf(err)
	}
	report()
}

func sentenceOf(err error) string {
	var refused *Refused
	if errors.As(err, &refused) && len(refused.Problems) > 0 {
		return refused.Problems[0].What
	}
	return err.Error()
}

// Planning says where the planning of a season stands.
func (a *App) Planning(ctx context.Context, u User, id string) (PlanningState, error) {
	p, err := a.store.Planning(ctx, u.Academy, id)
	if errors.Is(err, store.ErrMissing) {
		return PlanningState{State: "none"}, nil
	}
	if err != nil {
		return PlanningState{}, err
	}
	if p.State == "running" && time.Since(p.Seen) > mostSilent {
		return PlanningState{State: "failed", Says: "The server that planned it stopped. Plan again."}, nil
	}
	return PlanningState{p.State, p.Share, p.Coverage, p.Says, p.Change}, nil
}

// StopPlanning ends a run with the best it has found.
func (a *App) StopPlanning(ctx context.Context, u User, id string) error {
	return a.store.StopPlanning(ctx, u.Academy, id)
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
func (a *App) CompareWays(ctx context.Context, u User, id string, only int) ([]Way, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return nil, err
	}
	s, err := f.season(id)
	if err != nil {
		return nil, err
	}
	all, at := []Way{}, 0
	for _, school := range []string{"block", "spiral"} {
		for _, mode := range []string{"same", "split"} {
			if at++; only != 0 && at != only {
				continue
			}
			p, _ := f.problem(s, a.today())
			p.Seconds = a.Patience / 2
			w := Way{School: school, Mode: mode, Now: true}
			for i := range p.Tracks {
				w.Now = w.Now && p.Tracks[i].School == school && p.Tracks[i].Mode == mode
				p.Tracks[i].School, p.Tracks[i].Mode = school, mode
			}
			if err := w.fill(p); err != nil {
				return nil, refuse("plan", "%s, %s: %v", school, mode, f.inWords(err))
			}
			all = append(all, w)
		}
	}
	return all, nil
}

func (w *Way) fill(p season.Problem) error {
	plan, err := season.Solve(p, nil)
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
func (a *App) TakeWay(ctx context.Context, u User, id, school, mode string) (string, error) {
	return a.change(ctx, u, func(f *facts, b *batch) error {
		s, err := f.season(id)
		if err != nil {
			return err
		}
		set := *f
		set.tracks = map[string]academy.Track{}
		for id, t := range f.tracks {
			t.School, t.Mode = school, mode
			set.tracks[id] = t
			if err := b.put(docTrack, id, t); err != nil {
				return err
			}
		}
		plan, err := a.lay(&set, id, 0, nil)
		if err != nil {
			return err
		}
		s.Plan = &plan
		b.Says = "Planned " + s.Name + " as " + school + ", " + mode
		return b.put(docSeason, s.ID, s)
	})
}
