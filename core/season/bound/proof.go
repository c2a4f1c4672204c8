package bound

import (
	"math"
	"slices"
)

// proof is a bound in the making: what is known of every unit at the prices, and the
// lowest sum so far with its prices.
type proof struct {
	x     *Relaxation
	sure  []doubt
	least float64
	best  []doubt
	costs [][]float64
	rows  []row
	weeks []weeks
}

// Prove is the bound. By turns the prices of items and rows are moved against what is known of every unit (Packing.settle), and the best choices of those that leave
// most unsure for their steps are searched for; at new prices every unit is asked in a few steps, and choices nobody knew join in. Whichever of the two lowers the bound
// more for its steps gets more of them. Prices move less each time, and start where the last time the bound came to be lower at all.
func (x *Relaxation) Prove(steps int) float64 {
	p := proof{x: x, sure: make([]doubt, len(x.Subproblems)), least: math.Inf(1)}
	each := min(20_000, 1+steps/(24*max(1, len(x.Subproblems))))
	ask := func(most int) {
		for i := range p.sure {
			p.sure[i].steps = most
		}
		steps -= p.ask()
	}
	ask(min(40, each))
	fillings := x.Packing.fillings
	wide, share, part := widest, 0.5, 1+steps/16
	for stale := 0; steps > 0 && stale < 6 && !x.stopped(); {
		before := p.least
		x.Packing.fillings = fillings
		if wide > 0.1 {
			x.Packing.fillings = 1 // enough while prices are rough
		}
		moving, from, moved := x.Packing.settle(wide, 0.002, int(float64(part)*share))
		steps -= 1 + moving
		if moved { // prices that could not be moved in the time stay as rough as they are
			wide = max(leastWide, min(0.9*wide, 4*from))
		}
		ask(each)
		now := p.least
		searching := p.refine(int(float64(part) * (1 - share)))
		steps -= searching
		if (before-now)*float64(1+searching) > (now-p.least)*float64(1+moving) {
			share = min(0.9, share*1.3)
		} else if p.unsure() {
			share = max(0.3, share/1.15)
		}
		if stale++; p.least < before-1e-6*before || p.unsure() || moved && wide > leastWide {
			stale = 0
		}
	}
	x.Packing.fillings = fillings
	p.back()
	return p.least
}

// Prices move by so much of their mean at first, and by the other where a few steps of that are enough.
const widest, leastWide = 0.3, 0.01

// ask looks at every unit in as many steps as it had, and says what it took.
func (p *proof) ask() (took int) {
	for i := range p.sure {
		took += p.x.ask(i, &p.sure[i])
	}
	p.note()
	return took
}

// refine gives more steps to whichever unit leaves most unsure for those it had.
func (p *proof) refine(steps int) (took int) {
	for took < steps && len(p.sure) > 0 && !p.x.stopped() {
		at := 0
		for i := range p.sure {
			if p.sure[i].gap/float64(p.sure[i].steps) > p.sure[at].gap/float64(p.sure[at].steps) {
				at = i
			}
		}
		if p.sure[at].gap <= 1e-9 {
			break
		}
		p.sure[at].steps = min(3*p.sure[at].steps, max(p.sure[at].steps+1, steps-took))
		took += p.x.ask(at, &p.sure[at])
	}
	p.note()
	return took
}

// unsure says whether any unit's best choice is not known.
func (p *proof) unsure() bool {
	return slices.ContainsFunc(p.sure, func(d doubt) bool { return d.gap > 1e-9 })
}

// note keeps the bound where it is lower than before.
func (p *proof) note() {
	sum := p.x.sum(p.sure)
	if sum >= p.least {
		return
	}
	p.least, p.best, p.costs, p.rows = sum, slices.Clone(p.sure), p.costs[:0], slices.Clone(p.x.rows)
	p.weeks = p.weeks[:0]
	for _, w := range p.x.Packing.weeks {
		p.weeks = append(p.weeks, weeks{lead: slices.Clone(w.lead)})
	}
	for i := range p.x.Subproblems {
		p.costs = append(p.costs, slices.Clone(p.x.Subproblems[i].Cost))
	}
}

// back goes to where the bound was lowest.
func (p *proof) back() {
	copy(p.sure, p.best)
	for i := range p.x.Subproblems {
		copy(p.x.Subproblems[i].Cost, p.costs[i])
	}
	copy(p.x.rows, p.rows)
	for i, w := range p.weeks {
		copy(p.x.Packing.weeks[i].lead, w.lead)
	}
	p.x.charged()
}

// sum is the bound: what the classes are paid and what every unit gains at most.
func (x *Relaxation) sum(sure []doubt) float64 {
	sum := x.Base + x.Packing.paid()
	for i := range sure {
		sum += sure[i].most
	}
	return sum
}

// doubt is what is known of a unit's best choice: at most so much, and by how
// much that is more than what was found.
type doubt struct {
	steps     int
	most, gap float64
}

func (x *Relaxation) ask(i int, d *doubt) (nodes int) {
	s := &x.Subproblems[i]
	d.most, nodes = s.Exactly(x, d.steps)
	_, known := s.best()
	d.gap = d.most - known
	if d.steps > 5_000_000 {
		d.gap = 0 // sure enough
	}
	return nodes
}
