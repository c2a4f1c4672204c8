package ledger

// draws are numbers that follow from a seed alone (SplitMix64, Steele, Lea and Flood 2014).
type draws struct{ state uint64 }

func newDraws(seed, stream uint64) *draws {
	r := &draws{seed*0x9e3779b97f4a7c15 + stream*0xd1b54a32d192ed03}
	r.next()
	return r
}

func (r *draws) next() uint64 {
	r.state += 0x9e3779b97f4a7c15
	z := r.state
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// uniform is at least 0 and under 1.
func (r *draws) uniform() float64 { return float64(r.next()>>11) / (1 << 53) }
