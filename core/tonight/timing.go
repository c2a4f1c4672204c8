package tonight

import (
	"cmp"
	"slices"
)

// times finds an order for each coach in which no student is at two places; gaveUp when none was found in the steps given.
func (b *branching) times(by [][]int) (at [][]float64, found, gaveUp bool) {
	t := timing{b: b, by: by, at: make([][]float64, len(by)), next: make([]float64, len(by)), free: make([]float64, b.students), left: orders}
	n := 0
	for k, list := range by {
		t.at[k] = make([]float64, len(list))
		for j := range list {
			t.at[k][j] = -1
		}
		n += len(list)
	}
	found = t.place(n, 0)
	return t.at, found, !found && t.left <= 0
}

type timing struct {
	b    *branching
	by   [][]int
	at   [][]float64
	next []float64 // when each coach is free
	free []float64 // when each student is
	left int
}

// place times what is left, in the order of the beginnings: any plan can be written so, each check as soon as its coach and its student are free. The
// coach who is free first is tried first.
func (t *timing) place(left int, last float64) bool {
	if left == 0 {
		return true
	}
	if t.left--; t.left <= 0 {
		return false
	}
	var turn []int
	for k, list := range t.by {
		need, open := 0.0, false
		for j, i := range list {
			if t.at[k][j] < 0 {
				need, open = need+t.b.items[i].size, true
			}
		}
		if open && t.next[k]+need > t.b.room+1e-6 {
			return false
		}
		if open {
			turn = append(turn, k)
		}
	}
	slices.SortStableFunc(turn, func(a, b int) int { return cmp.Compare(t.next[a], t.next[b]) })
	for _, k := range turn {
		for j, i := range t.by[k] {
			if t.at[k][j] >= 0 {
				continue
			}
			x := t.b.items[i]
			start := max(t.next[k], t.free[x.student])
			end := start + x.size - t.b.p.ChangeMinutes
			if start < last-1e-6 || end > t.b.p.Minutes+1e-6 {
				continue
			}
			next, free := t.next[k], t.free[x.student]
			t.at[k][j], t.next[k], t.free[x.student] = start, start+x.size, end
			if t.place(left-1, start) {
				return true
			}
			t.at[k][j], t.next[k], t.free[x.student] = -1, next, free
		}
	}
	return false
}
