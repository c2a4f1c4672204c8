// Package draw gives numbers that follow from a seed alone, for searches and simulations that must give the same answer again.
package draw

// Draws is a stream of them (SplitMix64, Steele, Lea and Flood 2014).
type Draws struct{ state uint64 }

// New begins a stream; of one seed there are as many as there are numbers of streams.
func New(seed, stream uint64) *Draws {
	r := &Draws{seed*0x9e3779b97f4a7c15 + stream}
	r.Next()
	return r
}

// Next is 64 bits.
func (r *Draws) Next() uint64 {
	r.state += 0x9e3779b97f4a7c15
	z := r.state
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// Uint64 is Next, for those who want a source of numbers.
func (r *Draws) Uint64() uint64 { return r.Next() }

// IntN is one of n numbers from 0; for the few that are drawn here the remainder is even enough.
func (r *Draws) IntN(n int) int { return int(r.Next() >> 1 % uint64(n)) }

// Float64 is at least 0 and under 1.
func (r *Draws) Float64() float64 { return float64(r.Next()>>11) / (1 << 53) }

// Shuffle puts n things in any order.
func (r *Draws) Shuffle(n int, swap func(i, j int)) {
	for i := n - 1; i > 0; i-- {
		swap(i, r.IntN(i+1))
	}
}

// Perm is the numbers from 0 to n − 1 in any order.
func (r *Draws) Perm(n int) []int {
	all := make([]int, n)
	for i := range all {
		all[i] = i
	}
	r.Shuffle(n, func(i, j int) { all[i], all[j] = all[j], all[i] })
	return all
}
