package rotation

import (
	"math"
	"slices"
)

// measure says how good a plan is, and how good any could be.
func (f *floor) measure(a *Answer, p Problem, plan []seating) {
	meetings, soft, gap, weighed := 0, int64(0), 0.0, 0
	for _, r := range plan {
		for _, g := range r.groups {
			f.meet(g, func(i, j int) {
				meetings++
				soft += f.soft[i][j]
				if x, y := f.people[i].Kg, f.people[j].Kg; x > 0 && y > 0 {
					gap += math.Abs(x - y)
					weighed++
				}
			})
		}
	}
	if weighed > 0 {
		a.MeanGapKg = math.Round(gap/float64(weighed)*100) / 100
	}
	a.RepeatsBound = min(a.Repeats, f.fewestRepeats(a.Repeats-f.newRepeats(plan)))
	whole := f.wholeCost(p) * float64(meetings)
	a.Score, a.ScoreBound = 1, 1
	if whole > 0 {
		a.Score = rounded(max(0, 1-float64(soft)/whole))
		least := f.leastSoft(meetings, f.newRepeats(plan))
		a.ScoreBound = rounded(max(a.Score, 1-float64(least)/whole))
	}
}

func rounded(x float64) float64 { return math.Round(x*1e4) / 1e4 }

// wholeCost is what one meeting costs that is as far from all wishes as it can be; for sizes, twenty kilograms.
func (f *floor) wholeCost(p Problem) float64 {
	a, b := Person{ID: "a", Kg: 60, Rank: 0}, Person{ID: "b", Kg: 60, Rank: 0}
	weeks, helps := -1.0, slices.ContainsFunc(f.people, func(x Person) bool { return len(x.Helps) > 0 })
	if len(p.Met) > 0 {
		weeks = 0
	}
	if slices.ContainsFunc(f.people, func(x Person) bool { return x.Kg > 0 }) {
		b.Kg = 80
	}
	if p.Mix == Similar {
		b.Rank = 4
	}
	return scale * unlike(p, a, b, weeks, helps)
}

// newRepeats counts the repeats of the rounds to come.
func (f *floor) newRepeats(plan []seating) int {
	n := 0
	u := f.used(nil)
	for _, r := range plan {
		for _, g := range r.groups {
			f.meet(g, func(i, j int) {
				if u[i][j] > 0 {
					n++
				}
				u[i][j]++
				u[j][i]++
			})
		}
	}
	return n
}

// fewestRepeats is a lower bound: held were made in the rounds held; in each round to come everybody who is not with the coach
// meets a group's others, and those one has not met yet and may meet are only so many.
func (f *floor) fewestRepeats(held int) int {
	if f.n < 2 || f.left == 0 || f.n < f.k {
		return held
	}
	over := f.n % f.k
	short := 0
	visitsMost := 0
	if f.coach {
		visitsMost = (over*f.left + f.n - 1) / f.n
		for _, v := range f.visits() { // who came late is with the coach later than the others
			if v > 0 {
				visitsMost = max(visitsMost, (over*(f.left+len(f.ran))+f.n-1)/f.n)
			}
		}
	}
	free := 0
	for i := range f.n {
		open := 0
		for j := range f.n {
			if i != j && !f.apart[i][j] && f.ranUsed[i][j] == 0 {
				open++
			}
		}
		free += open
		if blocked := f.blocked(i); !blocked {
			short += max(0, (f.left-visitsMost)*(f.k-1)-open)
		}
	}
	bound := (short + 1) / 2
	if !f.anyApart() { // then every group is full
		size := f.k * (f.k - 1) / 2
		groups := f.n / f.k
		meetings := f.left * groups * size
		if !f.coach && over > 0 {
			big := f.k + over
			meetings = f.left * ((groups-1)*size + big*(big-1)/2)
		}
		bound = max(bound, meetings-free/2)
	}
	return held + bound
}

// blocked says that somebody may have to work with the coach because of whom they must be apart from: nothing is promised of them.
func (f *floor) blocked(i int) bool {
	open := 0
	for j := range f.n {
		if i != j && !f.apart[i][j] {
			open++
		}
	}
	return open < f.n/2+f.k || f.n < 2*f.k
}

func (f *floor) anyApart() bool {
	for i := range f.n {
		if slices.Contains(f.apart[i], true) {
			return true
		}
	}
	return false
}

