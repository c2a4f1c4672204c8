package repair

import (
	"cmp"
	"fmt"
	"slices"

	"vereda/core/season"
	"vereda/core/season/explain"
	"vereda/core/season/model"
	"vereda/core/season/search"
	"vereda/core/season/staffing"
)

// Move is a change of a plan by hand: a unit taken out of a class, put into one,
// moved from one to another, or another lead.
type Move struct {
	Unit string `json:"unit,omitempty" doc:"What is moved"`
	Kind string `json:"kind,omitempty" enum:"teach,review" doc:"As what it is put; as it was when left out"`
	From *Spot  `json:"from,omitempty" doc:"Where it is removed; left out when it comes from the list of units"`
	To   *Spot  `json:"to,omitempty" doc:"Where it is put; left out when it only goes"`
	Lead string `json:"lead,omitempty" doc:"Instead: who leads the class named in to"`
}

// Spot is one class of one week.
type Spot struct {
	Week  int    `json:"week"`
	Class string `json:"class"`
}

// Moved is a plan after a move by hand: nothing is mended, so rules may be
// broken (see Breaches). In mode same the whole week of the track follows; leads stay, and a class that had none gets one
// where somebody may.
func Moved(p season.Problem, old season.Plan, v Move) (season.Plan, error) {
	h := hand{p: p, plan: old}
	h.plan.Placements = slices.Clone(old.Placements)
	if v.Lead != "" {
		if v.To == nil || !slices.ContainsFunc(p.Coaches, func(c season.Coach) bool { return c.ID == v.Lead }) {
			return old, fmt.Errorf("coach %q is not among the coaches", v.Lead)
		}
		if i := h.find(*v.To); i >= 0 {
			h.plan.Placements[i].Lead = v.Lead
			return h.done(old)
		}
		return old, fmt.Errorf("%s in week %d teaches nothing: there is nothing to lead", v.To.Class, v.To.Week)
	}
	if !slices.ContainsFunc(p.Units, func(u season.Unit) bool { return u.ID == v.Unit }) {
		return old, fmt.Errorf("unit %q is not among the units", v.Unit)
	}
	kind := v.Kind
	if v.From != nil {
		had, ok := h.take(*v.From, v.Unit)
		if !ok {
			return old, fmt.Errorf("%s is not in %s in week %d", v.Unit, v.From.Class, v.From.Week)
		}
		kind = cmp.Or(kind, had)
	}
	if v.To != nil {
		if err := h.put(*v.To, season.Item{Unit: v.Unit, Kind: cmp.Or(kind, season.Teach)}); err != nil {
			return old, err
		}
	}
	return h.done(old)
}

type hand struct {
	p    season.Problem
	plan season.Plan
}

func (h *hand) find(at Spot) int {
	return slices.IndexFunc(h.plan.Placements, func(x season.Placement) bool { return x.Week == at.Week && x.Class == at.Class })
}

// together lists the classes that change with one: itself in mode split, the
// open classes of the track in mode same, the longest first.
func (h *hand) together(at Spot) ([]season.Class, error) {
	i := slices.IndexFunc(h.p.Classes, func(c season.Class) bool { return c.ID == at.Class })
	if i < 0 || at.Week < 1 || at.Week > h.p.Weeks {
		return nil, fmt.Errorf("class %q in week %d is not in the season", at.Class, at.Week)
	}
	held := func(class string) bool {
		return slices.ContainsFunc(h.p.Fixed, func(f season.Placement) bool { return f.Held && f.Week == at.Week && f.Class == class })
	}
	if held(at.Class) {
		return nil, fmt.Errorf("%s in week %d was held: it does not move", at.Class, at.Week)
	}
	if season.Closed(h.p, at.Week, at.Class) {
		return nil, fmt.Errorf("%s is closed in week %d", at.Class, at.Week)
	}
	track := h.p.Tracks[slices.IndexFunc(h.p.Tracks, func(t season.Track) bool { return t.ID == h.p.Classes[i].Track })]
	if track.Mode == "split" {
		return []season.Class{h.p.Classes[i]}, nil
	}
	var all []season.Class
	for _, c := range h.p.Classes {
		if c.Track == track.ID && !season.Closed(h.p, at.Week, c.ID) && !held(c.ID) {
			all = append(all, c)
		}
	}
	slices.SortStableFunc(all, func(a, b season.Class) int { return cmp.Compare(b.TeachMinutes, a.TeachMinutes) })
	return all, nil
}

// items is what a class, and those that go with it, teach: the list of the longest.
func (h *hand) items(all []season.Class, week int) []season.Item {
	var longest []season.Item
	for _, c := range all {
		if i := h.find(Spot{week, c.ID}); i >= 0 && len(h.plan.Placements[i].Items) > len(longest) {
			longest = h.plan.Placements[i].Items
		}
	}
	return longest
}

// give writes a list into classes: all of it into the longest, the leading
// ones that fit into the others.
func (h *hand) give(all []season.Class, week int, items []season.Item) {
	m := model.New(season.Problem{Weeks: 1, Units: h.p.Units, Tracks: h.p.Tracks})
	for _, c := range all {
		n := len(items)
		if c.TeachMinutes < all[0].TeachMinutes {
			n = m.Leading(items, c.TeachMinutes)
		}
		i := h.find(Spot{week, c.ID})
		switch {
		case n == 0 && i >= 0:
			h.plan.Placements = slices.Delete(h.plan.Placements, i, i+1)
		case n > 0 && i >= 0:
			h.plan.Placements[i].Items = slices.Clone(items[:n])
		case n > 0:
			h.plan.Placements = append(h.plan.Placements, season.Placement{Week: week, Class: c.ID, Items: slices.Clone(items[:n])})
		}
	}
}

