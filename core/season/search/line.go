package search

import (
	"cmp"
	"slices"

	"vereda/core/draw"
	"vereda/core/season/model"
)

const (
	lineShare = 0.3                // of the wish may go into choosing the lines of all tracks
	lineWork  = 3 * stepsPerSecond // and no more than this
	mostLines = 240                // tried for one track
	lookSteps = 5                  // of work, for one look at what a unit is worth in a square
)

// chooseLines gives each track that asks for it a line: which area it is in, week by week, each for as many weeks as its rules say. The first one
// follows a plan made without: each area as long as what is taught of it, in the order it is taught. Then areas and lengths are exchanged as long as
// filling the track anew finds more. What the search puts into the track after that is of the line. It answers what it cost.
//
// Costs lines × squares × units of a track, each a look at one unit's value. stop, when there is one, ends it between two lines.
func chooseLines(st *model.State, demanded [][]model.Item, limit int64, stop func() bool) int64 {
	m := st.Model
	var lined []int
	for t := range m.Rules {
		if m.Lined(t) {
			lined = append(lined, t)
		}
	}
	spent := int64(0)
	for _, t := range lined {
		l := line{st: st, t: t, demanded: demanded, rng: draw.New(uint64(m.Problem.Seed)+1, uint64(7+t)), stop: stop}
		l.weeks, l.free = m.OpenWeeks(t)
		l.least, l.most = max(1, m.Rules[t].AreaLeast), m.Rules[t].AreaMost
		each := int64(len(m.ByTrack[t])*len(m.Teaches[t])*lookSteps) + 1
		tries := min(mostLines, min(lineWork, int64(lineShare*float64(limit)))/int64(len(lined))/each)
		l.choose(int(max(2, tries)))
		spent += max(2, tries) * each
	}
	return spent
}

// line is the choice for one track.
type line struct {
	st          *model.State
	t           int
	weeks       []int  // that have a class
	free        []bool // of them, which may change
	least, most int
	demanded    [][]model.Item // what must be in, before anything else was put in
	rng         *draw.Draws
	stop        func() bool
}

// choose tries so many lines and leaves the best in the state.
func (l *line) choose(tries int) {
	now := l.first()
	if now == nil {
		return
	}
	best, score := l.lay(now), l.st.Score()
	for range tries {
		if l.stop != nil && l.stop() {
			break
		}
		next := l.changed(now)
		if next == nil {
			continue
		}
		if all := l.lay(next); l.st.Score() > score+1e-12 {
			now, best, score = next, all, l.st.Score()
		}
	}
	l.set(now)
	l.st.Take(best)
}

func (l *line) set(areas []int32) {
	at := make(map[int]int32, len(l.weeks))
	for i, w := range l.weeks {
		at[w] = areas[i]
	}
	l.st.Model.SetLine(l.t, func(week int, area int32) bool {
		a, open := at[week]
		return !open || a == model.AnyArea || a == area
	})
}

// lay fills the track anew along a line, by greed.
func (l *line) lay(areas []int32) [][]model.Item {
	l.set(areas)
	m := l.st.Model
	all := l.st.Contents()
	for _, s := range m.ByTrack[l.t] {
		if !m.Squares[s].Stays() {
			all[s] = l.demanded[s]
		}
	}
	l.st.Take(all)
	for more := true; more; {
		more = false
		for _, s := range m.ByTrack[l.t] {
			more = addBest(l.st, int(s)) || more
		}
	}
	return l.st.Contents()
}

