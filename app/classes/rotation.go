package classes

import (
	"cmp"
	"context"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/rotation"
)

// RotationPage is who works with whom, as it stands.
type RotationPage struct {
	Rounds []RoundLine `json:"rounds"`
	Run    int         `json:"run" doc:"Rounds already run; they stay"`
	Out    []Attendee  `json:"out"`
	Fresh  int         `json:"fresh" doc:"Rounds of pairs possible before two must meet again"`
	Paired int         `json:"paired" doc:"People the rounds were made for"`
	Stale  bool        `json:"stale" doc:"Who is here changed since"`
	Odd    string      `json:"odd"`
	Mix    string      `json:"mix"`
	Size   int         `json:"size"`
}

// RoundLine is one round with names.
type RoundLine struct {
	Groups [][]state.Named `json:"groups"`
	Coach  []state.Named   `json:"coach" doc:"Those who work with the coach"`
	Again  int             `json:"again" doc:"Meetings of two who met before tonight"`
}

// MakeRotation is how to pair.
type MakeRotation struct {
	Run  int    `json:"run" minimum:"0" doc:"Rounds already run; they stay"`
	Odd  string `json:"odd" enum:"larger,coach" doc:"Where those go who are left over"`
	Mix  string `json:"mix" enum:"any,similar,mixed"`
	Size int    `json:"size,omitempty" required:"false" minimum:"2" maximum:"6" doc:"People in a group; 2 when left out"`
}

// Pair makes the rounds of those who are here, as many as the clock calls for. They are searched while nothing is being written, and again
// when somebody came or left meanwhile.
func (a *Service) Pair(ctx context.Context, u state.User, id string, m MakeRotation) error {
	var made academy.Rounds
	var paired []string
	_, err := state.KeepComputed(ctx, a.State, u, "who is here", func(f *snapshot) string { return f.onMat(u, id) }, func(f *snapshot) error {
		c, on, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		made, paired, err = f.rounds(c, n, f.here(u, c, on, n), on, m)
		return err
	}, func(f *snapshot, b *state.Change) error {
		_, _, n, err := f.toRun(u, id)
		if err != nil {
			return err
		}
		n.Decided.Rounds, n.Decided.Paired = made, paired
		n.Decided.Run, n.Decided.Odd, n.Decided.Mix, n.Decided.Size = m.Run, m.Odd, m.Mix, max(2, m.Size)
		return b.Put(documents.Session, id, n.Decided)
	})
	return err
}

// rounds are those that ran and those to come: first the drills, which spare whoever is held, then the free rounds.
func (f *snapshot) rounds(c academy.Class, n state.SessionPlan, here []Attendee, on calendar.Day, m MakeRotation) (academy.Rounds, []string, error) {
	if m.Run > len(n.Decided.Rounds) {
		return nil, nil, state.Invalid("run", "%d rounds cannot have been run: only %d were made", m.Run, len(n.Decided.Rounds))
	}
	lesson := f.Lesson(n.Items)
	people := f.onTheMat(here, lesson, false)
	if len(people) < 2 {
		return nil, nil, state.Invalid("here", "%d can be paired: check in at least two who are not held", len(people))
	}
	drills, free := mat.RoundsIn(f.clock(n, c))
	drills = max(drills, 4-free)
	done := slices.Clone(n.Decided.Rounds[:m.Run])
	p := rotation.Problem{GroupSize: max(2, m.Size), Odd: m.Odd, Mix: m.Mix, Met: f.metLately(here, on)}
	add := func(people []rotation.Person, upTo int) {
		if p.People, p.Rounds, p.Ran = people, upTo, nil; upTo <= len(done) {
			return
		}
		for _, r := range done {
			p.Ran = append(p.Ran, r.Groups)
		}
		done = append(done, rotation.Rotate(p).Rounds[len(done):]...)
	}
	add(people, min(drills, rotation.MostRounds))
	add(f.onTheMat(here, lesson, true), min(max(drills+free, m.Run+1), rotation.MostRounds))
	var paired []string
	for _, p := range people {
		paired = append(paired, p.ID)
	}
	return done, paired, nil
}

