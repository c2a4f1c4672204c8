package tonight

import (
	"cmp"
	"slices"
)

// price moves the multipliers toward the least bound.
func (b *branching) price() {
	n := len(b.items)
	lambda, mu := make([]float64, n), make([]float64, b.students)
	b.lambda, b.mu = slices.Clone(lambda), slices.Clone(mu)
	b.dual = inf
	alongLambda, alongMu := make([]float64, n), make([]float64, b.students)
	uses, of := make([]int, n), make([]int, b.students)
	low, first := b.place(b.byWorth(lambda, mu))
	starts := []start{{low, first}}
	defer func() { b.starts = bestOf(starts) }()
	scale, since := 1.0, 0
	steps := min(240, max(60, int(work/float64(b.coaches*n*(b.capacity+1)))))
	for n := range steps {
		clear(uses)
		clear(of)
		total := 0.0
		for i := range lambda {
			total += lambda[i]
		}
		for i := range mu {
			total += mu[i] * float64(b.most)
		}
		for k := range b.coaches {
			total += b.fill(k, lambda, mu, uses)
		}
		if total < b.dual-tie {
			b.dual, since = total, 0
			copy(b.lambda, lambda)
			copy(b.mu, mu)
		} else if since++; since == 8 {
			scale, since = scale/2, 0
		}
		norm := 0.0
		for i, x := range b.items {
			of[x.student] += uses[i]
			norm += deflect(&alongLambda[i], float64(uses[i]-1), lambda[i])
		}
		for i := range of {
			norm += deflect(&alongMu[i], float64(of[i]-b.most), mu[i])
		}
		if n%4 == 0 { // prices that differ little choose the same
			value, by := b.place(b.byWorth(lambda, mu))
			low = max(low, value)
			if starts = append(starts, start{value, by}); len(starts) > 2*mostStarts {
				starts = bestOf(starts)
			}
		}
		if norm == 0 || total <= low+tie {
			break
		}
		step := scale * (total - low) / norm
		for i := range lambda {
			lambda[i] = max(0, lambda[i]+step*alongLambda[i])
		}
		for i := range mu {
			mu[i] = max(0, mu[i]+step*alongMu[i])
		}
	}
}

// start is a choice to improve.
type start struct {
	value float64
	by    [][]int
}

// bestOf are the starts worth most, the same worth once.
func bestOf(all []start) []start {
	slices.SortStableFunc(all, func(a, b start) int { return cmp.Compare(b.value, a.value) })
	all = slices.CompactFunc(all, func(a, b start) bool { return a.value-b.value <= tie })
	return all[:min(mostStarts, len(all))]
}

// deflect turns a direction toward the newest one, so that prices do not swing to and fro, and is its square: a price of nothing does not fall.
func deflect(along *float64, newest, price float64) float64 {
	*along = 0.7**along + newest
	if price == 0 && *along < 0 {
		*along = 0
	}
	return *along * *along
}

// fill is one coach's own best choice at these prices; what it uses is counted.
func (b *branching) fill(coach int, lambda, mu []float64, uses []int) float64 {
	n, c := len(b.items), b.capacity
	if len(b.scratch) < (n+1)*(c+1) {
		b.scratch = make([]float64, (n+1)*(c+1))
	}
	best := b.scratch
	clear(best[:c+1])
	for i, x := range b.items {
		row, next := best[i*(c+1):(i+1)*(c+1)], best[(i+1)*(c+1):(i+2)*(c+1)]
		copy(next, row)
		worth := x.value - lambda[i] - mu[x.student]
		if !x.can[coach] || worth <= 0 {
			continue
		}
		for u := b.size[i]; u <= c; u++ {
			next[u] = max(next[u], row[u-b.size[i]]+worth)
		}
	}
	u := c
	for i := n - 1; i >= 0; i-- {
		if best[(i+1)*(c+1)+u] > best[i*(c+1)+u]+tie {
			uses[i]++
			u -= b.size[i]
		}
	}
	return best[n*(c+1)+c]
}

// byWorth orders items by what they are worth a minute at these prices.
func (b *branching) byWorth(lambda, mu []float64) []int {
	seq := make([]int, len(b.items))
	for i := range seq {
		seq[i] = i
	}
	worth := func(i int) float64 {
		x := b.items[i]
		return (x.value - lambda[i]/2 - mu[x.student]/2) / x.size
	}
	slices.SortStableFunc(seq, func(i, j int) int { return cmp.Compare(worth(j), worth(i)) })
	return seq
}