// first is a line that follows the plan as it is: as many stretches as fit, handed out by what is taught of each area, in the order it is taught.
// Weeks that are over are as they were.
func (l *line) first() []int32 {
	minutes := l.st.Model.AreaMinutes(l.t, l.st.Items)
	areas := make([]int32, len(l.weeks))
	all, when := map[int32]int{}, map[int32]float64{}
	from := 0
	for i := range l.weeks {
		areas[i] = model.AnyArea
		most := 0
		for a, n := range minutes[i] {
			if n > most || n == most && a < areas[i] {
				areas[i], most = a, n
			}
			if l.free[i] {
				all[a] += n
				when[a] += float64(n * i)
			}
		}
		if !l.free[i] && from == i {
			from++
		}
	}
	left := len(l.weeks) - from
	if left == 0 {
		return nil
	}
	if len(all) == 0 {
		return l.mended(areas, from)
	}
	each := min((l.least+l.most+1)/2, left)
	n := max(1, (left+each/2)/each)
	for n > 1 && (n-1)*l.least > left {
		n--
	}
	for n*l.most < left {
		n++
	}
	var known []int32
	for a := range all {
		known = append(known, a)
	}
	slices.Sort(known)
	var stretches []int32
	given := map[int32]int{}
	for range n {
		pick := slices.MaxFunc(known, func(a, b int32) int {
			return cmp.Or(cmp.Compare(float64(all[a])/float64(given[a]+1), float64(all[b])/float64(given[b]+1)), cmp.Compare(b, a))
		})
		given[pick]++
		stretches = append(stretches, pick)
	}
	slices.SortStableFunc(stretches, func(a, b int32) int {
		return cmp.Or(cmp.Compare(when[a]/float64(max(1, all[a])), when[b]/float64(max(1, all[b]))), cmp.Compare(a, b))
	})
	apart(stretches)
	for i, at := 0, from; i < n; i++ {
		for end := from + (i+1)*left/n; at < end; at++ {
			if l.free[at] {
				areas[at] = stretches[i]
			}
		}
	}
	if !l.holds(areas) {
		return l.mended(areas, from)
	}
	return areas
}

// apart moves stretches of one area away from one another, as far as there are others.
func apart(all []int32) {
	for i := 1; i < len(all); i++ {
		if all[i] != all[i-1] {
			continue
		}
		for j := i + 1; j < len(all); j++ {
			if all[j] != all[i-1] {
				all[i], all[j] = all[j], all[i]
				break
			}
		}
	}
}

// mended looks for a line that holds where the first one does not, by drawing some; nil where it finds none: what is fixed may forbid all.
func (l *line) mended(areas []int32, from int) []int32 {
	known := l.st.Model.Areas(l.t)
	for range 400 {
		next := slices.Clone(areas)
		for at := from; at < len(next); {
			a := known[l.rng.IntN(len(known))]
			for at > from && a == next[at-1] {
				a = known[l.rng.IntN(len(known))]
			}
			for n := l.least + l.rng.IntN(l.most-l.least+1); n > 0 && at < len(next); n-- {
				if l.free[at] {
					next[at] = a
				}
				at++
			}
		}
		if l.holds(next) {
			return next
		}
	}
	return nil
}

// holds says whether every stretch that is not over is as long as the rules ask: the last one may be cut by the end of the season.
func (l *line) holds(areas []int32) bool {
	for from := 0; from < len(areas); {
		to := from
		free := false
		for to < len(areas) && areas[to] == areas[from] {
			free = free || l.free[to]
			to++
		}
		if n := to - from; free && areas[from] != model.AnyArea && (n > l.most || n < l.least && to < len(areas)) {
			return false
		}
		from = to
	}
	return true
}

// changed is another line that holds, one step away: a stretch of another area, two stretches exchanged, or a border moved.
func (l *line) changed(areas []int32) []int32 {
	type stretch struct{ from, to int }
	var all []stretch
	for from := 0; from < len(areas); {
		to := from
		for to < len(areas) && areas[to] == areas[from] && l.free[to] == l.free[from] {
			to++
		}
		if l.free[from] {
			all = append(all, stretch{from, to})
		}
		from = to
	}
	m := l.st.Model
	for range 20 {
		next := slices.Clone(areas)
		i := l.rng.IntN(len(all))
		put := func(x stretch, a int32) {
			for w := x.from; w < x.to; w++ {
				next[w] = a
			}
		}
		switch l.rng.IntN(4) {
		case 0, 1:
			u := m.Teaches[l.t][l.rng.IntN(len(m.Teaches[l.t]))]
			if m.OutOfLine(l.t, u) {
				continue
			}
			put(all[i], m.Units[u].Area)
		case 2:
			j := l.rng.IntN(len(all))
			a, b := areas[all[i].from], areas[all[j].from]
			put(all[i], b)
			put(all[j], a)
		default:
			if i == 0 {
				continue
			}
			if border := all[i].from; l.rng.IntN(2) == 0 && border+1 < len(next) {
				next[border] = areas[border-1]
			} else if border > 0 && l.free[border-1] {
				next[border-1] = areas[border]
			}
		}
		if !slices.Equal(next, areas) && l.holds(next) {
			return next
		}
	}
	return nil
}