// leastSoft is a lower bound of what the meetings of any plan cost: of so many meetings all but the repeats are between two
// who have not met, each pair at most once, and nobody has more of them than there are rounds. As a flow from everybody to everybody
// this can be solved exactly; half of it is the bound.
func (f *floor) leastSoft(meetings, repeats int) int64 {
	most := f.left * (f.k - 1)
	if over := f.n % f.k; !f.coach && over > 0 {
		most = f.left * (f.k + over - 1)
	}
	units := 2 * (meetings - repeats)
	if units*f.n*f.n > mostFlow {
		return f.cheapestEach(units, most) / 2
	}
	return f.cheapestFlow(units, most) / 2
}

// mostFlow is the work beyond which the flow is not solved, and a weaker bound is given: 60 people in 12 rounds are a tenth of it.
const mostFlow = 30_000_000

// cheapestEach is a weaker bound: the cheapest so many units where only what leaves each person is bounded.
func (f *floor) cheapestEach(units, most int) int64 {
	var all []int64
	for i := range f.n {
		var own []int64
		for j := range f.n {
			if i != j && !f.apart[i][j] && f.ranUsed[i][j] == 0 {
				own = append(own, f.soft[i][j])
			}
		}
		slices.Sort(own)
		all = append(all, own[:min(most, len(own))]...)
	}
	slices.Sort(all)
	sum := int64(0)
	for _, c := range all[:min(max(0, units), len(all))] {
		sum += c
	}
	return sum
}

// cheapestFlow sends so many units from everybody to everybody, at most one over each pair that has not met and may, at most most out
// of and into each; by shortest augmenting paths. Costs units × n².
func (f *floor) cheapestFlow(units, most int) int64 {
	n := f.n
	const far = int64(1) << 60
	sent := make([][]bool, n)
	out, into := make([]int, n), make([]int, n)
	for i := range sent {
		sent[i] = make([]bool, n)
	}
	highRight := make([]int64, n) // potentials, so that every reduced cost is at least nought
	highLeft := make([]int64, n)
	highEnd, total := int64(0), int64(0)
	distL, distR := make([]int64, n), make([]int64, n)
	doneL, doneR := make([]bool, n), make([]bool, n)
	fromR := make([]int, n) // the left one a right one is reached from
	fromL := make([]int, n) // the right one a left one is reached from; −1 from the source
	open := func(i, j int) bool { return i != j && !f.apart[i][j] && f.ranUsed[i][j] == 0 }
	for range units {
		for i := range n {
			distL[i], distR[i], doneL[i], doneR[i] = far, far, false, false
			if out[i] < most {
				distL[i], fromL[i] = -highLeft[i], -1
			}
		}
		end, reach := -1, far
		for {
			best, at, left := reach, -1, true
			for i := range n {
				if !doneL[i] && distL[i] < best {
					best, at, left = distL[i], i, true
				}
				if !doneR[i] && distR[i] < best {
					best, at, left = distR[i], i, false
				}
			}
			if at < 0 {
				break
			}
			if left {
				doneL[at] = true
				for j := range n {
					if open(at, j) && !sent[at][j] && !doneR[j] {
						if d := best + f.soft[at][j] + highLeft[at] - highRight[j]; d < distR[j] {
							distR[j], fromR[j] = d, at
						}
					}
				}
				continue
			}
			doneR[at] = true
			if into[at] < most {
				if d := best + highRight[at] - highEnd; d < reach {
					end, reach = at, d
				}
			}
			for i := range n {
				if sent[i][at] && !doneL[i] {
					if d := best - f.soft[i][at] - highLeft[i] + highRight[at]; d < distL[i] {
						distL[i], fromL[i] = d, at
					}
				}
			}
		}
		if end < 0 {
			return total
		}
		highEnd += reach
		for i := range n {
			highLeft[i] += min(distL[i], reach)
			highRight[i] += min(distR[i], reach)
		}
		for j := end; ; {
			i := fromR[j]
			sent[i][j] = true
			total += f.soft[i][j]
			back := fromL[i]
			if back < 0 {
				out[i]++
				break
			}
			sent[i][back] = false
			total -= f.soft[i][back]
			j = back
		}
		into[end]++
	}
	return total
}