// onTheMat lists who can be paired, in drills or in free rounds. Whoever has passed something of tonight helps those
// who have not met it yet.
func (f *snapshot) onTheMat(here []Attendee, lesson mat.Lesson, free bool) []rotation.Person {
	var people []rotation.Person
	var knows, missed []int
	for _, a := range here {
		if a.Out != "" || free && a.NoLive != "" {
			continue
		}
		p := f.Person[a.ID]
		passed, met := 0, 0
		for _, t := range append(slices.Clone(lesson.Teach), lesson.Review...) {
			step := f.bestStep(p.ID, t)
			if step >= curriculum.Passed.Step() {
				passed++
			}
			if step >= curriculum.Met.Step() {
				met++
			}
		}
		if all := len(lesson.Teach) + len(lesson.Review); all > 0 && passed == all {
			knows = append(knows, len(people))
		} else if all > 0 && met == 0 {
			missed = append(missed, len(people))
		}
		people = append(people, rotation.Person{ID: p.ID, Kg: p.Weight, Rank: max(0, f.Ladders[p.Ladder].Position(p.Rank)), Apart: p.NeverWith})
	}
	for _, k := range knows {
		for _, m := range missed {
			people[k].Helps = append(people[k].Helps, people[m].ID)
		}
	}
	return people
}

// bestStep is how far somebody is with a technique on their better side.
func (f *snapshot) bestStep(student string, t library.Technique) int {
	step := 0
	for _, side := range t.Sides() {
		step = max(step, f.Rung(student, t.ID, side).Rung.Step())
	}
	return step
}

// lately is how many weeks back it matters with whom one worked.
const lately = 6

// metLately lists who of those here worked together in the classes of the last weeks.
func (f *snapshot) metLately(here []Attendee, on calendar.Day) []rotation.Met {
	there := map[string]bool{}
	for _, a := range here {
		there[a.ID] = true
	}
	met := map[[2]string]float64{}
	for id, n := range f.ClassSessions {
		_, day, err := academy.SplitOccurrence(id)
		if err != nil || day >= on || day < on-7*lately {
			continue
		}
		for _, r := range n.Rounds[:min(n.Run, len(n.Rounds))] {
			for _, g := range r.Groups {
				for i, x := range g {
					for _, y := range g[:i] {
						pair := [2]string{min(x, y), max(x, y)}
						weeks := float64(on-day) / 7
						if had, ok := met[pair]; there[x] && there[y] && (!ok || weeks < had) {
							met[pair] = weeks
						}
					}
				}
			}
		}
	}
	all := make([]rotation.Met, 0, len(met))
	for pair, weeks := range met {
		all = append(all, rotation.Met{Pair: pair, WeeksAgo: weeks})
	}
	slices.SortFunc(all, func(a, b rotation.Met) int { return slices.Compare(a.Pair[:], b.Pair[:]) })
	return all
}

// forDesk leaves out why somebody is not paired, and who works with the coach: whoever is kept apart does.
func (r RotationPage) forDesk() RotationPage {
	r.Out = []Attendee{}
	for i := range r.Rounds {
		r.Rounds[i].Coach = []state.Named{}
	}
	return r
}

func (f *snapshot) rotationPage(n state.SessionPlan, here []Attendee) RotationPage {
	page := RotationPage{Rounds: []RoundLine{}, Run: n.Decided.Run, Out: []Attendee{}, Odd: cmp.Or(n.Decided.Odd, rotation.Larger), Mix: cmp.Or(n.Decided.Mix, rotation.AnyMix), Size: max(2, n.Decided.Size)}
	if page.Odd == "trio" { // as it was called before
		page.Odd = rotation.Larger
	}
	able := map[string]bool{}
	for _, a := range here {
		if a.Out == "" {
			able[a.ID] = true
		}
		if a.Out != "" || a.NoLive != "" {
			page.Out = append(page.Out, a)
		}
	}
	page.Fresh = max(0, len(able)-1+len(able)%2)
	if n := len(able); n%2 == 1 && n > 2 && page.Odd == rotation.Larger { // three meet each other
		page.Fresh = n * (n - 1) / (n + 3)
	}
	met := map[[2]string]bool{}
	for _, r := range n.Decided.Rounds {
		line := RoundLine{Groups: [][]state.Named{}, Coach: []state.Named{}}
		for _, g := range r.Groups {
			group := []state.Named{}
			for i, x := range g {
				group = append(group, state.Named{ID: x, Name: f.NameOf(x)})
				for _, y := range g[:i] {
					pair := [2]string{min(x, y), max(x, y)}
					if met[pair] {
						line.Again++
					}
					met[pair] = true
				}
			}
			line.Groups = append(line.Groups, group)
		}
		for _, x := range r.Coach {
			line.Coach = append(line.Coach, state.Named{ID: x, Name: f.NameOf(x)})
		}
		page.Rounds = append(page.Rounds, line)
	}
	page.Paired = len(n.Decided.Paired)
	if len(n.Decided.Rounds) > 0 {
		page.Stale = len(n.Decided.Paired) != len(able)
		for _, id := range n.Decided.Paired {
			page.Stale = page.Stale || !able[id]
		}
	}
	return page
}
