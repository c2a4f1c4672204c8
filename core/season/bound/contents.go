package bound

import (
	"cmp"
	"fmt"
	"math"
	"math/bits"
	"slices"
)

// contents are all that a pack may hold where these are few, as a tree: unit by unit, given in one of its audiences as a teach or a review, or not at all. Only such
// are kept that nothing can be added to without asking for other sign-offs: prices are never under nothing. Going through them at prices, what cannot bring more than
// the best so far is passed over; the best of the last prices is looked at first.
type contents struct {
	options []option
	nodes   []node
	allowed [][]int // per kind of sign-offs asked for, the calls that allow them
	best    content // at the last prices
	// in the making
	pays, leads, sums []float64
	rest, rate        []float64 // per unit, what it and those after it can be paid at most: all of them, and for a minute
	path              []int16
}

// content is what a pack holds, and the sign-offs it asks for.
type content struct {
	options []int16
	asks    int
}

// kinds are a set of what contents ask of their leads: a bit for holding nothing, then one for each of those allowed.
type kinds uint64

const (
	nothing   kinds = 1
	anyKind         = ^kinds(0)
	mostKinds       = 1 + mostCalls // each but nothing has a call that allows just that
)

// kind is that of contents which ask for so many-th.
func kind(asks int) kinds { return 1 << (1 + asks) }

// option is a good as a teach or a review, of the so many-th unit.
type option struct {
	held
	unit int
}

// node is an option taken besides those of the nodes it stands below.
type node struct {
	option int16
	depth  int16
	asks   int32   // the sign-offs asked for; −1 where it is no content of its own
	after  int32   // the next node that does not stand below it
	left   float32 // minutes of the longest classes
}

const (
	mostNodes = 1_000_000 // of a tree
	nodesWork = 100       // gone through in a microsecond, with what else there is to do
	listWork  = 1         // tenths of a microsecond that each takes to be listed
)

// lister lists a pack's contents: what is taken so far, and in how many minutes of each tier.
type lister struct {
	p       *Pack
	t       *contents
	units   [][]int16 // of each, its options
	taken   []int16
	without []bool // per unit, whether nothing of it is taken
	used    []int
	tiers   []int // per option, its tier and minutes
	lengths []int
	own     call   // in the making: the sign-offs asked for
	kinds   []call // of sign-offs asked for, met so far
	asked   []int  // what each is among those allowed
}

// list makes the tree of a pack's contents, unless there are too many, and says about how many microseconds it took.
func (k *Packing) list(p *Pack) (work int) {
	t := &contents{}
	l := lister{p: p, t: t, used: make([]int, len(p.tiers)), own: make(call, len(p.tiers))}
	for _, u := range k.dearest(p) {
		var own []int16
		for i, g := range p.goods {
			for kind, may := range g.may {
				if may && g.subproblem == u {
					own = append(own, int16(len(t.options)))
					l.tiers, l.lengths = append(l.tiers, g.tier), append(l.lengths, g.minutes[kind])
					t.options = append(t.options, option{held{int32(i), int32(kind)}, len(l.units)})
				}
			}
		}
		l.units, l.without = append(l.units, own), append(l.without, true)
	}
	if len(t.options) > math.MaxInt16 || p.tiers[len(p.tiers)-1].length >= mostMinutes {
		return 0
	}
	counts := 0
	if !l.from(0, func() bool { counts++; return counts <= mostNodes }, func() {}) {
		return counts / 40
	}
	var path []int // nodes the one in the making stands below
	l.from(0, func() bool {
		path = append(path, len(t.nodes))
		left := p.tiers[len(p.tiers)-1].length
		for _, used := range l.used {
			left -= used
		}
		last := len(l.taken) - 1
		t.nodes = append(t.nodes, node{option: l.taken[last], depth: int16(last), asks: int32(l.asks()), left: float32(left)})
		return true
	}, func() {
		n := path[len(path)-1]
		if path = path[:len(path)-1]; n == len(t.nodes)-1 && t.nodes[n].asks < 0 {
			t.nodes = t.nodes[:n] // nothing stands below it, and it is none itself
		} else {
			t.nodes[n].after = int32(len(t.nodes))
		}
	})
	p.keep(t, len(l.units))
	return counts * listWork / 10
}

// alike is what packs have in common that may hold the same, whoever is there to lead it.
func (p *Pack) alike() string {
	var of []any
	of = append(of, p.goods, p.idle)
	for _, t := range p.tiers {
		of = append(of, t.length)
	}
	for _, c := range p.calls {
		for _, t := range c {
			of = append(of, t.signoffs)
		}
	}
	return fmt.Sprintln(of...)
}

