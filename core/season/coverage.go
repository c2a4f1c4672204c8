package season

import (
	"math"
)

// Presence is one chance to meet a unit: the chance of being there and the
// exposure it gives in half units.
type Presence struct {
	Chance float64
	Halves int
}

// ChanceCovered is the probability that independent presences sum to at least
// need half units: the exact Poisson-binomial tail, by adding one presence at a
// time to the distribution of the sum, kept up to need. Costs presences × need.
func ChanceCovered(presences []Presence, need int) float64 {
	d := NewTally(need)
	for _, p := range presences {
		d.Add(p.Chance, p.Halves)
	}
	return d.Reached()
}

// tally is the distribution of a sum of exposures in half units; the last
// entry holds "at least need".
type tally []float64

func NewTally(need int) tally {
	d := make(tally, max(0, need)+1)
	d[0] = 1
	return d
}

func (d tally) Add(chance float64, halves int) {
	if halves > 0 {
		AddExposure(d, len(d)-1, halves, chance)
	}
}

// AddExposure moves a distribution on by one presence.
func AddExposure(row []float64, top, step int, p float64) {
	if p <= 0 {
		return
	}
	for j := top - 1; j >= 0; j-- {
		moved := row[j] * p
		row[j] -= moved
		row[min(top, j+step)] += moved
	}
}

func (d tally) Reached() float64 { return d[len(d)-1] }

// progress is the expected share of the way to the need, 0 to 1: smoother than
// reached, and so what the first steps of the planner climb by.
func (d tally) progress() float64 {
	if len(d) == 1 {
		return 1
	}
	sum := 0.0
	for i, p := range d {
		sum += p * float64(i)
	}
	return sum / float64(len(d)-1)
}

// halves is an exposure in half units.
func halves(kind string) int {
	if kind == Teach {
		return 2
	}
	return 1
}

// Missing turns what is still needed into half units, rounded up.
func (n Need) Missing() int { return max(0, int(math.Ceil((n.Need-n.Had)*2-1e-9))) }

// Covered is the chance covered of one open need in a plan.
type Covered struct {
	Student string  `json:"student"`
	Unit    string  `json:"unit"`
	Chance  float64 `json:"chance"`
	Weight  float64 `json:"weight"`
}

// counting are the placements that may still give somebody something: a class that was held as it is fixed in p, and none whose presences are
// known, since what students had of it is in had.
func counting(p Problem, placements []Placement) []Placement {
	held := map[string]Placement{}
	for _, f := range p.Fixed {
		if f.Held {
			held[Key(f.Week, f.Class)] = f
		}
	}
	all := make([]Placement, 0, len(placements))
	for _, x := range placements {
		if f, ok := held[Key(x.Week, x.Class)]; ok {
			x = f
		}
		if !x.Known {
			all = append(all, x)
		}
	}
	return all
}

// Coverage computes the expected coverage of any set of placements from
// scratch, and the chance covered of every open need. A class that was held
// counts as it is fixed in p, whatever the placements say of it. It does not ask whether they keep the rules. 1 when nothing is open.
func Coverage(p Problem, placements []Placement) (float64, []Covered) {
	offered := map[string][]Item{}
	classes := map[string][]string{}
	for _, x := range counting(p, placements) {
		for _, it := range x.Items {
			offered[it.Unit] = append(offered[it.Unit], it)
			classes[it.Unit] = append(classes[it.Unit], x.Class)
		}
	}
	var all []Covered
	sum, weights := 0.0, 0.0
	for _, s := range p.Students {
		for _, n := range s.Open {
			d := NewTally(n.Missing())
			for i, it := range offered[n.Unit] {
				d.Add(s.Chance[classes[n.Unit][i]], halves(it.Kind))
			}
			all = append(all, Covered{s.ID, n.Unit, d.Reached(), n.Weight})
			sum += n.Weight * d.Reached()
			weights += n.Weight
		}
	}
	if weights == 0 {
		return 1, all
	}
	return sum / weights, all
}

func Closed(p Problem, week int, class string) bool {
	for _, c := range p.Closures {
		if c.Week == week && (c.Class == "" || c.Class == class) {
			return true
		}
	}
	return false
}