func (h *hand) take(at Spot, unit string) (kind string, ok bool) {
	all, err := h.together(at)
	if err != nil {
		return "", false
	}
	items := slices.Clone(h.items(all, at.Week))
	i := slices.IndexFunc(items, func(it season.Item) bool { return it.Unit == unit })
	if i < 0 {
		return "", false
	}
	kind = items[i].Kind
	h.give(all, at.Week, slices.Delete(items, i, i+1))
	return kind, true
}

func (h *hand) put(at Spot, it season.Item) error {
	all, err := h.together(at)
	if err != nil {
		return err
	}
	items := slices.DeleteFunc(slices.Clone(h.items(all, at.Week)), func(had season.Item) bool { return had.Unit == it.Unit })
	h.give(all, at.Week, append(items, it))
	return nil
}

// done finds leads for classes that have none, and the coverage.
func (h *hand) done(old season.Plan) (season.Plan, error) {
	m := model.New(explain.HeldOnly(h.p))
	st := model.NewState(m)
	st.Put(h.plan.Placements)
	free := slices.ContainsFunc(h.plan.Placements, func(x season.Placement) bool { return x.Lead == "" && !x.Held })
	if free {
		staffing.Lead(st, h.plan.Placements, &old)
	}
	season.SortPlacements(h.p, h.plan.Placements)
	h.plan.Coverage, _ = season.Coverage(h.p, h.plan.Placements)
	h.plan.Proven = h.plan.Coverage >= h.plan.Bound-1e-9
	h.plan.Scores = search.Scores(st, h.plan.Placements)
	h.plan.Unplaced = search.Unplaced(st)
	return h.plan, nil
}

// Help is the one change of a plan that would help a student or a unit most.
type Help struct {
	Week     int          `json:"week"`
	Class    string       `json:"class"`
	Out      *season.Item `json:"out,omitempty" doc:"What would go for it"`
	In       season.Item  `json:"in"`
	Before   float64      `json:"before" doc:"Of the student's or the unit's needs, the mean chance covered"`
	After    float64      `json:"after"`
	Now      float64      `json:"now" doc:"Coverage of the whole season as it is"`
	Coverage float64      `json:"coverage" doc:"And afterwards"`
}

// Helps finds the one exchange, or addition, in a class still to come that
// raises the chance covered of a student's needs most, or of a unit's; ok is false when nothing does. Every rule is
// kept. Costs squares × items × what could stand there instead.
func Helps(p season.Problem, plan season.Plan, student, unit string) (best Help, ok bool) {
	e, _ := explain.NewExplainer(p, plan)
	measure, units, all := interest(e, student, unit)
	if all == 0 {
		return Help{}, false
	}
	before := measure()
	now := e.State.Coverage()
	best = Help{Before: before / all, After: before / all, Now: now}
	for s := range e.Model.Squares {
		q := &e.Model.Squares[s]
		if q.Fixed {
			continue
		}
		had := e.State.Items[s]
		for out := -1; out < len(had); out++ {
			for _, u := range units {
				for kind := model.Teach; kind <= model.Review; kind++ {
					var items []model.Item
					for i, it := range had {
						if i != out {
							items = append(items, it)
						}
					}
					if !e.Model.Can[q.Track][u] || !e.State.Try(model.Change{Square: s, Items: append(items, model.Item{Unit: u, Kind: kind})}) {
						continue
					}
					if after := measure() / all; after > best.After+1e-9 {
						best = Help{q.Week, e.Problem.Classes[q.Classes[0]].ID, nil, season.Item{Unit: e.Problem.Units[u].ID, Kind: model.KindNames[kind]}, best.Before, after, now, e.State.Coverage()}
						if out >= 0 {
							best.Out = &season.Item{Unit: e.Problem.Units[had[out].Unit].ID, Kind: model.KindNames[had[out].Kind]}
						}
						ok = true
					}
					e.State.Undo()
				}
			}
		}
	}
	return best, ok
}

// interest is what Helps measures: the covered weight of one student's needs or
// of one unit's, and which units could add to it.
func interest(e *explain.Explainer, student, unit string) (measure func() float64, units []int32, all float64) {
	if u, ok := e.Model.UnitAt[unit]; ok && unit != "" {
		return func() float64 { return e.State.Values[u] }, []int32{int32(u)}, e.Model.Units[u].Most
	}
	type mine struct {
		unit int32
		need int
	}
	var needs []mine
	for u := range e.Model.Units {
		for i, n := range e.Model.Units[u].Needs {
			if e.Problem.Students[n.Student].ID == student {
				needs, units, all = append(needs, mine{int32(u), i}), append(units, int32(u)), all+n.Weight
			}
		}
	}
	return func() float64 {
		sum := 0.0
		for _, n := range needs {
			sum += e.Model.Units[n.unit].Needs[n.need].Weight * e.Chance(n.unit, n.need)
		}
		return sum
	}, units, all
}
