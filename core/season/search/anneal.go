package search

import (
	"math"
	"slices"

	"vereda/core/season/model"
)

// Search improves a state by simulated annealing over two kinds of moves. Large: a unit is taken out
// and laid anew as a whole (relay). Small, many after each large one: a random item is put into a
// random square and pushes others out, an item changes between teach and review, two squares of a track
// exchange items; in small seasons mostly one or two squares are written anew (rewrite). A change for the worse is kept now and then, ever more rarely.
//
// It goes in rounds, each one cooling from the best so far, and the later the longer; in a small season all are short, and change
// one track alone or begin from another plan (begins). Their lengths do not depend on the wish, so a longer search is a continuation of a shorter one and never ends worse. Time is counted in steps of work: the same problem, seed and seconds give the same plan, unless the clock ends
// the search first.
type Search struct {
	st     *model.State
	relay  Relay
	refill refill
	rng    random
	best   [][]model.Item
	first  [][]model.Item
	score  float64
	limit  int64
	open   []int32                       // squares that may change
	of     [][]int32                     // per track, the squares that moves draw from
	units  []int32                       // units that may be laid in them
	all    struct{ open, units []int32 } // what may change again after a round that changes some of it alone
	alones int                           // rounds that changed one track alone
	freed  []int32                       // squares that are left free for a round
	chosen []model.Item                  // the new contents in the making
	other  []model.Item
	// rewrites are how many of a hundred small moves write squares anew.
	rewrites int
	clock    *clock    // nil: steps alone
	told     int64     // watch is asked again after this much work
	Covers   float64   // coverage of the best
	Enough   float64   // ends as soon as it covers so much; 0 for never
	heat     float64   // of the round, as it stands
	least    float64   // what the small move that was tried must gain to be taken
	near     *nearness // nil unless what is looked for is a plan near another
}

// stepsPerSecond is how many steps of work a second stands for: what a machine
// of two 2.5 GHz cores does in 0.8 to 0.95 s. Where it takes longer, the clock ends the search (see solve).
const stepsPerSecond = 5_000_000

// askedEvery is how much work lies between two questions to who watches: some 10 ms.
const askedEvery = stepsPerSecond / 100

func New(st *model.State, seed uint64, limit int64) *Search {
	h := &Search{st: st, relay: Relay{State: st}, rng: random(model.Mix(seed)), best: st.Contents(), first: st.Contents(), score: st.Score(), Covers: st.Coverage(), limit: limit}
	h.of = drawn(st.Model)
	h.refill = refill{st: st, rng: &h.rng, of: h.of, noise: refillNoise, barred: map[int32]bool{}}
	for s := range st.Model.Squares {
		if !st.Model.Squares[s].Stays() && len(st.Model.Teaches[st.Model.Squares[s].Track]) > 0 {
			h.open = append(h.open, int32(s))
		}
	}
	for u := range st.Model.Units {
		for t := range st.Model.Problem.Tracks {
			if st.Model.Can[t][u] && (len(st.Model.Units[u].Needs) > 0 || len(st.Model.Units[u].Opens) > 0) {
				h.units = append(h.units, int32(u))
				break
			}
		}
	}
	return h
}

// drawn are the squares moves draw from, by track: all of them, unless some are pinned.
func drawn(m *model.Model) [][]int32 {
	if !slices.ContainsFunc(m.Squares, func(q model.Square) bool { return q.Pinned }) {
		return m.ByTrack
	}
	of := make([][]int32, len(m.ByTrack))
	for t, all := range m.ByTrack {
		for _, s := range all {
			if !m.Squares[s].Pinned {
				of[t] = append(of[t], s)
			}
		}
	}
	return of
}

// random is a seeded run of numbers (splitmix64): the same seed, the same run.
type random uint64

func (d *random) next() uint64 {
	*d++
	return model.Mix(uint64(*d))
}

// IntN is a number from 0 to n − 1. What is off the even spread is under n in 2³².
func (d *random) IntN(n int) int { return int(d.next() >> 32 * uint64(n) >> 32) }

