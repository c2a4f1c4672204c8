package rotation

import (
	"cmp"
	"math"
	"slices"
)

// steps bounds one search.
const steps = 400_000

type scheduled struct {
	visits []Visit
	idle   int
}

// scheduler looks for the order in which groups visit the stations that are in.
type scheduler struct {
	m      Mat
	in     []int
	groups int
	after  [][]int  // of each station in, those of in that come before it, as places in in
	fit    [][]int  // coaches who may have it; nil when it needs none
	skip   []uint32 // of each group, the stations it does not come to
	work   []int    // what each group is busy, changes too
	limit  int

	groupFree, stationFree []int
	coachFree              []int
	coachAt                []int // where each coach stood last; −1
	seen                   []uint32
	left                   []int // stations to go, of each group
	so                     []Visit
	steps                  int
	walk                   int // minutes a coach needs to another station
	best                   *scheduled
}

// schedule finds who is where when; false when nothing was found. Coaches too get the time to change over, where that can be.
func (m Mat) schedule(groups [][]string, in []int) (scheduled, bool) {
	var best *scheduled
	for _, walk := range []int{m.Change, 0} {
		s, ok := m.scheduler(groups, in, walk)
		if !ok {
			return scheduled{}, false
		}
		s.best = best
		s.search()
		if s.best != nil && best == nil {
			best = s.best
			break
		}
	}
	if best == nil {
		return scheduled{}, false
	}
	slices.SortFunc(best.visits, func(a, b Visit) int { return cmp.Or(cmp.Compare(a.Start, b.Start), cmp.Compare(a.Group, b.Group)) })
	return *best, true
}

func (m Mat) scheduler(named [][]string, in []int, walk int) (*scheduler, bool) {
	groups := len(named)
	s := &scheduler{m: m, in: in, groups: groups, limit: m.Minutes, walk: walk, groupFree: make([]int, groups), stationFree: make([]int, len(in)), coachFree: make([]int, len(m.Coaches)), coachAt: make([]int, len(m.Coaches)),
		seen: make([]uint32, groups), left: make([]int, groups), skip: make([]uint32, groups), work: make([]int, groups)}
	for c := range s.coachAt {
		s.coachAt[c] = -1
	}
	place := map[string]int{}
	for k, i := range in {
		place[m.Stations[i].ID] = k
		for g, group := range named {
			if !m.at(group, m.Stations[i]) {
				s.skip[g] |= 1 << k
				continue
			}
			s.left[g]++
			s.work[g] += m.Stations[i].Minutes
		}
	}
	for g := range s.work {
		s.work[g] += m.Change * max(0, s.left[g]-1)
	}
	for _, i := range in {
		st := m.Stations[i]
		var after []int
		for _, a := range st.After {
			if k, ok := place[a]; ok {
				after = append(after, k)
			}
		}
		s.after = append(s.after, after)
		var fit []int
		if st.Coach != "" && st.Coach != NoCoach {
			for c, coach := range m.Coaches {
				if (st.Coach == AnyCoach || st.Coach == coach.ID) && (st.Signoff == "" || slices.Contains(coach.Signoffs, st.Signoff)) {
					fit = append(fit, c)
				}
			}
			if len(fit) == 0 {
				return s, false
			}
		} else if st.Signoff != "" {
			return s, false
		}
		s.fit = append(s.fit, fit)
	}
	return s, (groups == 0 || slices.Max(s.work) <= s.limit) && !s.overloaded()
}

// through says that a group was at a station, or does not come to it.
func (s *scheduler) through(g, k int) bool { return (s.seen[g]|s.skip[g])>>k&1 == 1 }

// coming counts the groups that come to a station.
func (s *scheduler) coming(k int) int {
	n := 0
	for g := range s.groups {
		if s.skip[g]>>k&1 == 0 {
			n++
		}
	}
	return n
}

// overloaded says that a station, or a coach who alone can have some, is wanted longer than there is.
func (s *scheduler) overloaded() bool {
	of := make([]int, len(s.m.Coaches))
	for k, i := range s.in {
		need := s.m.Stations[i].Minutes * s.coming(k)
		if need > s.limit {
			return true
		}
		if len(s.fit[k]) == 1 {
			if of[s.fit[k][0]] += need; of[s.fit[k][0]] > s.limit {
				return true
			}
		}
	}
	return false
}

// search sends, again and again, the group that is free first to each of its stations in turn, the one that can begin first before the others, and also
// lets it wait for others by taking another group first; what can be no better than the best is left.
func (s *scheduler) search() {
	s.steps = 0
	s.next(0)
}

