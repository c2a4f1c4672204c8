package bound

import (
	"math"
	"slices"

	"vereda/core/season/model"
)

// Fill is the most a pack can be paid for what it takes, less what leading it costs, and tells what it takes then and who leads.
func (k *Packing) Fill(p *Pack, take func(subproblem, at int32), leads func(coach int)) float64 {
	prices := k.prices[:0]
	for _, c := range p.calls {
		prices = append(prices, k.lead(p, c, nil))
	}
	k.prices = prices
	if p.contents != nil {
		most := k.hold(p, prices)
		if take != nil {
			k.told(p, prices, take, leads)
		}
		return most
	}
	best, most := -1, 0.0
	k.held = k.held[:0]
	for i, c := range p.calls {
		idle := false // another may hold the same and more for no more
		for j, o := range p.calls {
			idle = idle || j != i && prices[j] <= prices[i] && o.holds(c) && (j < i || prices[j] < prices[i] || !c.holds(o))
		}
		if idle {
			continue
		}
		k.tries = k.fillings
		if v, held := k.once(p, c, most+prices[i]); v-prices[i] > most {
			best, most = i, v-prices[i]
			k.held = append(k.held[:0], held...)
		}
	}
	if best >= 0 && take != nil {
		for _, h := range k.held {
			g := &p.goods[h.good]
			take(g.subproblem, 2*g.dim+int32(h.kind))
		}
		k.lead(p, p.calls[best], leads)
	}
	return most
}

// mostFillings is how often a pack is filled at most, until it holds no unit twice: beyond that it may.
const mostFillings = 5

// held is a good that a pack takes, and as what.
type held struct{ good, kind int32 }

// once fills a pack with each unit once: where one is taken by two tiers, what pays most with it in one of them alone. What is worth no more than known
// is not looked at closer.
func (k *Packing) once(p *Pack, c call, known float64) (float64, []held) {
	most := k.fill(p, c)
	if len(p.tiers) == 1 || most <= known {
		return most, k.now
	}
	a, b := k.twice(p)
	if k.tries--; a < 0 || k.tries < 0 {
		return most, k.now
	}
	k.barred[a] = true
	without, first := k.once(p, c, known)
	k.barred[a] = false
	if without >= most {
		return without, first
	}
	first = slices.Clone(first)
	k.barred[b] = true
	other, second := k.once(p, c, max(known, without))
	k.barred[b] = false
	if other > without {
		return other, second
	}
	return without, first
}

// twice finds two goods of one unit among those taken; −1 where there are none.
func (k *Packing) twice(p *Pack) (a, b int32) {
	for i, h := range k.now {
		for _, o := range k.now[:i] {
			if p.goods[h.good].subproblem == p.goods[o.good].subproblem {
				return h.good, o.good
			}
		}
	}
	return -1, -1
}

// lead is what the classes of a pack pay to be led: each its cheapest coach.
func (k *Packing) lead(p *Pack, c call, leads func(coach int)) float64 {
	prices, sum := k.weeks[p.weeks].lead, 0.0
	for j, t := range p.tiers {
		if !t.asks {
			continue
		}
		for _, there := range t.there {
			at, least := cheapest(prices, there&c[j].lead)
			sum += least
			if leads != nil && at >= 0 {
				leads(at)
			}
		}
	}
	return sum
}

// fill is the most a pack can be paid for items a call allows. What is only for the longer classes comes after what fills the shorter ones: items, or
// something that nobody needs, which takes its minutes too. Each item must end after the classes do that do not hear it, so the longest comes first.
func (k *Packing) fill(p *Pack, c call) float64 {
	k.filled += p.work()
	most := k.most
	most[0] = 0
	for b := 1; b < len(most); b++ {
		if most[b] = 0; b < p.least {
			most[b] = math.Inf(-1)
		}
	}
	last := p.tiers[len(p.tiers)-1].length
	for i := 0; i < len(p.goods); {
		until := i
		for until < len(p.goods) && p.goods[until].tier == p.goods[i].tier {
			until++
		}
		if p.goods[i].tier == 0 {
			k.first(p, c, until)
		} else {
			k.later(p, c, i, until)
		}
		i = until
	}
	end := 0
	for b := range most[:last+1] {
		if most[b] > most[end] {
			end = b
		}
	}
	k.tell(p, end)
	return most[end]
}

// first fills minutes with what all classes hear, the goods up to one.
func (k *Packing) first(p *Pack, c call, until int) {
	for i := range until {
		g := &p.goods[i]
		for kind, pay := range k.offer(p, c, i, k.most[:g.until+1]) {
			if pay > 0 {
				raise(k.most[g.minutes[kind]:g.until+1], k.earlier[i], pay)
			}
		}
	}
}

