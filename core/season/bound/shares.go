package bound

import (
	"vereda/core/season"
)

// shares bounds what the open dims can still bring in another way than tolls do: what giving
// a unit so often in an audience costs is shared out among the students, each way by itself, so that the shares add
// up to its cost. Then every student, left alone, picks for each audience what is best for them, knowing what
// they have heard in the audiences before; what all of them gain is more than any common choice can (Lagrange once more).
//
// The shares of every further item start in proportion to what each student gains by it at
// the best known choice; from there they move down the subgradient. Close where students want different numbers of lessons in the same audiences, which tolls,
// one price for every lesson heard, do not see. Costs needs × dims × ways to use a dim × halves² a round.
type shares struct {
	d     *branchAndBound
	ways  [][]way // per dim
	heard [][]float64
	cost  [][]float64 // per dim, way and need: the share
	hopes [][]float64 // per dim, need and halves had
	picks [][]int32   // per dim, need and halves had: the way picked
	used  [][]float64 // per dim, way and need: how likely it is picked
}

// way is how often a dim is used.
type way struct {
	teaches, reviews int
	cost             float64
}

const (
	mostWays    = 250  // to use a dim; where one has more there are no shares
	shareRounds = 10   // that shares are moved
	sharesFrom  = 1000 // steps a search must have for shares to pay
)

// share bounds a search by shares too.
func (d *branchAndBound) share() {
	x := newShares(d)
	if x == nil {
		return
	}
	x.settle(shareRounds)
	d.shares = x.hopes
	for _, ways := range x.ways {
		d.work += shareRounds * len(ways) * len(d.needs) / 25
	}
}

// newShares prepares a branchAndBound's shares, or nil where there are too many ways.
func newShares(d *branchAndBound) *shares {
	n, needs := len(d.s.Dims), len(d.needs)
	x := &shares{d: d, ways: make([][]way, n), heard: make([][]float64, n), cost: make([][]float64, n), hopes: make([][]float64, n+1), picks: make([][]int32, n), used: make([][]float64, n)}
	// What a way costs above the tolls it pays is lost to the bound by tolls: where that is too much, nothing better has it.
	room := d.base + d.rest(0, d.pools[0]) - d.most
	for j := range x.ways {
		most := d.s.Dims[j].most
		full, half := d.cost[2*j], d.cost[2*j+1]
		toll := min(full/2, half) - d.left[j]
		for t := 0; t <= most && float64(t)*(full-2*toll) <= room; t++ {
			for r := 0; t+r <= most && float64(t)*(full-2*toll)+float64(r)*(half-toll) <= room; r++ {
				x.ways[j] = append(x.ways[j], way{t, r, float64(t)*full + float64(r)*half})
			}
		}
		if len(x.ways[j]) > mostWays {
			return nil
		}
		x.heard[j] = make([]float64, len(x.ways[j])*needs*d.stride)
		x.cost[j] = make([]float64, len(x.ways[j])*needs)
		x.used[j] = make([]float64, len(x.ways[j])*needs)
		x.picks[j] = make([]int32, needs*d.stride)
	}
	for i := range x.hopes {
		x.hopes[i] = make([]float64, needs*d.stride)
	}
	x.addExposure()
	x.begin()
	return x
}

// addExposure computes for every way to use a dim what each student then has heard.
func (x *shares) addExposure() {
	d := x.d
	for j, ways := range x.ways {
		span := d.spans[j]
		for k, need := range d.needs {
			top := int(need.Halves)
			there := d.there[j][k*span : (k+1)*span]
			for w, way := range ways {
				row := x.row(j, w, k)
				switch {
				case way.teaches+way.reviews == 0:
					row[0] = 1
				case way.reviews == 0: // one teach more than the last way without reviews
					copy(row, x.row(j, x.without(j, w), k))
					for _, p := range there {
						season.AddExposure(row, top, 2, p)
					}
				default:
					copy(row, x.row(j, w-1, k))
					for _, p := range there {
						season.AddExposure(row, top, 1, p)
					}
				}
			}
		}
	}
}

func (x *shares) row(j, w, k int) []float64 {
	at := (w*len(x.d.needs) + k) * x.d.stride
	return x.heard[j][at : at+x.d.stride]
}

// without is the way with a teach less and no review.
func (x *shares) without(j, w int) int {
	for w--; x.ways[j][w].reviews > 0; {
		w--
	}
	return w
}

