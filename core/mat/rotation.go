package mat

import (
	"cmp"
	"math"
	"math/bits"
	"slices"
)

// Person is somebody on the mat.
type Person struct {
	ID     string  `json:"id"`
	Weight float64 `json:"weight" doc:"Kilograms; 0 when unknown"`
	Rank   int     `json:"rank" doc:"Position on the ladder"`
	Out    string  `json:"out,omitempty" doc:"Why they are not paired, such as a hold"`
}

// Wish says how a rotation is made.
type Wish struct {
	Rounds int         `json:"rounds" minimum:"1" maximum:"60"`
	Odd    string      `json:"odd" enum:"coach,trio" doc:"Where the one left over goes"`
	Mix    string      `json:"mix" enum:"any,similar,mixed" doc:"Ranks in a pair: no matter, close, or far apart"`
	Never  [][2]string `json:"never,omitempty" doc:"Those who must not be paired"`
	Done   []Round     `json:"done,omitempty" doc:"Rounds already run tonight; they stay"`
}

// Pair is two people who work together.
type Pair [2]string

// Round is who works with whom at one time.
type Round struct {
	Pairs []Pair `json:"pairs"`
	Odd   string `json:"odd,omitempty" doc:"The one left over: with the coach, or third in the pair Third"`
	Third int    `json:"third" doc:"Index of the pair the odd one joins; -1 for the coach"`
	Again []Pair `json:"again,omitempty" doc:"Pairs that had to be used a second time"`
	Apart []Pair `json:"apart,omitempty" doc:"Left over together and not to be paired: each works with the coach"`
}

// Rotation is the pairing of one class.
type Rotation struct {
	Rounds []Round  `json:"rounds"`
	Out    []Person `json:"out"`
	Fresh  int      `json:"fresh" doc:"Rounds possible before a pair must repeat: n−1 for an even number, n for an odd one, when nobody is kept apart"`
}

// costs of a pair; a ban outweighs any number of repeats, a repeat any difference in size.
const (
	banned    = 1e12
	repeated  = 1e7
	nobody    = "" // the empty place of an odd number
	exactUpTo = 16

	seatingsTried = 12
)

// Rotate pairs people for some rounds. Those with Out set are left out. It sits
// people on the circle of the round-robin tournament (one stays, the others move
// on by one), whose n−1 rounds use every pair once for even n, and searches the
// seating and the choice of rounds for the closest sizes, with nobody banned and no
// pair of the rounds already run. Where the circle has no such rounds (many bans,
// many rounds run), and for rounds beyond n−1, each next round is the cheapest
// perfect matching: exact up to 16 people, improved by exchanges beyond. The empty place of
// an odd number is treated as a person, so it goes round fairly.
//
// Costs seatings tried × n⁴, and for each round beyond the circle 2^n × n up to 16
// people, n³ beyond.
func Rotate(people []Person, w Wish) Rotation {
	r := Rotation{Rounds: []Round{}, Out: []Person{}}
	var in []Person
	for _, p := range people {
		if p.Out != "" {
			r.Out = append(r.Out, p)
		} else {
			in = append(in, p)
		}
	}
	if len(in) < 2 {
		return r
	}
	if len(in)%2 == 1 {
		in = append(in, Person{ID: nobody})
	}
	n := len(in)
	r.Fresh = n - 1
	t := newTable(in, w)
	fresh := min(w.Rounds, n-1-len(w.Done))
	for k := fresh; k > 0 && k >= fresh-2; k-- {
		rounds, ok := t.circle(k)
		if !ok {
			continue
		}
		for _, m := range rounds {
			r.Rounds = append(r.Rounds, t.round(m, w))
		}
		break
	}
	for len(r.Rounds) < w.Rounds {
		r.Rounds = append(r.Rounds, t.round(t.cheapest(), w))
	}
	return r
}

// table knows what each pair costs, and how often it was used.
type table struct {
	people []Person
	cost   [][]float64
	used   [][]int
	ban    [][]bool
}

// matching gives each seat's partner.
type matching []int

// seatPair is two seats.
type seatPair [2]int