// Float64 is a number from 0 to below 1.
func (d *random) Float64() float64 { return float64(d.next()>>11) / (1 << 53) }

const (
	smallMoves  = 250   // after each large one
	firstHeat   = 0.5   // of what an item is worth on average
	lastHeat    = 0.003 // of the first, at the end of a round
	leastHeat   = 0.1   // of the first, in a round too short for the season
	fullRound   = 200   // steps for each unit and square that may change, from which a round can bear the whole of the first heat
	relayLure   = 0.25  // what progress counts while a unit grows
	refills     = 50    // of a hundred large moves
	refillNoise = 0.5   // how far greed may be off what it sees
	roundSteps  = 1200  // of a round in a small season, for each unit and square that may change
	lagBorne    = 0.25  // of what is left of a round: up to here a machine that falls behind does not change the plan; at its end it must be cold
	smallSeason = 2500  // units × squares: up to here many short rounds find more than few long ones
)

// roundsEnd are the seconds at which rounds of a season that is not small end. Each takes two fifths to two thirds of what was spent by its end, since one long
// cooling finds more than several short ones; and they end where people wish a search to end.
var roundsEnd = []float64{0.02, 0.05, 0.1, 0.25, 0.5, 1, 3, 5, 10, 20, 30, 60, 120, 300, 600}

// roundLength is the steps of work of a round.
func roundLength(round int) int64 {
	if round >= len(roundsEnd) {
		return int64(roundsEnd[len(roundsEnd)-1] / 2 * stepsPerSecond)
	}
	from := 0.0
	if round > 0 {
		from = roundsEnd[round-1]
	}
	return int64((roundsEnd[round] - from) * stepsPerSecond)
}

// Run anneals round after round until the work is spent or watch says stop.
func (h *Search) Run(watch func() bool) {
	if len(h.open) == 0 || len(h.units) == 0 {
		return
	}
	items := 1
	for _, s := range h.open {
		items += len(h.st.Items[s])
	}
	size := int64(len(h.units)) * int64(len(h.open))
	small := size <= smallSeason
	if small {
		if h.limit >= size*roundSteps { // in less than a round single items find more
			h.rewrites = rewrites
		}
		whole := h.st.Model
		h.st.Model = whole.Apart() // whoever else has it, as a proof, does not see what is pinned here
		defer func() { h.st.Model = whole }()
	}
	heat := firstHeat * max(h.st.Coverage(), 0.05) / float64(items)
	planned := int64(0)
	for round := 0; ; round++ {
		size, length := size, roundLength(round)
		if small {
			size = h.begins(round)
			length = size * roundSteps
		}
		if planned += length; planned > h.limit && round > 0 {
			break // a longer search would have had the whole of it: what it finds must not depend on where it is cut
		}
		length = min(length, h.limit)
		// What is cooled too fast freezes where it is: the shorter a round for its season, the colder it begins.
		hot := heat * max(leastHeat, min(1, float64(length)/float64(size*fullRound)))
		if !h.round(hot, lastHeat, length, watch) {
			break
		}
		h.everywhere()
		if small {
			h.cross()
		}
		h.st.Take(h.best)
	}
	h.everywhere()
	h.st.Take(h.best)
}