// keep lets a pack hold some contents, of so many units, with prices of its own.
func (p *Pack) keep(of *contents, units int) {
	t := &contents{options: of.options, nodes: of.nodes, allowed: of.allowed}
	t.pays, t.sums, t.leads = make([]float64, len(t.options)), make([]float64, units+1), make([]float64, len(t.allowed))
	t.rest, t.rate, t.path = make([]float64, units+1), make([]float64, units+1), make([]int16, units)
	p.contents, p.kinds = t, anyKind
}

// listAll lists the contents of all packs, those of packs with the same goods for the same calls once.
func (k *Packing) listAll() (work int) {
	known := map[string]*contents{}
	for i := range k.Packs {
		p := &k.Packs[i]
		key := p.alike()
		t, ok := known[key]
		switch {
		case !ok:
			work += k.list(p)
			known[key] = p.contents
		case t != nil:
			p.keep(t, len(t.path))
		}
	}
	return work
}

// from goes through all that has room, an option of a unit from one on besides what is taken: before, and after what stands below it. It ends where before says so.
func (l *lister) from(unit int, before func() bool, after func()) bool {
	for u := unit; u < len(l.units); u++ {
		for _, o := range l.units[u] {
			if !l.room(o) {
				continue
			}
			l.take(o)
			if !before() || !l.from(u+1, before, after) {
				return false
			}
			after()
			l.back()
		}
	}
	return true
}

func (l *lister) good(option int16) *good { return &l.p.goods[l.t.options[option].good] }

// take takes an option besides, and back takes the last one back.
func (l *lister) take(o int16) {
	l.taken, l.without[l.t.options[o].unit] = append(l.taken, o), false
	l.used[l.tiers[o]] += l.lengths[o]
}

func (l *lister) back() {
	last := len(l.taken) - 1
	o := l.taken[last]
	l.taken, l.without[l.t.options[o].unit] = l.taken[:last], true
	l.used[l.tiers[o]] -= l.lengths[o]
}

// room says whether the minutes of an option are there: each class hears what the shorter ones do, and its own.
func (l *lister) room(o int16) bool {
	tier, used := l.tiers[o], l.lengths[o]
	for j := range l.p.tiers {
		if used += l.used[j]; j >= tier && used > l.p.tiers[j].length {
			return false
		}
	}
	return true
}

// asks is what kind of sign-offs is asked for, where what is taken can be held so and led and no other can be added that asks for no more; −1 else.
func (l *lister) asks() int {
	if !l.ordered() {
		return -1
	}
	own := l.own
	clear(own)
	for _, o := range l.taken {
		own[l.tiers[o]].signoffs |= l.good(o).signoff
	}
	for j := 1; j < len(own); j++ {
		own[j].signoffs |= own[j-1].signoffs // the longer classes hear that too
	}
	for u, options := range l.units {
		if !l.without[u] {
			continue
		}
		for _, o := range options {
			if !l.room(o) || l.good(o).signoff&^own[l.tiers[o]].signoffs != 0 {
				continue
			}
			l.take(o)
			more := l.ordered()
			if l.back(); more {
				return -1
			}
		}
	}
	at := slices.IndexFunc(l.kinds, func(c call) bool { return slices.Equal(c, own) })
	if at < 0 {
		at = len(l.kinds)
		l.kinds, l.asked = append(l.kinds, slices.Clone(own)), append(l.asked, -1)
		var allowed []int
		for i, c := range l.p.calls {
			if c.holds(own) {
				allowed = append(allowed, i)
			}
		}
		if len(allowed) > 0 {
			l.asked[at] = len(l.t.allowed)
			l.t.allowed = append(l.t.allowed, allowed)
		}
	}
	return l.asked[at]
}

// ordered says whether what is taken can be held one after another: those of a tier end after the shorter classes do, the longest of it first. Only what nobody needs may
// come before each tier: with anything else it is another content.
func (l *lister) ordered() bool {
	tiers := l.p.tiers
	if len(tiers) == 1 {
		return true
	}
	ends, end, idle := minutes{1}, 0, l.p.idle != minutes{1}
	for j := range tiers {
		sum := l.used[j]
		if sum == 0 {
			continue
		}
		soonest := 0
		if j > 0 {
			longest := 0
			for _, o := range l.taken {
				if l.tiers[o] == j {
					longest = max(longest, l.lengths[o])
				}
			}
			soonest = max(0, tiers[j-1].length+1-longest)
		}
		if !idle { // nothing comes in between
			if end < soonest || end+sum > tiers[j].length {
				return false
			}
			end += sum
			continue
		}
		ends = ends.each(l.p.idle).and(from(soonest)).later(sum).and(from(tiers[j].length + 1).not())
		if ends == (minutes{}) {
			return false
		}
	}
	return true
}

// minutes is a set of them.
type minutes [4]uint64

const mostMinutes = 256

// from are all minutes from one on.
func from(first int) (m minutes) {
	for i := range m {
		switch at := first - 64*i; {
		case at <= 0:
			m[i] = ^uint64(0)
		case at < 64:
			m[i] = ^uint64(0) << at
		}
	}
	return m
}