// begin shares the cost of every further item out in proportion to what each student gains by
// it, with all else as at the best known choice.
func (x *shares) begin() {
	d := x.d
	best, _ := d.s.best()
	needs := len(d.needs)
	gain := make([]float64, needs)
	all := make([]float64, len(d.pools[0]))
	for j, ways := range x.ways {
		var sums [2][][]float64 // per kind and number of items, each need's share
		for kind := range 2 {
			copy(all, d.pools[0])
			for i, c := range best.counts {
				for range c {
					if i != 2*j+kind {
						d.add(all, i/2, i%2)
					}
				}
			}
			most := 0
			for _, w := range ways {
				most = max(most, []int{w.teaches, w.reviews}[kind])
			}
			sums[kind] = append(sums[kind], make([]float64, needs))
			for range most {
				for k, need := range d.needs {
					gain[k] = -all[k*d.stride+int(need.Halves)]
				}
				d.add(all, j, kind)
				sum := 0.0
				for k, need := range d.needs {
					gain[k] = need.Weight * (gain[k] + all[k*d.stride+int(need.Halves)] + 1e-6)
					sum += gain[k]
				}
				had := sums[kind][len(sums[kind])-1]
				now := make([]float64, needs)
				for k := range now {
					now[k] = had[k] + d.cost[2*j+kind]*gain[k]/sum
				}
				sums[kind] = append(sums[kind], now)
			}
		}
		for w, way := range ways {
			for k := range needs {
				x.cost[j][w*needs+k] = sums[0][way.teaches][k] + sums[1][way.reviews][k]
			}
		}
	}
}

// price works out what everybody picks, the hopes from it, and their sum at the root.
func (x *shares) price() float64 {
	d := x.d
	n := len(x.ways)
	for k, need := range d.needs {
		top := int(need.Halves)
		at := k * d.stride
		last := x.hopes[n][at : at+top+1]
		clear(last)
		last[top] = need.Weight
		for j := n - 1; j >= 0; j-- {
			next, now, picks := x.hopes[j+1][at:at+top+1], x.hopes[j][at:at+top+1], x.picks[j][at:at+top+1]
			for h := range now {
				now[h], picks[h] = next[h], 0
			}
			for w := 1; w < len(x.ways[j]); w++ {
				row, share := x.row(j, w, k), x.cost[j][w*len(d.needs)+k]
				for h := range top {
					v, rest := -share, 1.0
					for b := 0; h+b < top; b++ {
						v += row[b] * next[h+b]
						rest -= row[b]
					}
					if v += rest * next[top]; v > now[h] {
						now[h], picks[h] = v, int32(w)
					}
				}
				if v := next[top] - share; v > now[top] {
					now[top], picks[top] = v, int32(w)
				}
			}
		}
	}
	sum := d.base
	for i, p := range d.pools[0] {
		sum += p * x.hopes[0][i]
	}
	return sum
}

// slope counts how likely every way is picked by everybody.
func (x *shares) slope() {
	d := x.d
	now, next := make([]float64, d.stride), make([]float64, d.stride)
	for j := range x.used {
		clear(x.used[j])
	}
	for k, need := range d.needs {
		top := int(need.Halves)
		copy(now, d.pools[0][k*d.stride:(k+1)*d.stride])
		for j := range x.ways {
			clear(next)
			for h := 0; h <= top; h++ {
				if now[h] == 0 {
					continue
				}
				w := int(x.picks[j][k*d.stride+h])
				x.used[j][w*len(d.needs)+k] += now[h]
				row, rest := x.row(j, w, k), 1.0
				for b := 0; h+b < top; b++ {
					next[h+b] += now[h] * row[b]
					rest -= row[b]
				}
				next[top] += now[h] * rest
			}
			copy(now, next)
		}
	}
}

// settle moves the shares so many rounds and keeps the best; it returns the bound at
// the root.
func (x *shares) settle(rounds int) float64 {
	d := x.d
	needs := len(d.needs)
	low := x.price()
	kept := x.costs()
	pace := 1.0
	for stale := 0; rounds > 0 && low > d.most+1e-6; rounds-- {
		x.slope()
		square := 0.0
		for j := range x.used {
			for w := 1; w < len(x.ways[j]); w++ {
				q := x.used[j][w*needs : (w+1)*needs]
				mean := 0.0
				for _, v := range q {
					mean += v / float64(needs)
				}
				if mean == 0 {
					continue
				}
				for k := range q {
					q[k] -= mean
					square += q[k] * q[k]
				}
			}
		}
		if square < 1e-12 {
			break
		}
		step := pace * (low - d.most) / square
		for j := range x.used {
			for i, q := range x.used[j][needs:] {
				x.cost[j][needs+i] += step * q
			}
		}
		if sum := x.price(); sum < low-1e-9 {
			low, stale = sum, 0
			for j := range kept {
				copy(kept[j], x.cost[j])
			}
		} else if stale++; stale >= 3 {
			stale, pace = 0, pace/2
			for j := range kept {
				copy(x.cost[j], kept[j])
			}
			x.price()
		}
	}
	for j := range kept {
		copy(x.cost[j], kept[j])
	}
	return x.price()
}

func (x *shares) costs() [][]float64 {
	all := make([][]float64, len(x.cost))
	for j := range all {
		all[j] = append([]float64{}, x.cost[j]...)
	}
	return all
}
