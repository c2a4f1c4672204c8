package rotation

// rng draws numbers that follow from its seed alone (SplitMix64, Steele, Lea and Flood 2014).
type rng struct{ state uint64 }

func newRNG(seed, stream uint64) *rng {
	r := &rng{seed*0x9e3779b97f4a7c15 + stream}
	r.next()
	return r
}

func (r *rng) next() uint64 {
	r.state += 0x9e3779b97f4a7c15
	z := r.state
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// IntN is one of n numbers from 0; for the few that are drawn here the remainder is even enough.
func (r *rng) IntN(n int) int { return int(r.next() >> 1 % uint64(n)) }

// Float64 is at least 0 and under 1.
func (r *rng) Float64() float64 { return float64(r.next()>>11) / (1 << 53) }

// Shuffle puts n things in any order.
func (r *rng) Shuffle(n int, swap func(i, j int)) {
	for i := n - 1; i > 0; i-- {
		swap(i, r.IntN(i+1))
	}
}

// Perm is the numbers from 0 to n − 1 in any order.
func (r *rng) Perm(n int) []int {
	all := make([]int, n)
	for i := range all {
		all[i] = i
	}
	r.Shuffle(n, func(i, j int) { all[i], all[j] = all[j], all[i] })
	return all
}