func newTable(in []Person, w Wish) *table {
	n := len(in)
	t := &table{people: in}
	at := map[string]int{}
	for i, p := range in {
		at[p.ID] = i
		t.cost, t.used, t.ban = append(t.cost, make([]float64, n)), append(t.used, make([]int, n)), append(t.ban, make([]bool, n))
	}
	for i, a := range in {
		for j, b := range in {
			t.cost[i][j] = unlike(a, b, w.Mix)
		}
	}
	for _, pair := range w.Never {
		i, okI := at[pair[0]]
		j, okJ := at[pair[1]]
		if okI && okJ {
			t.ban[i][j], t.ban[j][i] = true, true
		}
	}
	for _, round := range w.Done {
		t.remember(round, at)
	}
	return t
}

func (t *table) remember(round Round, at map[string]int) {
	use := func(a, b string) {
		i, okI := at[a]
		j, okJ := at[b]
		if okI && okJ {
			t.used[i][j]++
			t.used[j][i]++
		}
	}
	for _, p := range round.Pairs {
		use(p[0], p[1])
	}
	if round.Odd != "" {
		use(round.Odd, nobody)
	}
}

// unlike is what a pair costs: the difference in weight, in per cent of the
// lighter, squared, so that one bad pair is worse than many slightly uneven
// ones; and a little for ranks that are not the mix asked for.
func unlike(a, b Person, mix string) float64 {
	c := 0.0
	if a.Weight > 0 && b.Weight > 0 {
		d := math.Abs(a.Weight-b.Weight) / math.Min(a.Weight, b.Weight) * 100
		c = d * d / 10
	}
	gap := math.Abs(float64(a.Rank - b.Rank))
	switch mix {
	case "similar":
		c += 12 * gap
	case "mixed":
		c += 12 * math.Max(0, 2-gap)
	}
	if a.ID == nobody || b.ID == nobody {
		return 0
	}
	return c
}

// price of a pair with what was used before.
func (t *table) price(i, j int) float64 {
	c := t.cost[i][j] + repeated*float64(t.used[i][j])
	if t.ban[i][j] {
		c += banned
	}
	return c
}

// circle seats everybody on the tournament's circle and returns its best
// rounds, best first; not ok when none of the seatings tried gives so many
// without a banned or repeated pair. From each start, exchanges of two seats are
// tried until none helps; the first start is by weight, the others are shuffled by a fixed rule.
func (t *table) circle(rounds int) ([]matching, bool) {
	n := len(t.people)
	if rounds > n-1 {
		return nil, false
	}
	seats := make([]int, n)
	for i := range seats {
		seats[i] = i
	}
	slices.SortStableFunc(seats, func(a, b int) int { return cmp.Compare(t.people[a].Weight, t.people[b].Weight) })
	next := uint32(2463534242) // xorshift: the same people give the same pairs
	for range seatingsTried {
		if chosen := t.settle(seats, rounds); t.clean(chosen) {
			return chosen, true
		}
		for i := n - 1; i > 0; i-- {
			next ^= next << 13
			next ^= next >> 17
			next ^= next << 5
			j := int(next) % (i + 1)
			seats[i], seats[j] = seats[j], seats[i]
		}
	}
	return nil, false
}

// settle exchanges seats until no exchange of two makes the best rounds cheaper.
func (t *table) settle(seats []int, rounds int) []matching {
	best, chosen := t.seated(seats, rounds)
	for better := true; better; {
		better = false
		for i := range seats {
			for j := i + 1; j < len(seats); j++ {
				seats[i], seats[j] = seats[j], seats[i]
				if c, rs := t.seated(seats, rounds); c < best-1e-9 {
					best, chosen, better = c, rs, true
				} else {
					seats[i], seats[j] = seats[j], seats[i]
				}
			}
		}
	}
	return chosen
}

// clean says whether rounds hold no banned pair and none that was used before.
func (t *table) clean(rounds []matching) bool {
	for _, m := range rounds {
		for i, j := range m {
			if t.ban[i][j] || t.used[i][j] > 0 {
				return false
			}
		}
	}
	return true
}

// seated is the cost of the cheapest rounds of one seating, and those rounds.
func (t *table) seated(seats []int, rounds int) (float64, []matching) {
	n := len(seats)
	type priced struct {
		m matching
		c float64
	}
	all := make([]priced, n-1)
	for r := range n - 1 {
		m, c := make(matching, n), 0.0
		for k := range n / 2 {
			i, j := seats[(r+k)%(n-1)], seats[(r+n-1-k)%(n-1)]
			if k == 0 {
				j = seats[n-1] // the one who stays
			}
			m[i], m[j] = j, i
			c += t.price(i, j)
		}
		all[r] = priced{m, c}
	}
	slices.SortStableFunc(all, func(a, b priced) int { return cmp.Compare(a.c, b.c) })
	sum, chosen := 0.0, make([]matching, rounds)
	for r := range rounds {
		sum += all[r].c
		chosen[r] = all[r].m
	}
	return sum, chosen
}