// round is one cooling over so many steps of work, from a heat down to a share of it; it says false when the search is to end.
func (h *Search) round(hot, cold float64, length int64, watch func() bool) bool {
	now := h.worth()
	from := h.st.Work
	ends := h.clock.from()
	for h.st.Work < from+length {
		if h.Enough > 0 && h.Covers >= h.Enough {
			return false
		}
		share := float64(h.st.Work-from) / float64(length)
		if late := ends(); late > share+lagBorne*(1-share) { // cold when the clock is up, whatever the machine is busy with
			if h.clock.behind = true; late >= 1 {
				return false
			}
			share = late
		}
		h.heat = hot * math.Pow(cold, share)
		if h.st.Work >= h.told {
			h.told = h.st.Work + askedEvery
			if watch != nil && !watch() {
				return false
			}
		}
		changed, back := true, h.relay.back
		if h.rng.IntN(100) < refills {
			changed, back = h.refill.do(h.open[h.rng.IntN(len(h.open))]), h.refill.back
		} else {
			h.relay.do(h.units[h.rng.IntN(len(h.units))], relayLure)
		}
		if changed {
			if h.near != nil {
				h.near.count(h.st)
			}
			if next := h.worth(); h.takes(now, next) {
				now = h.note(next)
			} else {
				back()
			}
		}
		for range smallMoves {
			h.st.Work++
			if !h.move() {
				continue
			}
			if next := h.worth(); next-now >= h.least {
				now = h.note(next)
			} else {
				h.st.Undo()
			}
		}
	}
	return true
}

func (h *Search) takes(now, next float64) bool { return next-now >= h.margin() }

// margin is what a change must gain to be taken: at this heat and by this draw. Drawn first, it tells of most changes that they need not be tried.
func (h *Search) margin() float64 { return h.heat * math.Log(1-h.rng.Float64()) }

// worth is what the search climbs.
func (h *Search) worth() float64 {
	if h.near != nil {
		return h.near.worth(h.st.Coverage(), h.near.then)
	}
	return h.st.Score()
}

// note remembers the best.
func (h *Search) note(score float64) float64 {
	switch {
	case h.near != nil:
		if h.near.now = h.near.then; h.near.better(h.st) {
			h.Covers = h.st.Coverage()
			h.keep()
		}
	case score > h.score+1e-12:
		h.score, h.Covers = score, h.st.Coverage()
		h.keep()
	}
	return score
}

// keep remembers the contents as the best.
func (h *Search) keep() {
	for s := range h.st.Items {
		h.best[s] = h.st.Items[s] // contents are replaced, never written into
	}
}

// try makes a change, if it gains enough to be taken and keeps the rules.
func (h *Search) try(changes ...model.Change) bool {
	for _, c := range changes {
		if !h.st.Fits(c.Square, c.Items) {
			return false
		}
	}
	h.least = h.margin()
	if h.near != nil {
		if h.near.gain(h.st, changes) < h.least {
			return false
		}
	} else if !h.st.Gains(h.least, changes...) {
		return false
	}
	return h.st.Try(changes...)
}

func (h *Search) move() bool {
	if h.near != nil && h.rng.IntN(100) < restores {
		return h.restore()
	}
	s := int(h.open[h.rng.IntN(len(h.open))])
	if h.rewrites > 0 && h.rng.IntN(100) < h.rewrites {
		return h.rewrite(s)
	}
	if h.st.Model.Squares[s].Uneven && h.rng.IntN(8) == 0 {
		return h.reorder(s)
	}
	switch r := h.rng.IntN(100); {
	case r < 62:
		return h.push(s)
	case r < 72:
		return h.turn(s)
	case r < 96:
		return h.exchange(s)
	}
	return h.remove(s)
}

// push puts a random item into a square; what has no room any more goes.
func (h *Search) push(s int) bool {
	q := &h.st.Model.Squares[s]
	all := h.st.Model.Teaches[q.Track]
	u := all[h.rng.IntN(len(all))]
	if model.HasUnit(h.st.Items[s], u) {
		return false
	}
	kind := model.Teach
	if h.st.First(q.Track, u) < q.Day && h.rng.IntN(100) < reviewed {
		kind = model.Review
	}
	if h.st.Model.Units[u].Cost[kind] > q.Minutes || kind == model.Teach && h.st.Model.OffLine(q, u) {
		return false
	}
	h.chosen = append(h.chosen[:0], h.st.Items[s]...)
	h.evict(s, h.st.Model.Units[u].Cost[kind], -1)
	h.chosen = append(h.chosen, model.Item{Unit: u, Kind: kind})
	h.shuffle(q)
	return h.try(model.Change{Square: s, Items: h.chosen})
}

