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
}

// Prove is the bound: every unit's best choice is searched for at the prices, in a
// few steps each at first; where that finds choices nobody knew, the prices are moved once more. Then
// whichever unit leaves most unsure for its steps gets five times as many. Where every choice is sure before the steps
// are spent, prices move item by item and everything is asked again.
func (x *Relaxation) Prove(steps int) float64 {
	p := proof{x: x, sure: make([]doubt, len(x.Subproblems)), least: math.Inf(1)}
	for i := range p.sure {
		p.sure[i].steps = min(40, 1+steps/1000)
	}
	for range 3 {
		known := p.pools()
		if steps -= p.ask(); p.pools() == known || steps <= 0 || x.stopped() {
			break
		}
		x.settle(0.03, 0.002, 250)
	}
	p.back()
	steps -= p.refine(steps)
	for wide := 0.3; steps > 0 && p.doubts() <= 1e-9 && !x.stopped(); wide = max(0.03, wide*0.7) {
		known := p.pools()
		spent := x.Packing.settle(wide, 0.002, steps/8)
		spent += p.ask()
		spent += p.refine((steps - spent) / 5)
		if steps -= spent; p.pools() == known && wide <= 0.03 {
			break
		}
	}
	p.back()
	return p.least
}

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
		p.sure[at].steps = min(5*p.sure[at].steps, max(p.sure[at].steps+1, steps-took))
		took += p.x.ask(at, &p.sure[at])
	}
	p.note()
	return took
}

// note keeps the bound where it is lower than before.
func (p *proof) note() {
	sum := p.x.sum(p.sure)
	if sum >= p.least {
		return
	}
	p.least, p.best, p.costs = sum, slices.Clone(p.sure), p.costs[:0]
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
}

// pools counts the choices known.
func (p *proof) pools() (n int) {
	for i := range p.x.Subproblems {
		n += len(p.x.Subproblems[i].pool)
	}
	return n
}

// doubts is what the bound may be too high by for want of steps.
func (p *proof) doubts() float64 {
	sum := 0.0
	for i := range p.sure {
		sum += p.sure[i].gap
	}
	return sum
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