func (m minutes) or(o minutes) minutes {
	return minutes{m[0] | o[0], m[1] | o[1], m[2] | o[2], m[3] | o[3]}
}
func (m minutes) and(o minutes) minutes {
	return minutes{m[0] & o[0], m[1] & o[1], m[2] & o[2], m[3] & o[3]}
}
func (m minutes) not() minutes { return minutes{^m[0], ^m[1], ^m[2], ^m[3]} }

// each are all of them later by each of some.
func (m minutes) each(by minutes) (sum minutes) {
	for i, w := range by {
		for ; w != 0; w &= w - 1 {
			sum = sum.or(m.later(64*i + bits.TrailingZeros64(w)))
		}
	}
	return sum
}

// later are all of them by so much later.
func (m minutes) later(by int) (l minutes) {
	for i := range m {
		if o := i - by/64; o >= 0 {
			l[i] = m[o] << (by % 64)
			if o > 0 && by%64 > 0 {
				l[i] |= m[o-1] >> (64 - by%64)
			}
		}
	}
	return l
}

// dearest are the units of a pack, those first that are paid most for: what is passed over then brings least.
func (k *Packing) dearest(p *Pack) (units []int32) {
	pay := map[int32]float64{}
	for i := range p.goods {
		g := &p.goods[i]
		if _, known := pay[g.subproblem]; !known {
			units = append(units, g.subproblem)
		}
		pays := k.pays(g)
		pay[g.subproblem] = max(pay[g.subproblem], pays[0], pays[1])
	}
	slices.SortStableFunc(units, func(a, b int32) int { return cmp.Compare(pay[b], pay[a]) })
	return units
}

// hold is the most a pack with a tree can be paid, less what leading it costs: prices are those of the calls. The best is the last then.
func (k *Packing) hold(p *Pack, prices []float64) float64 {
	t := p.contents
	clear(t.rest)
	clear(t.rate)
	for i, o := range t.options {
		g := &p.goods[o.good]
		t.pays[i] = k.pays(g)[o.kind]
		t.rest[o.unit], t.rate[o.unit] = max(t.rest[o.unit], t.pays[i]), max(t.rate[o.unit], t.pays[i]/float64(g.minutes[o.kind]))
	}
	for u := len(t.path) - 1; u >= 0; u-- {
		t.rest[u] += t.rest[u+1]
		t.rate[u] = max(t.rate[u], t.rate[u+1])
	}
	least := math.Inf(1)
	for i, calls := range t.allowed {
		t.leads[i] = math.Inf(1)
		for _, c := range calls {
			t.leads[i] = min(t.leads[i], prices[c])
		}
		if p.kinds&kind(i) != 0 {
			least = min(least, t.leads[i])
		}
	}
	most, best := math.Inf(-1), &t.best
	if p.kinds&nothing != 0 {
		most = 0
	}
	if len(best.options) > 0 {
		last := -t.leads[best.asks]
		for _, o := range best.options {
			last += t.pays[o]
		}
		if last > most && p.kinds&kind(best.asks) != 0 {
			most = last
		} else {
			best.options = best.options[:0]
		}
	}
	looks := 4 * len(t.options)
	for i := 0; i < len(t.nodes); looks++ {
		n := &t.nodes[i]
		sum := t.sums[n.depth] + t.pays[n.option]
		next := t.options[n.option].unit + 1
		if sum+min(t.rest[next], float64(n.left)*t.rate[next])-least <= most {
			i = int(n.after)
			continue
		}
		t.sums[n.depth+1], t.path[n.depth] = sum, n.option
		if n.asks >= 0 && p.kinds&kind(int(n.asks)) != 0 {
			if net := sum - t.leads[n.asks]; net > most {
				most, best.options, best.asks = net, append(best.options[:0], t.path[:n.depth+1]...), int(n.asks)
			}
		}
		i++
	}
	k.looked += looks
	k.filled += k.looked / nodesWork
	k.looked %= nodesWork
	return most
}

// now is the kind of the best at the last prices.
func (t *contents) now() int {
	if len(t.best.options) == 0 {
		return 0
	}
	return 1 + t.best.asks
}

// told tells what the best holds, and who leads it.
func (k *Packing) told(p *Pack, prices []float64, take func(subproblem, at int32), leads func(coach int)) {
	t := p.contents
	if len(t.best.options) == 0 {
		return
	}
	for _, o := range t.best.options {
		if g := &p.goods[t.options[o].good]; t.pays[o] > 0 {
			take(g.subproblem, 2*g.dim+t.options[o].kind)
		}
	}
	cheapest := slices.MinFunc(t.allowed[t.best.asks], func(a, b int) int { return cmp.Compare(prices[a], prices[b]) })
	k.lead(p, p.calls[cheapest], leads)
}