// offer is what a teach and a review of a good are paid in a call, nothing where it may not be taken so. Where it may, what there was before is remembered.
func (k *Packing) offer(p *Pack, c call, i int, before []float64) (pays [2]float64) {
	k.earlier[i] = k.earlier[i][:0]
	if g := &p.goods[i]; !k.barred[i] && g.signoff&^c[g.tier].signoffs == 0 {
		pays = k.pays(g)
	}
	if pays[model.Teach] > 0 || pays[model.Review] > 0 {
		k.earlier[i] = append(k.earlier[i], before...)
	}
	return pays
}

// raise makes now what can be had by so much more than before, where that is more.
func raise(now, before []float64, pay float64) {
	for b, v := range before[:len(now)] {
		now[b] = max(now[b], v+pay)
	}
}

// later fills minutes with what a tier of longer classes hears besides. Its goods are sorted by length: what is held first of it is at least as long as what
// comes after it in the list, or may change places with that.
func (k *Packing) later(p *Pack, c call, from, until int) {
	t := &p.tiers[p.goods[from].tier]
	below := p.tiers[p.goods[from].tier-1].length
	t.before = append(t.before[:0], k.most[:t.length+1]...)
	t.filled = append(t.filled[:0], t.before...)
	best := math.Inf(-1)
	for b := p.least; b <= t.length; b++ { // something that nobody needs may come in between
		best = max(best, t.before[b-p.least])
		t.filled[b] = max(t.filled[b], best)
	}
	t.soonest = max(0, below+1-max(p.goods[from].longest(), p.goods[from].next))
	t.inside = t.inside[:0]
	for range t.length + 1 {
		t.inside = append(t.inside, math.Inf(-1))
	}
	for i := from; i < until; i++ {
		g := &p.goods[i]
		for kind, pay := range k.offer(p, c, i, t.inside[t.soonest:]) {
			if pay <= 0 {
				continue
			}
			if t.soonest+g.minutes[kind] <= t.length {
				raise(t.inside[t.soonest+g.minutes[kind]:], k.earlier[i], pay)
			}
			if begin := g.begin(kind, below); begin+g.minutes[kind] <= t.length {
				raise(t.inside[begin+g.minutes[kind]:], t.filled[begin:], pay)
			}
		}
	}
	for b := below + 1; b <= t.length; b++ {
		k.most[b] = max(k.most[b], t.inside[b])
	}
}

// begin is the soonest minute a good may begin that is the first its tier hears alone: it, or what changes places with it, ends after the shorter classes.
func (g *good) begin(kind, below int) int {
	return max(0, below+1-max(g.minutes[kind], g.next))
}

// tell goes back from the minute a filling ends at, to what it holds.
func (k *Packing) tell(p *Pack, end int) {
	b := end
	k.now = k.now[:0]
	for i := len(p.goods) - 1; i >= 0; {
		now, inside := p.goods[i].tier, false
		t := &p.tiers[now]
		if now > 0 {
			inside = b > p.tiers[now-1].length && b <= t.length && t.inside[b] > t.before[b]
		}
		for ; i >= 0 && p.goods[i].tier == now; i-- {
			earlier, g := k.earlier[i], &p.goods[i]
			at := b - t.soonest
			if len(earlier) == 0 || at < 0 || at >= len(earlier) || now > 0 && !inside {
				continue
			}
			most, kind, leaves := earlier[at], -1, false
			for j, pay := range k.pays(g) {
				rest := b - g.minutes[j]
				if pay <= 0 || rest < 0 {
					continue
				}
				if rest >= t.soonest && earlier[rest-t.soonest]+pay > most {
					most, kind, leaves = earlier[rest-t.soonest]+pay, j, false
				}
				if now > 0 && rest >= g.begin(j, p.tiers[now-1].length) && t.filled[rest]+pay > most {
					most, kind, leaves = t.filled[rest]+pay, j, true
				}
			}
			if kind < 0 {
				continue
			}
			k.now = append(k.now, held{int32(i), int32(kind)})
			b -= g.minutes[kind]
			if leaves {
				inside = false
				if t.filled[b] > t.before[b] {
					b = slices.Index(t.before, t.filled[b])
				}
			}
		}
	}
}

// pays is what a teach and a review of a good are paid, nothing where it may not be or is too long.
func (k *Packing) pays(g *good) (pays [2]float64) {
	cost := k.x.Subproblems[g.subproblem].Cost[2*g.dim : 2*g.dim+2]
	for kind, may := range g.may {
		if may && g.minutes[kind] <= g.until {
			pays[kind] = cost[kind]
		}
	}
	return pays
}
