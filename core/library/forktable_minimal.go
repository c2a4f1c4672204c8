package library

import (
	"cmp"
	"math/bits"
	"slices"
)

// How far the search for the smallest table goes before it says that it is
// not proven.
const (
	exactCues    = 8
	mostPrimes   = 3000
	mostBranches = 200_000
)

// Minimal returns the fewest rules that give each situation the answers it has
// now; what is uncovered stays so, and where two answers contradict each other
// both stay. The rules need no priority: those of different answers overlap nowhere
// but in contradictions. exact says that no smaller table exists.
//
// The rules of one answer are independent of those of the others: a rule for an answer must lie
// wholly where that answer is given. So for each answer it finds all largest boxes that
// fit (the primes), then the fewest of them that cover: exactly up to 8 cues, by
// reduction and branch and bound; beyond, or when there are too many primes, by
// growing and leaving out, which is not proven.
func (t Table) Minimal() (rules []Rule, exact bool) {
	l := t.lay()
	exact = true
	var answers []string
	for _, r := range l.rows {
		if !slices.Contains(answers, r.Then) {
			answers = append(answers, r.Then)
		}
	}
	slices.Sort(answers)
	rules = []Rule{}
	for _, a := range answers {
		region := l.given(a)
		cover, proven := l.cover(region)
		exact = exact && proven
		for _, b := range cover {
			rules = append(rules, Rule{l.pattern(b), a})
		}
	}
	return rules, exact
}

// given is where an answer is among those that decide, in disjoint boxes.
func (l *laid) given(answer string) []box {
	var region []box
	for i, r := range l.rows {
		if r.Then == answer {
			region = append(region, l.without(l.decides[i], region)...)
		}
	}
	return region
}

func (l *laid) cover(region []box) (cover []box, proven bool) {
	if len(region) == 0 {
		return nil, true
	}
	if len(l.fields) > exactCues {
		return l.fewest(region), len(region) == 1
	}
	primes, all := l.primes(region)
	if !all {
		return l.fewest(region), false
	}
	s := newCovering(&l.grid, primes, region)
	chosen, proven := s.solve(len(l.fewest(region)))
	if chosen == nil {
		return l.fewest(region), proven
	}
	for _, p := range chosen {
		cover = append(cover, primes[p])
	}
	l.bySize(cover)
	return cover, proven
}

// primes lists the largest boxes inside a region: everything, cut back by each
// box outside of it in every way that is not inside another.
func (l *laid) primes(region []box) (primes []box, all bool) {
	outside := l.without([]box{l.full}, region)
	l.bySize(outside)
	primes = []box{l.full}
	for _, c := range outside {
		var next []box
		for _, b := range primes {
			if _, hit := l.meet(b, c); !hit {
				next = append(next, b)
				continue
			}
			for _, f := range l.fields {
				if rest := b[f.word] & f.mask &^ c[f.word]; rest != 0 {
					cut := b
					cut[f.word] = b[f.word]&^f.mask | rest
					next = append(next, cut)
				}
			}
		}
		primes = l.largest(next)
		if len(primes) > mostPrimes {
			return nil, false
		}
	}
	return primes, true
}

// largest drops boxes that lie in another.
func (g *grid) largest(all []box) []box {
	g.bySize(all)
	var kept []box
	for _, b := range all {
		if !slices.ContainsFunc(kept, func(had box) bool { return b.within(had) }) {
			kept = append(kept, b)
		}
	}
	return kept
}

// bitset is a set of primes.
type bitset []uint64

func (s bitset) has(i int) bool { return s[i/64]>>(i%64)&1 == 1 }
func (s bitset) within(o bitset) bool {
	for i := range s {
		if s[i]&^o[i] != 0 {
			return false
		}
	}
	return true
}
func (s bitset) meets(o bitset) bool {
	for i := range s {
		if s[i]&o[i] != 0 {
			return true
		}
	}
	return false
}
func (s bitset) count() int {
	n := 0
	for _, w := range s {
		n += bits.OnesCount64(w)
	}
	return n
}

// covering asks for the fewest primes that meet every demand: a demand is the
// set of primes that cover some situation.
type covering struct {
	primes   int
	demands  []bitset
	branches int
	best     []int
	bound    int
}

// newCovering cuts the region into the pieces that the primes tell apart, and
// keeps the demands that are not met by the way with another.
func newCovering(g *grid, primes []box, region []box) *covering {
	s := &covering{primes: len(primes)}
	type piece struct {
		b   box
		set bitset
	}
	var pieces []piece
	for _, b := range region {
		pieces = append(pieces, piece{b, make(bitset, (len(primes)+63)/64)})
	}
	for i, p := range primes {
		var next []piece
		for _, x := range pieces {
			in, ok := g.meet(x.b, p)
			if !ok {
				next = append(next, x)
				continue
			}
			for _, rest := range g.minus(nil, x.b, p) {
				next = append(next, piece{rest, x.set})
			}
			with := slices.Clone(x.set)
			with[i/64] |= 1 << (i % 64)
			next = append(next, piece{in, with})
		}
		pieces = next
	}
	slices.SortStableFunc(pieces, func(a, b piece) int { return cmp.Compare(a.set.count(), b.set.count()) })
	for _, x := range pieces {
		if !slices.ContainsFunc(s.demands, func(had bitset) bool { return had.within(x.set) }) {
			s.demands = append(s.demands, x.set)
		}
	}
	return s
}

// solve finds the fewest primes, knowing a cover of the given size exists. It
// returns nil when there is none smaller or it gave up; proven says which.
func (s *covering) solve(known int) (chosen []int, proven bool) {
	s.bound = known + 1 // an equal one made of primes is as good
	s.branch(s.demands, nil)
	return s.best, s.branches < mostBranches
}

func (s *covering) branch(demands []bitset, chosen []int) {
	if s.branches++; s.branches >= mostBranches {
		return
	}
	if len(demands) == 0 {
		s.best, s.bound = slices.Clone(chosen), len(chosen)
		return
	}
	if len(chosen)+s.atLeast(demands) >= s.bound {
		return
	}
	narrow := demands[0]
	for _, d := range demands {
		if d.count() < narrow.count() {
			narrow = d
		}
	}
	type option struct{ prime, meets int }
	var options []option
	for p := range s.primes {
		if !narrow.has(p) {
			continue
		}
		o := option{prime: p}
		for _, d := range demands {
			if d.has(p) {
				o.meets++
			}
		}
		options = append(options, o)
	}
	slices.SortStableFunc(options, func(a, b option) int { return cmp.Compare(b.meets, a.meets) })
	for _, o := range options {
		left := slices.DeleteFunc(slices.Clone(demands), func(d bitset) bool { return d.has(o.prime) })
		s.branch(left, append(slices.Clone(chosen), o.prime))
	}
}

// atLeast counts demands of which no two share a prime: each needs its own.
func (s *covering) atLeast(demands []bitset) int {
	var apart []bitset
	for _, d := range demands {
		if !slices.ContainsFunc(apart, func(had bitset) bool { return had.meets(d) }) {
			apart = append(apart, d)
		}
	}
	return len(apart)
}
