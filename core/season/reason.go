package season

import (
	"cmp"
	"slices"
)

// Reason says why an item stands where it does.
type Reason struct {
	Unit     string   `json:"unit"`
	Kind     string   `json:"kind"`
	WaitsFor []Stand  `json:"waits_for" doc:"What it stands on, and when that was taught; week 0: assumed"`
	Opens    []string `json:"opens" doc:"Units taught later in the track that stand on it"`
	Gains    []Gain   `json:"gains" doc:"Who would lose chance covered without it, most first"`
	Worth    float64  `json:"worth" doc:"Coverage of the whole season lost without it"`
	Instead  *Swap    `json:"instead,omitempty" doc:"The best that could stand there in its place"`
	Lead     string   `json:"lead"`
	LeadWhy  []Other  `json:"lead_why" doc:"Of each other coach, why not; an empty reason means they could"`
}

// Stand is a required unit and the week it was first taught in.
type Stand struct {
	Unit string `json:"unit"`
	Week int    `json:"week"`
}

// Gain is one student's chance covered with and without.
type Gain struct {
	Student string  `json:"student"`
	With    float64 `json:"with"`
	Without float64 `json:"without"`
}

// Swap is another unit in the same place, and the coverage it would give.
type Swap struct {
	Unit     string  `json:"unit"`
	Kind     string  `json:"kind"`
	Coverage float64 `json:"coverage"`
}

// Other is a coach who does not lead, and why.
type Other struct {
	Coach string `json:"coach"`
	Why   string `json:"why"`
}

// Why explains one item of a placement: what it waits for, who gains, what it
// displaced, and why this coach leads. In mode same it speaks of the unit in all classes of that week.
// Costs one coverage evaluation per unit.
func Why(p Problem, plan Plan, week int, class, unit string) (Reason, bool) {
	here, ok := plan.Find(week, class)
	i := slices.IndexFunc(here.Items, func(it Item) bool { return it.Unit == unit })
	if !ok || i < 0 {
		return Reason{}, false
	}
	b := newBoard(fixedAs(p, plan))
	track := ""
	for _, c := range p.Classes {
		if c.ID == class {
			track = c.Track
		}
	}
	r := Reason{Unit: unit, Kind: here.Items[i].Kind, Lead: here.Lead, WaitsFor: []Stand{}, Opens: []string{}, Gains: []Gain{}, LeadWhy: []Other{}}
	u := p.Units[b.units[unit]]
	for _, q := range u.Requires {
		r.WaitsFor = append(r.WaitsFor, Stand{q, b.firstTaught(track, q)})
	}
	for _, d := range p.Units {
		if w := b.firstTaught(track, d.ID); slices.Contains(d.Requires, unit) && w > week {
			r.Opens = append(r.Opens, d.ID)
		}
	}
	r.weigh(p, plan, week, track, here.Items[i])
	for _, c := range p.Coaches {
		if c.ID != here.Lead {
			x := call{class: class}
			for _, it := range here.Items {
				if sign := p.Units[b.units[it.Unit]].Signoff; sign != "" {
					x.signoffs = append(x.signoffs, sign)
				}
			}
			r.LeadWhy = append(r.LeadWhy, Other{c.ID, c.refusal(week, x)})
		}
	}
	return r, true
}

// weigh compares the plan with and without the item, and with others instead.
func (r *Reason) weigh(p Problem, plan Plan, week int, track string, it Item) {
	_, with := Coverage(p, plan.Placements)
	without, each := Coverage(p, replaced(p, plan, week, track, it, nil))
	r.Worth = plan.Coverage - without
	for i := range each {
		if d := with[i].Chance - each[i].Chance; each[i].Unit == it.Unit && d > 0.005 {
			r.Gains = append(r.Gains, Gain{each[i].Student, with[i].Chance, each[i].Chance})
		}
	}
	slices.SortStableFunc(r.Gains, func(a, b Gain) int { return cmp.Compare(b.With-b.Without, a.With-a.Without) })
	b := newBoard(fixedAs(p, Plan{Placements: replaced(p, plan, week, track, it, nil)}))
	for i := range b.squares {
		b.squares[i].fixed = false
	}
	for s := range b.squares {
		sq := &b.squares[s]
		if sq.track != track || sq.week != week {
			continue
		}
		for _, u := range p.Units {
			for _, kind := range []string{Teach, Review} {
				other := Item{u.ID, kind}
				if u.ID == it.Unit || !b.mayHold(sq, other) {
					continue
				}
				c, _ := Coverage(p, replaced(p, plan, week, track, it, &other))
				if r.Instead == nil || c > r.Instead.Coverage+1e-12 {
					r.Instead = &Swap{u.ID, kind, c}
				}
			}
		}
		return
	}
}

func (b *board) firstTaught(track, unit string) int {
	for i := range b.squares {
		if s := &b.squares[i]; s.track == track && slices.Contains(s.items, Item{unit, Teach}) {
			return s.week
		}
	}
	return 0
}

// fixedAs is the problem with every placement of a plan fixed.
func fixedAs(p Problem, plan Plan) Problem {
	p.Fixed = plan.Placements
	return p
}

// replaced is the plan with an item of a track's week taken out, or another
// put in its place.
func replaced(p Problem, plan Plan, week int, track string, old Item, instead *Item) []Placement {
	of := map[string]string{}
	for _, c := range p.Classes {
		of[c.ID] = c.Track
	}
	all := make([]Placement, 0, len(plan.Placements))
	for _, x := range plan.Placements {
		if x.Week == week && of[x.Class] == track {
			x.Items = slices.Clone(x.Items)
			for i, it := range x.Items {
				if it == old {
					if instead == nil {
						x.Items = slices.Delete(x.Items, i, i+1)
					} else {
						x.Items[i] = *instead
					}
					break
				}
			}
		}
		all = append(all, x)
	}
	return all
}