func (s *scheduler) next(idle int) {
	if s.steps++; s.steps > steps {
		return
	}
	if s.best != nil && idle >= s.best.idle {
		return
	}
	type move struct{ group, station, coach, start int }
	var moves []move
	earliest := math.MaxInt // the end of the earliest that could begin: nothing begins at or after it before it does
	open := false
	var fresh []uint32
	for g := range s.groups {
		if s.left[g] == 0 {
			continue
		}
		open = true
		if s.seen[g] == 0 { // groups that were nowhere yet and come to the same stations are alike: only the first of them goes
			if slices.Contains(fresh, s.skip[g]) {
				continue
			}
			fresh = append(fresh, s.skip[g])
		}
		for k := range s.in {
			if s.through(g, k) || !s.ready(g, k) {
				continue
			}
			minutes := s.m.Stations[s.in[k]].Minutes
			for _, coach := range s.coaches(k) {
				start := s.begin(g, k, coach)
				if start+minutes+s.rest(g, k) <= s.limit {
					moves = append(moves, move{g, k, coach, start})
					earliest = min(earliest, start+minutes)
				}
			}
		}
	}
	if !open {
		s.best = &scheduled{slices.Clone(s.so), idle}
		return
	}
	slices.SortStableFunc(moves, func(a, b move) int {
		return cmp.Or(cmp.Compare(a.start, b.start), cmp.Compare(s.left[b.group], s.left[a.group]), cmp.Compare(s.load(b.station), s.load(a.station)), cmp.Compare(away(s, a.coach, a.station), away(s, b.coach, b.station)))
	})
	for _, mv := range moves {
		if mv.start >= earliest {
			break
		}
		st := s.m.Stations[s.in[mv.station]]
		hadGroup, hadStation := s.groupFree[mv.group], s.stationFree[mv.station]
		waited := mv.start - hadGroup
		if s.seen[mv.group] != 0 {
			waited = mv.start - hadGroup - s.m.Change
		}
		coach, hadCoach, hadAt := "", 0, 0
		if mv.coach >= 0 {
			coach, hadCoach, hadAt = s.m.Coaches[mv.coach].ID, s.coachFree[mv.coach], s.coachAt[mv.coach]
			s.coachFree[mv.coach], s.coachAt[mv.coach] = mv.start+st.Minutes, mv.station
		}
		s.groupFree[mv.group], s.stationFree[mv.station] = mv.start+st.Minutes, mv.start+st.Minutes
		s.seen[mv.group] |= 1 << mv.station
		s.left[mv.group]--
		s.so = append(s.so, Visit{mv.group + 1, st.ID, coach, mv.start, mv.start + st.Minutes})
		s.next(idle + waited)
		s.so = s.so[:len(s.so)-1]
		s.left[mv.group]++
		s.seen[mv.group] &^= 1 << mv.station
		s.groupFree[mv.group], s.stationFree[mv.station] = hadGroup, hadStation
		if mv.coach >= 0 {
			s.coachFree[mv.coach], s.coachAt[mv.coach] = hadCoach, hadAt
		}
		if s.steps > steps || s.best != nil && s.best.idle == 0 {
			return
		}
	}
}

// away prefers a coach who stands at the station already.
func away(s *scheduler, coach, station int) int {
	if coach < 0 || s.coachAt[coach] == station {
		return 0
	}
	return 1
}

func (s *scheduler) ready(g, k int) bool {
	for _, a := range s.after[k] {
		if !s.through(g, a) {
			return false
		}
	}
	return true
}

// coaches are those who may have a station now, −1 where it needs none; of those who are alike and were nowhere yet only the first.
func (s *scheduler) coaches(k int) []int {
	if s.fit[k] == nil {
		return noCoach
	}
	if len(s.fit[k]) == 1 {
		return s.fit[k]
	}
	var all []int
	for _, c := range s.fit[k] {
		alike := func(d int) bool {
			return s.coachAt[d] < 0 && slices.Equal(s.m.Coaches[c].Signoffs, s.m.Coaches[d].Signoffs) && !s.named(c) && !s.named(d)
		}
		if s.coachAt[c] >= 0 || !slices.ContainsFunc(all, alike) {
			all = append(all, c)
		}
	}
	return all
}

var noCoach = []int{-1}

// named says whether a station asks for that coach by name.
func (s *scheduler) named(c int) bool {
	return slices.ContainsFunc(s.in, func(i int) bool { return s.m.Stations[i].Coach == s.m.Coaches[c].ID })
}

// begin is when a group can begin at a station with a coach.
func (s *scheduler) begin(g, k, coach int) int {
	start := max(s.groupFree[g], s.stationFree[k])
	if s.seen[g] != 0 {
		start = max(s.groupFree[g]+s.m.Change, s.stationFree[k])
	}
	if coach < 0 {
		return start
	}
	free := s.coachFree[coach]
	if s.coachAt[coach] >= 0 && s.coachAt[coach] != k {
		free += s.walk
	}
	return max(start, free)
}

// rest is what a group is busy for after a station, at least.
func (s *scheduler) rest(g, k int) int {
	sum := 0
	for j, i := range s.in {
		if j != k && !s.through(g, j) {
			sum += s.m.Stations[i].Minutes + s.m.Change
		}
	}
	return sum
}

// load is how long a station is wanted still.
func (s *scheduler) load(k int) int {
	sum := 0
	for g := range s.groups {
		if !s.through(g, k) {
			sum += s.m.Stations[s.in[k]].Minutes
		}
	}
	return sum
}

// leastIdle is a lower bound of what the groups wait: the j-th group that is through with a station, or with all those that one coach
// alone can have, is so after j times its minutes, and no group is busy for longer than the busiest.
func (m Mat) leastIdle(groups [][]string, in []int) int {
	s, ok := m.scheduler(groups, in, 0)
	if !ok {
		return 0
	}
	bound, busiest := 0, 0
	for _, w := range s.work {
		busiest = max(busiest, w)
	}
	wait := func(minutes, groups int) {
		sum := 0
		for j := 1; j <= groups; j++ {
			sum += max(0, j*minutes-busiest)
		}
		bound = max(bound, sum)
	}
	of := make([]int, len(m.Coaches)) // what only that coach can have, of stations all groups come to
	for k, i := range in {
		wait(m.Stations[i].Minutes, s.coming(k))
		if len(s.fit[k]) == 1 && s.coming(k) == s.groups {
			of[s.fit[k][0]] += m.Stations[i].Minutes
		}
	}
	for _, minutes := range of {
		wait(minutes, s.groups)
	}
	return bound
}
