package season

import (
	"cmp"
	"fmt"
	"slices"
)

// Move is a change of a plan by hand: a unit taken out of a class, put into one,
// moved from one to another, or another lead.
type Move struct {
	Unit string `json:"unit,omitempty" doc:"What is moved"`
	Kind string `json:"kind,omitempty" enum:"teach,review" doc:"As what it is put; as it was when left out"`
	From *Spot  `json:"from,omitempty" doc:"Where it is taken out; left out when it comes from the list of units"`
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
func Moved(p Problem, old Plan, v Move) (Plan, error) {
	h := hand{p: p, plan: old}
	h.plan.Placements = slices.Clone(old.Placements)
	if v.Lead != "" {
		if v.To == nil || !slices.ContainsFunc(p.Coaches, func(c Coach) bool { return c.ID == v.Lead }) {
			return old, fmt.Errorf("coach %q is not among the coaches", v.Lead)
		}
		if i := h.find(*v.To); i >= 0 {
			h.plan.Placements[i].Lead = v.Lead
			return h.done(old)
		}
		return old, fmt.Errorf("%s in week %d teaches nothing: there is nothing to lead", v.To.Class, v.To.Week)
	}
	if !slices.ContainsFunc(p.Units, func(u Unit) bool { return u.ID == v.Unit }) {
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
		if err := h.put(*v.To, Item{v.Unit, cmp.Or(kind, Teach)}); err != nil {
			return old, err
		}
	}
	return h.done(old)
}

type hand struct {
	p    Problem
	plan Plan
}

func (h *hand) find(at Spot) int {
	return slices.IndexFunc(h.plan.Placements, func(x Placement) bool { return x.Week == at.Week && x.Class == at.Class })
}

// together lists the classes that change with one: itself in mode split, the
// open classes of the track in mode same, the longest first.
func (h *hand) together(at Spot) ([]Class, error) {
	i := slices.IndexFunc(h.p.Classes, func(c Class) bool { return c.ID == at.Class })
	if i < 0 || at.Week < 1 || at.Week > h.p.Weeks {
		return nil, fmt.Errorf("class %q in week %d is not in the season", at.Class, at.Week)
	}
	held := func(class string) bool {
		return slices.ContainsFunc(h.p.Fixed, func(f Placement) bool { return f.Held && f.Week == at.Week && f.Class == class })
	}
	if held(at.Class) {
		return nil, fmt.Errorf("%s in week %d was held: it does not move", at.Class, at.Week)
	}
	if closed(h.p, at.Week, at.Class) {
		return nil, fmt.Errorf("%s is closed in week %d", at.Class, at.Week)
	}
	track := h.p.Tracks[slices.IndexFunc(h.p.Tracks, func(t Track) bool { return t.ID == h.p.Classes[i].Track })]
	if track.Mode == "split" {
		return []Class{h.p.Classes[i]}, nil
	}
	var all []Class
	for _, c := range h.p.Classes {
		if c.Track == track.ID && !closed(h.p, at.Week, c.ID) && !held(c.ID) {
			all = append(all, c)
		}
	}
	slices.SortStableFunc(all, func(a, b Class) int { return cmp.Compare(b.TeachMinutes, a.TeachMinutes) })
	return all, nil
}

// items is what a class, and those that go with it, teach: the list of the longest.
func (h *hand) items(all []Class, week int) []Item {
	var longest []Item
	for _, c := range all {
		if i := h.find(Spot{week, c.ID}); i >= 0 && len(h.plan.Placements[i].Items) > len(longest) {
			longest = h.plan.Placements[i].Items
		}
	}
	return longest
}

// give writes a list into classes: all of it into the longest, the leading
// ones that fit into the others.
func (h *hand) give(all []Class, week int, items []Item) {
	m := newModel(Problem{Weeks: 1, Units: h.p.Units, Tracks: h.p.Tracks})
	for _, c := range all {
		n := len(items)
		if c.TeachMinutes < all[0].TeachMinutes {
			n = m.leading(items, c.TeachMinutes)
		}
		i := h.find(Spot{week, c.ID})
		switch {
		case n == 0 && i >= 0:
			h.plan.Placements = slices.Delete(h.plan.Placements, i, i+1)
		case n > 0 && i >= 0:
			h.plan.Placements[i].Items = slices.Clone(items[:n])
		case n > 0:
			h.plan.Placements = append(h.plan.Placements, Placement{Week: week, Class: c.ID, Items: slices.Clone(items[:n])})
		}
	}
}

func (h *hand) take(at Spot, unit string) (kind string, ok bool) {
	all, err := h.together(at)
	if err != nil {
		return "", false
	}
	items := slices.Clone(h.items(all, at.Week))
	i := slices.IndexFunc(items, func(it Item) bool { return it.Unit == unit })
	if i < 0 {
		return "", false
	}
	kind = items[i].Kind
	h.give(all, at.Week, slices.Delete(items, i, i+1))
	return kind, true
}

func (h *hand) put(at Spot, it Item) error {
	all, err := h.together(at)
	if err != nil {
		return err
	}
	items := slices.DeleteFunc(slices.Clone(h.items(all, at.Week)), func(had Item) bool { return had.Unit == it.Unit })
	h.give(all, at.Week, append(items, it))
	return nil
}

// done finds leads for classes that have none, and the coverage.
func (h *hand) done(old Plan) (Plan, error) {
	m := newModel(heldOnly(h.p))
	st := newState(m)
	st.put(h.plan.Placements)
	free := slices.ContainsFunc(h.plan.Placements, func(x Placement) bool { return x.Lead == "" && !x.Held })
	if free {
		st.lead(h.plan.Placements, &old)
	}
	sortPlacements(h.p, h.plan.Placements)
	h.plan.Coverage, _ = Coverage(h.p, h.plan.Placements)
	h.plan.Proven = h.plan.Coverage >= h.plan.Bound-1e-9
	h.plan.Scores = st.scores(h.plan.Placements)
	h.plan.Unplaced = st.unplaced()
	return h.plan, nil
}

// Help is the one change of a plan that would help a student or a unit most.
type Help struct {
	Week     int     `json:"week"`
	Class    string  `json:"class"`
	Out      *Item   `json:"out,omitempty" doc:"What would go for it"`
	In       Item    `json:"in"`
	Before   float64 `json:"before" doc:"Of the student's or the unit's needs, the mean chance covered"`
	After    float64 `json:"after"`
	Coverage float64 `json:"coverage" doc:"Of the whole season, afterwards"`
}

// Helps finds the one exchange, or addition, in a class still to come that
// raises the chance covered of a student's needs most, or of a unit's; ok is false when nothing does. Every rule is
// kept. Costs squares × items × what could stand there instead.
func Helps(p Problem, plan Plan, student, unit string) (best Help, ok bool) {
	e, _ := newExplainer(p, plan)
	measure, units, all := e.interest(student, unit)
	if all == 0 {
		return Help{}, false
	}
	before := measure()
	best = Help{Before: before / all, After: before / all}
	for s := range e.m.squares {
		q := &e.m.squares[s]
		if q.fixed {
			continue
		}
		had := e.st.sq[s]
		for out := -1; out < len(had); out++ {
			for _, u := range units {
				for kind := teach; kind <= review; kind++ {
					var items []item
					for i, it := range had {
						if i != out {
							items = append(items, it)
						}
					}
					if !e.m.can[q.track][u] || !e.st.try(change{s, append(items, item{unit: u, kind: kind})}) {
						continue
					}
					if after := measure() / all; after > best.After+1e-9 {
						best = Help{q.week, e.p.Classes[q.classes[0]].ID, nil, Item{e.p.Units[u].ID, kindNames[kind]}, best.Before, after, e.st.coverage()}
						if out >= 0 {
							best.Out = &Item{e.p.Units[had[out].unit].ID, kindNames[had[out].kind]}
						}
						ok = true
					}
					e.st.undo()
				}
			}
		}
	}
	return best, ok
}

// interest is what Helps measures: the covered weight of one student's needs or
// of one unit's, and which units could add to it.
func (e *explainer) interest(student, unit string) (measure func() float64, units []int32, all float64) {
	if u, ok := e.m.unitAt[unit]; ok && unit != "" {
		return func() float64 { return e.st.val[u] }, []int32{int32(u)}, e.m.units[u].most
	}
	type mine struct {
		unit int32
		need int
	}
	var needs []mine
	for u := range e.m.units {
		for i, n := range e.m.units[u].needs {
			if e.p.Students[n.student].ID == student {
				needs, units, all = append(needs, mine{int32(u), i}), append(units, int32(u)), all+n.weight
			}
		}
	}
	return func() float64 {
		sum := 0.0
		for _, n := range needs {
			sum += e.m.units[n.unit].needs[n.need].weight * e.chance(n.unit, n.need)
		}
		return sum
	}, units, all
}