// cheapest is the perfect matching of least price, as things were used so far.
func (t *table) cheapest() matching {
	if len(t.people) <= exactUpTo {
		return t.exact()
	}
	return t.exchanged()
}

// exact finds it by dynamic programming over the sets of people already
// paired: the lowest one not in the set is paired with each of the others.
func (t *table) exact() matching {
	n := len(t.people)
	full := 1<<n - 1
	price := make([]float64, full+1)
	last := make([]seatPair, full+1)
	for s := 1; s <= full; s++ {
		price[s] = math.Inf(1)
	}
	for s := range full {
		if math.IsInf(price[s], 1) {
			continue
		}
		i := bits.TrailingZeros(^uint(s))
		for j := i + 1; j < n; j++ {
			if s>>j&1 == 1 {
				continue
			}
			if next := s | 1<<i | 1<<j; price[s]+t.price(i, j) < price[next] {
				price[next], last[next] = price[s]+t.price(i, j), seatPair{i, j}
			}
		}
	}
	m := make(matching, n)
	for s := full; s > 0; {
		i, j := last[s][0], last[s][1]
		m[i], m[j] = j, i
		s &^= 1<<i | 1<<j
	}
	return m
}

// exchanged starts with the cheapest pairs first and exchanges partners
// between two pairs until none of it helps.
func (t *table) exchanged() matching {
	n := len(t.people)
	type edge struct {
		i, j int
		c    float64
	}
	var edges []edge
	for i := range n {
		for j := i + 1; j < n; j++ {
			edges = append(edges, edge{i, j, t.price(i, j)})
		}
	}
	slices.SortStableFunc(edges, func(a, b edge) int { return cmp.Compare(a.c, b.c) })
	m := make(matching, n)
	for i := range m {
		m[i] = -1
	}
	for _, e := range edges {
		if m[e.i] < 0 && m[e.j] < 0 {
			m[e.i], m[e.j] = e.j, e.i
		}
	}
	for better := true; better; {
		better = false
		for a := range n {
			for c := range n {
				b, d := m[a], m[c]
				if a == c || a == d {
					continue
				}
				if t.price(a, c)+t.price(b, d) < t.price(a, b)+t.price(c, d)-1e-9 {
					m[a], m[c], m[b], m[d] = c, a, d, b
					better = true
				}
			}
		}
	}
	return m
}

// round writes a matching down, notes what it used, and finds a place for the
// odd one. A pair that could only be a banned one is left apart: both sit out
// with the coach rather than work together.
func (t *table) round(m matching, w Wish) Round {
	r := Round{Pairs: []Pair{}, Third: -1}
	odd := -1
	for i, j := range m {
		if j < i {
			continue
		}
		t.used[i][j]++
		t.used[j][i]++
		a, b := t.people[i].ID, t.people[j].ID
		switch {
		case a == nobody:
			odd = j
		case b == nobody:
			odd = i
		case t.ban[i][j]:
			r.Apart = append(r.Apart, Pair{a, b})
		default:
			if t.used[i][j] > 1 {
				r.Again = append(r.Again, Pair{a, b})
			}
			r.Pairs = append(r.Pairs, Pair{a, b})
		}
	}
	if odd >= 0 {
		r.Odd = t.people[odd].ID
		if w.Odd == "trio" {
			r.Third = t.third(odd, r.Pairs)
		}
	}
	return r
}

// third is the pair nearest in size that the odd one may join; -1 if none.
func (t *table) third(odd int, pairs []Pair) int {
	best, at := math.Inf(1), -1
	for k, p := range pairs {
		c := 0.0
		for _, id := range p {
			j := slices.IndexFunc(t.people, func(x Person) bool { return x.ID == id })
			c += t.cost[odd][j]
			if t.ban[odd][j] {
				c = math.Inf(1)
			}
		}
		if c < best {
			best, at = c, k
		}
	}
	return at
}