// evict takes random items out of the chosen contents of a square until more
// minutes fit, but never the one at keep.
func (h *Search) evict(s, more, keep int) {
	used := more
	for _, it := range h.chosen {
		used += h.st.Model.Units[it.Unit].Cost[it.Kind]
	}
	room := len(h.chosen) + 1
	if most := h.st.Model.Rules[h.st.Model.Squares[s].Track].MostUnits; most > 0 && more > 0 {
		room = most - 1 // for the one that comes
	}
	for (used > h.st.Model.Squares[s].Minutes || len(h.chosen) > room) && len(h.chosen) > 0 {
		i := h.rng.IntN(len(h.chosen))
		if i == keep {
			if len(h.chosen) == 1 {
				return
			}
			continue
		}
		used -= h.st.Model.Units[h.chosen[i].Unit].Cost[h.chosen[i].Kind]
		last := len(h.chosen) - 1
		if last == keep {
			keep = i
		}
		h.chosen[i] = h.chosen[last]
		h.chosen = h.chosen[:last]
	}
}

// shuffle gives the newest item a random place where the order matters.
func (h *Search) shuffle(q *model.Square) {
	if last := len(h.chosen) - 1; q.Uneven && last > 0 {
		i := h.rng.IntN(last + 1)
		h.chosen[i], h.chosen[last] = h.chosen[last], h.chosen[i]
	}
}

// turn makes a review of a teach, or a teach of a review.
func (h *Search) turn(s int) bool {
	if len(h.st.Items[s]) == 0 {
		return false
	}
	h.chosen = append(h.chosen[:0], h.st.Items[s]...)
	i := h.rng.IntN(len(h.chosen))
	h.chosen[i].Kind = 1 - h.chosen[i].Kind
	if h.st.Model.Units[h.chosen[i].Unit].Cost[h.chosen[i].Kind] > h.st.Model.Squares[s].Minutes {
		return false
	}
	h.evict(s, 0, i)
	return h.try(model.Change{Square: s, Items: h.chosen})
}

// exchange swaps an item of a square for one of another square of the track,
// or moves it there.
func (h *Search) exchange(s int) bool {
	of := h.of[h.st.Model.Squares[s].Track]
	o := int(of[h.rng.IntN(len(of))])
	if o == s || h.st.Model.Squares[o].Stays() || len(h.st.Items[s]) == 0 {
		return false
	}
	a := append(h.chosen[:0], h.st.Items[s]...)
	b := append(h.other[:0], h.st.Items[o]...)
	h.chosen, h.other = a, b
	i := h.rng.IntN(len(a))
	j := h.rng.IntN(len(b) + 1)
	if j < len(b) {
		a[i], b[j] = b[j], a[i]
	} else {
		b = append(b, a[i])
		a[i] = a[len(a)-1]
		a = a[:len(a)-1]
	}
	h.chosen, h.other = a, b
	return h.try(model.Change{Square: s, Items: a}, model.Change{Square: o, Items: b})
}

// reorder exchanges two items of a square whose classes differ in length: the shorter ones hear what comes first.
func (h *Search) reorder(s int) bool {
	if len(h.st.Items[s]) < 2 {
		return false
	}
	h.chosen = append(h.chosen[:0], h.st.Items[s]...)
	i, j := h.rng.IntN(len(h.chosen)), h.rng.IntN(len(h.chosen)-1)
	if j >= i {
		j++
	}
	h.chosen[i], h.chosen[j] = h.chosen[j], h.chosen[i]
	return h.try(model.Change{Square: s, Items: h.chosen})
}

func (h *Search) remove(s int) bool {
	if len(h.st.Items[s]) == 0 {
		return false
	}
	h.chosen = append(h.chosen[:0], h.st.Items[s]...)
	i, last := h.rng.IntN(len(h.chosen)), len(h.chosen)-1
	h.chosen[i] = h.chosen[last]
	h.chosen = h.chosen[:last]
	return h.try(model.Change{Square: s, Items: h.chosen})
}
