package tonight

import (
	"cmp"
	"slices"
)

// place takes what fits, in an order.
func (b *branching) place(seq []int) (float64, [][]int) {
	load, used, by, value := make([]float64, b.coaches), make([]int, b.students), make([][]int, b.coaches), 0.0
	for _, i := range seq {
		x := b.items[i]
		if used[x.student] == b.most {
			continue
		}
		to := -1
		for k := range load { // the coach with the fewest ways to be used otherwise, then the fullest
			if x.can[k] && load[k]+x.size <= b.room+tie && (to < 0 || cmp.Or(len(b.p.Coaches[k].Signoffs)-len(b.p.Coaches[to].Signoffs), cmp.Compare(load[to], load[k])) < 0) {
				to = k
			}
		}
		if to >= 0 {
			load[to] += x.size
			used[x.student]++
			by[to] = append(by[to], i)
			value += x.value
		}
	}
	return value, by
}

// improve changes a choice while that makes it worth more: one more check, or one or two for one, at one coach.
func (b *branching) improve(by [][]int) [][]int {
	load, used, in := make([]float64, b.coaches), make([]int, b.students), make([]bool, len(b.items))
	for k := range by {
		by[k] = slices.Clone(by[k])
		for _, i := range by[k] {
			load[k], in[i] = load[k]+b.items[i].size, true
			used[b.items[i].student]++
		}
	}
	fits := func(k, i int, room float64) bool {
		x := b.items[i]
		return !in[i] && x.can[k] && x.size <= room+tie && used[x.student] < b.most
	}
	add := func(k, i int) {
		in[i], load[k] = true, load[k]+b.items[i].size
		used[b.items[i].student]++
		by[k] = append(by[k], i)
	}
	drop := func(k, n int) int {
		i := by[k][n]
		by[k] = slices.Delete(by[k], n, n+1)
		in[i], load[k] = false, load[k]-b.items[i].size
		used[b.items[i].student]--
		return i
	}
	// fill is what is worth most for a coach's room: one check, or two.
	fill := func(k int) (best []int, worth float64) {
		room := b.room - load[k]
		for i := range b.items {
			if !fits(k, i, room) {
				continue
			}
			x := b.items[i]
			if x.value > worth+tie {
				best, worth = []int{i}, x.value
			}
			used[x.student]++
			for j := i + 1; j < len(b.items); j++ {
				if y := b.items[j]; x.value+y.value > worth+tie && fits(k, j, room-x.size) {
					best, worth = []int{i, j}, x.value+y.value
				}
			}
			used[x.student]--
		}
		return best, worth
	}
	// one is the single check worth most for a coach's room.
	one := func(k int) (best int, worth float64) {
		best = -1
		for i, x := range b.items {
			if x.value > worth+tie && fits(k, i, b.room-load[k]) {
				best, worth = i, x.value
			}
		}
		return best, worth
	}
	// instead puts a check in where its student or its coach has no room: theirs of least worth goes, and the room that leaves is used. It stays
	// only where all that is worth more.
	instead := func(i, k int) bool {
		x := b.items[i]
		type gone struct{ item, at int }
		var out []gone
		var in1 []gone
		gain := x.value
		if used[x.student] == b.most {
			from, at := -1, -1
			for c := range by {
				for n, j := range by[c] {
					if b.items[j].student == x.student && (from < 0 || b.items[j].value < b.items[by[from][at]].value) {
						from, at = c, n
					}
				}
			}
			out = append(out, gone{drop(from, at), from})
		}
		for b.room-load[k] < x.size-tie {
			least, at := inf, -1
			for n, j := range by[k] {
				if v := b.items[j].value; v < least && (b.items[j].size >= x.size-(b.room-load[k])-tie || len(by[k]) > 1) {
					least, at = v, n
				}
			}
			if at < 0 {
				break
			}
			out = append(out, gone{drop(k, at), k})
		}
		if fits(k, i, b.room-load[k]) {
			add(k, i)
			in1 = append(in1, gone{i, k})
			for _, o := range out {
				gain -= b.items[o.item].value
			}
			for c := range by {
				for more, worth := one(c); more >= 0; more, worth = one(c) {
					add(c, more)
					in1 = append(in1, gone{more, c})
					gain += worth
				}
			}
			if gain > 1e-7 {
				return true
			}
		}
		for _, o := range slices.Backward(in1) {
			drop(o.at, slices.Index(by[o.at], o.item))
		}
		for _, o := range slices.Backward(out) {
			add(o.at, o.item)
		}
		return false
	}
	for again := true; again; {
		again = false
		for k := range by {
			for more, worth := fill(k); worth > 0; more, worth = fill(k) {
				for _, i := range more {
					add(k, i)
				}
				again = true
			}
			for n := 0; n < len(by[k]); n++ {
				was := drop(k, n)
				better, worth := fill(k)
				if worth <= b.items[was].value+tie {
					add(k, was)
					by[k] = slices.Insert(by[k][:len(by[k])-1], n, was)
					continue
				}
				for _, i := range better {
					add(k, i)
				}
				again = true
			}
		}
		if again {
			continue
		}
		for i, x := range b.items {
			for k := range by {
				if !in[i] && x.can[k] && x.size <= b.room+tie && instead(i, k) {
					again = true
				}
			}
		}
	}
	return by
}
